import { existsSync, mkdtempSync, readdirSync, rmSync, utimesSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { flip, HOUR, layoutWith, storedTreeOf } from '@tests/keeping';
import { loess as runProgram } from '@tests/terminal';
import { storedPath } from '@/files/stored';
import { openContext } from '@/server/context';
import { startBuild } from '@/server/builds';
import { createLayout, listLayouts } from '@/server/layouts';
import { sweep } from '@/keeping/sweep';
import { EXIT } from './exit';

let root: string;
beforeEach(() => (root = mkdtempSync(path.join(tmpdir(), 'loess-folder-'))));
afterEach(() => rmSync(root, { recursive: true, force: true }));
const at = (name: string) => path.join(root, name);

const loess = (...args: string[]) => runProgram(args);

/** A data folder with a layout and its files, and two old files that nothing names. Gives the name of the layout's tree. */
async function filled(): Promise<string> {
  const context = await openContext({ data: at('data') });
  await sweep(context);
  const tree = await storedTreeOf(context, 'kept');
  const lost = await storedTreeOf(context, 'lost');
  const old = new Date(Date.now() - 50 * HOUR);
  const place = storedPath(context.folder.store, lost);
  utimesSync(place, old, old);
  const { id: layoutId } = await createLayout(context, layoutWith(tree), 'Created');
  await startBuild(context, { layoutId, revision: 1 });
  await context.buildQueue.idle();
  await context.close();
  return tree;
}

test('a sound folder is checked, backed up, restored into a new one, and checked there', async () => {
  await filled();
  expect(await loess('check-data', at('data'))).toMatchObject({
    exit: EXIT.done,
    out: expect.stringMatching(/^All of it is what it was: 1 rev/) as string,
  });
  expect(await loess('back-up', at('data'), '--into', at('copy'))).toMatchObject({ exit: EXIT.done });
  // Neither the backup nor what is restored of it has the image: that can be built again.
  expect(await loess('check-data', at('copy'))).toMatchObject({ exit: EXIT.done });
  expect(await loess('back-up', at('data'), '--into', at('copy'), '--json')).toMatchObject({
    out: expect.stringContaining('"copiedBytes": 0') as string,
  });
  expect(await loess('restore', at('copy'), '--into', at('data'))).toMatchObject({
    exit: EXIT.file,
    error: expect.stringContaining('is not empty') as string,
  });
  expect(await loess('restore', at('copy'), '--into', at('new'))).toMatchObject({ exit: EXIT.done });
  const { exit, json } = await loess('check-data', at('new'), '--json');
  expect(exit).toBe(EXIT.done);
  const { thisRun, ...report } = json();
  expect(Object.keys(thisRun as object)).toEqual(['checkedAt']);
  expect((await loess('check-data', at('new'), '--json')).json()).toMatchObject(report);
  expect((await loess('restore', at('copy'), '--into', at('third'), '--json')).exit).toBe(EXIT.done);
  const context = await openContext({ data: at('new') });
  expect(await listLayouts(context)).toHaveLength(1);
  await context.close();
});

test('damage is named with the layouts that need it, and nothing is moved', async () => {
  const tree = await filled();
  flip(storedPath(at('data/contents'), tree), 30);
  const { exit, out } = await loess('check-data', at('data'));
  expect(exit).toBe(EXIT.stop);
  expect(out).toMatch(new RegExp(`another sum.*\\n.*${tree}, needed by kept`));
  expect(existsSync(storedPath(at('data/contents'), tree))).toBe(true);
  expect((await loess('clean', at('data'))).exit).toBe(EXIT.stop);
  expect((await loess('back-up', at('data'), '--into', at('copy'))).exit).toBe(EXIT.stop);
});

test('clean moves what nothing names to the trash, and empties that when told', async () => {
  await filled();
  expect(await loess('clean', at('data'))).toMatchObject({
    exit: EXIT.done,
    out: expect.stringMatching(/^1 stored file, .* went to the trash/) as string,
  });
  expect(readdirSync(at('data/trash'))).toHaveLength(1);
  expect((await loess('clean', at('data'), '--trash', '--json')).json()).toMatchObject({
    emptied: [{ files: expect.any(Number) as number }],
  });
  expect(readdirSync(at('data/trash'))).toEqual([]);
});

test('a folder in use is not cleaned, but checked and backed up; what is no data folder is refused', async () => {
  await filled();
  const context = await openContext({ data: at('data') });
  expect(await loess('clean', at('data'))).toMatchObject({
    exit: EXIT.file,
    error: expect.stringContaining('in use by another server') as string,
  });
  expect((await loess('check-data', at('data'))).exit).toBe(EXIT.done);
  expect((await loess('back-up', at('data'), '--into', at('copy'))).exit).toBe(EXIT.done);
  await context.close();
  for (const command of ['check-data', 'clean']) expect((await loess(command, at('none'))).exit).toBe(EXIT.file);
  expect((await loess('back-up', at('none'), '--into', at('x'))).exit).toBe(EXIT.file);
  expect((await loess('restore', at('none'), '--into', at('x'))).exit).toBe(EXIT.file);
});

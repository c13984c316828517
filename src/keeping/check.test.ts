import { existsSync, readFileSync, rmSync, truncateSync, utimesSync } from 'node:fs';
import path from 'node:path';
import type { CheckReport } from '@/contract/keeping';
import { ownContext } from '@tests/own-context';
import { flip, HOUR, layoutWith, storedTreeOf } from '@tests/keeping';
import { imagePath } from '../files/data-folder';
import { storedPath } from '../files/stored';
import { getBuild, startBuild, startDigest } from '@/server/builds';
import { createLayout, getLayout, goOn, saveRevision, shelf } from '@/server/layouts';
import { addFile, getTree } from '@/server/store';
import { inPieces } from '@tests/archives';
import { checkFolder } from './check';
import { revisions } from './schema';
import { sweep } from './sweep';

const { context, stored } = ownContext();

function checked(quarantines = true, signal = new AbortController().signal): Promise<CheckReport> {
  const { folder, now, db } = context();
  return checkFolder({ folder, rows: db.raw, now, signal, onProgress: () => undefined, quarantines });
}

/** A layout with a file, and its image. */
async function built(): Promise<{ tree: string; file: string; build: string }> {
  const tree = await storedTreeOf(context(), 'kept');
  const { id: layoutId } = await createLayout(context(), layoutWith(tree), 'Created');
  const { id } = await startBuild(context(), { layoutId, revision: 1 });
  await context().buildQueue.idle();
  const { entries } = await getTree(context(), tree);
  return { tree, file: (entries[0] as { sha256: string }).sha256, build: id };
}

test('a sound folder is told as sound, with what was looked at', async () => {
  const { build } = await built();
  expect((await getBuild(context(), build)).state).toBe('done');
  const report = await checked();
  expect(report).toMatchObject({ revisions: 1, contents: 2, images: 1, damages: [], quarantined: 0 });
  expect(report.bytes).toBeGreaterThan(4);
});

test('a changed byte of a file is found, named with its layouts, quarantined, and healed by sending it again', async () => {
  const { file } = await built();
  flip(storedPath(context().folder.store, file), 2);
  expect((await checked(false)).quarantined).toBe(0);
  const report = await checked();
  expect(report.damages).toMatchObject([{ kind: 'content', what: file, layouts: ['kept'] }]);
  expect(report.quarantined).toBe(1);
  const day = path.join(context().folder.quarantine, report.checkedAt.slice(0, 10), file);
  expect(readFileSync(day)).toHaveLength(4);
  expect((await checked()).damages).toMatchObject([{ kind: 'missing', what: file, layouts: ['kept'] }]);
  await addFile(
    context(),
    { into: undefined, under: '' },
    { name: 'x', time: undefined },
    inPieces(Buffer.from('kept')),
  );
  expect((await checked()).damages).toEqual([]);
});

test('a damaged file is replaced by the same sent again, without a check between', async () => {
  const { file } = await built();
  flip(storedPath(context().folder.store, file), 1);
  await storedTreeOf(context(), 'kept');
  expect(readFileSync(storedPath(context().folder.store, file), 'utf8')).toBe('kept');
});

test('a damaged list of files is found, and what it named cannot be said', async () => {
  await sweep(context());
  const { tree, file } = await built();
  const earlier = new Date(Date.now() - HOUR);
  utimesSync(storedPath(context().folder.store, file), earlier, earlier);
  flip(storedPath(context().folder.store, tree), 30);
  expect((await checked()).damages).toMatchObject([{ kind: 'content', what: tree, layouts: ['kept'] }]);
  // Its files are no less somebody's when it lies in quarantine: nothing of them goes, not even by hand.
  const tomorrow = { ...context(), now: () => new Date(Date.now() + 25 * 3600 * 1000).toISOString() };
  expect(await sweep(tomorrow, { byHand: true })).toMatchObject({
    number: 0,
    doubts: [/* the list */ expect.any(String)],
  });
  expect(stored()).toContain(file);
});

test.each<[string, (file: string) => void, RegExp, string]>([
  ['a changed sector', (file) => flip(file, 0x1be + 4), /differs in/, 'image'],
  ['another length', (file) => truncateSync(file, 4096), /has 4096 bytes/, 'image'],
  ['none at all', (file) => rmSync(file), /is not there/, 'missing'],
])('an image with %s is found', async (_, change, sentence, kind) => {
  const { build } = await built();
  const file = imagePath(context().folder, build);
  change(file);
  const report = await checked();
  expect(report.damages).toMatchObject([{ kind, layouts: ['kept'] }]);
  expect(report.damages[0]!.sentence).toMatch(sentence);
  expect(existsSync(file)).toBe(false);
});

test('with its checksum, an image is compared to the last byte', async () => {
  const { build } = await built();
  await startDigest(context(), build);
  await context().digestQueue.idle();
  expect((await checked()).damages).toEqual([]);
  flip(imagePath(context().folder, build), 64 * 2 ** 20 - 1);
  expect((await checked()).damages[0]!.sentence).toMatch(/another SHA-256/);
});

test('a check can be stopped', async () => {
  await built();
  await expect(checked(true, AbortSignal.abort())).rejects.toThrow();
  expect(stored()).toHaveLength(2);
});

describe('a damaged revision', () => {
  beforeEach(async () => {
    const tree = await storedTreeOf(context(), 'kept');
    await createLayout(context(), layoutWith(tree), 'Created');
    await createLayout(context(), layoutWith(tree, 'Sound'), 'Created');
    await saveRevision(context(), 'kept', { base: 1, document: { ...layoutWith(tree), story: 'Two' }, note: 'Two' });
    await context().db.raw.execute("UPDATE revisions SET document = 'x' WHERE layout_id = 'kept' AND number = 2");
  });

  test('does not take the shelf with it, and is named by a check', async () => {
    const { layouts, damaged } = await shelf(context());
    expect(layouts.map(({ id }) => id)).toEqual(['sound']);
    expect(damaged).toMatchObject([{ id: 'kept', revision: 2, readable: 1 }]);
    expect(damaged[0]!.damaged).toMatch(/Revision 2 of “kept” is damaged/);
    expect((await checked()).damages).toMatchObject([{ kind: 'revision', layouts: ['kept'] }]);
    await expect(getLayout(context(), 'kept')).rejects.toMatchObject({ status: 409, code: 'document-damaged' });
  });

  test('is gone on from: the newest readable one is in force then, and the damaged one stays', async () => {
    const view = await goOn(context(), 'kept');
    expect(view).toMatchObject({ revision: 3, note: 'Goes on from revision 1: revision 2 is damaged' });
    expect((await shelf(context())).damaged).toEqual([]);
    expect(await goOn(context(), 'kept')).toMatchObject({ revision: 3 });
    expect(await context().db.read.select().from(revisions)).toHaveLength(4);
  });

  test('without any that can be read, nothing is made up', async () => {
    await context().db.raw.execute("UPDATE revisions SET document = 'x' WHERE layout_id = 'kept'");
    await expect(goOn(context(), 'kept')).rejects.toMatchObject({ code: 'nothing-readable' });
    expect((await shelf(context())).damaged).toMatchObject([{ readable: null }]);
  });
});

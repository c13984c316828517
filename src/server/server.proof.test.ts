import { execFileSync, spawn } from 'node:child_process';
import {
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fatPart, layoutOn, part } from '@tests/samples';
import { until } from '@tests/until';
import type { BuildView } from '@/contract/builds';
import {
  cancelBuild,
  cancelDigest,
  finishedImage,
  getBuild,
  listBuilds,
  listImages,
  recoverBuilds,
  removeBuild,
  startBuild,
  startDigest,
} from './builds';
import { filesOf, type Tree } from '@/core/filesystems/tree';
import { check } from '@/core/findings/layout/check';
import { referredTo } from '@/core/layout/contents';
import { place } from '@/core/placement/place';
import { type Context, type ContextOptions, currentContext, installContext, openContext } from './context';
import { imagePath } from '../files/data-folder';
import { builds } from '../keeping/schema';
import { addDemoLayouts } from './demo';
import { contentsFor, storedFacts } from '../files/stored';
import {
  createLayout,
  getDocument,
  getLayout,
  listLayouts,
  listRevisions,
  moveHead,
  nameRevision,
  putAway,
  saveRevision,
} from './layouts';

const LAYOUT = layoutOn('100 MiB', [fatPart('a', '40 MiB', { label: 'TIDELOG' }), part('b', 'rest')]);

let root: string;
let context: Context;

async function open(more: Partial<ContextOptions> = {}): Promise<Context> {
  context = await openContext({ data: root, ...more });
  return context;
}

beforeEach(async () => {
  root = mkdtempSync(path.join(tmpdir(), 'loess-server-'));
  await open();
});

afterEach(async () => {
  await context.close();
  rmSync(root, { recursive: true, force: true });
});

const renamed = (name: string) => ({ ...LAYOUT, name });

describe('layouts and revisions', () => {
  test('a new layout is stored as its first revision and read back the same', async () => {
    const view = await createLayout(context, LAYOUT, 'New');
    expect(view).toMatchObject({ id: 'test-gauge', revision: 1, canUndo: false, canRedo: false, note: 'New' });
    expect((await getLayout(context, view.id)).document).toEqual(LAYOUT);
  });

  test('the same name gives another id', async () => {
    await createLayout(context, LAYOUT, 'New');
    expect((await createLayout(context, LAYOUT, 'New')).id).toBe('test-gauge-2');
    expect((await createLayout(context, renamed('潮'), 'New')).id).toBe('layout');
  });

  test('every change is a revision; undo and redo walk without losing any', async () => {
    const { id } = await createLayout(context, renamed('one'), 'New');
    await saveRevision(context, id, { base: 1, document: renamed('two'), note: 'second' });
    await saveRevision(context, id, { base: 2, document: renamed('three'), note: 'third' });
    const back = await moveHead(context, id, { base: 3, direction: 'undo' });
    expect(back).toMatchObject({ revision: 2, canUndo: true, canRedo: true, document: { name: 'two' } });
    await moveHead(context, id, { base: 2, direction: 'undo' });
    const branch = await saveRevision(context, id, { base: 1, document: renamed('other'), note: 'fourth' });
    expect(branch).toMatchObject({ revision: 4, canRedo: false });
    expect(await moveHead(context, id, { base: 4, direction: 'undo' })).toMatchObject({ revision: 1 });
    expect(await moveHead(context, id, { base: 1, direction: 'redo' })).toMatchObject({ revision: 4 });
    expect((await listRevisions(context, id)).map((one) => [one.number, one.inForce])).toEqual([
      [4, true],
      [3, false],
      [2, false],
      [1, false],
    ]);
    expect((await getDocument(context, id, 3)).name).toBe('three');
  });

  test('undo and redo at the ends are refused', async () => {
    const { id } = await createLayout(context, LAYOUT, 'New');
    await expect(moveHead(context, id, { base: 1, direction: 'undo' })).rejects.toMatchObject({
      status: 409,
      code: 'nothing-to-undo',
    });
    await expect(moveHead(context, id, { base: 1, direction: 'redo' })).rejects.toMatchObject({
      code: 'nothing-to-redo',
    });
  });

  test('a change on an old revision is refused and stores nothing', async () => {
    const { id } = await createLayout(context, LAYOUT, 'New');
    await saveRevision(context, id, { base: 1, document: renamed('two'), note: 'x' });
    const late = saveRevision(context, id, { base: 1, document: renamed('late'), note: 'x' });
    await expect(late).rejects.toMatchObject({ status: 409, code: 'layout-moved-on', field: 'base' });
    expect((await listRevisions(context, id)).length).toBe(2);
  });

  test('a hundred changes at once are queued: one lands, the others are told', async () => {
    const { id } = await createLayout(context, LAYOUT, 'New');
    const all = await Promise.allSettled(
      Array.from({ length: 100 }, (_, i) =>
        saveRevision(context, id, { base: 1, document: renamed(`n${i}`), note: 'x' }),
      ),
    );
    expect(all.filter((one) => one.status === 'fulfilled').length).toBe(1);
  });

  test.each<[string, unknown, string]>([
    ['an unknown field', { ...LAYOUT, colour: 1 }, 'colour'],
    ['a future version', { ...LAYOUT, version: 7 }, 'version'],
    ['10,000 slots', { ...LAYOUT, slots: new Array(10_000).fill(part('a', '1 MiB')) }, 'slots'],
    ['an overflowing size', { ...LAYOUT, slots: [part('a', '9999 PiB')] }, 'slots[0].size'],
    ['two slots of one id', { ...LAYOUT, slots: [part('a', '1 MiB'), part('a', '1 MiB')] }, 'slots[1].id'],
    ['no document', null, 'document'],
  ])('%s is refused with its path, and nothing is stored', async (_, document, field) => {
    await expect(createLayout(context, document, 'New')).rejects.toMatchObject({
      status: 422,
      code: 'document-invalid',
      field,
    });
    expect(await listLayouts(context)).toEqual([]);
  });

  test('putting away keeps everything', async () => {
    const { id } = await createLayout(context, LAYOUT, 'New');
    await putAway(context, id, true);
    expect(await listLayouts(context)).toEqual([]);
    await putAway(context, id, false);
    expect((await listLayouts(context)).map((one) => one.id)).toEqual([id]);
    await expect(putAway(context, 'nobody', true)).rejects.toMatchObject({ status: 404 });
  });

  test('demo layouts come once, and not back after they were put away', async () => {
    await addDemoLayouts(context, 'demo');
    expect((await listLayouts(context)).map((one) => one.document.name).sort()).toEqual([
      'Beacon image',
      'Chart plotter',
      'Float recorder, 512 MB',
      'Float recorder, 64 MB',
      'Gauge card with its files',
      'Gauge logger',
      'Harbour display',
      'Quay archive',
      'Quay server',
      'Service stick',
      'Survey laptop',
      'Tide vault',
    ]);
    for (const { document } of await listLayouts(context)) {
      const contents = await contentsFor(context.folder.store, document);
      const { trees, blobs } = referredTo(document);
      for (const tree of trees.map((sha256) => contents.tree(sha256))) {
        expect(tree).toBeInstanceOf(Array);
        for (const { sha256, size } of filesOf(tree as Tree))
          expect(await storedFacts(context.folder.store, sha256)).toMatchObject({ size });
      }
      for (const sha256 of blobs) expect(contents.blob(sha256)).toHaveProperty('size');
      expect(check(place(document, contents)).filter((one) => one.rule.startsWith('content/'))).toEqual([]);
    }
    for (const { id } of await listLayouts(context)) await putAway(context, id, true);
    await addDemoLayouts(context, 'demo');
    expect(await listLayouts(context)).toEqual([]);
  });

  test('a revision is named, renamed, and loses its name; one that is not there is refused', async () => {
    const { id } = await createLayout(context, LAYOUT, 'New');
    const names = async () => (await listRevisions(context, id)).map((one) => one.name);
    await nameRevision(context, id, 1, '  before the review ');
    expect(await names()).toEqual(['before the review']);
    await nameRevision(context, id, 1, ' ');
    expect(await names()).toEqual([null]);
    await expect(nameRevision(context, id, 7, 'x')).rejects.toMatchObject({ status: 404, code: 'revision-unknown' });
  });

  test('revisions survive a restart', async () => {
    const { id } = await createLayout(context, LAYOUT, 'New');
    await saveRevision(context, id, { base: 1, document: renamed('two'), note: 'x' });
    await context.close();
    await open();
    expect(await moveHead(context, id, { base: 2, direction: 'undo' })).toMatchObject({ revision: 1, canRedo: true });
  });
});

async function ended(id: string): Promise<BuildView> {
  await Promise.all([context.buildQueue.idle(), context.digestQueue.idle()]);
  return getBuild(context, id);
}

async function ordered(document: object = LAYOUT): Promise<BuildView> {
  const { id } = await createLayout(context, document, 'New');
  return startBuild(context, { layoutId: id, revision: 1 });
}

/** Waits until a build has written something. */
async function underway(id: string): Promise<void> {
  await until(async () => ((await getBuild(context, id)).progress?.done ?? 0) > 0);
}

describe('builds', () => {
  test('a build ends with a sparse image and a report in which everything agrees', async () => {
    const { id, state } = await ordered();
    expect(state).toBe('waiting');
    const done = await ended(id);
    expect(done).toMatchObject({
      state: 'done',
      name: 'test-gauge-r1.img',
      size: 100 * 2 ** 20,
      failure: null,
      progress: null,
    });
    expect(done.report!.comparisons.every((one) => one.agrees)).toBe(true);
    const sums = done.report!.ranges.flatMap((range) => range.sha256 ?? []);
    expect(sums.length).toBe(8);
    expect(sums.every((sum) => /^[0-9a-f]{64}$/.test(sum))).toBe(true);
    const file = imagePath(context.folder, id);
    expect(statSync(file).size).toBe(100 * 2 ** 20);
    expect(statSync(file).blocks * 512).toBeLessThan(256 * 1024);
    expect(await listImages(context)).toHaveLength(1);
    expect(await finishedImage(context, id)).toEqual({ path: file, size: 100 * 2 ** 20, name: 'test-gauge-r1.img' });
  });

  test('the same document gives the same bytes', async () => {
    const first = await ended((await ordered()).id);
    const second = await ended((await ordered()).id);
    const bytes = [first, second].map(({ id }) => readFileSync(imagePath(context.folder, id)));
    expect(Buffer.compare(bytes[0]!, bytes[1]!)).toBe(0);
  });

  test('a layout with a stop is refused with its sentence', async () => {
    const tooLarge = layoutOn('100 MiB', [part('a', '200 MiB')]);
    await expect(ordered(tooLarge)).rejects.toMatchObject({
      status: 409,
      code: 'layout-has-stops',
      message: expect.stringContaining('larger than the medium') as string,
    });
    await expect(startBuild(context, { layoutId: 'test-gauge', revision: 9 })).rejects.toMatchObject({
      code: 'revision-unknown',
    });
  });

  test('the checksum of the whole file is a step of its own', async () => {
    const { id } = await ordered();
    await ended(id);
    expect((await startDigest(context, id)).digest.state).toBe('waiting');
    await expect(startDigest(context, id)).rejects.toMatchObject({ code: 'digest-running' });
    const done = await ended(id);
    const [expected] = execFileSync('sha256sum', [imagePath(context.folder, id)], { encoding: 'utf8' }).split(' ');
    expect(done.digest).toMatchObject({ state: 'done', sha256: expected });
    await expect(cancelDigest(context, id)).rejects.toMatchObject({ code: 'digest-over' });
  });

  test('a checksum can be cancelled and started again', async () => {
    const { id } = await ordered();
    await ended(id);
    await startDigest(context, id);
    await cancelDigest(context, id);
    expect((await ended(id)).digest.state).toBe('cancelled');
    await startDigest(context, id);
    expect((await ended(id)).digest.state).toBe('done');
  });

  test('a build can be cancelled while it writes; nothing is left', async () => {
    await context.close();
    await open({ writeRate: 2000 });
    const { id } = await ordered();
    await underway(id);
    await expect(removeBuild(context, id)).rejects.toMatchObject({ code: 'build-running' });
    await cancelBuild(context, id);
    expect(await ended(id)).toMatchObject({ state: 'cancelled', report: null });
    expect(readdirSync(context.folder.builds)).toEqual([]);
    await expect(cancelBuild(context, id)).rejects.toMatchObject({ code: 'build-over' });
    await expect(finishedImage(context, id)).rejects.toMatchObject({ code: 'build-not-done' });
  });

  test('builds wait for each other; one that waits can be cancelled', async () => {
    await context.close();
    await open({ writeRate: 20_000 });
    const first = await ordered();
    const second = await ordered();
    await cancelBuild(context, second.id);
    expect((await ended(first.id)).state).toBe('done');
    expect((await getBuild(context, second.id)).state).toBe('cancelled');
  });

  test('an image that somebody removed or cut is told to be gone', async () => {
    const { id } = await ordered();
    await ended(id);
    truncateSync(imagePath(context.folder, id), 1000);
    await expect(finishedImage(context, id)).rejects.toMatchObject({ status: 410, code: 'image-gone' });
    rmSync(imagePath(context.folder, id));
    await expect(startDigest(context, id)).rejects.toMatchObject({ status: 410, code: 'image-gone' });
  });

  test('a job that fails to settle itself does not stop the ones behind it', async () => {
    const log = jest.spyOn(console, 'error').mockImplementation(() => undefined);
    context.buildQueue.add('broken', () => Promise.reject(new Error('broken')));
    const { id } = await ordered();
    expect((await ended(id)).state).toBe('done');
    expect(log).toHaveBeenCalledTimes(1);
    log.mockRestore();
  });

  test('removing a build removes its image', async () => {
    const { id, layoutId } = await ordered();
    await ended(id);
    await removeBuild(context, id);
    expect(existsSync(imagePath(context.folder, id))).toBe(false);
    expect(await listBuilds(context, layoutId)).toEqual([]);
    await expect(getBuild(context, id)).rejects.toMatchObject({ status: 404, code: 'build-unknown' });
  });

  test('a full disk fails the build with that reason and leaves nothing partial', () => {
    // A file system of 16 KiB in memory: the image needs more. The test runs in a name space of its own.
    const script = path.join(root, 'full.sh');
    const data = path.join(root, 'full');
    const program = `npx tsx tests/full-disk.ts '${data}'`;
    writeFileSync(
      script,
      `mkdir -p '${data}/builds' && mount -t tmpfs -o size=16k none '${data}/builds' && ${program}`,
    );
    const isRoot = process.getuid!() === 0;
    const said = execFileSync('unshare', [isRoot ? '-m' : '-rm', 'sh', '-e', script], {
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    expect(JSON.parse(said)).toEqual({ state: 'failed', code: 'disk-full', files: [], layouts: 1 });
  });
});

describe('a server that was killed', () => {
  test('at restart its build is marked interrupted, the temporary file is gone, all else is intact', async () => {
    const finished = await ordered();
    await ended(finished.id);
    await context.close();
    const child = spawn(process.execPath, ['--import', 'tsx', 'tests/slow-build.ts', root], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    const killed = await new Promise<string>((resolve) =>
      child.stdout.once('data', (chunk: Buffer) => resolve(String(chunk).trim())),
    );
    const before = readdirSync(path.join(root, 'builds')).sort();
    expect(before).toEqual([`${finished.id}.img`, `${killed}.img.part`].sort());
    const gone = new Promise((resolve) => child.once('exit', resolve));
    child.kill('SIGKILL');
    await gone;
    await open();
    expect(await recoverBuilds(context)).toBe(1);
    expect(readdirSync(context.folder.builds)).toEqual([`${finished.id}.img`]);
    expect(await getBuild(context, killed)).toMatchObject({ state: 'interrupted', failure: { code: 'interrupted' } });
    expect((await getBuild(context, finished.id)).state).toBe('done');
    expect((await listLayouts(context)).length).toBe(1);
  });

  test('a checksum that ran is marked too', async () => {
    const { id } = await ordered();
    await ended(id);
    await context.db.write((tx) => tx.update(builds).set({ digestState: 'running' }));
    await recoverBuilds(context);
    expect((await getBuild(context, id)).digest.state).toBe('interrupted');
  });

  test('a second server on the same folder is kept out until the first one ends', async () => {
    await expect(openContext({ data: root })).rejects.toThrow(/in use by another server/);
    await context.close();
    await open();
  });
});

test('routes find the context of the process', () => {
  expect(() => currentContext()).toThrow('start script');
  installContext(context);
  expect(currentContext()).toBe(context);
});

/** Checking a volume of an image: what comes of it, that it can be stopped, and that a changed image is not told of. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { extOverNoise } from '@tests/ext';
import { systemTree, wideTree } from '@tests/ext-trees';
import { Shelf } from '@tests/filled';
import { MIB } from '@/core/quantity/units';
import { listFolder } from './browsing';
import { type Context, openContext } from './context';
import { startVolumeCheck, stopVolumeCheck, volumeCheck } from './volume-checks';

let root: string;
let context: Context;
const asked = { of: 'file:gauge.img', partition: 'whole' };

function image(names: number): Uint8Array {
  const shelf = new Shelf();
  const bytes = 48 * MIB;
  const tree = [...systemTree(shelf), ...wideTree(shelf, names)];
  return extOverNoise({ version: 'ext3', bytes, block: 1024, perInode: 4096 }, tree, shelf);
}

const put = (bytes: Uint8Array) => writeFileSync(path.join(context.folder.images, 'gauge.img'), bytes);

beforeAll(async () => {
  root = mkdtempSync(path.join(tmpdir(), 'loess-checks-'));
  context = await openContext({ data: root });
  put(image(6000));
});

afterAll(async () => {
  await context.close();
  rmSync(root, { recursive: true, force: true });
});

test('nothing is known of a volume that was never checked', async () => {
  expect(await volumeCheck(context, asked)).toEqual({ progress: null, report: null, failure: null });
});

test('a check runs in a thread of its own, says how far it is, and comes to what is there', async () => {
  const started = await startVolumeCheck(context, asked);
  expect(started.progress).toMatchObject({ phase: expect.any(String) });
  await expect(startVolumeCheck(context, asked)).rejects.toMatchObject({ code: 'check-running' });
  await context.volumeQueue.idle();
  const { progress, report, failure } = await volumeCheck(context, asked);
  expect({ progress, failure }).toEqual({ progress: null, failure: null });
  expect(report).toMatchObject({ faults: [], words: [], isCutShort: false });
  expect(report!.files).toBeGreaterThan(6000);
});

test('a check that is stopped says so, and another one can begin', async () => {
  await startVolumeCheck(context, asked);
  await stopVolumeCheck(context, asked);
  await context.volumeQueue.idle();
  expect(await volumeCheck(context, asked)).toMatchObject({
    report: null,
    failure: expect.stringMatching(/was stopped/),
  });
  await expect(stopVolumeCheck(context, asked)).rejects.toMatchObject({ code: 'check-over' });
});

test('faults name the files that they touch; what was found is not told of another image of that name', async () => {
  await startVolumeCheck(context, asked);
  await context.volumeQueue.idle();
  const bytes = image(300);
  const view = await listFolder(context, { ...asked, path: '' });
  expect(view).toMatchObject({ canBeChecked: true, numbers: 'inode' });
  expect(view.says.map(({ name }) => name)).toEqual(expect.arrayContaining(['label', 'UUID', 'features', 'state']));
  // The number of names of the root is another one.
  const inodeTable = new DataView(bytes.buffer, bytes.byteOffset).getUint32(2 * 1024 + 8, true);
  bytes[inodeTable * 1024 + 256 + 0x1a] = 99;
  put(bytes);
  expect((await volumeCheck(context, asked)).report).toBeNull();
  await startVolumeCheck(context, asked);
  await context.volumeQueue.idle();
  const { report } = await volumeCheck(context, asked);
  expect(report!.faults).toEqual([
    { code: 'inode/names', where: 'inode 2', says: expect.stringMatching(/^99, and should be/), files: ['/'] },
  ]);
});

test('what is no ext is refused', async () => {
  writeFileSync(path.join(context.folder.images, 'empty.img'), new Uint8Array(4096));
  await expect(startVolumeCheck(context, { of: 'file:empty.img', partition: 'whole' })).rejects.toMatchObject({
    code: 'not-checked',
  });
  await expect(startVolumeCheck(context, { of: 'file:empty.img', partition: '7' })).rejects.toMatchObject({
    code: 'partition-unknown',
  });
});

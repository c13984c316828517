/** The room of a volume in an image: its map, how small it can be, and the image of its own that it is laid anew in. */
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { planted, sound } from '@tests/planted-ext';
import { factsOf } from '@tests/repacked';
import { getBuild } from './builds';
import { type Context, openContext } from './context';
import { startRepack, volumeRoom } from './volume-room';

let root: string;
let context: Context;
const asked = { of: 'file:gauge.img', partition: 'whole' };
const put = (bytes: Uint8Array) => writeFileSync(path.join(context.folder.images, 'gauge.img'), bytes);

beforeAll(async () => {
  root = mkdtempSync(path.join(tmpdir(), 'loess-room-'));
  context = await openContext({ data: root });
});

afterAll(async () => {
  await context.close();
  rmSync(root, { recursive: true, force: true });
});

async function built(order: Parameters<typeof startRepack>[1]) {
  const { id } = await startRepack(context, order);
  await context.buildQueue.idle();
  return getBuild(context, id);
}

test('a map and both minima', async () => {
  const { bytes, made } = sound('current');
  put(bytes);
  const { map, minima, refused } = await volumeRoom(context, asked);
  expect(refused).toBeNull();
  expect(map!.cells.reduce((sum, one) => sum + one.bytes, 0)).toBe(made.geometry.blocks * 1024);
  expect(minima).toMatchObject({ block: 1024, mustKeep: false });
  expect(minima!.renumbered!).toBeLessThanOrEqual(minima!.kept!);
});

test('laid anew in a thread, as an image of its own that says what it is', async () => {
  const { bytes } = sound('current');
  put(bytes);
  const { minima } = await volumeRoom(context, asked);
  const build = await built({ ...asked, size: 'minimum', keepsNumbers: false, withoutFaulty: false });
  expect(build).toMatchObject({ state: 'done', name: 'gauge-repacked.img', size: minima!.renumbered });
  expect(build.report!.repacked).toMatchObject({ from: 'Whole medium of gauge.img', free: 0, leftOut: [] });
  const made = readFileSync(path.join(context.folder.builds, `${build.id}.img`));
  expect(await factsOf(new Uint8Array(made))).toEqual(await factsOf(bytes));
});

test('faults are told, and nothing is left', async () => {
  const one = planted('current');
  one.group(1, 'freeBlocks', 3);
  put(one.bytes);
  const before = readdirSync(context.folder.builds).length;
  const order = { ...asked, size: 'minimum', keepsNumbers: true, withoutFaulty: false };
  const build = await built(order);
  expect(build).toMatchObject({
    state: 'failed',
    failure: {
      code: 'not-repacked',
      sentence: expect.stringMatching(/it has 1 fault\. First: group 1, group\/free blocks: 3, and should be/),
    },
  });
  expect(readdirSync(context.folder.builds)).toHaveLength(before);
  expect((await built({ ...order, withoutFaulty: true })).state).toBe('done');
  await expect(startRepack(context, { ...order, size: 'much' })).rejects.toMatchObject({ code: 'no-size' });
});

test('what is no volume, or no ext, is refused', async () => {
  put(new Uint8Array(1024 * 1024));
  await expect(volumeRoom(context, asked)).rejects.toMatchObject({ status: expect.any(Number) });
  await expect(
    startRepack(context, { ...asked, size: 'minimum', keepsNumbers: false, withoutFaulty: false }),
  ).rejects.toMatchObject({ status: expect.any(Number) });
});

/** Where the data of sparse files lies: a map that is never short of a byte that is there. */
import { mkdtempSync, openSync, closeSync, rmSync, truncateSync, writeFileSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { memoryBlocks } from '@/core/bytes/blocks';
import { dataOf, withHoles } from './holes';

let folder = '';
beforeEach(() => (folder = mkdtempSync(path.join(tmpdir(), 'loess-holes-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

function sparse(name: string, size: number, at: readonly number[]): string {
  const file = path.join(folder, name);
  writeFileSync(file, '');
  truncateSync(file, size);
  const descriptor = openSync(file, 'r+');
  for (const offset of at) writeSync(descriptor, Buffer.from('tide'), 0, 4, offset);
  closeSync(descriptor);
  return file;
}

test('every byte of data lies in a stretch, and holes of gigabytes in none', async () => {
  const places = [0, 5_000_000, 4_000_000_000, 2 ** 33 - 4];
  const found = await dataOf(sparse('a name with blanks -x.img', 2 ** 33, places));
  for (const at of places) expect(found!.some(([start, length]) => start <= at && start + length >= at + 4)).toBe(true);
  expect(found!.reduce((sum, [, length]) => sum + length, 0)).toBeLessThan(1_000_000);
});

test('a file of many pieces has a long map, and one of holes alone an empty one', async () => {
  const places = Array.from({ length: 3000 }, (_, i) => i * 1_000_000);
  const many = await dataOf(sparse('many.img', 3_000_000_000, places));
  expect(many!.length).toBeGreaterThan(1000);
  for (const at of places) expect(many!.some(([start, length]) => start <= at && start + length > at)).toBe(true);
  expect(await dataOf(sparse('holes.img', 2 ** 30, []))).toEqual([]);
});

test('of a file without holes, and of none, nothing is known', async () => {
  const file = path.join(folder, 'full.img');
  writeFileSync(file, Buffer.alloc(300_000, 7));
  expect(await dataOf(file)).toBeUndefined();
  expect(await dataOf(path.join(folder, 'none.img'))).toBeUndefined();
});

test('a source says of each range whether all of it is a hole, and reads as before', async () => {
  const file = sparse('gaps.img', 2 ** 33, [65_536, 5_000_000, 2 ** 33 - 4]);
  const data = (await dataOf(file))!;
  const plain = memoryBlocks(Uint8Array.of(1, 2, 3));
  const source = await withHoles(plain, file);
  expect(await source.read(1, 2)).toEqual(Uint8Array.of(2, 3));
  const isHole = (at: number, length: number) => source.isHole!(at, length);
  const [first, second] = data as [[number, number], [number, number]];
  const between = [first[0] + first[1], second[0] - first[0] - first[1]] as const;
  expect(isHole(0, first[0])).toBe(true);
  expect(isHole(0, first[0] + 1)).toBe(false);
  expect(isHole(first[0], 1)).toBe(false);
  expect(isHole(between[0] - 1, 1)).toBe(false);
  expect(isHole(...between)).toBe(true);
  expect(isHole(between[0], between[1] + 1)).toBe(false);
  expect(isHole(2 ** 32, 2 ** 31)).toBe(true);
  expect(isHole(0, 2 ** 33)).toBe(false);
  expect(isHole(2 ** 33 - 4, 4)).toBe(false);
});

test('of a file of nothing but a hole all is one; of one without holes nothing is said', async () => {
  const plain = memoryBlocks(new Uint8Array(8));
  const none = await withHoles(plain, sparse('holes.img', 2 ** 30, []));
  expect(none.isHole!(0, 2 ** 30)).toBe(true);
  const file = path.join(folder, 'full.img');
  writeFileSync(file, Buffer.alloc(300_000, 7));
  expect(await withHoles(plain, file)).toBe(plain);
});

/** Where the data of sparse files lies: a map that is never short of a byte that is there. */
import { mkdtempSync, openSync, closeSync, rmSync, truncateSync, writeFileSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { dataOf } from './holes';

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

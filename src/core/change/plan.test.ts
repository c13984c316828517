/** What a plan says of a medium: only what changes, with the sum of what lies there, and nothing read that need not be. */
import { createHash } from 'node:crypto';
import { type BlockSource, memoryBlocks } from '../bytes/blocks';
import { MIB } from '../quantity/units';
import { alike, changedSource, planOf, type Put } from './plan';

const sumOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

/** A medium of 8 MiB whose second half is a hole; every range that is read is written down. */
function medium() {
  const bytes = new Uint8Array(8 * MIB).map((_, i) => (i < 4 * MIB ? (i * 7) % 251 : 0));
  const read: [at: number, length: number][] = [];
  const inner = memoryBlocks(bytes);
  const source: BlockSource = {
    size: inner.size,
    isHole: (at) => at >= 4 * MIB,
    read: (at, length) => {
      read.push([at, length]);
      return inner.read(at, length);
    },
  };
  return { bytes, source, read };
}

const zeros = (offset: number, length: number): Put => ({ what: 'zeros', extent: { offset, zeros: length } });

test('zeros over what is known to be zeros are left out, and what lies there is not read', async () => {
  const { source, read } = medium();
  expect((await planOf(source, [zeros(4 * MIB, 4 * MIB)])).ranges).toEqual([]);
  expect(read).toEqual([]);
});

test('a range that differs early is read on for its sum alone, and has the sum of all that lies there', async () => {
  const { bytes, source, read } = medium();
  const { ranges } = await planOf(source, [zeros(MIB, 5 * MIB)]);
  expect(ranges).toHaveLength(1);
  expect(ranges[0]!.sum).toBe(sumOf(bytes.subarray(MIB, 6 * MIB)));
  expect(ranges[0]!.head).toEqual(bytes.slice(MIB, MIB + 512));
  // One window to see that it differs, five for the sum, and the head.
  expect(read.map(([at]) => at / MIB)).toEqual([1, 1, 2, 3, 4, 5, 1]);
});

test('a difference in the very last byte is seen, equal bytes are not written', async () => {
  const { bytes, source } = medium();
  const same = bytes.slice(MIB - 100, 3 * MIB + 7);
  const other = same.slice();
  other[other.length - 1]! ^= 1;
  const at = (put: Uint8Array): Put => ({ what: 'bytes', extent: { offset: MIB - 100, bytes: put } });
  expect((await planOf(source, [at(same)])).ranges).toEqual([]);
  const { ranges } = await planOf(source, [at(other)]);
  expect(ranges.map(({ sum }) => sum)).toEqual([sumOf(same)]);
});

test('a range moved onto its like is left out, one that differs in its second window is not', async () => {
  const bytes = new Uint8Array(8 * MIB).map((_, i) => i % 256);
  const moved: Put = { what: 'moved', extent: { offset: 0, moved: { at: 4 * MIB, length: 3 * MIB } } };
  expect((await planOf(memoryBlocks(bytes), [moved])).ranges).toEqual([]);
  bytes[5 * MIB + 1]! ^= 0x80;
  // A source that lends the same bytes for every reading.
  const lent = new Uint8Array(MIB);
  const source: BlockSource = {
    size: bytes.length,
    read: (at, length) => {
      lent.set(bytes.subarray(at, at + length));
      return Promise.resolve(lent.subarray(0, length));
    },
  };
  const { ranges } = await planOf(source, [moved]);
  expect(ranges.map(({ sum }) => sum)).toEqual([sumOf(bytes.subarray(0, 3 * MIB))]);
});

test('a medium reads as it would be, across the borders of what is changed', async () => {
  const { bytes, source } = medium();
  const put: Put[] = [
    { what: 'bytes', extent: { offset: MIB, bytes: Uint8Array.of(9, 8, 7) } },
    zeros(MIB + 3, 5),
    { what: 'moved', extent: { offset: 2 * MIB, moved: { at: 100, length: 4 } } },
  ];
  const plan = await planOf(source, put);
  const changed = changedSource(source, plan);
  const is = bytes.slice();
  is.set([9, 8, 7, 0, 0, 0, 0, 0], MIB);
  is.set(bytes.slice(100, 104), 2 * MIB);
  for (const [at, length] of [
    [MIB - 2, 20],
    [MIB + 1, 2],
    [2 * MIB - 5, 12],
    [0, 512],
    [4 * MIB, 64],
  ] as const)
    expect(alike(await changed.read(at, length), is.subarray(at, at + length))).toBe(true);
  expect(changed.isHole?.(4 * MIB, 100)).toBe(true);
  await expect(changed.read(8 * MIB - 1, 2)).rejects.toThrow('leaves');
});

test('bytes of other lengths are never alike', () => {
  expect(alike(Uint8Array.of(1, 2), Uint8Array.of(1, 2, 3))).toBe(false);
  expect(alike(new Uint8Array(0), new Uint8Array(0))).toBe(true);
});

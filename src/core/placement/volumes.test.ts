import { Shelf } from '@tests/filled';
import { fatPart, layoutOn, part } from '@tests/samples';
import fc from 'fast-check';
import type { Tree } from '../filesystems/tree';
import { contentsOf } from '../filesystems/supplied';
import type { PartitionSlot } from '../layout/document';
import { accountOf } from './volumes';
import { place } from './place';
import type { PlacedPartition } from './placement';

const shelf = new Shelf();
const TREE = 'a'.repeat(64);
const swap = { kind: 'swap', uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5' } as const;
const exfat = { kind: 'exfat', volumeId: '7A1D-10C5' } as const;

function account(slot: PartitionSlot, tree: Tree = [], size = '2 GiB') {
  const placement = place(layoutOn(size, [slot]), contentsOf(new Map([[TREE, tree]]), new Map()));
  const placed = placement.placed[0] as PlacedPartition;
  return { ...accountOf(placed, placement), whole: placed.sectors * placement.sectorSize };
}

test.each<[string, PartitionSlot]>([
  ['FAT12', fatPart('a', '3 MiB', { variant: 12 })],
  ['FAT16', fatPart('a', '100 MiB', { variant: 16, files: TREE })],
  ['FAT32', fatPart('a', '640 MiB', { label: 'TIDE', files: TREE })],
  ['FAT16 with sectors unused', fatPart('a', '1 GiB', { variant: 16, cluster: '16 KiB' })],
  ['exFAT', part('a', '640 MiB', { content: { ...exfat, files: TREE } })],
  ['swap', part('a', '1 GiB', { content: swap })],
  ['swap that is no whole number of pages', part('a', '3001 sectors', { content: { ...swap, pageSize: 65_536 } })],
  ['nothing', part('a', '1 GiB')],
  ['zeros', part('a', '1 GiB', { content: { kind: 'zeros' } })],
  ['a supplied file', part('a', '1 GiB', { content: { kind: 'file', sha256: TREE, name: 'x', size: 1000 } })],
])('the parts of %s are the partition, to the byte', (_, slot) => {
  const tree = [shelf.file('folder/A.BIN', 70_001), shelf.file('long name of a file.txt', 3)];
  const { parts, whole } = account(slot, tree);
  expect(parts.reduce((sum, one) => sum + one.bytes, 0)).toBe(whole);
  expect(parts.every((one) => one.bytes > 0)).toBe(true);
});

test('FAT32 with files, by hand: clusters of 4 KiB', () => {
  const tree = [shelf.file('folder/A.BIN', 70_001), shelf.file('B', 3)];
  const { parts, usable, title } = account(fatPart('a', '640 MiB', { label: 'TIDE', files: TREE }), tree);
  const named = Object.fromEntries(parts.map((one) => [one.name, one.bytes]));
  expect(named).toMatchObject({
    '1 folder': 4096,
    '2 files': 70_004,
    'Lost in last clusters': 18 * 4096 - 70_001 + 4093,
    'Root directory, 1 cluster': 4096,
  });
  expect(title).toBe('FAT32, 163,328 clusters');
  expect(usable).toBe((163_328 - 1) * 4096);
  expect(named['Free for more files']).toBe(usable! - 4096 - 19 * 4096);
});

test('exFAT of every size adds up', () => {
  fc.assert(
    fc.property(fc.integer({ min: 3, max: 1900 }), fc.nat(300_000), (mib, size) => {
      const { parts, whole } = account(part('a', `${mib} MiB`, { content: { ...exfat, files: TREE } }), [
        shelf.file(`f${size % 7}`, size % 9000),
      ]);
      expect(parts.reduce((sum, one) => sum + one.bytes, 0)).toBe(whole);
    }),
    { numRuns: 60 },
  );
});

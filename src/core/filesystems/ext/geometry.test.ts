/** The geometry of an ext volume against what is placed in it. */
import { type ExtWish, geometryFor } from '@tests/ext';
import fc from 'fast-check';
import { GIB, KIB, MIB } from '../../quantity/units';
import type { Tree } from '../tree';
import { FreeBlocks } from './free-blocks';
import type { Feature } from './features';
import { type ExtGeometry, EXT_BLOCKS, extGeometry } from './geometry';
import { placeGroups } from './groups';
import { placeJournal } from './journal';

const NO_FILES: Tree = [];

/** Sizes from 64 KiB to 256 GiB, as many small as large ones. */
const size = fc.tuple(fc.integer({ min: 16, max: 37 }), fc.nat(1000)).map(([power, more]) => {
  return Math.floor((2 ** power * (1 + more / 1000)) / 512) * 512;
});
const wish: fc.Arbitrary<ExtWish> = fc.record(
  {
    bytes: size,
    version: fc.constantFrom('ext2', 'ext3', 'ext4'),
    profile: fc.constantFrom('current', 'old loaders'),
    block: fc.constantFrom(...EXT_BLOCKS.slice(0, 3)),
    journal: fc.oneof(fc.constant('none' as const), size),
    perInode: fc.constantFrom(KIB, 16 * KIB, 4 * MIB),
    growTo: fc.constantFrom<'none' | number>('none', 64 * GIB),
  },
  { requiredKeys: ['bytes', 'version'] },
);

/** Blocks that are left behind the journal, and those of its map. */
function leftIn(geometry: ExtGeometry) {
  const free = new FreeBlocks(placeGroups(geometry).taken, geometry.blocks);
  const placed = placeJournal(geometry, free);
  return placed && { clusters: free.left, journalMapBlocks: placed.journal.map.length };
}

test('what files can have is what lies behind the journal, in however many pieces that lies', () => {
  let pieces = 0;
  fc.assert(
    fc.property(wish, (one) => {
      const made = geometryFor(one, NO_FILES);
      if (!made.ok) return;
      const { clusters, journalMapBlocks, journalBlocks, spareDescriptorBlocks: spare } = made.value;
      // A transaction that adds groups holds all spare blocks, and is a quarter of the journal at most.
      if (journalBlocks > 0 && spare > 0) expect(spare + 10).toBeLessThan(journalBlocks / 4);
      expect(leftIn(made.value)).toEqual({ clusters, journalMapBlocks });
      pieces = Math.max(pieces, journalMapBlocks);
    }),
    { numRuns: 500 },
  );
  expect(pieces).toBeGreaterThan(1);
});

test('blocks of 1 KiB have a journal with which they can grow; a smaller one that is asked for grows less', () => {
  const growing = (journal?: number) => {
    const made = geometryFor({ version: 'ext4', bytes: 64 * MIB, block: KIB, ...(journal && { journal }) }, NO_FILES);
    if (!made.ok) throw new Error(made.error.reason);
    return made.value;
  };
  expect(growing()).toMatchObject({ journalBlocks: 1632, spareDescriptorBlocks: 256 });
  const less = growing(MIB);
  expect(less).toMatchObject({ journalBlocks: 1024, spareDescriptorBlocks: 154 });
  expect(less.growsTo).toBeLessThan(growing().growsTo);
});

test('a journal of two pieces has one more extent than fit into its inode', () => {
  const made = geometryFor({ version: 'ext4', bytes: 8_479_834_112, block: KIB }, NO_FILES);
  if (!made.ok) throw new Error(made.error.reason);
  expect(made.value).toMatchObject({ journalBlocks: 129_392, journalMapBlocks: 1 });
});

test.each([
  [16, false],
  [32, false],
  [32, true],
] as const)('groups of blocks of %d KiB hold what their counts can say, long: %s', (kib, isLong) => {
  const features = new Set<Feature>(isLong ? ['64bit', 'extents'] : []);
  const made = extGeometry({
    bytes: 300 * 2 ** 30,
    sectorSize: 512,
    pageSize: 65_536,
    isTiny: false,
    block: kib * 1024,
    perInode: 1024,
    isSystem: false,
    features,
    entries: 0,
  });
  if (!made.ok) throw new Error(JSON.stringify(made.error));
  const { blocksPerGroup, inodesPerGroup } = made.value;
  expect(blocksPerGroup).toBe(isLong ? 8 * kib * 1024 : 65_528);
  expect(inodesPerGroup).toBeLessThanOrEqual(blocksPerGroup);
  expect((inodesPerGroup * 256) % (kib * 1024)).toBe(0);
});

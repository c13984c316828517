/** Every legal combination of profile, block, size, journal and sector size of ext, for a real kernel. */
import type { ExtWish } from '@tests/ext';
import type { Shelf } from '@tests/filled';
import { systemTree, wideTree } from '@tests/ext-trees';
import type { Tree } from '@/core/filesystems/tree';
import { GIB, KIB, MIB } from '@/core/quantity/units';
import type { ExtCase } from './ext-run';

const KINDS = [
  { version: 'ext4', profile: 'current' },
  { version: 'ext4', profile: 'old loaders' },
  { version: 'ext3' },
  { version: 'ext2' },
  { version: 'ext2', profile: 'tiny' },
] as const;
const BLOCKS = [KIB, 2 * KIB, 4 * KIB];
const SIZES = [2 * MIB, 8 * MIB, 16 * MIB, 100 * MIB, 700 * MIB, 5 * GIB, 64 * GIB];
const SMALL = 16 * MIB;

export const WISHES = KINDS.flatMap((kind) =>
  BLOCKS.flatMap((block) =>
    SIZES.flatMap((bytes) =>
      ([512, 4096] as const).flatMap((sectorSize) =>
        ([undefined, 'none'] as const).map((journal): ExtWish => ({
          ...kind,
          block,
          bytes,
          sectorSize,
          ...(journal && { journal }),
        })),
      ),
    ),
  ),
);

/** False for what cannot be: a block smaller than a sector. */
export const isLegal = ({ block, sectorSize }: ExtWish) => block! >= sectorSize!;

/** All volumes, with what the guest does to each. */
export function matrix(shelf: Shelf): ExtCase[] {
  const system = systemTree(shelf);
  const few: Tree = system.filter(
    ({ path }) => path !== 'bin/tide' && !path.endsWith('tide') && path !== 'bin/tide-log',
  );
  const caseOf = (wish: ExtWish): ExtCase => {
    const tree = wish.bytes < 8 * MIB ? few : system;
    return { wish, tree, work: wish.bytes <= SMALL ? 'ufi' : 'u' };
  };
  return [
    ...WISHES.filter(isLegal).map(caseOf),
    ...BLOCKS.flatMap((block): ExtCase[] => [
      { wish: { version: 'ext4', bytes: 600 * MIB, block }, tree: wideTree(shelf, 100_000), work: 'u' },
      { wish: { version: 'ext3', bytes: 600 * MIB, block }, tree: wideTree(shelf, 100_000), work: 'u' },
      { wish: { version: 'ext4', bytes: 64 * MIB, block }, tree: system, work: 'gu', device: 8 * GIB },
      {
        wish: { version: 'ext4', profile: 'old loaders', bytes: 64 * MIB, block },
        tree: system,
        work: 'gu',
        device: 8 * GIB,
      },
      { wish: { version: 'ext3', bytes: 64 * MIB, block }, tree: system, work: 'gu', device: 8 * GIB },
    ]),
    { wish: { version: 'ext4', bytes: 64 * MIB, leavesTables: true }, tree: system, work: 'ufi' },
    {
      wish: { version: 'ext4', bytes: 64 * MIB, inodeSize: 128 },
      tree: few.filter((one) => !one.extended && !one.time),
      work: 'uf',
    },
  ];
}

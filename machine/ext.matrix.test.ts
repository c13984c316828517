/** Every legal combination of profile, block, size, journal and sector size of ext, through a real kernel. */
import { type ExtWish, makeExt } from '@tests/ext';
import { Shelf } from '@tests/filled';
import { systemTree, wideTree } from '@tests/ext-trees';
import type { Tree } from '@/core/filesystems/tree';
import { GIB, KIB, MIB } from '@/core/quantity/units';
import { type ExtCase, type ExtVerdict, runExt } from './ext-run';

const shelf = new Shelf();
const system = systemTree(shelf);
const few: Tree = system.filter(({ path }) => path !== 'bin/tide' && !path.endsWith('tide') && path !== 'bin/tide-log');

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

const wishes = KINDS.flatMap((kind) =>
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

/** What cannot be: a block smaller than a sector. */
const isLegal = ({ block, sectorSize }: ExtWish) => block! >= sectorSize!;

function caseOf(wish: ExtWish): ExtCase {
  const tree = wish.bytes < 8 * MIB ? few : system;
  return { wish, tree, work: wish.bytes <= SMALL ? 'ufi' : 'u' };
}

const MORE: readonly ExtCase[] = [
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

/** A regular expression that the volumes to be looked at match, as they are told; all without it. */
const WANTED = new RegExp(process.env.LOESS_VOLUMES ?? '');

let verdicts: readonly ExtVerdict[];
beforeAll(async () => {
  const all = [...wishes.filter(isLegal).map(caseOf), ...MORE];
  const cases = all.filter(({ wish }) => WANTED.test(JSON.stringify(wish)));
  verdicts = await runExt(cases, shelf, (done, wrong) =>
    process.stderr.write(
      `${done} of ${cases.length} volumes${wrong.map((one) => `\n${JSON.stringify(one)}`).join('')}\n`,
    ),
  );
}, 180 * 60_000);

test('what is illegal is refused by name', () => {
  const refused = wishes.filter((wish) => !isLegal(wish)).map((wish) => makeExt(wish, []));
  expect(new Set(refused)).toEqual(new Set(['block smaller than the sector']));
});

test('every volume mounts without a word, holds what was put in, and is sound after use', () => {
  expect(verdicts.filter(({ amiss }) => amiss.length > 0)).toEqual([]);
});

/** What a real Linux kernel makes of ext volumes: a few of all that there can be; every combination in the second tier. */
import { makeExt } from '@tests/ext';
import { Shelf } from '@tests/filled';
import { systemTree, wideTree } from '@tests/ext-trees';
import { cases } from '@tests/tier';
import { GIB, KIB, MIB } from '@/core/quantity/units';
import { isLegal, matrix, WISHES } from './ext-matrix';
import { type ExtCase, type ExtVerdict, runExt } from './ext-run';

const shelf = new Shelf();
const system = systemTree(shelf);

/** Every third of these is looked at in the first tier. */
const FEW: readonly ExtCase[] = [
  { wish: { version: 'ext4', bytes: 32 * MIB }, tree: system, work: 'ufi' },
  { wish: { version: 'ext4', bytes: 32 * MIB, block: 1024, profile: 'old loaders' }, tree: system, work: 'uf' },
  {
    wish: { version: 'ext4', bytes: 32 * MIB, block: 2048, sectorSize: 512, leavesTables: true },
    tree: system,
    work: 'u',
  },
  { wish: { version: 'ext3', bytes: 32 * MIB, block: 1024 }, tree: system, work: 'uf' },
  // A last group that is hardly more than its own structures.
  { wish: { version: 'ext4', bytes: 33 * MIB - 300 * KIB, block: 1024 }, tree: system, work: 'ufi' },
  { wish: { version: 'ext2', bytes: 24 * MIB, sectorSize: 4096 }, tree: system, work: 'uf' },
  { wish: { version: 'ext2', bytes: 3 * MIB, profile: 'tiny' }, tree: [], work: 'ufi' },
  { wish: { version: 'ext4', bytes: 48 * MIB, block: 1024 }, tree: wideTree(shelf, 12_000), work: 'u' },
  { wish: { version: 'ext4', bytes: 32 * MIB }, tree: system, work: 'gu', device: 2 * GIB },
  { wish: { version: 'ext4', bytes: 3 * GIB }, tree: system, work: 'u' },
];

const CASES = cases(
  FEW.filter((_, i) => i % 3 === 0),
  [...FEW, ...matrix(shelf)],
);

let verdicts: readonly ExtVerdict[];
beforeAll(async () => {
  verdicts = await runExt(CASES, shelf, (done, wrong) =>
    process.stderr.write(
      `${done} of ${CASES.length} volumes${wrong.map((one) => `\n${JSON.stringify(one)}`).join('')}\n`,
    ),
  );
});

test('what is illegal is refused by name', () => {
  const refused = WISHES.filter((wish) => !isLegal(wish)).map((wish) => makeExt(wish, []));
  expect(new Set(refused)).toEqual(new Set(['block smaller than the sector']));
});

test('every volume mounts without a word, holds what was put in, can be used, filled and grown, and is sound afterwards', () => {
  expect(verdicts.length).toBe(CASES.length);
  expect(verdicts.filter(({ amiss }) => amiss.length > 0)).toEqual([]);
});

/** What a real Linux kernel makes of ext volumes: a fixed slice of all that there can be; `npm run machine:all` takes the rest. */
import { Shelf } from '@tests/filled';
import { systemTree, wideTree } from '@tests/ext-trees';
import { GIB, KIB, MIB } from '@/core/quantity/units';
import { type ExtCase, type ExtVerdict, runExt } from './ext-run';

const shelf = new Shelf();
const system = systemTree(shelf);

const CASES: readonly ExtCase[] = [
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

let verdicts: readonly ExtVerdict[];
beforeAll(async () => {
  verdicts = await runExt(CASES, shelf);
}, 9 * 60_000);

test('every volume mounts without a word, holds what was put in, can be used, filled and grown, and is sound afterwards', () => {
  expect(verdicts.length).toBe(CASES.length);
  expect(verdicts.filter(({ amiss }) => amiss.length > 0)).toEqual([]);
});

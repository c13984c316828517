/** Machines that are cut off in the middle of a write: a slice of what `npm run machine:all` does. */
import { Shelf } from '@tests/filled';
import { MIB } from '@/core/quantity/units';
import { type CutVerdict, runCuts } from './ext-cuts';

const SEED = Number(process.env.LOESS_SEED ?? 4711);

let verdicts: readonly CutVerdict[];
beforeAll(async () => {
  verdicts = await runCuts(
    [
      { wish: { version: 'ext4', bytes: 32 * MIB, block: 1024 }, how: '' },
      { wish: { version: 'ext4', bytes: 48 * MIB }, how: 'j' },
      { wish: { version: 'ext4', bytes: 32 * MIB, block: 1024, profile: 'old loaders' }, how: 's' },
      { wish: { version: 'ext3', bytes: 32 * MIB, block: 1024 }, how: '' },
      { wish: { version: 'ext3', bytes: 32 * MIB, block: 2048 }, how: 'j' },
      { wish: { version: 'ext4', bytes: 40 * MIB, block: 2048 }, how: 'd' },
      { wish: { version: 'ext4', bytes: 32 * MIB, block: 1024 }, how: '', form: 'inline data' },
      { wish: { version: 'ext4', bytes: 24 * MIB, inodeSize: 128 }, how: '', form: 'meta groups' },
    ],
    1,
    new Shelf(),
    SEED,
  );
}, 9 * 60_000);

test('our view of what was cut off is what a kernel shows once it has replayed it, to the bit', () => {
  expect(verdicts.filter(({ amiss }) => amiss.length > 0)).toEqual([]);
  // Something was there to be replayed.
  expect(verdicts.some(({ replay }) => replay.blocks > 10)).toBe(true);
  expect(verdicts.some(({ inline }) => inline > 10)).toBe(true);
});

/** Machines that are ended in the middle of a write: a few; a hundred and twenty cuts, five of each volume, in the second tier. */
import { Shelf } from '@tests/filled';
import { cases, SEED } from '@tests/tier';
import { KIB, MIB } from '@/core/quantity/units';
import { type CutCase, type CutVerdict, runCuts } from './ext-cuts';

const FEW: readonly CutCase[] = [
  { wish: { version: 'ext4', bytes: 32 * MIB, block: 1024 }, how: '' },
  { wish: { version: 'ext4', bytes: 48 * MIB }, how: 'j' },
  { wish: { version: 'ext4', bytes: 32 * MIB, block: 1024, profile: 'old loaders' }, how: 's' },
  { wish: { version: 'ext3', bytes: 32 * MIB, block: 1024 }, how: '' },
  { wish: { version: 'ext3', bytes: 32 * MIB, block: 2048 }, how: 'j' },
  { wish: { version: 'ext4', bytes: 40 * MIB, block: 2048 }, how: 'd' },
  { wish: { version: 'ext4', bytes: 32 * MIB, block: 1024 }, how: '', form: 'inline data' },
  { wish: { version: 'ext4', bytes: 24 * MIB, inodeSize: 128 }, how: '', form: 'meta groups' },
];

const KINDS = [{ version: 'ext4' }, { version: 'ext4', profile: 'old loaders' }, { version: 'ext3' }] as const;

/** How they are mounted: with data in the journal too, checksums of old, commits that nobody waits for, blocks given at once. */
const HOW = { ext4: ['', 'j', 's', 'sa', 'd', 'js'], ext3: ['', 'j'] } as const;

/** Volumes of forms that others make, by their number. */
const FORMS: Readonly<Record<number, Partial<CutCase>>> = {
  0: { form: 'inline data' },
  1: { form: 'meta groups' },
  6: { form: 'inline data' },
  9: { form: 'meta groups' },
  10: { form: 'two copies' },
  12: { form: 'inline data' },
  14: { form: 'a copy in every group' },
  18: { form: 'inline data' },
};

const ALL = Array.from({ length: 24 }, (_, i): CutCase => {
  const kind = KINDS[i % 3]!;
  const ways = HOW[kind.version];
  return {
    wish: {
      ...kind,
      bytes: (24 + 4 * (i % 7)) * MIB,
      block: [KIB, 2 * KIB, 4 * KIB][Math.floor(i / 3) % 3]!,
      ...(i % 5 === 0 && { leavesTables: true }),
      ...(i % 8 === 7 && { inodeSize: 128 }),
    },
    how: ways[Math.floor(i / 3) % ways.length]!,
    ...FORMS[i],
  };
});

/** What is cut off, how often, and after how many milliseconds of work at most. */
const [CASES, TIMES, LONGEST] = cases([FEW.filter((_, i) => i % 3 === 0), 1, 2000] as const, [ALL, 5, 6500] as const);

let verdicts: readonly CutVerdict[];
beforeAll(async () => {
  verdicts = await runCuts(CASES, TIMES, new Shelf(), SEED, LONGEST, (round) => {
    const sum = (of: (one: CutVerdict['replay']) => number) => round.reduce((all, { replay }) => all + of(replay), 0);
    const wrong = round.filter(({ amiss }) => amiss.length > 0);
    process.stderr.write(
      `${round.length} cuts: ${sum((one) => one.transactions)} transactions with ${sum((one) => one.blocks)} blocks, ` +
        `${sum((one) => one.deleted)} files deleted, ${sum((one) => one.shortened)} made shorter, ` +
        `${round.reduce((all, { inline }) => all + inline, 0)} names with their bytes in the inode` +
        `${wrong.map((one) => `\n${JSON.stringify(one)}`).join('')}\n`,
    );
  });
});

test('our view of what was cut off is what a kernel shows once it has replayed it, to the bit', () => {
  expect(verdicts).toHaveLength(CASES.length * TIMES);
  expect(verdicts.filter(({ amiss }) => amiss.length > 0)).toEqual([]);
  // Something was there to be replayed.
  expect(verdicts.some(({ replay }) => replay.blocks > 10)).toBe(true);
  expect(verdicts.reduce((all, { inline }) => all + inline, 0)).toBeGreaterThan(cases(10, 100));
});

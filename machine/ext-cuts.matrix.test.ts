/** A hundred and twenty cuts: machines with 24 disks, each ended five times in the middle of a write. */
import { Shelf } from '@tests/filled';
import { KIB, MIB } from '@/core/quantity/units';
import { type CutCase, type CutVerdict, runCuts } from './ext-cuts';

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

const CASES = Array.from({ length: 24 }, (_, i): CutCase => {
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

const SEED = Number(process.env.LOESS_SEED ?? 20_261);

let verdicts: readonly CutVerdict[];
beforeAll(async () => {
  verdicts = await runCuts(CASES, 5, new Shelf(), SEED, (round) => {
    const sum = (of: (one: CutVerdict['replay']) => number) => round.reduce((all, { replay }) => all + of(replay), 0);
    const wrong = round.filter(({ amiss }) => amiss.length > 0);
    process.stderr.write(
      `${round.length} cuts: ${sum((one) => one.transactions)} transactions with ${sum((one) => one.blocks)} blocks, ` +
        `${sum((one) => one.deleted)} files deleted, ${sum((one) => one.shortened)} made shorter, ` +
        `${round.reduce((all, { inline }) => all + inline, 0)} names with their bytes in the inode` +
        `${wrong.map((one) => `\n${JSON.stringify(one)}`).join('')}\n`,
    );
  });
}, 120 * 60_000);

test('our view of every volume that was cut off is what a kernel shows once it has replayed it, to the bit', () => {
  expect(verdicts).toHaveLength(120);
  expect(verdicts.filter(({ amiss }) => amiss.length > 0)).toEqual([]);
  expect(verdicts.reduce((all, { inline }) => all + inline, 0)).toBeGreaterThan(100);
});

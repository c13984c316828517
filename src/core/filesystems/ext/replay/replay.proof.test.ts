/** Journals of all forms, replayed: against a model, and where they are broken. */
import { extOverNoise } from '@tests/ext';
import { type JournalForm, JournalWriter, type Transaction } from '@tests/ext-journal';
import { Shelf } from '@tests/filled';
import { cases } from '@tests/tier';
import fc from 'fast-check';
import { memoryBlocks } from '../../../bytes/blocks';
import { KIB, MIB } from '../../../quantity/units';
import { SUPERBLOCK } from '../records';
import { replayWords, settled, type Settled } from './replay';

const shelf = new Shelf();

const images = new Map<string, Uint8Array>();

/** A volume with a journal, made once of each sort. */
function image(block = 1024, version: 'ext3' | 'ext4' = 'ext4', journal?: number): Uint8Array {
  const key = `${version} ${block} ${journal}`;
  let made = images.get(key);
  if (!made) {
    const bytes = 24 * MIB;
    const wish = { version, bytes, block, ...(journal && { journal }) };
    made = extOverNoise(wish, [{ ...shelf.file('tide.csv', 3000) }], shelf);
    images.set(key, made);
  }
  return Uint8Array.from(made);
}

async function replayed(bytes: Uint8Array): Promise<Settled> {
  const found = await settled(memoryBlocks(bytes), 0);
  if (!found || 'refused' in found) throw new Error(found?.refused ?? 'no ext');
  return found;
}

const filled = (block: number, byte: number) => new Uint8Array(block).fill(byte);

const FORMS: readonly JournalForm[] = [
  { sums: 'none', isLong: false, isFirst: true },
  { sums: 'none', isLong: false },
  { sums: 'none', isLong: true },
  { sums: 'old', isLong: false },
  { sums: 'old', isLong: true },
  { sums: '2', isLong: false },
  { sums: '2', isLong: true },
  { sums: '3', isLong: false },
  { sums: '3', isLong: true },
];

describe.each(FORMS)('sums: $sums, 64 bits: $isLong, first form: $isFirst', (form) => {
  const targets = [5000, 5001, 5002, 5003, 5004, 5005, 5006, 5007];

  test('what stays of random transactions is what a model says, wherever the log begins and wherever it ends', async () => {
    const base = image();
    const block = 1024;
    const write = fc.tuple(fc.constantFrom(...targets), fc.nat(255), fc.boolean());
    const transaction = fc.record({
      writes: fc.uniqueArray(write, { maxLength: 60, selector: ([target]) => target }),
      revokes: fc.uniqueArray(fc.constantFrom(...targets), { maxLength: 3 }),
    });
    const run = fc.record({
      all: fc.array(transaction, { maxLength: 9 }),
      isLate: fc.boolean(),
      sequence: fc.constantFrom(1, 77, 0xffff_fffd),
      isCut: fc.boolean(),
    });
    await fc.assert(
      fc.asyncProperty(run, async ({ all, isLate, sequence, isCut }) => {
        const bytes = Uint8Array.from(base);
        const journal = await JournalWriter.of(bytes);
        const transactions = all.map(({ writes, revokes }, i): Transaction => ({
          writes: writes.map(([target, byte, isMagic]) => {
            const content = filled(block, byte);
            if (isMagic) content.set([0xc0, 0x3b, 0x39, 0x98]);
            return [target, content] as const;
          }),
          // Of the first form nothing is ever revoked.
          ...(form.isFirst ? {} : { revokes }),
          ...(isCut && i === all.length - 1 && { harm: 'no commit' as const }),
        }));
        const start = isLate ? journal.places.length - 3 : 1;
        journal.write(form, transactions, { start, sequence });
        const whole = transactions.filter(({ harm }) => harm === undefined);
        const meant = new Map<number, Uint8Array>();
        for (const [n, { writes }] of whole.entries())
          for (const [target, content] of writes)
            if (!whole.some(({ revokes = [] }, later) => later >= n && revokes.includes(target)))
              meant.set(target, content);
        const before = Uint8Array.from(bytes);
        const { view, replay, inodes } = await replayed(bytes);
        expect(replay).toMatchObject({ transactions: whole.length, refused: undefined, troubles: [] });
        for (const target of targets) {
          const content = meant.get(target) ?? before.subarray(target * block, (target + 1) * block);
          expect([target, Buffer.compare(await view.read(target * block, block), content)]).toEqual([target, 0]);
        }
        // Reading over several of them, and beside them, is the same.
        const all8 = await view.read((targets[0]! - 1) * block + 100, 10 * block - 200);
        for (const target of targets) {
          const at = (target - targets[0]! + 1) * block - 100;
          const content = meant.get(target) ?? before.subarray(target * block, (target + 1) * block);
          expect(Buffer.compare(all8.subarray(at, at + block), content)).toBe(0);
        }
        expect(inodes.head.superblock.incompatible & 4).toBe(0);
        expect(Buffer.compare(bytes, before)).toBe(0);
      }),
      { numRuns: cases(4, 15) },
    );
  });

  const three = (harm: Transaction['harm'], more: Partial<Transaction> = {}): Transaction[] => [
    { writes: [[5000, filled(1024, 1)]] },
    { writes: [[5001, filled(1024, 2)]], revokes: form.isFirst ? [] : [5007], harm, ...more },
    { writes: [[5002, filled(1024, 3)]] },
  ];
  const isSummed = form.sums === '2' || form.sums === '3';

  const testWhere = (is: boolean, name: string, work: () => Promise<void>) => is && test(name, work);

  testWhere(form.sums !== 'none', 'a commit whose sum is wrong ends the log there', async () => {
    const bytes = image();
    (await JournalWriter.of(bytes)).write(form, three('commit sum'));
    expect((await replayed(bytes)).replay).toMatchObject({ transactions: 1, blocks: 1, refused: undefined });
  });

  testWhere(isSummed, 'blocks whose sums are wrong are not replayed, and nothing else is', async () => {
    for (const [harm, words] of [
      ['data sum', /checksum of block 5.001 in transaction 2 is wrong/],
      ['descriptor sum', /checksum of a block of transaction 2 is wrong/],
      ['revocation sum', /checksum of/],
    ] as const) {
      const bytes = image();
      (await JournalWriter.of(bytes)).write(form, three(harm));
      const { replay, view } = await replayed(bytes);
      expect(replay).toMatchObject({ transactions: 0, blocks: 0 });
      expect(replay.refused).toMatch(words);
      expect(replayWords(replay)[0]).toMatch(/cannot be replayed/);
      expect(Buffer.compare(await view.read(0, bytes.length), bytes)).toBe(0);
    }
  });

  testWhere(isSummed, 'a block of an earlier round that looks like one of this ends the log', async () => {
    const bytes = image();
    const all = three('descriptor sum', { seconds: 10 });
    (await JournalWriter.of(bytes)).write(form, all);
    expect((await replayed(bytes)).replay).toMatchObject({ transactions: 1, blocks: 1, refused: undefined });
  });
});

describe('what is told', () => {
  const FORM: JournalForm = { sums: '3', isLong: true };
  const one: Transaction[] = [{ writes: [[5000, filled(1024, 1)]] }];

  test('what was replayed, in a sentence', async () => {
    const bytes = image();
    (await JournalWriter.of(bytes)).write(FORM, one);
    expect(replayWords((await replayed(bytes)).replay)).toEqual([
      'Its journal was replayed in memory: one transaction with one block.',
      'The image stays as it is.',
    ]);
    expect(replayWords((await replayed(image())).replay)).toEqual([]);
  });

  test('fast commits behind it', async () => {
    const bytes = image(1024, 'ext4', 2 * MIB);
    const journal = await JournalWriter.of(bytes);
    const fast = 256;
    journal.write({ ...FORM, hasFast: true }, one, { fast });
    const { replay } = await replayed(bytes);
    expect(replay).toMatchObject({ transactions: 1, hasFast: true });
    expect(replayWords(replay).join(' ')).toMatch(/fast commits behind its journal: these are not replayed/);
    journal.write(FORM, [...one, ...one], { fast });
    expect((await replayed(bytes)).replay.hasFast).toBe(false);
  });

  const broken = async (harm: (bytes: Uint8Array, journal: JournalWriter) => void) => {
    const bytes = image();
    const journal = await JournalWriter.of(bytes);
    journal.write({ sums: 'none', isLong: false }, one);
    harm(bytes, journal);
    return (await replayed(bytes)).replay.refused;
  };
  const setHead =
    (at: number, value: number) =>
    (bytes: Uint8Array, { places, block }: JournalWriter) =>
      new DataView(bytes.buffer).setUint32(places[0]! * block + at, value);

  test.each([
    ['no mark', setHead(0, 1), /first block is not that of a journal/],
    ['another form', setHead(4, 2), /first block is not that of a journal/],
    ['other blocks', setHead(0xc, 4096), /blocks are of/],
    ['a start behind its end', setHead(0x1c, 0x7fff_ffff), /contradicts itself/],
    ['no first block', setHead(0x14, 0), /contradicts itself/],
    ['four billion blocks', setHead(0x10, 0xffff_ffff), /contradicts itself/],
    ['features of the future', setHead(0x28, 0x8000), /features that are not known \(8000h\)/],
    ['checksums of another kind', setHead(0x28, 0x10), /checksums are of a kind/],
  ])('a journal with %s is not replayed', async (_, harm, words) => {
    expect(await broken(harm)).toMatch(words);
  });

  test('a journal elsewhere, and one whose inode leads nowhere', async () => {
    const inode = (value: number) => (bytes: Uint8Array) =>
      new DataView(bytes.buffer).setUint32(1024 + SUPERBLOCK.fields.journalInode.offset, value, true);
    expect(await broken(inode(0))).toMatch(/another device/);
    expect(await broken(inode(0xffff_ffff))).toMatch(/there is no inode/);
    // An inode without blocks.
    expect(await broken(inode(10))).toMatch(/its block 0 is not there/);
  });

  test('a block that lies behind the end of the volume', async () => {
    const bytes = image();
    (await JournalWriter.of(bytes)).write(FORM, [{ writes: [[0x7fff_ffff, filled(1024, 1)]] }]);
    expect((await replayed(bytes)).replay.refused).toMatch(/which the volume does not have/);
  });

  test('a log without an end is read once', async () => {
    const bytes = image();
    const journal = await JournalWriter.of(bytes);
    // Descriptors of one transaction that go all around the log, and no commit.
    const writes = Array.from({ length: journal.places.length * 2 }, () => [5000, filled(1024, 1)] as const);
    journal.write(FORM, [{ writes, harm: 'no commit' }]);
    expect((await replayed(bytes)).replay).toMatchObject({ transactions: 0, blocks: 0, refused: undefined });
  });
});

test('any bytes in the journal are survived', async () => {
  const bases = await Promise.all(
    FORMS.slice(1).map(async (form) => {
      const bytes = image(form.isLong ? 4 * KIB : KIB);
      const journal = await JournalWriter.of(bytes);
      const block = journal.block;
      journal.write(
        form,
        Array.from({ length: 6 }, (_, n) => ({
          writes: Array.from({ length: 9 }, (_, i) => [3000 + ((i * 7 + n) % 20), filled(block, i)] as const),
          revokes: [3001 + n],
        })),
      );
      return { bytes, journal };
    }),
  );
  const harm = fc.array(fc.tuple(fc.nat(40), fc.nat(), fc.nat(255)), { minLength: 1, maxLength: 12 });
  await fc.assert(
    fc.asyncProperty(fc.nat(bases.length - 1), harm, async (which, all) => {
      const { bytes: base, journal } = bases[which]!;
      const bytes = Uint8Array.from(base);
      for (const [number, at, byte] of all)
        bytes[journal.places[number]! * journal.block + (at % (at % 3 === 0 ? 64 : journal.block))] = byte;
      const { replay } = await replayed(bytes);
      expect(replay.blocks).toBeLessThan(60);
    }),
    { numRuns: cases(40, 150) },
  );
});

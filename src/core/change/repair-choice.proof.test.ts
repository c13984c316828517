/** Repairs that are made only where somebody asks: which FAT is believed, the order of logical partitions, entries beside a GPT. */
import fc from 'fast-check';
import { fatsOf, gpt, mbr } from '@tests/found-base';
import { type FoundImage } from '@tests/found-image';
import { cases } from '@tests/tier';
import { grouped, MIB } from '../quantity/units';
import { checkSurvey } from '../findings/survey/check';
import { shapeOf } from '../filesystems/fat/header';
import { openFat } from '../filesystems/fat/browse';
import { contentOf, walk } from '../filesystems/volume';
import { surveyMedium } from '../survey/survey';
import type { Survey } from '../survey/found';
import { changedSource } from './plan';
import { repaired } from './repair';

const calls = (rule: string, survey: Survey) => checkSurvey(survey).some((one) => one.rule === rule);
const rulesOf = (survey: Survey) => checkSurvey(survey).map(({ rule }) => rule);
async function ask(image: FoundImage, id?: string) {
  const made = await repaired(
    image,
    (source) => surveyMedium(source, { sectorSize: 512 }),
    calls,
    id === undefined ? undefined : [id],
  );
  const plan = await made.draft.plan();
  return { ...made, ranges: plan.ranges, source: changedSource(image, plan) };
}

describe('two FATs that differ', () => {
  /** A FAT16 of two files: three clusters of “tides.log”, one of “mark.txt”; FAT entries are 16 bits. */
  function volume(): FoundImage {
    const image = mbr();
    const shape = shapeOf(image.bytes(MIB, 512))!;
    const root = MIB + (shape.dataStart - shape.rootSectors) * 512;
    const cluster = shape.sectorsPerCluster * 512;
    const entry = (index: number, name: string, first: number, size: number) =>
      image
        .text(root + 32 * index, name)
        .put(root + 32 * index + 11, [0x20])
        .number(root + 32 * index + 26, first, 2)
        .number(root + 32 * index + 28, size);
    entry(1, 'TIDES   LOG', 2, 3 * cluster);
    entry(2, 'MARK    TXT', 9, 5);
    image.text(MIB + shape.dataStart * 512, 'first').text(MIB + shape.dataStart * 512 + 7 * cluster, 'mark!');
    for (const [at, value] of [
      [2, 3],
      [3, 4],
      [4, 0xffff],
      [9, 0xffff],
    ] as const)
      for (const fat of Object.values(fatsOf(image, MIB))) image.number(fat + 2 * at, value, 2);
    return image;
  }

  const shown = async (image: Awaited<ReturnType<typeof ask>>['source']) => {
    const open = (await openFat(image, MIB))!;
    const files: Record<string, number | string> = {};
    const troubles: string[] = [];
    for await (const { path, entry } of walk(open, (_, what) => troubles.push(what))) {
      let length = 0;
      try {
        for await (const bytes of contentOf(open, image, entry)) length += bytes.length;
        files[path] = length;
      } catch (error) {
        files[path] = (error as Error).message;
      }
    }
    return files;
  };

  test('unasked nothing is written, and both ways are named', async () => {
    const image = volume();
    image.number(fatsOf(image, MIB).first + 2 * 3, 0xffff, 2);
    const { tried, ranges, onRequest } = await ask(image);
    expect(tried).toEqual([]);
    expect(ranges).toEqual([]);
    expect(onRequest.map(({ id }) => id)).toEqual(['fats-from-first', 'fats-from-second']);
  });

  test('who chooses sees which file each of them cuts short, and gets the one that is believed', async () => {
    const image = volume();
    const cluster = shapeOf(image.bytes(MIB, 512))!.sectorsPerCluster * 512;
    image.number(fatsOf(image, MIB).first + 2 * 3, 0xffff, 2);
    const words = [
      '1 file or folder of Partition 1 differs by its two FATs.',
      `“TIDES.LOG”: by the first FAT its clusters end ${grouped(cluster)} bytes too early; by the second it is whole.`,
    ];
    const first = await ask(image, 'fats-from-first');
    expect(first.tried[0]).toMatchObject({ refused: undefined, says: words });
    expect(first.ranges.map(({ what }) => what)).toEqual(['FAT 2 of Partition 1']);
    expect(await shown(first.source)).toEqual({
      'TIDES.LOG': `its clusters end ${grouped(cluster)} bytes too early`,
      'MARK.TXT': 5,
    });
    const second = await ask(image, 'fats-from-second');
    expect(second.tried[0]).toMatchObject({ refused: undefined, says: words });
    expect(second.ranges.map(({ what }) => what)).toEqual(['FAT 1 of Partition 1']);
    expect(await shown(second.source)).toEqual({ 'TIDES.LOG': 3 * cluster, 'MARK.TXT': 5 });
    for (const { after } of [first, second]) expect(rulesOf(after)).not.toContain('found-fat/copies-differ');
  });

  test('where only clusters of no file differ, that is said', async () => {
    const image = volume();
    image.number(fatsOf(image, MIB).second + 2 * 40, 0xffff, 2);
    const { tried } = await ask(image, 'fats-from-first');
    expect(tried[0]!.says).toEqual(['No file or folder of Partition 1 differs by its two FATs.']);
  });

  test('whatever differs, both are alike afterwards, and nothing else is another byte', async () => {
    const flips = fc.array(fc.tuple(fc.boolean(), fc.nat(2000), fc.integer({ min: 1, max: 255 })), {
      minLength: 1,
      maxLength: 8,
    });
    await fc.assert(
      fc.asyncProperty(flips, fc.boolean(), async (where, isFirst) => {
        const image = volume();
        const { first, second } = fatsOf(image, MIB);
        const length = second - first;
        for (const [inFirst, at, bits] of where) image.flip((inFirst ? first : second) + 4 + (at % (length - 4)), bits);
        const { source, tried } = await ask(image, isFirst ? 'fats-from-first' : 'fats-from-second');
        if (tried.length === 0) return;
        const believed = image.bytes(isFirst ? first : second, length);
        for (const fat of [first, second]) expect(Buffer.compare(await source.read(fat, length), believed)).toBe(0);
        const rest = second + length;
        for (const [at, size] of [
          [0, first],
          [rest, 4 * MIB - rest],
        ] as const)
          expect(Buffer.compare(await source.read(at, size), image.bytes(at, size))).toBe(0);
      }),
      { numRuns: cases(20, 60) },
    );
  });

  test('a volume with one FAT, and one whose FATs are not in it, are left alone', async () => {
    const cut = volume().number(MIB + 22, 60_000, 2);
    expect((await ask(cut, 'fats-from-first')).ranges).toEqual([]);
  });
});

describe('logical partitions out of order', () => {
  const BOX = 65_536;
  const BOX_SECTORS = 32_768;
  const TYPES = [0x83, 0x82, 0x0c, 0x07, 0x0b, 0x06, 0x0e];

  /** A chain of partitions at places of the container (in tracks of 256 sectors), linked in another order. */
  function chain(order: readonly number[], records: readonly number[]): FoundImage {
    const image = mbr().entry(0, 3, { type: 15, first: BOX, count: BOX_SECTORS });
    const place = (i: number) => BOX + 2048 * i + 1024;
    for (const [k, i] of order.entries()) {
      const recordAt = records[k]!;
      image.entry(recordAt, 0, { type: TYPES[i]!, first: place(i) - recordAt, count: 100 + i });
      const next = records[k + 1];
      if (next !== undefined) image.entry(recordAt, 1, { type: 5, first: next - BOX, count: 2048 });
      image.text(recordAt * 512 + 40, `code ${i}`);
      image.text(place(i) * 512, `inside of ${i}`);
    }
    return image;
  }

  test('numbers follow places, and each that changes is named', async () => {
    const image = chain([1, 0, 2], [BOX, BOX + 512, BOX + 2 * 2048 + 512]);
    expect(rulesOf(await surveyMedium(image, { sectorSize: 512 }))).toContain('found-chain/out-of-disk-order');
    const unasked = await ask(image);
    expect(unasked.ranges).toEqual([]);
    expect(unasked.onRequest.map(({ id }) => id)).toContain('chain-order');
    const { after, tried, source } = await ask(image, 'chain-order');
    expect(tried[0]!.refused).toBeUndefined();
    expect(tried[0]!.says).toEqual([
      expect.stringMatching(/^Partition 6 \(.*-06\) becomes partition 5: mount lines/),
      expect.stringMatching(/^Partition 5 \(.*-05\) becomes partition 6: mount lines/),
    ]);
    const logicals = after.partitions.filter(({ kind }) => kind === 'logical');
    expect(logicals.map(({ number, start, sectors, type }) => [number, start, sectors, type])).toEqual([
      [5, BOX + 1024, 100, '83'],
      [6, BOX + 2048 + 1024, 101, '82'],
      [7, BOX + 4096 + 1024, 102, '0C'],
    ]);
    expect(rulesOf(after)).not.toContain('found-chain/out-of-disk-order');
    // What stands in a record beside its entries stays.
    expect(Buffer.from(await source.read(BOX * 512 + 40, 6)).toString()).toBe('code 1');
  });

  test('any order: the same partitions, by their places, with the bytes that they had', async () => {
    const orders = fc.shuffledSubarray([0, 1, 2, 3, 4, 5, 6], { minLength: 2 });
    await fc.assert(
      fc.asyncProperty(orders, fc.boolean(), async (order, near) => {
        // Records stand ahead of their partitions, or all of them at the start of the container.
        const records = order.map((i, k) => (k === 0 ? BOX : near ? BOX + k : BOX + 2048 * i + 512));
        const image = chain(order, records);
        const before = await surveyMedium(image, { sectorSize: 512 });
        const { after, tried, source, ranges } = await ask(image, 'chain-order');
        const facts = ({ partitions }: Survey) =>
          partitions
            .filter(({ kind }) => kind === 'logical')
            .map(({ start, sectors, type, active }) => [start, sectors, type, active])
            .sort((a, b) => Number(a[0]) - Number(b[0]));
        expect(facts(after)).toEqual(facts(before));
        const isSorted = order.every((one, k) => k === 0 || order[k - 1]! < one);
        expect(tried).toHaveLength(isSorted ? 0 : 1);
        if (isSorted) return expect(ranges).toEqual([]);
        const starts = after.partitions.filter(({ kind }) => kind === 'logical').map(({ start }) => start);
        expect(starts).toEqual([...starts].sort((a, b) => a - b));
        for (const i of order)
          expect(Buffer.from(await source.read((BOX + 2048 * i + 1024) * 512, 11)).toString()).toBe(`inside of ${i}`);
      }),
      { numRuns: cases(25, 80) },
    );
  });

  test.each<readonly [string, () => FoundImage, string]>([
    [
      'a chain that loops too',
      () => chain([1, 0], [BOX, BOX + 512]).entry(BOX + 512, 1, { type: 5, first: 0, count: 2048 }),
      'loops as well',
    ],
    [
      'a record within a partition',
      () => chain([1, 0, 2], [BOX, BOX + 512, BOX + 1024 + 50]),
      'no sector for its record',
    ],
  ])('%s is left as it is', async (_, make, why) => {
    const { tried, ranges } = await ask(make(), 'chain-order');
    expect(tried.map(({ refused }) => refused)).toEqual([expect.stringContaining(why)]);
    expect(ranges).toEqual([]);
  });
});

describe('entries beside a GPT', () => {
  const hybrid = () =>
    gpt()
      .text(0, 'a loader')
      .number(440, 0x6d617272)
      .entry(0, 1, { type: 0x0c, first: 2048, count: 34 * 2048, status: 0x80 });

  test('go where they show what the GPT has; code and signature stay', async () => {
    const image = hybrid();
    expect((await ask(image)).onRequest.map(({ id }) => id)).toContain('mbr-beside');
    const { tried, after, source } = await ask(image, 'mbr-beside');
    expect(tried[0]).toMatchObject({ refused: undefined });
    expect(tried[0]!.says).toEqual([
      expect.stringMatching(/^Entry 2 of sector 0 .* shows partition 1 of the GPT\. It is marked active/),
    ]);
    expect(rulesOf(after)).toEqual([]);
    const made = await source.read(0, 512);
    expect(Buffer.compare(made.subarray(0, 446), image.bytes(0, 446))).toBe(0);
    expect(Buffer.compare(made.subarray(446), gpt().bytes(446, 66))).toBe(0);
  });

  test('stay where they show what no partition of the GPT has', async () => {
    const image = gpt().entry(0, 1, { type: 0x83, first: 100_000, count: 100 });
    const bare = image.put(1024 + 256, new Uint8Array(128)).mend(1);
    const { tried, ranges } = await ask(bare, 'mbr-beside');
    expect(tried[0]!.refused).toContain('no partition of the GPT has');
    expect(ranges).toEqual([]);
  });

  test('a protective entry that stands elsewhere goes to the first place', async () => {
    const image = hybrid()
      .entry(0, 0, { type: 0x0c, first: 2048, count: 34 * 2048 })
      .entry(0, 1, { type: 0xee, first: 1, count: 2047 });
    const { source } = await ask(image, 'mbr-beside');
    expect(Buffer.compare((await source.read(0, 512)).subarray(446), gpt().bytes(446, 66))).toBe(0);
  });
});

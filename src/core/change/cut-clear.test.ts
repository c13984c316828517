/** Cutting and clearing: what is in an image stays to the byte, or nothing of it is recognised any more. */
import { exfat, gpt, gpt4096, mbr, chained, whole } from '@tests/found-base';
import { FoundImage } from '@tests/found-image';
import { tablesByTheBook } from '@tests/tables-by-the-book';
import { checkSurvey } from '../findings/survey/check';
import { MIB } from '../quantity/units';
import { surveyMedium } from '../survey/survey';
import { clearing } from './clear';
import { cutting } from './cut';
import { changedSource, plannedEnd } from './plan';

const surveyOf = (image: FoundImage) => surveyMedium(image, { sectorSize: image.sectorSize });
const grown = (image: FoundImage, size: number) => image.clone().resized(size);

const CUT: readonly (readonly [string, () => FoundImage])[] = [
  ['an MBR', () => grown(mbr(), 96 * MIB)],
  ['an MBR with a chain', () => grown(chained(3), 200 * MIB)],
  ['a volume alone', () => grown(whole(16), 61 * MIB + 512)],
  ['an exFAT behind an MBR', exfat],
];

test.each(CUT)('%s is cut behind what is in it, and every byte before stays', async (_, make) => {
  const image = make();
  const survey = await surveyOf(image);
  for (const to of ['sector', 'MiB'] as const) {
    const made = await cutting(survey, image, to);
    if (!made.ok) throw new Error(made.error);
    const { plan, words } = made.value;
    expect(plan.ranges).toEqual([]);
    expect(plan.becomes).toBeLessThan(image.size);
    if (to === 'MiB') expect(plan.becomes % MIB).toBe(0);
    expect(words[0]).toMatch(/ behind byte .* go; .* stay\./);
    const after = changedSource(image, plan);
    const again = await surveyMedium(after, { sectorSize: image.sectorSize });
    expect(again.partitions.map(({ start, sectors }) => [start, sectors])).toEqual(
      survey.partitions.map(({ start, sectors }, i) =>
        again.table === 'none' ? [start, again.partitions[i]!.sectors] : [start, sectors],
      ),
    );
    expect(checkSurvey(again).filter(({ severity }) => severity === 'stop')).toEqual([]);
    await expect(cutting(again, after, to)).resolves.toMatchObject({ ok: false });
  }
});

test.each([
  ['512', gpt, 512],
  ['4096', gpt4096, 4096],
] as const)(
  'a GPT of %s-byte sectors gets its copy at the new end, and both copies agree',
  async (_, make, sectorSize) => {
    // The last partition ends at the end: the one before it becomes the last.
    const image = make();
    const first = await surveyOf(image);
    const last = first.partitions.at(-1)!;
    const entry = 2 * sectorSize + (last.number - 1) * 128;
    image.put(entry, new Uint8Array(128)).mend(1);
    const copy = first.gpt.copy!;
    image.put(copy.array * sectorSize + (last.number - 1) * 128, new Uint8Array(128)).mend(copy.sector);
    const survey = await surveyOf(image);
    const made = await cutting(survey, image, 'MiB');
    if (!made.ok) throw new Error(made.error);
    const { plan } = made.value;
    expect(plan.ranges.map(({ what }) => what)).toEqual([
      'protective master boot record',
      'GPT header',
      'GPT entries, copy',
      'GPT header, copy',
    ]);
    for (const { extent } of plan.ranges) expect(plannedEnd(extent)).toBeLessThanOrEqual(plan.becomes);
    const after = changedSource(image, plan);
    const again = await surveyMedium(after, { sectorSize });
    expect(checkSurvey(again).filter(({ rule }) => !rule.startsWith('found-place/'))).toEqual([]);
    expect(again.gpt.copy?.sector).toBe(plan.becomes / sectorSize - 1);
    const book = await tablesByTheBook(after, sectorSize, false);
    expect(book.partitions.map(({ id }) => id)).toEqual(survey.partitions.map(({ id }) => id));
  },
);

test('what cannot be cut says why, and data that goes is named', async () => {
  const full = gpt();
  expect(await cutting(await surveyOf(full), full, 'MiB')).toMatchObject({ ok: false, error: /nothing behind/ });
  const short = grown(mbr(), 15 * MIB);
  expect(await cutting(await surveyOf(short), short, 'sector')).toMatchObject({ ok: false, error: /cut already/ });
  const lost = gpt().put(512, new Uint8Array(512));
  expect(await cutting(await surveyOf(lost), lost, 'MiB')).toMatchObject({ ok: false, error: /mended first/ });
  const nothing = new FoundImage(8 * MIB);
  expect(await cutting(await surveyOf(nothing), nothing, 'MiB')).toMatchObject({ ok: false, error: /nothing was/ });
  const data = grown(mbr(), 96 * MIB).text(90 * MIB, 'low water');
  const made = await cutting(await surveyOf(data), data, 'MiB');
  expect(made).toMatchObject({
    ok: true,
    value: { words: [expect.anything(), expect.stringContaining('data among')] },
  });
});

const FULL: readonly (readonly [string, () => FoundImage])[] = [
  ['a GPT', gpt],
  ['a GPT of 4096-byte sectors', gpt4096],
  ['a chain', () => chained(4)],
  ['a volume alone', () => whole(32, '600 MiB')],
  ['an exFAT', exfat],
  ['a GPT whose copy is elsewhere', () => grown(gpt(), 90 * MIB)],
  [
    'leftovers between partitions',
    () =>
      mbr()
        .text(50 * MIB + 3, 'NTFS    ')
        .put(50 * MIB + 510, [0x55, 0xaa]),
  ],
];

test.each(FULL)('nothing of %s is recognised after it was cleared, and what it was is said', async (_, make) => {
  const image = make();
  const survey = await surveyOf(image);
  const { plan, words } = await clearing(survey, image);
  let end = 0;
  for (const { extent } of plan.ranges) {
    expect(extent.offset).toBeGreaterThanOrEqual(end);
    end = plannedEnd(extent);
  }
  expect(end).toBeLessThanOrEqual(image.size);
  expect(words.length).toBe(survey.partitions.length + survey.leftovers.length);
  const again = await surveyMedium(changedSource(image, plan), { sectorSize: image.sectorSize });
  expect(again).toMatchObject({ table: 'none', gpt: {}, mbr: undefined, leftovers: [] });
  expect(again.gpt).toEqual({ first: undefined, copy: undefined });
  expect(again.partitions.map(({ inside }) => inside.kind)).toEqual(['zeros']);
});

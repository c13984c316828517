/** Repairs of tables: every planted damage is gone in the survey of the draft, nothing else changes, and what cannot be mended is said. */
import { createHash } from 'node:crypto';
import fc from 'fast-check';
import { DAMAGES } from '@tests/found-damages';
import { exfat, extAlone, gpt, gpt4096, LAST, mbr, VOLUME } from '@tests/found-base';
import { FoundImage } from '@tests/found-image';
import { cases } from '@tests/tier';
import { MIB } from '../quantity/units';
import { structuresOf } from '../survey/structures';
import { surveyMedium } from '../survey/survey';
import type { Survey } from '../survey/found';
import { Draft, plannedBytes, plannedEnd } from './plan';
import { REPAIRS, repaired } from './repair';
import { fieldChanges } from './told';
import { checkSurvey } from '../findings/survey/check';

const calls = (rule: string, survey: Survey) => checkSurvey(survey).some((one) => one.rule === rule);
const mend = (image: FoundImage, wanted?: readonly string[]) =>
  repaired(image, (source) => surveyMedium(source, { sectorSize: image.sectorSize }), calls, wanted);
const rulesOf = (survey: Survey) => checkSurvey(survey).map(({ rule }) => rule);

/** True where two images have the same bytes in a range. */
const isSame = (a: FoundImage, b: FoundImage, at: number, length: number) =>
  Buffer.from(a.bytes(at, length)).equals(b.bytes(at, length));

/** The image with a plan carried out. */
async function carriedOut(image: FoundImage, draft: Draft): Promise<FoundImage> {
  const made = image.clone();
  for (const { extent } of (await draft.plan()).ranges) made.put(extent.offset, await plannedBytes(extent, image));
  return made;
}

const MENDED: readonly (readonly [string, () => FoundImage, readonly string[]])[] = [
  ...DAMAGES.filter(
    ([name, , rules]) => /^the first GPT header|^an entry of the first array/.test(name) && rules.length === 1,
  ),
  ...DAMAGES.filter(([name]) =>
    [
      'the copy of the header',
      'the copy of the array',
      'a first header of zeros',
      'a lost copy',
      '4096-byte sectors: the first header',
      '4096-byte sectors: the copy',
      'a medium that grew',
      'a wrong start in a volume',
      'a changed copy of the boot sector',
      'FSInfo without its marks',
      'a wrong free count',
      'an ESP without FAT',
      'a FAT32 under noise',
      'an ext without its superblock',
      'an exFAT with another boot sector',
      'an exFAT whose copy is lost',
      'a wrong protective count',
      'no protective record',
    ].includes(name),
  ),
].map(([name, make, rules]) => [name, make, rules] as const);

test('there are damages to mend', () => expect(MENDED.length).toBeGreaterThanOrEqual(32));

test.each(MENDED)('%s is mended, to what the survey finds nothing about', async (_, make, rules) => {
  const image = make();
  const { draft, tried, after } = await mend(image);
  expect(tried.map(({ refused }) => refused).filter(Boolean)).toEqual([]);
  expect(tried.flatMap(({ repair }) => repair.rules)).toEqual(expect.arrayContaining([rules[0]]));
  expect(rulesOf(after)).toEqual([]);
  const made = await carriedOut(image, draft);
  expect(rulesOf(await surveyMedium(made, { sectorSize: image.sectorSize }))).toEqual([]);
});

test.each(MENDED.filter(([name]) => !/grew|protective|volume|FSInfo|free count/.test(name)))(
  '%s is mended to the byte that was there',
  async (name, make) => {
    const image = make();
    const sound = name.includes('exFAT')
      ? exfat()
      : name.includes('an ext')
        ? extAlone()
        : image.sectorSize === 4096
          ? gpt4096()
          : gpt();
    const made = await carriedOut(image, (await mend(image)).draft);
    for (const at of [0, sound.size - 64 * 4096]) expect(isSame(made, sound, at, 64 * 4096)).toBe(true);
  },
);

test('on a medium that grew the copy goes to its end, the former one goes away, and the room behind can be used', async () => {
  const { draft, after } = await mend(gpt().resized(100 * MIB));
  const { ranges } = await draft.plan();
  expect(ranges.map(({ what }) => what)).toEqual([
    'master boot record',
    'GPT header',
    'former copy of the GPT entries',
    'former copy of the GPT header',
    'GPT entries, copy',
    'GPT header, copy',
  ]);
  expect(after.gpt.first!.lastUsable).toBe((100 * MIB) / 512 - 34);
  expect(after.gpt.copy!.sector).toBe((100 * MIB) / 512 - 1);
});

test('a GPT of an earlier use goes away, and the MBR stays as it is', async () => {
  const left = mbr()
    .put(512, gpt().bytes(512, 512))
    .put(LAST * 512, gpt().bytes(LAST * 512, 512));
  const { draft, after } = await mend(left);
  expect(rulesOf(after)).not.toContain('found-gpt/stale-gpt');
  expect(after.table).toBe('mbr');
  const made = await carriedOut(left, draft);
  expect(made.bytes(0, 512)).toEqual(left.bytes(0, 512));
  expect(isSame(made, left, MIB, MIB)).toBe(true);
});

describe('what cannot be mended is said, and changes nothing', () => {
  test('both copies lost', async () => {
    const image = gpt()
      .flip(512 + 60)
      .flip(LAST * 512 + 60);
    const { draft, tried } = await mend(image);
    expect(tried.map(({ refused }) => refused)).toEqual([
      'the copy at the end cannot be believed either',
      'the first GPT cannot be believed: it is mended first',
    ]);
    expect((await draft.plan()).ranges).toEqual([]);
  });

  test('a medium that was cut inside a partition', async () => {
    const { tried } = await mend(gpt().resized(60 * MIB), ['gpt-copy', 'gpt-to-end']);
    expect(tried.map(({ refused }) => refused)).toEqual([
      'partition 3 reaches into the last 33 sectors, where it goes',
      'partition 3 reaches into the last 33 sectors, where it goes',
    ]);
  });

  test('a loader where the entries would go', async () => {
    const image = gpt()
      .put(512, new Uint8Array(512))
      .put(
        1024,
        Array.from({ length: 16_384 }, (_, i) => (i * 7 + 1) & 0xff),
      );
    const { tried } = await mend(image);
    expect(tried[0]!.refused).toContain('perhaps a loader');
  });

  test('a header of an earlier use inside of a partition', async () => {
    const image = mbr();
    const inside = image.entry(0, 1, { type: 0x83, first: 100_000, count: LAST + 1 - 100_000 });
    inside.put(LAST * 512, gpt().bytes(LAST * 512, 512));
    const { tried, draft } = await mend(inside, ['stale-gpt']);
    expect(tried[0]!.refused).toContain('lies in a partition');
    expect((await draft.plan()).ranges).toEqual([]);
  });
});

describe('FAT volumes', () => {
  const named = (name: string) => DAMAGES.find((one) => one[0] === name)![1]();

  test('what FSInfo told before is told again, and its reserved bytes stay', async () => {
    const image = gpt()
      .number(VOLUME + 512 + 488, 77)
      .text(VOLUME + 512 + 100, 'kept');
    const made = await carriedOut(image, (await mend(image)).draft);
    expect(made.u32(VOLUME + 512 + 488)).toBe(gpt().u32(VOLUME + 512 + 488));
    expect(made.bytes(VOLUME + 512 + 100, 4)).toEqual(image.bytes(VOLUME + 512 + 100, 4));
  });

  test('a wrong start is put right in the copy of the boot sector too', async () => {
    const image = gpt()
      .number(VOLUME + 28, 63)
      .number(VOLUME + 6 * 512 + 28, 63);
    const { draft, after } = await mend(image);
    expect((await draft.plan()).ranges.map(({ what }) => what)).toEqual([
      'boot sector of Partition 1, e',
      'boot sector of Partition 1, e, copy',
    ]);
    expect(rulesOf(after)).toEqual([]);
  });

  test('the clean mark is set where it is asked for, and never otherwise', async () => {
    const image = named('a volume that was not unmounted');
    expect((await mend(image)).tried).toEqual([]);
    const { after, draft } = await mend(image, ['fat-clean-mark']);
    expect(rulesOf(after)).toEqual([]);
    expect((await draft.plan()).ranges).toHaveLength(2);
  });

  test('boot sectors that describe different volumes are left as they are', async () => {
    const image = gpt().number(VOLUME + 6 * 512 + 13, 2, 1);
    const { tried, draft } = await mend(image);
    expect(tried.map(({ refused }) => refused)).toEqual([expect.stringContaining('nobody knows which is right')]);
    expect((await draft.plan()).ranges).toEqual([]);
  });

  test('what is longer than its place is not written over', async () => {
    const image = mbr()
      .number(446 + 12, 20_000)
      .number(MIB + 28, 63);
    const { tried } = await mend(image);
    expect(tried.map(({ refused }) => refused)).toEqual([expect.stringContaining('longer than its place')]);
  });
});

test('one repair alone leaves the others to be made', async () => {
  const { after, tried } = await mend(gpt().resized(100 * MIB), ['protective-entry']);
  expect(tried.map(({ repair }) => repair.id)).toEqual(['protective-entry']);
  expect(rulesOf(after)).toEqual(['found-gpt/copy-not-at-the-end']);
});

test('code, signature and entries of sector 0 stay, and a mark on the protective entry too', async () => {
  const image = gpt()
    .text(0, 'a loader')
    .number(440, 0x6d617272)
    .put(446, [0x80])
    .number(446 + 12, 999);
  const made = await carriedOut(image, (await mend(image, ['protective-entry'])).draft);
  expect(made.bytes(0, 450)).toEqual(image.bytes(0, 450));
  expect(made.u32(446 + 12)).toBe(LAST);
});

test('fields are told that change, before and after', async () => {
  const image = gpt().flip(512 + 60);
  const { draft, after } = await mend(image);
  const [range, ...others] = (await draft.plan()).ranges;
  expect(others).toEqual([]);
  const changes = fieldChanges(range!, 512, [structuresOf(after)]);
  expect(changes).toHaveLength(1);
  expect(changes[0]).toMatchObject({ sector: 1, field: expect.stringContaining('diskId') as string });
});

test('a draft reads as it would be, and its plan holds what is last, once', async () => {
  const puts = fc.array(fc.record({ at: fc.nat(200), bytes: fc.uint8Array({ maxLength: 60 }) }), { maxLength: 12 });
  await fc.assert(
    fc.asyncProperty(fc.uint8Array({ minLength: 300, maxLength: 300 }), puts, async (bytes, writes) => {
      const image = new FoundImage(300).put(0, bytes);
      const draft = new Draft(image);
      const meant = bytes.slice();
      for (const { at, bytes: put } of writes) {
        draft.put('range', at, put);
        meant.set(put, at);
      }
      expect(await draft.read(0, 300)).toEqual(meant);
      const { ranges } = await draft.plan();
      const made = bytes.slice();
      let end = 0;
      for (const { extent, head, sum } of ranges) {
        const at = extent.offset;
        expect(at).toBeGreaterThanOrEqual(end);
        expect(head).toEqual(bytes.slice(at, at + head.length));
        expect(sum).toBe(
          createHash('sha256')
            .update(bytes.slice(at, plannedEnd(extent)))
            .digest('hex'),
        );
        made.set(await plannedBytes(extent, image), at);
        end = plannedEnd(extent);
      }
      expect(made).toEqual(meant);
    }),
    { numRuns: cases(80, 300) },
  );
  expect(() => new Draft(new FoundImage(10)).put('out', 5, new Uint8Array(6))).toThrow(RangeError);
});

test('damages of any bytes of a table either are mended, or leave the medium as it is', async () => {
  const flips = fc.array(fc.tuple(fc.constantFrom(446, 512, 1024, LAST * 512, (LAST - 32) * 512), fc.nat(300)), {
    minLength: 1,
    maxLength: 6,
  });
  await fc.assert(
    fc.asyncProperty(flips, async (where) => {
      const image = gpt();
      for (const [base, at] of where) image.flip(Math.min(base + at, image.size - 1), 1 + (at % 255));
      const { draft, tried, after } = await mend(image);
      const made = await carriedOut(image, draft);
      // Partitions and what is in them stay.
      expect(isSame(made, image, MIB, MIB / 4)).toBe(true);
      if (tried.every(({ refused }) => refused === undefined) && tried.length > 0)
        for (const { repair } of tried) for (const rule of repair.rules) expect(rulesOf(after)).not.toContain(rule);
    }),
    { numRuns: cases(30, 100) },
  );
});

test('every repair answers a rule, once', () => {
  expect(new Set(REPAIRS.map(({ id }) => id)).size).toBe(REPAIRS.length);
});

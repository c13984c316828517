import { readFileSync } from 'node:fs';
import path from 'node:path';
import { chained, gpt, whole } from '@tests/found-base';
import { MIB } from '@/core/quantity/units';
import { DAMAGES } from '@tests/found-damages';
import type { FoundImage } from '@tests/found-image';
import { noise } from '@tests/samples';
import { type BlockSource, memoryBlocks, SourceShrank } from '../bytes/blocks';
import { checkSurvey, SURVEY_RULES } from '../findings/survey/check';
import { surveyMedium } from './survey';

const survey = (image: BlockSource & { sectorSize?: 512 | 4096 }, sectorSize = image.sectorSize ?? 512) =>
  surveyMedium(image, { sectorSize });
const rulesOf = async (image: FoundImage, sectorSize?: 512 | 4096) =>
  [...new Set(checkSurvey(await survey(image, sectorSize)).map((one) => one.rule))].sort();

test('there are at least sixty damaged or odd images', () => {
  expect(DAMAGES.filter(([, , rules]) => rules.length > 0).length).toBeGreaterThanOrEqual(60);
});

describe.each(DAMAGES.map(([name, make, rules, sectorSize]) => ({ name, make, rules, sectorSize })))(
  '$name',
  ({ make, rules, sectorSize }) => {
    test('gives its findings, and the image is not changed', async () => {
      const image = make();
      const before = image.snapshot();
      expect(await rulesOf(image, sectorSize)).toEqual([...rules].sort());
      expect(image.snapshot()).toBe(before);
    });
  },
);

test('every rule is triggered by an image, and its id tells its file', () => {
  const found = new Set(DAMAGES.flatMap(([, , rules]) => rules));
  expect([...found].sort()).toEqual(SURVEY_RULES.map(({ id }) => id).sort());
  for (const { id } of SURVEY_RULES) {
    const file = path.join(__dirname, '../findings/survey', `${id.slice('found-'.length).split('/')[0]}.ts`);
    expect(readFileSync(file, 'utf8')).toContain(`'${id}'`);
  }
});

test('either of the first two entries of a record may lead on', async () => {
  const image = chained(1);
  image
    .entry(65_536, 0, { type: 5, first: 4096, count: 4096 })
    .entry(65_536, 1, { type: 0x83, first: 2048, count: 64 });
  image.entry(65_536 + 4096, 0, { type: 0x83, first: 2048, count: 64 });
  const found = (await survey(image)).partitions.filter((one) => one.kind === 'logical');
  expect(found.map((one) => [one.number, one.start])).toEqual([
    [5, 65_536 + 2048],
    [6, 65_536 + 4096 + 2048],
  ]);
});

test('a GPT with a lost first copy is read from the other, and the same partitions are found', async () => {
  const [sound, lost] = [await survey(gpt()), await survey(gpt().put(512, new Uint8Array(512)))];
  expect(lost.partitions).toEqual(sound.partitions);
  expect(sound.partitions.map((one) => [one.number, one.kind, one.name, one.attributes, one.inside.kind])).toEqual([
    [1, 'gpt', 'e', [], 'fat'],
    [2, 'gpt', 'd', ['grow'], 'zeros'],
    [3, 'gpt', 's', [], 'fat'],
  ]);
});

test('names with control characters are shown escaped', async () => {
  const image = gpt()
    .text(1024 + 128 + 56, '\u0007\0\u001b\0[\0')
    .mend(1)
    .flip(1024 + 128 + 16)
    .mend(1);
  const found = checkSurvey(await survey(image.number(1024 + 128 + 40, 5, 8).mend(1)));
  const sentence = found.find((one) => one.rule === 'found-table/empty-partition')!.sentence;
  expect(sentence).toContain('Partition 2, \\u{7}\\u{1b}[');
});

test('an answer survives JSON', async () => {
  for (const image of [
    gpt(),
    chained(3),
    whole(32),
    gpt()
      .number(1024 + 40, 2n ** 64n - 1n, 8)
      .mend(1),
  ]) {
    const found = await survey(image);
    expect(JSON.parse(JSON.stringify(found))).toEqual(JSON.parse(JSON.stringify(found)));
    expect(JSON.stringify(found)).not.toContain('null');
  }
});

test('a source that shrinks while it is read rejects with the error of the source', async () => {
  const image = gpt();
  let reads = 0;
  const shrinking: BlockSource = {
    size: image.size,
    read: (offset, length) =>
      (reads += 1) > 5 ? Promise.reject(new SourceShrank('gone')) : image.read(offset, length),
  };
  await expect(surveyMedium(shrinking, { sectorSize: 512 })).rejects.toBeInstanceOf(SourceShrank);
});

test('what is read is bounded, however large the medium says it is', async () => {
  const huge = gpt().resized(2 ** 45);
  const found = await survey(huge);
  expect(found.read).toBeLessThan(8 * MIB);
  const noisy = memoryBlocks(noise(4 * MIB, 5));
  expect((await surveyMedium(noisy, { sectorSize: 512 })).read).toBeLessThan(8 * MIB);
});

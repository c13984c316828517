/** Headers of volumes that move say where they lie afterwards; those that were wrong before are left to a repair. */
import { exfat, exfatWith, mbr } from '@tests/found-base';
import type { FoundImage } from '@tests/found-image';
import { MIB } from '../quantity/units';
import { surveyMedium } from '../survey/survey';
import { layoutKeeping } from './keep';
import { hiddenAfterMove } from './moved';
import { changedSource, planOf } from './plan';

/** The medium with only the headers of its first partition at another place, and what is written. */
async function headersAt(image: FoundImage, to: number) {
  const survey = await surveyMedium(image, { sectorSize: 512 });
  const kept = layoutKeeping(survey, { name: 'Kept', date: '2026-03-01T12:00:00' });
  if (!kept.ok) throw new Error(kept.error);
  const was = kept.value.found!.partitions[0]!;
  const puts = await hiddenAfterMove(survey, was, to, image);
  return { puts, source: changedSource(image, await planOf(image, puts)), was };
}

test('both regions of an exFAT say the new place, with their checksums', async () => {
  const image = exfat();
  const to = 50_000;
  const { puts, source, was } = await headersAt(image, to);
  expect(puts.map(({ what }) => what)).toEqual([
    'boot region of partition 1: sectors before the volume',
    'boot region of partition 1, copy: sectors before the volume',
  ]);
  // By an own reading of the specification: the sum of eleven sectors but for three bytes, turned right at each.
  for (const region of [to, to + 12]) {
    const bytes = Buffer.from(await source.read(region * 512, 12 * 512));
    expect(bytes.readBigUInt64LE(64)).toBe(BigInt(to));
    let sum = 0;
    for (let i = 0; i < 11 * 512; i++)
      if (i !== 106 && i !== 107 && i !== 112) sum = ((sum & 1) * 2 ** 31 + (sum >>> 1) + bytes[i]!) % 2 ** 32;
    for (let at = 11 * 512; at < 12 * 512; at += 4) expect(bytes.readUInt32LE(at)).toBe(sum);
    // All else is what it was.
    const old = Buffer.from(image.bytes((was.at + region - to) * 512, 11 * 512));
    bytes.copy(old, 64, 64, 72);
    expect(Buffer.compare(old, bytes.subarray(0, 11 * 512))).toBe(0);
  }
});

test('an exFAT that said another place already is left as it is', async () => {
  expect(
    (
      await headersAt(
        exfatWith((image, at) => void image.number(at + 64, 77, 8)),
        50_000,
      )
    ).puts,
  ).toEqual([]);
});

test('a region without its checksum is left as it is', async () => {
  const { puts } = await headersAt(exfat().flip(MIB + 12 * 512 + 200), 50_000);
  expect(puts.map(({ what }) => what)).toEqual(['boot region of partition 1: sectors before the volume']);
});

test('a FAT16 says the new place in its one boot sector', async () => {
  const { puts, source } = await headersAt(mbr(), 60_000);
  expect(puts).toHaveLength(1);
  expect(Buffer.from(await source.read(60_000 * 512, 512)).readUInt32LE(28)).toBe(60_000);
});

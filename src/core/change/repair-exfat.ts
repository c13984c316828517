/**
 * Repairs of exFAT volumes: a boot region from the other one ("Main and Backup Boot Regions", section 3 of the exFAT
 * specification). The flags and the use in per cent are those of the first, where its sector can still be read: only they
 * change while a volume is used, and no checksum covers them.
 */
import type { BlockSource } from '../bytes/blocks';
import type { ExfatFound } from '../filesystems/exfat/read';
import { REGION } from '../filesystems/exfat/geometry';
import { EXFAT_BOOT_SECTOR } from '../filesystems/exfat/records';
import { fail, ok, type Result } from '../quantity/result';
import type { FoundPartition, Survey } from '../survey/found';
import { named } from '../survey/structures';
import type { Change, Repair } from './repairs';

/** Fields that change while a volume is used. */
const IN_USE = [
  { at: EXFAT_BOOT_SECTOR.fields.flags.offset, length: 2 },
  { at: EXFAT_BOOT_SECTOR.fields.percentInUse.offset, length: 1 },
] as const;

/** One region written from the other, with what is in use left as it is there. */
async function regionFrom(
  one: FoundPartition,
  { shape }: ExfatFound,
  from: 'first' | 'copy',
  survey: Survey,
  source: BlockSource,
): Promise<Result<Change, string>> {
  const size = REGION * shape.sectorSize;
  const base = one.start * survey.sectorSize;
  const [first, copy] = [base, base + size];
  if (base + 2 * size > source.size || 2 * size > one.sectors * survey.sectorSize)
    return fail(`${named(one)} is too short for both regions`);
  const [good, bad] = from === 'first' ? [first, copy] : [copy, first];
  const bytes = Uint8Array.from(await source.read(good, size));
  const there = await source.read(bad, size);
  for (const { at, length } of IN_USE) bytes.set(there.subarray(at, at + length), at);
  const what = `boot region of ${named(one)}${from === 'first' ? ', copy' : ''}`;
  return ok([{ what, at: bad, bytes }]);
}

function regionRepair(
  id: string,
  rules: readonly string[],
  label: string,
  why: string,
  from: 'first' | 'copy',
): Repair {
  const needs = ({ regionSound, copySound }: ExfatFound) =>
    from === 'first' ? regionSound && !copySound : copySound && !regionSound;
  const change = async (survey: Survey, source: BlockSource): Promise<Result<Change, string>> => {
    const all: Change[number][] = [];
    for (const one of survey.partitions) {
      if (one.inside.kind !== 'exfat') continue;
      const { exfat } = one.inside;
      if (from === 'copy' && !exfat.regionSound && !exfat.copySound)
        return fail(`neither boot region of ${named(one)} has its checksum`);
      if (!needs(exfat)) continue;
      const made = await regionFrom(one, exfat, from, survey, source);
      if (!made.ok) return made;
      all.push(...made.value);
    }
    return ok(all);
  };
  return { id, rules, label, why, change };
}

/** Repairs of exFAT volumes, in the order in which they are made together. */
export const EXFAT_REPAIRS: readonly Repair[] = [
  regionRepair(
    'exfat-boot',
    ['found-exfat/boot-region-bad'],
    'Write the boot region from its copy',
    'Systems refuse to mount a volume whose boot region does not have its checksum.',
    'copy',
  ),
  regionRepair(
    'exfat-boot-copy',
    ['found-exfat/boot-copy-bad'],
    'Write the copy of the boot region from the first',
    'It helps where the first one is lost, if it is the same.',
    'first',
  ),
];

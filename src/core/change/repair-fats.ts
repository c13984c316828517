/** Repairs of FAT volumes whose two FATs differ: one is written over the other, by the choice of whoever knows the files. */
import type { BlockSource } from '../bytes/blocks';
import { type DifferingFile, differingFiles, differingSectors } from '../filesystems/fat/differing';
import { fail, ok } from '../quantity/result';
import { counted, inBinary, MIB } from '../quantity/units';
import type { Survey } from '../survey/found';
import { named } from '../survey/structures';
import { visible } from '../bytes/record';
import type { Change, Repair } from './repairs';
import { type FatVolume, fatVolumesOf, volumeRepair, type VolumeRepair } from './repair-fat';

/** Bytes that a choice may change: FATs that differ in more are not two copies of one. */
const LIMIT = 64 * MIB;
/** Files that are told. */
const TOLD = 12;

const needs = ({ fat: { fatsAgree, shape } }: FatVolume) => !fatsAgree && shape.fats === 2;

/** Writes the FAT that is believed over the other one, where they differ. */
const from = (chosen: 0 | 1): VolumeRepair => ({
  needs,
  change: async ({ one, fat: { shape }, base }, source) => {
    const { reserved, fatSectors, sectorSize } = shape;
    const runs = await differingSectors(source, base, shape);
    const bytes = runs.reduce((sum, { count }) => sum + count * sectorSize, 0);
    if (bytes > LIMIT) return fail(`its FATs differ in ${inBinary(bytes)}: they are not two copies of one`);
    const placeOf = (fat: number, sector: number) => base + (reserved + fat * fatSectors + sector) * sectorSize;
    const change: Change[number][] = [];
    for (const { first, count } of runs)
      change.push({
        what: `FAT ${2 - chosen} of ${named(one)}`,
        at: placeOf(1 - chosen, first),
        bytes: Uint8Array.from(await source.read(placeOf(chosen, first), count * sectorSize)),
      });
    return ok(change);
  },
});

const fileWords = ({ path, first, second }: DifferingFile) =>
  `${path === '' ? 'The root directory' : `“${visible(path)}”`}: by the first FAT ${first}; by the second ${second}.`;

async function says(survey: Survey, source: BlockSource): Promise<readonly string[]> {
  const words: string[] = [];
  for (const { one, fat, base } of fatVolumesOf(survey).filter(needs)) {
    const { files, isWhole } = await differingFiles(source, base, fat.shape);
    const more = files.length - TOLD;
    const which =
      files.length === 0 ? 'No file or folder' : counted(files.length, 'file or folder', 'files and folders');
    words.push(
      `${which} of ${named(one)} ${files.length > 1 ? 'differ' : 'differs'} by its two FATs${isWhole ? '' : ', of those that were looked at: it holds more'}.`,
      ...files.slice(0, TOLD).map(fileWords),
      ...(more > 0 ? [`And ${counted(more, 'other', 'others')}.`] : []),
    );
  }
  return words;
}

const RULES = ['found-fat/copies-differ'];

/** Which FAT is believed; neither is, unasked. */
export const FATS_REPAIRS: readonly Repair[] = [
  {
    ...volumeRepair(
      'fats-from-first',
      RULES,
      'Believe the first FAT, and write the second from it',
      'Systems read the first one; what only the second says of files is lost.',
      from(0),
    ),
    onRequest: true,
    says,
  },
  {
    ...volumeRepair(
      'fats-from-second',
      RULES,
      'Believe the second FAT, and write the first from it',
      'It is right where writing stopped halfway, or where the first was damaged; what only the first says is lost.',
      from(1),
    ),
    onRequest: true,
    says,
  },
];

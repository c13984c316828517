/** Findings about what lies where: data between partitions, leftovers, and types against contents. */
import { grouped, inBoth, sectorCount } from '../../quantity/units';
import type { FoundPartition } from '../../survey/found';
import { named } from '../../survey/structures';
import { promiseOf, typeName } from '../../tables/types';
import { atPartition, atSector, holders, type SurveyOccurrence, type SurveyRule, surveyRule } from './finding';
import { KEPT } from '../layout/type';

const dataInGap = surveyRule('found-place/data-between-partitions', 'note', ({ gaps, sectorSize, iso }) =>
  gaps
    // What lies within an ISO 9660 is claimed by that.
    .filter((gap) => gap.dataAt !== undefined && gap.dataAt >= (iso?.size ?? 0))
    .map((gap) => ({
      place: atSector(Math.floor(gap.dataAt! / sectorSize)),
      sentence: `There is data at byte ${grouped(gap.dataAt!)}, in ${sectorCount(gap.sectors)} (${inBoth(gap.sectors * sectorSize)}) that no partition claims.`,
      why: 'It may be a loader that a ROM or a BIOS needs, or what is left of an earlier use.',
    })),
);

const leftovers = surveyRule('found-place/leftover', 'risk', (survey) =>
  survey.leftovers.map(({ sector, what }) => ({
    place: atSector(sector),
    sentence: `Sector ${grouped(sector)} holds ${what}, outside of every partition.`,
    why: 'Systems that look for marks may take the medium, or a later partition there, for that.',
  })),
);

/** What a type says and the content does not keep. */
function disagreement({ type, inside }: FoundPartition): string | undefined {
  const promise = promiseOf(type);
  const promisesFat = promise === 'fat12' || promise === 'fat16' || promise === 'fat32';
  if (inside.kind === 'fat') {
    const { variant } = inside.fat.shape;
    if (promisesFat && !KEPT[variant].includes(promise)) return `FAT${variant}`;
    return promise === 'linux' || promise === 'swap' || promise === 'bios boot' ? `FAT${variant}` : undefined;
  }
  if (inside.kind === 'exfat') return promisesFat || promise === 'esp' || promise === 'swap' ? 'exFAT' : undefined;
  if (inside.kind !== 'known') return undefined;
  const isSwap = inside.content.name.startsWith('swap');
  if (promisesFat || promise === 'esp' || (promise === 'swap') !== isSwap) {
    const mayBeSwap = isSwap && promise !== 'linux' && promise !== 'other';
    return promisesFat || promise === 'esp' || promise === 'swap' || mayBeSwap ? inside.content.name : undefined;
  }
  return undefined;
}

const typeDisagrees = surveyRule('found-place/type-disagrees-with-content', 'risk', (survey) =>
  holders(survey).flatMap((one): SurveyOccurrence[] => {
    const inside = disagreement(one);
    if (inside === undefined) return [];
    return [
      {
        place: atPartition(one),
        sentence: `${named(one)} has type ${typeName(one.type)}, and inside is ${inside}.`,
        why: 'Some readers believe the table, others the content.',
      },
    ];
  }),
);

const espNotFat = surveyRule('found-place/esp-not-fat', 'risk', (survey) =>
  holders(survey)
    .filter((one) => promiseOf(one.type) === 'esp' && one.inside.kind !== 'fat' && one.inside.kind !== 'out of reach')
    .map((one) => ({
      place: atPartition(one),
      sentence: `${named(one)} is an ESP of ${sectorCount(one.sectors)} without a FAT file system.`,
      why: 'UEFI firmware reads FAT and nothing else.',
    })),
);

const largerThanPlace = surveyRule('found-place/content-larger-than-its-place', 'stop', ({ partitions, sectorSize }) =>
  partitions.flatMap((one): SurveyOccurrence[] => {
    const size = one.inside.kind === 'known' ? one.inside.content.size : undefined;
    const room = one.sectors * sectorSize;
    if (size === undefined || size <= room) return [];
    return [
      {
        place: atPartition(one),
        sentence: `${named(one)} has ${inBoth(room)}, and its content says that it is ${inBoth(size)} long.`,
        why: 'The partition was made smaller than its content, or the image was cut: its end is missing.',
      },
    ];
  }),
);

const startLost = surveyRule('found-place/start-lost', 'risk', ({ partitions, sectorSize }) =>
  partitions.flatMap((one): SurveyOccurrence[] => {
    const lost = one.inside.kind === 'unknown' || one.inside.kind === 'zeros' ? one.inside.lost : undefined;
    if (!lost) return [];
    const what = lost.what === 'ext' ? 'the superblock of an ext' : 'the boot sector of a FAT32';
    return [
      {
        place: atPartition(one),
        sentence: `${named(one)} begins with no file system that is known; in its sector ${grouped(lost.at / sectorSize)} stands a copy of ${what}.`,
        why: 'The start of the file system was lost or written over; what lies behind it may be whole.',
      },
    ];
  }),
);

const UNWRITTEN = 'What its system had not written yet is missing; it sees to that when it mounts the volume again.';

const notLetGo = surveyRule('found-place/not-let-go', 'note', ({ partitions }) =>
  partitions.flatMap((one): SurveyOccurrence[] => {
    const content = one.inside.kind === 'known' ? one.inside.content : undefined;
    if (content?.state === undefined) return [];
    const isAsleep = content.state === 'left asleep';
    return [
      {
        ...(isAsleep && { severity: 'risk' }),
        place: atPartition(one),
        sentence: `${named(one)} holds ${content.name} that was ${content.state}.`,
        why: isAsleep
          ? 'The memory of a machine lies in it, which goes on from there with what it remembers of every volume: what is written meanwhile is lost, or breaks them.'
          : content.looked?.words.join(' ') || UNWRITTEN,
      },
    ];
  }),
);

export const SURVEY_PLACE_RULES: readonly SurveyRule[] = [
  startLost,
  dataInGap,
  leftovers,
  typeDisagrees,
  espNotFat,
  largerThanPlace,
  notLetGo,
];

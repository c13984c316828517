/** Findings about a table that was found: boot record, entries, ids. */
import { counted, grouped, inBoth, sectorCount } from '../../quantity/units';
import type { Survey } from '../../survey/found';
import { named } from '../../survey/structures';
import { isStatus } from '../../tables/mbr';
import { promiseOf, typeCode, typeName } from '../../tables/types';
import { visible } from '../../bytes/record';
import { atPartition, atSector, MEDIUM, type SurveyOccurrence, type SurveyRule, surveyRule } from './finding';

const tooShort = surveyRule('found-table/shorter-than-a-sector', 'stop', ({ size, sectorSize, sectors }) => {
  if (sectors > 0) return [];
  return [
    {
      place: MEDIUM,
      sentence: `There are ${grouped(size)} bytes; a sector has ${grouped(sectorSize)}.`,
      why: 'Nothing can be in it.',
    },
  ];
});

const oddLength = surveyRule('found-table/not-whole-sectors', 'risk', ({ size, sectorSize, sectors }) => {
  const over = size % sectorSize;
  if (over === 0 || sectors === 0) return [];
  return [
    {
      place: MEDIUM,
      sentence: `The last ${grouped(over)} of ${grouped(size)} bytes fill no sector of ${grouped(sectorSize)}.`,
      why: 'The image was cut short, or is for media of another sector size.',
    },
  ];
});

/** No table, and no volume over the whole medium either. */
const isNothing = ({ table, partitions: [whole], sectors }: Survey): boolean =>
  table === 'none' && sectors > 0 && !(whole && ['fat', 'exfat', 'known'].includes(whole.inside.kind));

const nothingFound = surveyRule('found-table/no-table-and-no-volume', 'risk', (survey) => {
  const { mbr, partitions, sectors } = survey;
  if (!isNothing(survey) || mbr) return [];
  const isEmpty = partitions[0]?.inside.kind === 'zeros';
  return [
    {
      severity: isEmpty ? 'note' : 'risk',
      place: atSector(0),
      sentence: `Sector 0 of ${grouped(sectors)} is no boot record, and no file system that is known begins there${isEmpty ? ': the first bytes are zeros' : ''}.`,
      why: 'A system that finds this offers to set the medium up anew.',
    },
  ];
});

const otherSectorSize = surveyRule(
  'found-table/gpt-for-another-sector-size',
  'risk',
  ({ otherSectorSize: other, sectorSize }) => {
    if (other === undefined) return [];
    return [
      {
        place: atSector(1),
        sentence: `There is a GPT for sectors of ${grouped(other)} bytes; the survey reads sectors of ${grouped(sectorSize)}.`,
        why: 'A system that attaches the image with the wrong sector size finds no partitions.',
      },
    ];
  },
);

const NO_RECORD_WHY = 'Kernels take such a sector for boot code, and show no partitions.';

/** What stands in sector 0 where it ends like a boot record, and is none. */
function seemingRecord(survey: Survey) {
  const { mbr } = survey;
  if (!isNothing(survey) || !mbr) return undefined;
  return { records: mbr.records, odd: mbr.records.find(({ status }) => !isStatus(status)) };
}

const oddStatus = surveyRule('found-table/odd-status', 'risk', (survey) => {
  const odd = seemingRecord(survey)?.odd;
  if (!odd) return [];
  return [
    {
      place: atSector(0),
      sentence: `Sector 0 ends like a boot record; the status byte of its entry ${odd.index + 1} is ${typeCode(odd.status)}h, where 00h and 80h are valid.`,
      why: NO_RECORD_WHY,
    },
  ];
});

const noEntryInside = surveyRule('found-table/no-entry-on-the-medium', 'risk', (survey) => {
  const seeming = seemingRecord(survey);
  if (!seeming || seeming.odd) return [];
  return [
    {
      place: atSector(0),
      sentence: `Sector 0 ends like a boot record; all its ${counted(seeming.records.length, 'entry', 'entries')} begin behind the last of ${sectorCount(survey.sectors)}.`,
      why: `${NO_RECORD_WHY} Or the image was cut short, and all its partitions are gone.`,
    },
  ];
});

const unusedWithSize = surveyRule('found-table/unused-entry-with-a-size', 'risk', ({ table, mbr }) =>
  (table === 'none' ? [] : (mbr?.records ?? []))
    .filter(({ type, count }) => type === 0 && count > 0)
    .map(({ index, first, count }) => ({
      place: atSector(0),
      sentence: `Entry ${index + 1} of sector 0 has the type 00, which says that it is unused, and ${sectorCount(count)} from sector ${grouped(first)} on.`,
      why: 'Readers skip it; kernels show it as a partition, with its number.',
    })),
);

const isoMedium = surveyRule('found-table/iso-9660-medium', 'note', ({ iso, partitions, size }) => {
  if (!iso) return [];
  const called = [iso.label && `“${visible(iso.label)}”`, iso.id].filter(Boolean).join(', ');
  return [
    {
      place: MEDIUM,
      sentence: `An ISO 9660 file system${called === '' ? '' : ` (${called})`} lies over ${iso.size === undefined ? 'the whole medium' : inBoth(Math.min(iso.size, size))}, and the ${counted(partitions.length, 'partition')} of the table within it.`,
      why: 'Installer images are made so on purpose: they start from discs and from sticks. To use the medium for something else, clear the table, its copy and the file system.',
    },
  ];
});

const manyActive = surveyRule('found-table/more-than-one-active', 'risk', ({ partitions }) => {
  const active = partitions.filter((one) => one.active && one.kind !== 'logical');
  if (active.length < 2) return [];
  return [
    {
      place: atPartition(active[1]!),
      sentence: `${counted(active.length, 'partition')} are marked active: ${active.map(named).join(', ')}.`,
      why: 'A BIOS loader expects one.',
    },
  ];
});

const activeLogical = surveyRule('found-table/active-logical', 'risk', ({ partitions }) =>
  partitions
    .filter((one) => one.active && one.kind === 'logical')
    .map((one) => ({
      place: atPartition(one),
      sentence: `${named(one)} is marked active, and is a logical partition (record in sector ${grouped(one.recordAt)}).`,
      why: 'A BIOS loader starts primary partitions only.',
    })),
);

const zeroSignature = surveyRule('found-table/zero-signature', 'risk', ({ table, mbr, partitions }) => {
  if (table !== 'mbr' || !mbr || mbr.signature !== 0) return [];
  if (partitions.every((one) => promiseOf(one.type) === 'protective')) return [];
  return [
    {
      place: atSector(0),
      sentence: `The disk signature is 00000000, so ${partitions.length === 1 ? 'the partition has no stable id' : `the ${counted(partitions.length, 'partition')} have no stable ids`}.`,
      why: 'Systems that find none write one of their own.',
    },
  ];
});

const emptyEntry = surveyRule('found-table/empty-partition', 'risk', ({ partitions }) =>
  partitions
    .filter((one) => one.kind !== 'whole medium' && one.sectors === 0)
    .map((one) => ({
      place: atPartition(one),
      sentence: `${named(one)} (${typeName(one.type)}) has no sectors.`,
      why: 'Readers skip it or refuse the table.',
    })),
);

const startsAtZero = surveyRule('found-table/partition-over-the-table', 'stop', ({ partitions, table, iso }) =>
  partitions
    .filter((one) => table === 'mbr' && !iso && one.kind === 'primary' && one.start === 0 && one.sectors > 0)
    .map((one) => ({
      place: atPartition(one),
      sentence: `${named(one)} starts at sector 0 and covers the table.`,
      why: 'Writing to it destroys the table.',
    })),
);

const beyondEnd = surveyRule('found-table/partition-beyond-the-end', 'stop', ({ partitions, sectors, sectorSize }) =>
  partitions
    .filter((one) => one.start + one.sectors > sectors)
    .map((one): SurveyOccurrence => {
      const isOutside = one.start >= sectors;
      const over = Math.min(one.start + one.sectors, Number.MAX_SAFE_INTEGER) - sectors;
      const bytes = over * sectorSize;
      return {
        place: atPartition(one),
        sentence: `${named(one)} ${isOutside ? `starts at sector ${grouped(one.start)}` : `ends ${sectorCount(over)}${Number.isSafeInteger(bytes) ? ` (${inBoth(bytes)})` : ''} too far`}; the medium has ${grouped(sectors)}.`,
        why: 'The image was cut short, or the table was made for a larger medium.',
      };
    }),
);

const overlaps = surveyRule('found-table/partitions-overlap', 'stop', (survey) => {
  // Entries within an ISO 9660 lie over each other on purpose.
  if (survey.iso) return [];
  const found = survey.partitions
    .filter((one) => one.kind !== 'container' && one.sectors > 0 && !one.key.startsWith('mbr-'))
    .sort((a, b) => a.start - b.start);
  return found.slice(1).flatMap((later, i): SurveyOccurrence[] => {
    const earlier = found[i]!;
    const shared = Math.min(earlier.start + earlier.sectors, later.start + later.sectors) - later.start;
    if (shared <= 0) return [];
    return [
      {
        place: atPartition(later),
        sentence: `${named(later)} and ${named(earlier)} share ${sectorCount(shared)} from sector ${grouped(later.start)} on.`,
        why: 'Writing to one destroys the other.',
      },
    ];
  });
});

const twoContainers = surveyRule('found-table/two-containers', 'risk', ({ partitions, table }) => {
  const containers = partitions.filter((one) => one.kind === 'container');
  if (table !== 'mbr' || containers.length < 2) return [];
  return [
    {
      place: atPartition(containers[1]!),
      sentence: `${containers.map(named).join(' and ')} are both containers of logical partitions.`,
      why: 'Readers differ about which one they follow.',
    },
  ];
});

const emptyContainer = surveyRule('found-table/empty-container', 'note', ({ partitions }: Survey) =>
  partitions
    .filter(
      (one) =>
        one.kind === 'container' &&
        !partitions.some(
          (other) =>
            other.kind === 'logical' && other.recordAt >= one.start && other.recordAt < one.start + one.sectors,
        ),
    )
    .map((one) => ({
      place: atPartition(one),
      sentence: `${named(one)} of ${sectorCount(one.sectors)} holds no logical partition.`,
      why: 'Its space is of no use as it is.',
    })),
);

const unread = surveyRule('found-table/not-looked-at', 'risk', ({ unread: keys, partitions }) =>
  keys.map((key): SurveyOccurrence => {
    const one = partitions.find((partition) => partition.key === key);
    const sector = Number(key.replace('gap ', ''));
    return {
      place: one ? atPartition(one) : atSector(Number.isSafeInteger(sector) ? sector : 0),
      sentence: `${one ? named(one) : `The space from sector ${grouped(sector)} on`} was not looked at in full: that would take more reading than a survey may do.`,
      why: 'A sound file system needs a small part of it: figures that lie, chains that go round, or far too many of them are known to do that.',
    };
  }),
);

export const SURVEY_TABLE_RULES: readonly SurveyRule[] = [
  tooShort,
  oddLength,
  nothingFound,
  otherSectorSize,
  oddStatus,
  noEntryInside,
  unusedWithSize,
  isoMedium,
  manyActive,
  activeLogical,
  zeroSignature,
  emptyEntry,
  startsAtZero,
  beyondEnd,
  overlaps,
  twoContainers,
  emptyContainer,
  unread,
];

/** Findings about a table that was found: boot record, entries, ids. */
import { counted, grouped, inBoth, sectorCount } from '../quantity/units';
import type { Survey } from '../survey/found';
import { named } from '../survey/structures';
import { promiseOf, typeName } from '../tables/types';
import { atPartition, atSector, MEDIUM, type SurveyFinding, type SurveyRule } from './survey-finding';

const tooShort: SurveyRule = ({ size, sectorSize, sectors }) => {
  if (sectors > 0) return [];
  return [
    {
      rule: 'found/shorter-than-a-sector',
      severity: 'stop',
      place: MEDIUM,
      sentence: `There are ${grouped(size)} bytes; a sector has ${grouped(sectorSize)}.`,
      why: 'Nothing can be in it.',
    },
  ];
};

const oddLength: SurveyRule = ({ size, sectorSize, sectors }) => {
  const over = size % sectorSize;
  if (over === 0 || sectors === 0) return [];
  return [
    {
      rule: 'found/not-whole-sectors',
      severity: 'risk',
      place: MEDIUM,
      sentence: `The last ${grouped(over)} of ${grouped(size)} bytes fill no sector of ${grouped(sectorSize)}.`,
      why: 'The image was cut short, or is for media of another sector size.',
    },
  ];
};

const nothingFound: SurveyRule = ({ table, mbr, partitions, sectors }) => {
  const [whole] = partitions;
  if (table !== 'none' || sectors === 0 || mbr || (whole && ['fat', 'exfat', 'known'].includes(whole.inside.kind)))
    return [];
  const isEmpty = whole?.inside.kind === 'zeros';
  return [
    {
      rule: 'found/no-table-and-no-volume',
      severity: isEmpty ? 'note' : 'risk',
      place: atSector(0),
      sentence: `Sector 0 of ${grouped(sectors)} is no boot record, and no file system that is known begins there${isEmpty ? ': the first bytes are zeros' : ''}.`,
      why: 'A system that finds this offers to set the medium up anew.',
    },
  ];
};

const otherSectorSize: SurveyRule = ({ otherSectorSize: other, sectorSize }) => {
  if (other === undefined) return [];
  return [
    {
      rule: 'found/gpt-for-another-sector-size',
      severity: 'risk',
      place: atSector(1),
      sentence: `There is a GPT for sectors of ${grouped(other)} bytes; the survey reads sectors of ${grouped(sectorSize)}.`,
      why: 'A system that attaches the image with the wrong sector size finds no partitions.',
    },
  ];
};

const oddStatus: SurveyRule = ({ partitions }) =>
  partitions
    .filter(({ status }) => status !== 0 && status !== 0x80)
    .map((one) => ({
      rule: 'found/odd-status',
      severity: 'risk',
      place: atPartition(one),
      sentence: `The status byte of ${named(one)} is ${one.status.toString(16).toUpperCase().padStart(2, '0')}h; 00h and 80h are valid.`,
      why: 'Some readers take the whole table for invalid.',
    }));

const manyActive: SurveyRule = ({ partitions }) => {
  const active = partitions.filter((one) => one.active && one.kind !== 'logical');
  if (active.length < 2) return [];
  return [
    {
      rule: 'found/more-than-one-active',
      severity: 'risk',
      place: atPartition(active[1]!),
      sentence: `${counted(active.length, 'partition')} are marked active: ${active.map(named).join(', ')}.`,
      why: 'A BIOS loader expects one.',
    },
  ];
};

const activeLogical: SurveyRule = ({ partitions }) =>
  partitions
    .filter((one) => one.active && one.kind === 'logical')
    .map((one) => ({
      rule: 'found/active-logical',
      severity: 'risk',
      place: atPartition(one),
      sentence: `${named(one)} is marked active, and is a logical partition (record in sector ${grouped(one.recordAt)}).`,
      why: 'A BIOS loader starts primary partitions only.',
    }));

const zeroSignature: SurveyRule = ({ table, mbr, partitions }) => {
  if (table !== 'mbr' || !mbr || mbr.signature !== 0) return [];
  if (partitions.every((one) => promiseOf(one.type) === 'protective')) return [];
  return [
    {
      rule: 'found/zero-signature',
      severity: 'risk',
      place: atSector(0),
      sentence: `The disk signature is 00000000, so the ${counted(partitions.length, 'partition')} have no stable ids.`,
      why: 'Systems that find none write one of their own.',
    },
  ];
};

const emptyEntry: SurveyRule = ({ partitions }) =>
  partitions
    .filter((one) => one.kind !== 'whole medium' && one.sectors === 0)
    .map((one) => ({
      rule: 'found/empty-partition',
      severity: 'risk',
      place: atPartition(one),
      sentence: `${named(one)} (${typeName(one.type)}) has no sectors.`,
      why: 'Readers skip it or refuse the table.',
    }));

const startsAtZero: SurveyRule = ({ partitions, table }) =>
  partitions
    .filter((one) => table === 'mbr' && one.kind === 'primary' && one.start === 0 && one.sectors > 0)
    .map((one) => ({
      rule: 'found/partition-over-the-table',
      severity: 'stop',
      place: atPartition(one),
      sentence: `${named(one)} starts at sector 0 and covers the table.`,
      why: 'Writing to it destroys the table.',
    }));

const beyondEnd: SurveyRule = ({ partitions, sectors, sectorSize }) =>
  partitions
    .filter((one) => one.start + one.sectors > sectors)
    .map((one): SurveyFinding => {
      const isOutside = one.start >= sectors;
      const over = Math.min(one.start + one.sectors, Number.MAX_SAFE_INTEGER) - sectors;
      const bytes = over * sectorSize;
      return {
        rule: 'found/partition-beyond-the-end',
        severity: 'stop',
        place: atPartition(one),
        sentence: `${named(one)} ${isOutside ? `starts at sector ${grouped(one.start)}` : `ends ${sectorCount(over)}${Number.isSafeInteger(bytes) ? ` (${inBoth(bytes)})` : ''} too far`}; the medium has ${grouped(sectors)}.`,
        why: 'The image was cut short, or the table was made for a larger medium.',
      };
    });

const overlaps: SurveyRule = (survey) => {
  const found = survey.partitions
    .filter((one) => one.kind !== 'container' && one.sectors > 0 && !one.key.startsWith('mbr-'))
    .sort((a, b) => a.start - b.start);
  return found.slice(1).flatMap((later, i): SurveyFinding[] => {
    const earlier = found[i]!;
    const shared = Math.min(earlier.start + earlier.sectors, later.start + later.sectors) - later.start;
    if (shared <= 0) return [];
    return [
      {
        rule: 'found/partitions-overlap',
        severity: 'stop',
        place: atPartition(later),
        sentence: `${named(later)} and ${named(earlier)} share ${sectorCount(shared)} from sector ${grouped(later.start)} on.`,
        why: 'Writing to one destroys the other.',
      },
    ];
  });
};

const twoContainers: SurveyRule = ({ partitions, table }) => {
  const containers = partitions.filter((one) => one.kind === 'container');
  if (table !== 'mbr' || containers.length < 2) return [];
  return [
    {
      rule: 'found/two-containers',
      severity: 'risk',
      place: atPartition(containers[1]!),
      sentence: `${containers.map(named).join(' and ')} are both containers of logical partitions.`,
      why: 'Readers differ about which one they follow.',
    },
  ];
};

const emptyContainer: SurveyRule = ({ partitions }: Survey) =>
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
      rule: 'found/empty-container',
      severity: 'note',
      place: atPartition(one),
      sentence: `${named(one)} of ${sectorCount(one.sectors)} holds no logical partition.`,
      why: 'Its space is of no use as it is.',
    }));

export const SURVEY_TABLE_RULES: readonly SurveyRule[] = [
  tooShort,
  oddLength,
  nothingFound,
  otherSectorSize,
  oddStatus,
  manyActive,
  activeLogical,
  zeroSignature,
  emptyEntry,
  startsAtZero,
  beyondEnd,
  overlaps,
  twoContainers,
  emptyContainer,
];

/** Findings about a GPT that was found. */
import { NO_GUID } from '../../bytes/guid';
import { counted, grouped, inBoth, sectorCount } from '../../quantity/units';
import { authority, type FoundGpt, lastOf, type Survey } from '../../survey/found';
import { named } from '../../survey/structures';
import { GPT_ENTRY_LENGTH } from '../../tables/gpt';
import { SECTOR_LIMIT } from '../../tables/mbr';
import { atPartition, atSector, type SurveyOccurrence, type SurveyRule, surveyRule } from './finding';

/** Bytes that the UEFI specification asks to be kept for the array. */
const LEAST_ARRAY = 16 * 1024;

const isGpt = (survey: Survey): boolean => survey.table === 'gpt';

function faultOf(copy: FoundGpt): string | undefined {
  if (!copy.headerSound) return 'the checksum of the header is wrong';
  if (copy.arraySound === undefined)
    return `its array of ${grouped(copy.entries)} entries of ${grouped(copy.entrySize)} bytes at sector ${grouped(copy.array)} cannot be read`;
  return copy.arraySound ? undefined : 'the checksum of the entries is wrong';
}

function copyRule(id: string, what: string, found: (survey: Survey) => { copy: FoundGpt | undefined; sector: number }) {
  return surveyRule(id, 'stop', (survey) => {
    if (!isGpt(survey)) return [];
    const { copy, sector } = found(survey);
    const fault = copy ? faultOf(copy) : 'there is none';
    if (fault === undefined) return [];
    const isLost = authority(survey) === undefined;
    return [
      {
        severity: isLost ? 'stop' : 'risk',
        place: atSector(sector),
        sentence: `${what} in sector ${grouped(sector)}: ${fault}.`,
        why: isLost
          ? 'Neither copy can be believed: the partitions are not known.'
          : 'The other copy is good, and can stand in for it; systems and firmware write over one of them when they notice.',
      },
    ];
  });
}

const firstCopy = copyRule('found-gpt/first-copy-bad', 'First GPT header', ({ gpt }) => ({
  copy: gpt.first,
  sector: 1,
}));
const lastCopy = copyRule('found-gpt/last-copy-bad', 'GPT header copy', ({ gpt: { copy }, sectors }) => ({
  copy,
  sector: copy?.sector ?? sectors - 1,
}));

const copiesDiffer = surveyRule('found-gpt/copies-differ', 'risk', (survey) => {
  const { first, copy } = survey.gpt;
  const bothSound = first?.headerSound && copy?.headerSound && first.arraySound && copy.arraySound;
  if (!isGpt(survey) || !bothSound || survey.gptCopiesAgree) return [];
  return [
    {
      place: atSector(copy.sector),
      sentence: `Both copies of the GPT are sound and say different things (checksums of the entries ${first.arrayCrc.toString(16)} and ${copy.arrayCrc.toString(16)}).`,
      why: 'One is stale; readers that use the other one see other partitions.',
    },
  ];
});

const notAtEnd = surveyRule('found-gpt/copy-not-at-the-end', 'risk', (survey) => {
  const { gpt, sectors, sectorSize } = survey;
  const declared = gpt.first?.headerSound ? gpt.first.other : gpt.copy?.sector;
  if (!isGpt(survey) || declared === undefined || declared === sectors - 1) return [];
  const isShort = declared >= sectors;
  return [
    {
      place: atSector(isShort ? 1 : declared),
      sentence: isShort
        ? `The GPT says that its copy is in sector ${grouped(declared)}; the medium ends at ${grouped(sectors - 1)}.`
        : `The copy of the GPT is in sector ${grouped(declared)}, ${sectorCount(sectors - 1 - declared)} (${inBoth((sectors - 1 - declared) * sectorSize)}) before the end.`,
      why: isShort
        ? 'The image was cut, or written to a smaller medium.'
        : 'The medium grew, or the image came from a smaller one: the space behind it cannot be used.',
    },
  ];
});

const misplaced = surveyRule('found-gpt/header-elsewhere', 'risk', (survey) =>
  [survey.gpt.first, survey.gpt.copy].flatMap((copy): SurveyOccurrence[] => {
    if (!isGpt(survey) || !copy?.headerSound || copy.here === copy.sector) return [];
    return [
      {
        place: atSector(copy.sector),
        sentence: `The GPT header in sector ${grouped(copy.sector)} says that it is in sector ${grouped(copy.here)}.`,
        why: 'Readers take a header that is not where it says for none.',
      },
    ];
  }),
);

const entrySize = surveyRule('found-gpt/entry-size', 'risk', (survey) => {
  const copy = authority(survey) ?? survey.gpt.first;
  if (!isGpt(survey) || !copy || copy.entrySize === GPT_ENTRY_LENGTH) return [];
  return [
    {
      place: atSector(copy.sector),
      sentence: `Entries of the GPT have ${grouped(copy.entrySize)} bytes, not ${GPT_ENTRY_LENGTH}.`,
      why: 'The specification allows larger ones; Linux ignores such a table.',
    },
  ];
});

const smallArray = surveyRule('found-gpt/array-under-16-kib', 'risk', (survey) => {
  const copy = authority(survey);
  if (!isGpt(survey) || !copy || copy.entries * copy.entrySize >= LEAST_ARRAY) return [];
  return [
    {
      place: atSector(copy.array),
      sentence: `The array has ${grouped(copy.entries)} entries, ${grouped(copy.entries * copy.entrySize)} bytes; the specification asks for ${grouped(LEAST_ARRAY)}.`,
      why: 'Boards live with less, so that a loader has room; some firmware does not.',
    },
  ];
});

const outsideUsable = surveyRule('found-gpt/partition-outside-usable', 'stop', (survey) => {
  const copy = authority(survey);
  if (!isGpt(survey) || !copy) return [];
  return survey.partitions
    .filter((one) => one.kind === 'gpt' && one.sectors > 0)
    .filter((one) => one.start < copy.firstUsable || lastOf(one) > copy.lastUsable)
    .map((one) => ({
      place: atPartition(one),
      sentence: `${named(one)} takes sectors ${grouped(one.start)} to ${grouped(lastOf(one))}; the table says that ${grouped(copy.firstUsable)} to ${grouped(copy.lastUsable)} may be used.`,
      why: 'Readers refuse the partition or the whole table.',
    }));
});

const duplicateIds = surveyRule('found-gpt/duplicate-partition-id', 'risk', (survey) => {
  const { partitions } = survey;
  const diskId = authority(survey)?.diskId;
  const seen = new Map(diskId === undefined || diskId === NO_GUID ? [] : [[diskId, 'the disk']]);
  return partitions
    .filter((one) => one.kind === 'gpt')
    .flatMap((one): SurveyOccurrence[] => {
      const first = seen.get(one.id);
      if (first === undefined) {
        seen.set(one.id, named(one));
        return [];
      }
      return [
        {
          place: atPartition(one),
          sentence: `${named(one)} and ${first} both have the id ${one.id}.`,
          why: 'Whoever looks for the id finds either of them.',
        },
      ];
    });
});

const zeroDiskId = surveyRule('found-gpt/zero-disk-id', 'risk', (survey) => {
  const copy = authority(survey);
  if (!isGpt(survey) || copy?.diskId !== NO_GUID) return [];
  return [
    {
      place: atSector(copy.sector),
      sentence: `The disk id is ${NO_GUID}.`,
      why: 'Firmware and systems tell disks apart by it.',
    },
  ];
});

/** Partitions that stand in sector 0 beside a GPT. */
const besideGpt = ({ partitions }: Survey) => partitions.filter((one) => one.key.startsWith('mbr-'));

const protectiveWrong = surveyRule('found-gpt/protective-entry-wrong', 'risk', (survey) => {
  const { table, mbr, sectors } = survey;
  // Beside other entries the protective one reaches up to the first of them.
  const until = Math.min(sectors, ...besideGpt(survey).map((one) => one.start));
  const meant = Math.min(until - 1, SECTOR_LIMIT - 1);
  if (table !== 'gpt') return [];
  const count = mbr?.protectiveCount;
  // Tools write either the true count or the largest one; beside other entries some protect everything all the same.
  if (count === meant || count === SECTOR_LIMIT - 1 || count === sectors - 1) return [];
  return [
    {
      severity: count === undefined ? 'risk' : 'note',
      place: atSector(0),
      sentence:
        count === undefined
          ? 'There is a GPT, and no protective entry in sector 0.'
          : `The protective entry counts ${sectorCount(count)}; ${until < sectors ? `up to the first entry beside it there are ${grouped(meant)}` : `the medium has ${grouped(meant)} behind sector 0`}.`,
      why: 'Tools that know MBR only see free space, and some readers do not look for a GPT.',
    },
  ];
});

const protectiveActive = surveyRule('found-gpt/protective-entry-active', 'risk', ({ table, mbr }) => {
  if (table !== 'gpt' || !mbr?.protectiveActive) return [];
  return [
    {
      place: atSector(0),
      sentence: `The protective entry over ${sectorCount(mbr.protectiveCount ?? 0)} is marked active.`,
      why: 'Some BIOSes start a GPT medium only so; the UEFI specification forbids it, and some firmware then takes the table for an MBR.',
    },
  ];
});

const hybrid = surveyRule('found-gpt/hybrid', 'risk', (survey) => {
  const { table } = survey;
  const beside = besideGpt(survey);
  if (table !== 'gpt' || beside.length === 0) return [];
  return [
    {
      place: atSector(0),
      sentence: `${beside.length} real ${beside.length === 1 ? 'entry stands' : 'entries stand'} beside the protective one in sector 0.`,
      why: 'Readers of the two tables see different partitions, and each writes its own.',
    },
  ];
});

const stale = surveyRule('found-gpt/stale-gpt', 'risk', ({ table, gpt, partitions }) => {
  const found = gpt.first ?? gpt.copy;
  if (table === 'gpt' || !found) return [];
  return [
    {
      place: atSector(found.sector),
      sentence: `Sector ${grouped(found.sector)} holds a GPT header, and sector 0 ${table === 'mbr' ? `an MBR with ${counted(partitions.length, 'partition')}` : 'no protective entry'}.`,
      why: 'It is left from an earlier use; it confuses installers and firmware.',
    },
  ];
});

const protectiveAlone = surveyRule('found-gpt/protective-entry-alone', 'stop', ({ table, mbr, gpt }) => {
  if (table === 'gpt' || mbr?.protectiveCount === undefined || gpt.first || gpt.copy) return [];
  return [
    {
      place: atSector(0),
      sentence: `Sector 0 protects a GPT over ${sectorCount(mbr.protectiveCount)}, and neither copy of it is there.`,
      why: 'The partitions are not known.',
    },
  ];
});

export const SURVEY_GPT_RULES: readonly SurveyRule[] = [
  firstCopy,
  lastCopy,
  copiesDiffer,
  notAtEnd,
  misplaced,
  entrySize,
  smallArray,
  outsideUsable,
  duplicateIds,
  zeroDiskId,
  protectiveWrong,
  protectiveActive,
  hybrid,
  stale,
  protectiveAlone,
];

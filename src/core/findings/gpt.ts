/** Findings about what a GPT holds, and about what only a GPT can hold. */
import { NO_GUID } from '../bytes/guid';
import { partitionGuid, seedOf } from '../layout/edits';
import { guidFrom } from '../bytes/guid';
import type { Span } from '../bytes/extents';
import type { PartitionSlot, Table } from '../layout/document';
import { isRaw, type Placement } from '../placement/placement';
import { alignUp } from '../quantity/integers';
import { counted, exactText, grouped, inBoth } from '../quantity/units';
import { ENTRY_LENGTH, GPT_ENTRIES, NAME_UNITS, storedName } from '../tables/gpt';
import { atSlot, changing, entriesOf, type Finding, type Remedy, type Rule } from './finding';

/** The disk id where the layout has a GPT. */
function diskIdOf({ layout: { table } }: Placement): string | undefined {
  return table.kind === 'gpt' ? table.diskId : undefined;
}

const entriesExceeded: Rule = (placement) => {
  if (diskIdOf(placement) === undefined) return [];
  const entries = entriesOf(placement);
  const most = placement.gpt?.entries ?? GPT_ENTRIES;
  return entries.slice(most).map(({ slot, entry }) => ({
    rule: 'table/gpt-entries-exceeded',
    severity: 'stop',
    place: atSlot(slot.id),
    sentence: `${slot.name} would be partition ${entry.number}; the array has ${most} entries and the layout ${counted(entries.length, 'partition')}.`,
    why: 'A partition without an entry does not exist for any reader.',
    remedies: [
      ...enoughEntries(placement, entries.length),
      { label: `Delete ${slot.name}`, edit: { do: 'remove slot', id: slot.id } },
    ],
  }));
};

/** More entries, in whole kibibytes of them, where the array can have so many. */
function enoughEntries({ layout: { table } }: Placement, wanted: number): Remedy[] {
  const entries = Math.max(GPT_ENTRIES, alignUp(wanted, 8));
  if (table.kind !== 'gpt' || entries > 1024) return [];
  return [
    { label: `Write ${entries} entries`, edit: { do: 'change layout', patch: { table: { ...table, entries } } } },
  ];
}

const zeroDiskId: Rule = (placement) => {
  if (diskIdOf(placement) !== NO_GUID) return [];
  const diskId = guidFrom(placement.layout.name);
  return [
    {
      rule: 'table/zero-disk-id',
      severity: 'risk',
      place: { kind: 'table' },
      sentence: `The disk id is ${NO_GUID}.`,
      why: 'Firmware and systems tell disks apart by it; two disks with none are one to them.',
      remedies: [
        {
          label: `Set disk id ${diskId}`,
          edit: { do: 'change layout', patch: { table: { ...placement.layout.table, kind: 'gpt', diskId } as Table } },
        },
      ],
    },
  ];
};

/** An id for a partition that no other thing of the table has. */
function freshId(placement: Placement, slot: PartitionSlot, diskId: string): string | undefined {
  const taken = new Set([
    diskId,
    NO_GUID,
    ...entriesOf(placement).flatMap((one) => (one.slot === slot ? [] : [one.entry.id])),
  ]);
  const own = partitionGuid(diskId, { ...slot, partitionId: undefined });
  return taken.has(own) ? guidFrom(`${seedOf(placement.layout)}/${slot.id}/again`) : undefined;
}

const ownId = (placement: Placement, slot: PartitionSlot, diskId: string): Remedy =>
  changing(`Give ${slot.name} an id of its own`, slot.id, { partitionId: freshId(placement, slot, diskId) });

const duplicateIds: Rule = (placement) => {
  const diskId = diskIdOf(placement);
  if (diskId === undefined) return [];
  const seen = new Map([[diskId, 'the disk']]);
  return entriesOf(placement).flatMap(({ slot, entry }): Finding[] => {
    const first = seen.get(entry.id);
    if (first === undefined) seen.set(entry.id, slot.name);
    if (first === undefined || entry.id === NO_GUID) return [];
    return [
      {
        rule: 'table/duplicate-partition-id',
        severity: 'stop',
        place: atSlot(slot.id),
        sentence: `${slot.name} and ${first} both have the id ${entry.id}.`,
        why: 'A command line or mount table that names the id finds either of them, and firmware may refuse the table.',
        remedies: [ownId(placement, slot, diskId)],
      },
    ];
  });
};

const nilId: Rule = (placement) => {
  const diskId = diskIdOf(placement);
  if (diskId === undefined) return [];
  return entriesOf(placement)
    .filter(({ entry }) => entry.id === NO_GUID)
    .map(({ slot, entry }) => ({
      rule: 'table/nil-partition-id',
      severity: 'stop',
      place: atSlot(slot.id),
      sentence: `The id of ${slot.name} (partition ${entry.number}) is ${NO_GUID}, which stands for none.`,
      why: 'The specification asks for an id of its own for every partition; nobody finds one without.',
      remedies: [ownId(placement, slot, diskId)],
    }));
};

const nilType: Rule = (placement) => {
  if (diskIdOf(placement) === undefined) return [];
  return entriesOf(placement)
    .filter(({ entry }) => entry.type === NO_GUID)
    .map(({ slot, entry }) => ({
      rule: 'table/nil-type',
      severity: 'stop',
      place: atSlot(slot.id),
      sentence: `The type of ${slot.name} (partition ${entry.number}) is ${NO_GUID}, which says that the entry is unused.`,
      why: 'For every reader the partition would not exist.',
      remedies: [changing('Let role and content decide the type', slot.id, { type: undefined })],
    }));
};

const HALF = /\p{Cs}/gu;

const halfName: Rule = (placement) => {
  if (diskIdOf(placement) === undefined) return [];
  return entriesOf(placement)
    .filter(({ slot }) => slot.name.search(HALF) >= 0)
    .map(({ slot, entry }) => ({
      rule: 'table/name-with-half-a-character',
      severity: 'stop',
      place: atSlot(slot.id),
      sentence: `The name of partition ${entry.number} has half a character at place ${slot.name.search(HALF) + 1}.`,
      why: 'Names in a GPT are UTF-16; where the other half is missing, systems refuse the name or show another.',
      remedies: [changing('Write an underscore there', slot.id, { name: slot.name.replace(HALF, '_') })],
    }));
};

const nameCut: Rule = (placement) => {
  if (diskIdOf(placement) === undefined) return [];
  return entriesOf(placement)
    .filter(({ slot }) => storedName(slot.name) !== slot.name)
    .map(({ slot }) => ({
      rule: 'table/name-cut',
      severity: 'note',
      place: atSlot(slot.id),
      sentence: `The name “${slot.name}” has ${slot.name.length} UTF-16 units; the table keeps ${NAME_UNITS}: “${storedName(slot.name)}”.`,
      why: 'Systems that look for the whole name do not find it.',
      remedies: [changing('Shorten the name', slot.id, { name: storedName(slot.name).trimEnd() || '_' })],
    }));
};

const attributesWithoutGpt: Rule = (placement) => {
  if (diskIdOf(placement) !== undefined) return [];
  return placement.layout.slots.flatMap((slot): Finding[] => {
    if (slot.kind !== 'partition' || !slot.attributes?.length) return [];
    return [
      {
        rule: 'table/attributes-without-gpt',
        severity: 'note',
        place: atSlot(slot.id),
        sentence: `${slot.name} has ${slot.attributes.length} attributes (${slot.attributes.join(', ')}), which only a GPT can hold: they are not written.`,
        why: 'Nobody will find them there.',
        remedies: [changing(`Take the attributes from ${slot.name}`, slot.id, { attributes: undefined })],
      },
    ];
  });
};

const rawOverGpt: Rule = (placement) => {
  if (diskIdOf(placement) === undefined) return [];
  const { sectorSize, sectors, usable, gpt: places } = placement;
  if (!places) return [];
  const parts = [
    { what: 'the header', start: 1, end: 2 },
    { what: 'the array of entries', start: places.array, end: usable.first },
    { what: 'the copy of the array', start: places.backupArray, end: places.backupHeader },
    { what: 'the copy of the header', start: places.backupHeader, end: sectors },
  ];
  return placement.placed.filter(isRaw).flatMap(({ slot, start, sectors: length, span }): Finding[] => {
    const hit = parts.filter((part) => start < part.end && start + length > part.start);
    if (hit.length === 0) return [];
    const behind = usable.first * sectorSize;
    const atFront = span.start < behind;
    return [
      {
        rule: 'table/raw-range-over-gpt',
        severity: 'stop',
        place: atSlot(slot.id),
        sentence: `${slot.name} covers sectors ${grouped(start)} to ${grouped(start + length - 1)} and with them ${hit.map((part) => part.what).join(' and ')}.`,
        why: 'Whichever is written last destroys the other; a ROM that loads from there needs an MBR, or a loader elsewhere.',
        remedies: atFront
          ? [
              ...aroundLoader(placement, span),
              changing(`Start ${slot.name} at sector ${usable.first}`, slot.id, { at: `${usable.first} sectors` }),
            ]
          : usable.end * sectorSize > span.start
            ? [
                changing(`End ${slot.name} before the copy`, slot.id, {
                  length: `${usable.end * sectorSize - span.start} B`,
                }),
              ]
            : [],
      },
    ];
  });
};

/** Ways to let a loader keep its place: fewer entries ahead of it, or the entries behind it. */
function aroundLoader({ layout: { table }, sectorSize }: Placement, span: Span): Remedy[] {
  if (table.kind !== 'gpt' || span.start < 2 * sectorSize) return [];
  const room = Math.floor((span.start - 2 * sectorSize) / ENTRY_LENGTH / 4) * 4;
  const array = exactText(alignUp(span.end, sectorSize), sectorSize);
  const change = (label: string, patch: object): Remedy => ({
    label,
    edit: { do: 'change layout', patch: { table: { ...table, ...patch } as Table } },
  });
  return [
    change(`Put the entries behind it, at ${array}`, { array }),
    ...(room >= 4 && table.array === undefined ? [change(`Keep ${room} entries ahead of it`, { entries: room })] : []),
  ];
}

const noRoom: Rule = (placement) => {
  const { sectorSize, sectors, usable } = placement;
  if (diskIdOf(placement) === undefined || usable.end > usable.first) return [];
  return [
    {
      rule: 'table/no-room-for-gpt',
      severity: 'stop',
      place: { kind: 'table' },
      sentence: `The medium has ${grouped(sectors)} sectors (${inBoth(sectors * sectorSize)}); both copies of a GPT take ${grouped(2 * usable.first - 1)}.`,
      why: 'Nothing is left for a partition.',
      remedies: [],
    },
  ];
};

export const GPT_RULES: readonly Rule[] = [
  entriesExceeded,
  zeroDiskId,
  duplicateIds,
  nilId,
  nilType,
  halfName,
  nameCut,
  attributesWithoutGpt,
  rawOverGpt,
  noRoom,
];

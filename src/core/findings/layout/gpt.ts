/** Findings about what a GPT holds, and about what only a GPT can hold. */
import { guidFrom, NO_GUID } from '../../bytes/guid';
import { partitionGuid, seedOf } from '../../layout/edits';
import type { Span } from '../../bytes/extents';
import type { PartitionSlot, Table } from '../../layout/document';
import { isRaw, type Placement } from '../../placement/placement';
import { alignUp } from '../../quantity/integers';
import { counted, exactText, grouped, inBoth } from '../../quantity/units';
import { GPT_ENTRY_LENGTH, GPT_ENTRIES, LEAST_ARRAY, NAME_UNITS, storedName } from '../../tables/gpt';
import { atSlot, changing, entriesOf, type Occurrence, type Remedy, type Rule, rule } from './finding';
import { SECTOR_LIMIT } from '../../tables/mbr';

/** The disk id where the layout has a GPT. */
function diskIdOf({ layout: { table } }: Placement): string | undefined {
  return table.kind === 'gpt' ? table.diskId : undefined;
}

const entriesExceeded = rule('gpt/entries-exceeded', 'stop', (placement) => {
  if (diskIdOf(placement) === undefined) return [];
  const entries = entriesOf(placement);
  const most = placement.gpt?.entries ?? GPT_ENTRIES;
  return entries.slice(most).map(({ slot, entry }) => ({
    place: atSlot(slot.id),
    sentence: `${slot.name} would be partition ${entry.number}; the array has ${most} entries and the layout ${counted(entries.length, 'partition')}.`,
    why: 'A partition without an entry does not exist for any reader.',
    remedies: [
      ...enoughEntries(placement, entries.length),
      { label: `Delete ${slot.name}`, edit: { do: 'remove slot', id: slot.id } },
    ],
  }));
});

/** More entries, in whole kibibytes of them, where the array can have so many. */
function enoughEntries({ layout: { table } }: Placement, wanted: number): Remedy[] {
  const entries = Math.max(GPT_ENTRIES, alignUp(wanted, 8));
  if (table.kind !== 'gpt' || entries > 1024) return [];
  return [
    { label: `Write ${entries} entries`, edit: { do: 'change layout', patch: { table: { ...table, entries } } } },
  ];
}

const zeroDiskId = rule('gpt/zero-disk-id', 'risk', (placement) => {
  if (diskIdOf(placement) !== NO_GUID) return [];
  const diskId = guidFrom(placement.layout.name);
  return [
    {
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
});

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

const duplicateIds = rule('gpt/duplicate-partition-id', 'stop', (placement) => {
  const diskId = diskIdOf(placement);
  if (diskId === undefined) return [];
  const seen = new Map([[diskId, 'the disk']]);
  return entriesOf(placement).flatMap(({ slot, entry }): Occurrence[] => {
    const first = seen.get(entry.id);
    if (first === undefined) seen.set(entry.id, slot.name);
    if (first === undefined || entry.id === NO_GUID) return [];
    return [
      {
        place: atSlot(slot.id),
        sentence: `${slot.name} and ${first} both have the id ${entry.id}.`,
        why: 'A command line or mount table that names the id finds either of them, and firmware may refuse the table.',
        remedies: [ownId(placement, slot, diskId)],
      },
    ];
  });
});

const nilId = rule('gpt/nil-partition-id', 'stop', (placement) => {
  const diskId = diskIdOf(placement);
  if (diskId === undefined) return [];
  return entriesOf(placement)
    .filter(({ entry }) => entry.id === NO_GUID)
    .map(({ slot, entry }) => ({
      place: atSlot(slot.id),
      sentence: `The id of ${slot.name} (partition ${entry.number}) is ${NO_GUID}, which stands for none.`,
      why: 'The specification asks for an id of its own for every partition; nobody finds one without.',
      remedies: [ownId(placement, slot, diskId)],
    }));
});

const nilType = rule('gpt/nil-type', 'stop', (placement) => {
  if (diskIdOf(placement) === undefined) return [];
  return entriesOf(placement)
    .filter(({ entry }) => entry.type === NO_GUID)
    .map(({ slot, entry }) => ({
      place: atSlot(slot.id),
      sentence: `The type of ${slot.name} (partition ${entry.number}) is ${NO_GUID}, which says that the entry is unused.`,
      why: 'For every reader the partition would not exist.',
      remedies: [changing('Let role and content decide the type', slot.id, { type: undefined })],
    }));
});

const HALF = /\p{Cs}/gu;

const halfName = rule('gpt/name-with-half-a-character', 'stop', (placement) => {
  if (diskIdOf(placement) === undefined) return [];
  return entriesOf(placement)
    .filter(({ slot }) => slot.name.search(HALF) >= 0)
    .map(({ slot, entry }) => ({
      place: atSlot(slot.id),
      sentence: `The name of partition ${entry.number} has half a character at place ${slot.name.search(HALF) + 1}.`,
      why: 'Names in a GPT are UTF-16; where the other half is missing, systems refuse the name or show another.',
      remedies: [changing('Write an underscore there', slot.id, { name: slot.name.replace(HALF, '_') })],
    }));
});

const nameCut = rule('gpt/name-cut', 'note', (placement) => {
  if (diskIdOf(placement) === undefined) return [];
  return entriesOf(placement)
    .filter(({ slot }) => storedName(slot.name) !== slot.name)
    .map(({ slot }) => ({
      place: atSlot(slot.id),
      sentence: `The name “${slot.name}” has ${slot.name.length} UTF-16 units; the table keeps ${NAME_UNITS}: “${storedName(slot.name)}”.`,
      why: 'Systems that look for the whole name do not find it.',
      remedies: [changing('Shorten the name', slot.id, { name: storedName(slot.name).trimEnd() || '_' })],
    }));
});

const attributesWithoutGpt = rule('gpt/attributes-without-one', 'note', (placement) => {
  if (diskIdOf(placement) !== undefined) return [];
  return placement.layout.slots.flatMap((slot): Occurrence[] => {
    if (slot.kind !== 'partition' || !slot.attributes?.length) return [];
    return [
      {
        place: atSlot(slot.id),
        sentence: `${slot.name} has ${slot.attributes.length} attributes (${slot.attributes.join(', ')}), which only a GPT can hold: they are not written.`,
        why: 'Nobody will find them there.',
        remedies: [changing(`Take the attributes from ${slot.name}`, slot.id, { attributes: undefined })],
      },
    ];
  });
});

const rawOverGpt = rule('gpt/raw-range-over-a-copy', 'stop', (placement) => {
  if (diskIdOf(placement) === undefined) return [];
  const { sectorSize, sectors, usable, gpt: places } = placement;
  if (!places) return [];
  const parts = [
    { what: 'the header', start: 1, end: 2 },
    { what: 'the array of entries', start: places.array, end: usable.first },
    { what: 'the copy of the array', start: places.backupArray, end: places.backupHeader },
    { what: 'the copy of the header', start: places.backupHeader, end: sectors },
  ];
  return placement.placed.filter(isRaw).flatMap(({ slot, start, sectors: length, span }): Occurrence[] => {
    const hit = parts.filter((part) => start < part.end && start + length > part.start);
    if (hit.length === 0) return [];
    const behind = usable.first * sectorSize;
    const atFront = span.start < behind;
    return [
      {
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
});

/** Ways to let a loader keep its place: fewer entries ahead of it, or the entries behind it. */
function aroundLoader({ layout: { table }, sectorSize }: Placement, span: Span): Remedy[] {
  if (table.kind !== 'gpt' || span.start < 2 * sectorSize) return [];
  const room = Math.floor((span.start - 2 * sectorSize) / GPT_ENTRY_LENGTH / 4) * 4;
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

const noRoom = rule('gpt/no-room', 'stop', (placement) => {
  const { sectorSize, sectors, usable } = placement;
  if (diskIdOf(placement) === undefined || usable.end > usable.first) return [];
  return [
    {
      place: { kind: 'table' },
      sentence: `The medium has ${grouped(sectors)} sectors (${inBoth(sectors * sectorSize)}); both copies of a GPT take ${grouped(2 * usable.first - 1)}.`,
      why: 'Nothing is left for a partition.',
      remedies: [],
    },
  ];
});

type GptTable = Extract<Table, { kind: 'gpt' }>;

function gptTable({ layout: { table } }: Placement): GptTable | undefined {
  return table.kind === 'gpt' ? table : undefined;
}

/** A remedy that takes something back that is said about the table. */
function without(table: GptTable, key: 'entries' | 'array' | 'hybrid' | 'markProtective', label: string): Remedy {
  return { label, edit: { do: 'change layout', patch: { table: { ...table, [key]: undefined } } } };
}

const smallArray = rule('gpt/array-under-16-kib', 'risk', (placement) => {
  const table = gptTable(placement);
  if (!table?.entries || table.entries * GPT_ENTRY_LENGTH >= LEAST_ARRAY) return [];
  const bytes = table.entries * GPT_ENTRY_LENGTH;
  return [
    {
      place: { kind: 'table' },
      sentence: `The array of ${table.entries} entries takes ${inBoth(bytes)}; UEFI asks that ${inBoth(LEAST_ARRAY)} be reserved for it.`,
      why: 'Kernels and many boot ROMs live with less; firmware and other systems may repair, refuse or not see such a table.',
      remedies: [without(table, 'entries', `Write ${GPT_ENTRIES} entries`)],
    },
  ];
});

const movedArray = rule('gpt/array-moved', 'note', (placement) => {
  const table = gptTable(placement);
  const { gpt, sectorSize } = placement;
  if (!table || !gpt || gpt.array === 2) return [];
  return [
    {
      place: { kind: 'table' },
      sentence: `The entries stand at sector ${grouped(gpt.array)} (${inBoth(gpt.array * sectorSize)}) and not in sector 2; partitions may begin at ${grouped(gpt.firstUsable)}.`,
      why: 'The header says where they are, and kernels and firmware follow it; some simple programs look into sector 2 only.',
      remedies: [without(table, 'array', 'Put them into sector 2')],
    },
  ];
});

const hybrid = rule('gpt/hybrid', 'risk', (placement) => {
  const table = gptTable(placement);
  if (!table?.hybrid) return [];
  const shown = entriesOf(placement).filter(({ slot }) => table.hybrid!.includes(slot.id));
  return [
    {
      place: { kind: 'table' },
      sentence: `${shown.length} partition${shown.length === 1 ? '' : 's'} (${shown.map(({ slot }) => slot.name).join(', ')}) stand${shown.length === 1 ? 's' : ''} in two tables: the GPT, and an MBR in sector 0.`,
      why: 'The two drift apart as soon as one of them is changed; systems differ in which they believe, and some take neither.',
      remedies: [without(table, 'hybrid', 'Write a GPT alone')],
    },
  ];
});

const hybridTooLarge = rule('gpt/hybrid-beyond-2-32-sectors', 'stop', (placement) => {
  const table = gptTable(placement);
  const { sectors, medium } = placement;
  if (!table?.hybrid || sectors <= SECTOR_LIMIT) return [];
  return [
    {
      place: { kind: 'table' },
      sentence: `Entries of an MBR stand beside the GPT of a medium with ${grouped(sectors)} sectors (${inBoth(medium.capacity)}); an MBR describes ${grouped(SECTOR_LIMIT)} at most.`,
      why: 'A system that believes the MBR takes the rest of the medium for unused, or wraps around to its start.',
      remedies: [without(table, 'hybrid', 'Write a GPT alone')],
    },
  ];
});

const markedProtective = rule('gpt/mark-on-protective-entry', 'risk', (placement) => {
  const table = gptTable(placement);
  if (!table?.markProtective) return [];
  return [
    {
      place: { kind: 'table' },
      sentence: `The protective entry of sector 0 is marked active (80h), with ${counted(entriesOf(placement).length, 'partition')} in the GPT.`,
      why: 'UEFI asks for 00h there, and some firmware then takes the medium for one with an MBR; a few BIOSes start a GPT medium only so.',
      remedies: [without(table, 'markProtective', 'Write it unmarked')],
    },
  ];
});

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
  smallArray,
  movedArray,
  hybrid,
  hybridTooLarge,
  markedProtective,
];

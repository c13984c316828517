/** Findings about logical partitions and their container. */
import { makeLogical, retable } from '../../layout/translate';
import { isRaw, type Placement } from '../../placement/placement';
import { counted, grouped, inBoth } from '../../quantity/units';
import { encodable, PRIMARY_ENTRIES, SECTOR_LIMIT } from '../../tables/mbr';
import { atSlot, changing, entriesOf, type Occurrence, once, type Remedy, type Rule, rule } from './finding';

const isMbr = ({ layout }: Placement): boolean => layout.table.kind === 'mbr';

/** The remedy that leaves the limits of MBR behind. */
export const writeGpt: (placement: Placement) => Remedy = once(({ layout }) => ({
  label: 'Write a GPT instead',
  edit: retable(layout, 'gpt'),
}));

const allLogical: (placement: Placement) => Remedy = once(({ layout }) => ({
  label: 'Make all from the fourth on logical',
  edit: makeLogical(layout),
}));

const fifthPrimary = rule('logical/fifth-primary', 'stop', (placement) => {
  if (!isMbr(placement)) return [];
  const primaries = entriesOf(placement).filter((one) => one.recordAt === undefined);
  const boxes = placement.containers.length;
  const why = 'A partition without an entry does not exist for any reader.';
  return primaries
    .filter(({ entry }) => entry.number > PRIMARY_ENTRIES)
    .map(({ slot, entry }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} would be entry ${entry.number} of sector 0, which has ${PRIMARY_ENTRIES}; the layout has ${counted(primaries.length, 'primary partition')}${boxes > 0 ? ' and a container of logical ones' : ''}.`,
      why,
      remedies: [
        allLogical(placement),
        writeGpt(placement),
        { label: `Delete ${slot.name}`, edit: { do: 'remove slot', id: slot.id } },
      ],
    }));
});

const containerWithoutEntry = rule('logical/container-without-entry', 'stop', (placement) => {
  const [first] = placement.containers;
  if (!first || first.number <= PRIMARY_ENTRIES) return [];
  return [
    {
      place: atSlot(first.slots[0]!),
      sentence: `The container of ${counted(first.slots.length, 'logical partition')} would be entry ${first.number} of sector 0, which has ${PRIMARY_ENTRIES}.`,
      why: 'Without its entry nobody finds the logical partitions; three primary ones can stand beside it.',
      remedies: [allLogical(placement), writeGpt(placement)],
    },
  ];
});

const twoContainers = rule('logical/two-containers', 'stop', (placement) => {
  const [first, ...others] = placement.containers;
  if (!first) return [];
  const ids = placement.containers.flatMap((one) => one.slots);
  const index = placement.layout.slots.findIndex((slot) => slot.id === first.slots[0]);
  return others.map((one): Occurrence => ({
    place: atSlot(one.slots[0]!),
    sentence: `The logical partitions lie in ${placement.containers.length} places, with primary ones between them: entries ${first.number} and ${one.number} would both be containers.`,
    why: 'Readers follow one chain; what is in a second container does not exist for most of them.',
    remedies: [
      {
        label: 'Put the logical partitions together',
        edit: { do: 'several', edits: ids.map((id, i) => ({ do: 'move slot', id, index: index + i })) },
      },
    ],
  }));
});

const containerNotEncodable = rule('logical/container-not-encodable', 'stop', (placement) =>
  placement.containers
    .filter(({ start, sectors }) => !encodable(start, sectors))
    .map(({ start, sectors, slots }) => ({
      place: atSlot(slots[0]!),
      sentence: `The container of logical partitions starts at sector ${grouped(start)} and has ${grouped(sectors)}; the most that MBR can write is ${grouped(SECTOR_LIMIT - 1)}.`,
      why: 'MBR keeps starts and counts as 32-bit numbers of sectors.',
      remedies: [writeGpt(placement)],
    })),
);

const activeLogical = rule('logical/active', 'risk', (placement) =>
  entriesOf(placement)
    .filter((one) => one.recordAt !== undefined && one.slot.active)
    .map(({ slot, entry }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} (partition ${entry.number}) is marked active and logical.`,
      why: 'The mark is looked for in sector 0 only; it is not written into the record of a logical partition.',
      remedies: [
        changing(`Take the mark from ${slot.name}`, slot.id, { active: undefined }),
        ...(placement.containers[0]?.slots[0] === slot.id && entriesOf(placement).length <= PRIMARY_ENTRIES
          ? [changing(`Make ${slot.name} primary`, slot.id, { logical: undefined })]
          : []),
      ],
    })),
);

const logicalWithoutMbr = rule('logical/without-mbr', 'note', ({ layout }) => {
  if (layout.table.kind === 'mbr') return [];
  return layout.slots.flatMap((slot): Occurrence[] =>
    slot.kind === 'partition' && slot.logical
      ? [
          {
            place: atSlot(slot.id),
            sentence: `${slot.name} is said to be logical, which only an MBR has; it gets an entry like the others.`,
            why: `A ${layout.table.kind === 'gpt' ? 'GPT has entries enough' : 'medium without a table has no entries'}.`,
            remedies: [changing(`Make ${slot.name} a partition like the others`, slot.id, { logical: undefined })],
          },
        ]
      : [],
  );
});

const rawOverRecord = rule('logical/raw-range-over-record', 'stop', (placement) => {
  const raws = placement.placed.filter(isRaw);
  return entriesOf(placement).flatMap(({ slot, recordAt, entry }): Occurrence[] => {
    const hit = raws.find(
      (one) => recordAt !== undefined && recordAt >= one.start && recordAt < one.start + one.sectors,
    );
    if (!hit || recordAt === undefined) return [];
    return [
      {
        place: atSlot(hit.slot.id),
        sentence: `${hit.slot.name} covers sector ${grouped(recordAt)}, where the record of ${slot.name} (partition ${entry.number}) stands.`,
        why: 'Whichever is written last destroys the other, and with the record the rest of the chain.',
        remedies: [changing(`Make ${slot.name} primary`, slot.id, { logical: undefined })],
      },
    ];
  });
});

const packedRecords = rule('logical/packed-chain', 'note', (placement) => {
  const { layout, medium } = placement;
  const { table } = layout;
  const logical = entriesOf(placement).filter((one) => one.recordAt !== undefined);
  if (table.kind !== 'mbr' || !table.packed || logical.length === 0) return [];
  return [
    {
      place: { kind: 'table' },
      sentence: `The records of ${counted(logical.length, 'logical partition')} stand directly before them: one sector each, and no partition on the grain of ${inBoth(placement.grain.bytes)}.`,
      why: `That is how old machines did it; media of ${grouped(medium.physicalSector)}-byte physical sectors are slower so.`,
      remedies: [
        {
          label: 'Give each record a grain',
          edit: { do: 'change layout', patch: { table: { ...table, packed: undefined } } },
        },
      ],
    },
  ];
});

export const LOGICAL_RULES: readonly Rule[] = [
  fifthPrimary,
  containerWithoutEntry,
  twoContainers,
  containerNotEncodable,
  activeLogical,
  logicalWithoutMbr,
  rawOverRecord,
  packedRecords,
];

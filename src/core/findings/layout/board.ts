/** Findings about boards: what their ROM reads, and what lies in its way. */
import { madeAs } from '../../filesystems/kinds';
import type { Span } from '../../bytes/extents';
import type { PartitionSlot, RawSlot } from '../../layout/document';
import { activateOnly, derivedVolumeId, machineEdit, newSlotId } from '../../layout/edits';
import { retable } from '../../layout/translate';
import { TABLE_NAMES } from '../../layout/vocabulary';
import {
  BOARD_FAMILIES,
  type BoardPartition,
  boardProfile,
  type BoardProfile,
  type BoardRange,
} from '../../medium/boards';
import { isRaw, type Placement } from '../../placement/placement';
import { counted, exactText, grouped, inBinary, inBoth } from '../../quantity/units';
import {
  atSlot,
  changing,
  entriesOf,
  indexOfSlot,
  type Occurrence,
  once,
  type Remedy,
  type Rule,
  rule,
} from './finding';

/** The board, where one is to start this medium and the layout says which. */
const wanted: (placement: Placement) => { readonly board: BoardProfile | undefined } = once(({ layout, figures }) => ({
  board: layout.boots.includes('board') ? figures.board : undefined,
}));

const notKnown = rule('board/not-known', 'risk', (placement) => {
  const { layout } = placement;
  if (!layout.boots.includes('board') || layout.machine?.board) return [];
  const raws = placement.placed.filter(isRaw);
  const likely = BOARD_FAMILIES.filter((family) =>
    boardProfile(family).ranges.some(({ at }) => raws.some(({ span }) => span.start === at)),
  );
  const offered = likely.length > 0 ? likely : (['raspberry-pi', 'am335x', 'zynq'] as const);
  return [
    {
      place: { kind: 'boots' },
      sentence: `A board is to start this medium, and which one is not said. ${raws.length} raw range${raws.length === 1 ? ' is' : 's are'} kept for it. Which board is it?`,
      why: 'Every ROM loads from places of its own; without its name nobody can tell whether they are free.',
      remedies: offered.slice(0, 3).map((family) => ({
        label: `It is one with ${boardProfile(family).name}`,
        edit: machineEdit(placement.layout, { board: { family } }),
      })),
    },
  ];
});

function covers(span: Span, { at }: BoardRange): boolean {
  return span.start <= at && span.end > at;
}

function rangeSlot({ layout, sectorSize }: Placement, range: BoardRange, index: number): RawSlot {
  const id = newSlotId(layout);
  const at = range.at === 0 ? '0' : exactText(range.at, sectorSize);
  return {
    id: index === 0 ? id : `${id}-${index}`,
    kind: 'raw',
    name: range.name,
    at,
    length: exactText(range.length, sectorSize),
  };
}

/** Adds ranges ahead of all that lies behind them. */
function addRanges(placement: Placement, ranges: readonly BoardRange[], label: string): Remedy {
  const { placed, layout } = placement;
  const edits = ranges.map((range, i) => {
    const next = placed.findIndex(({ slot, span }) => slot.kind !== 'raw' || span.start > range.at);
    return {
      do: 'add slot',
      index: (next < 0 ? layout.slots.length : next) + i,
      slot: rangeSlot(placement, range, i),
    } as const;
  });
  return { label, edit: edits.length === 1 ? edits[0]! : { do: 'several', edits } };
}

function missingRange(
  placement: Placement,
  board: BoardProfile,
  range: BoardRange,
  others: readonly BoardRange[],
): Occurrence {
  const also = others.length > 0 ? `, or at ${others.map(({ at }) => inBinary(at)).join(' or ')}` : '';
  return {
    place: { kind: 'boots' },
    sentence: `${board.name} loads its ${range.name.toLowerCase()} from byte ${grouped(range.at)} (${range.at === 0 ? 'sector 0' : inBinary(range.at)})${also}, and no raw range keeps that place.`,
    why: `What lies there is run as code: ${board.source}.`,
    remedies: [
      addRanges(placement, [range], `Keep ${inBoth(range.length)} for it there`),
      ...others.map((one) => addRanges(placement, [one], `Keep ${inBoth(one.length)} at ${inBinary(one.at)}`)),
    ],
  };
}

const rangeMissing = rule('board/range-missing', 'stop', (placement) => {
  const { board } = wanted(placement);
  if (!board) return [];
  const raws = placement.placed.filter(isRaw);
  const isKept = (range: BoardRange) => raws.some(({ span }) => covers(span, range));
  const choices = board.ranges.filter((range) => range.instead);
  const needed = board.ranges.filter((range) => !range.instead && !isKept(range));
  const [first, ...others] = choices.some(isKept) ? [] : choices;
  return [
    ...(first ? [missingRange(placement, board, first, others)] : []),
    ...needed.map((range) => missingRange(placement, board, range, [])),
  ];
});

const wrongTable = rule('board/cannot-use-this-table', 'stop', (placement) => {
  const { board } = wanted(placement);
  const { layout } = placement;
  if (!board || board.tables.includes(layout.table.kind)) return [];
  return [
    {
      place: { kind: 'table' },
      sentence: `${board.name} starts from ${board.tables.map((kind) => TABLE_NAMES[kind]).join(' or ')}; the layout has ${TABLE_NAMES[layout.table.kind]} with ${counted(entriesOf(placement).length, 'partition')}.`,
      why: `Known of it: ${board.source}.`,
      remedies: board.tables
        .filter((kind) => kind !== 'none')
        .map((kind) => ({ label: `Write ${kind === 'mbr' ? 'an MBR' : 'a GPT'}`, edit: retable(layout, kind) })),
    },
  ];
});

/** Whether the ROM can read files in a partition: FAT16 or FAT32, and active where it asks for that. */
function isReadable({ made, slot, recordAt }: ReturnType<typeof entriesOf>[number], board: BoardProfile): boolean {
  const fat = madeAs({ made }, 'fat');
  const isFat = fat?.ok === true && fat.value.variant !== 12;
  return isFat && recordAt === undefined && (board.first !== 'fat active' || slot.active === true);
}

const wrongFirst = rule('board/not-the-partition-the-rom-reads', 'stop', (placement) => {
  const { board } = wanted(placement);
  const { layout, medium } = placement;
  if (!board || board.first === 'any') return [];
  const entries = entriesOf(placement);
  const read = board.first === 'fat first' ? entries.slice(0, 1) : entries;
  if (read.some((one) => isReadable(one, board))) return [];
  const good = entries.find((one) => isReadable(one, { ...board, first: 'fat first' }));
  const id = newSlotId(layout);
  const bootPartition: PartitionSlot = {
    id,
    kind: 'partition',
    name: 'Boot',
    role: 'boot',
    size: '256 MiB',
    ...(board.first === 'fat active' && { active: true }),
    content: { kind: 'fat', label: 'BOOT', volumeId: derivedVolumeId(layout, id) },
  };
  const index = Math.max(
    0,
    layout.slots.findIndex((slot) => slot.kind === 'partition'),
  );
  const mend: Remedy[] = !good
    ? [{ label: 'Add a FAT partition ahead of the others', edit: { do: 'add slot', index, slot: bootPartition } }]
    : board.first === 'fat active'
      ? [{ label: `Mark ${good.slot.name} active`, edit: activateOnly(layout, good.slot.id) }]
      : [
          {
            label: `Put ${good.slot.name} first`,
            edit: { do: 'move slot', id: good.slot.id, index: indexOfSlot(placement, entries[0]!.slot.id) },
          },
        ];
  const what = entries[0] ? `partition 1 is ${entries[0].slot.name}` : 'there is no partition';
  return [
    {
      place: { kind: 'boots' },
      sentence: `${board.name} ${board.first === 'fat first' ? 'reads its files from partition 1 of FAT16 or FAT32' : 'reads its files from the active primary partition of FAT16 or FAT32'}; here ${what}${entries[0] ? `, ${inBoth(entries[0].sectors * medium.logicalSector)}` : ''}, and it is not such a one.`,
      why: `Known of it: ${board.source}.`,
      remedies: mend,
    },
  ];
});

function answers({ slot, entry }: ReturnType<typeof entriesOf>[number], { type, namePrefix }: BoardPartition): boolean {
  return type !== undefined ? entry.type === type : slot.name.startsWith(namePrefix ?? '');
}

const loaderPartitions = rule('board/partition-missing', 'stop', (placement) => {
  const { board } = wanted(placement);
  const { layout } = placement;
  if (!board || layout.table.kind !== 'gpt') return [];
  return board.partitions.flatMap((one): Occurrence[] => {
    const there = entriesOf(placement).filter((entry) => answers(entry, one)).length;
    if (there >= one.copies) return [];
    const missing = one.copies - there;
    const index = Math.max(
      0,
      layout.slots.findIndex((slot) => slot.kind === 'partition'),
    );
    const edits = Array.from({ length: missing }, (_, i) => ({
      do: 'add slot' as const,
      index: index + i,
      slot: {
        id: `${newSlotId(layout)}-${i + 1}`,
        kind: 'partition',
        name: one.namePrefix ? `${one.namePrefix}${there + i + 1}` : one.purpose,
        role: 'boot',
        size: '1 MiB',
        ...(one.type !== undefined && { type: one.type }),
      } satisfies PartitionSlot,
    }));
    const how = one.type !== undefined ? `of type ${one.type}` : `named ${one.namePrefix}…`;
    return [
      {
        place: { kind: 'boots' },
        sentence: `${board.name} looks for ${one.copies} partition${one.copies === 1 ? '' : 's'} ${how}, and there ${there === 1 ? 'is' : 'are'} ${there}.`,
        why: `Known of it: ${board.source}.`,
        remedies: [{ label: `Add ${missing} of 1 MiB`, edit: { do: 'several', edits } }],
      },
    ];
  });
});

const aheadOfCustom = rule('board/ahead-of-the-customary-start', 'note', (placement) => {
  const { board } = wanted(placement);
  const first = entriesOf(placement)[0];
  const { sectorSize } = placement;
  if (!board || !first || board.customaryFirst === 0 || first.start * sectorSize >= board.customaryFirst) return [];
  const at = exactText(board.customaryFirst, sectorSize);
  return [
    {
      place: atSlot(first.slot.id),
      sentence: `${first.slot.name} starts at ${inBinary(first.start * sectorSize)}; on ${board.name} partitions begin at ${at} by custom.`,
      why: 'Loaders of the family expect their further stages before that.',
      remedies: [changing(`Pin it to ${at}`, first.slot.id, { at })],
    },
  ];
});

export const BOARD_RULES: readonly Rule[] = [
  notKnown,
  rangeMissing,
  wrongTable,
  wrongFirst,
  loaderPartitions,
  aheadOfCustom,
];

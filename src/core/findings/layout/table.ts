/** Findings about the partition table. */
import type { Span } from '../../bytes/extents';
import { hashText } from '../../bytes/guid';
import { activateOnly } from '../../layout/edits';
import { retable } from '../../layout/translate';
import { isRaw, lastSector, type Placement, type PlacedRaw } from '../../placement/placement';
import { counted, grouped, inBoth, sectorCount } from '../../quantity/units';
import { CODE_LENGTH, encodable, MBR_LENGTH, SECTOR_LIMIT } from '../../tables/mbr';
import { fitsTable, promiseOf, typeName } from '../../tables/types';
import { atSlot, changing, entriesOf, type Occurrence, partitionsOf, type Rule, rule } from './finding';
import { writeGpt } from './logical';

const LIMIT_WHY = 'MBR keeps starts and counts as 32-bit numbers of sectors.';

const isMbr = ({ layout }: Placement): boolean => layout.table.kind === 'mbr';

const notEncodable = rule('table/not-encodable', 'stop', (placement) =>
  (isMbr(placement) ? partitionsOf(placement) : [])
    .filter(({ start, sectors }) => !encodable(start, sectors))
    .map(({ slot, start, sectors }) => ({
      place: atSlot(slot.id),
      sentence:
        start >= SECTOR_LIMIT
          ? `${slot.name} starts at sector ${grouped(start)}; the largest start that MBR can write is ${grouped(SECTOR_LIMIT - 1)}.`
          : `${slot.name} has ${sectorCount(sectors)} (${inBoth(sectors * placement.sectorSize)}); the most that MBR can write is ${grouped(SECTOR_LIMIT - 1)}.`,
      why: LIMIT_WHY,
      remedies: [writeGpt(placement)],
    })),
);

const endsBeyondLimit = rule('table/ends-beyond-limit', 'risk', (placement) =>
  (isMbr(placement) ? partitionsOf(placement) : [])
    .filter((one) => encodable(one.start, one.sectors) && lastSector(one) >= SECTOR_LIMIT)
    .map((one) => ({
      place: atSlot(one.slot.id),
      sentence: `${one.slot.name} ends at sector ${grouped(lastSector(one))}, beyond ${grouped(SECTOR_LIMIT - 1)}.`,
      why: 'Its start and count can be written, but some readers add them up in 32 bits.',
      remedies: [writeGpt(placement)],
    })),
);

const zeroSignature = rule('table/zero-signature', 'risk', ({ layout }) => {
  if (layout.table.kind !== 'mbr' || layout.table.signature !== '00000000') return [];
  const signature = (hashText(layout.name) || 1).toString(16).padStart(8, '0');
  return [
    {
      place: { kind: 'table' },
      sentence: 'The disk signature is 00000000, so the partitions have no stable ids.',
      why: 'Kernels make partition ids from it, and other systems write one of their own when they find none.',
      remedies: [
        {
          label: `Set signature ${signature}`,
          edit: { do: 'change layout', patch: { table: { ...layout.table, signature } } },
        },
      ],
    },
  ];
});

/** Share of the medium that may lie out of reach without a word. */
const REACH_SHARE = 0.01;

const outOfReach = rule('table/medium-beyond-its-reach', 'risk', (placement) => {
  const { sectors, sectorSize } = placement;
  const beyond = sectors - 2 * SECTOR_LIMIT;
  const hidden = sectors - SECTOR_LIMIT;
  if (!isMbr(placement) || hidden <= sectors * REACH_SHARE) return [];
  return [
    {
      place: { kind: 'table' },
      sentence: `${inBoth(hidden * sectorSize)} of the medium lie behind sector ${grouped(SECTOR_LIMIT - 1)}, where no partition of an MBR can start${beyond > 0 ? `, and ${inBoth(beyond * sectorSize)} where none can end` : ''}.`,
      why: LIMIT_WHY,
      remedies: [writeGpt(placement)],
    },
  ];
});

const activeWithoutMbr = rule('table/mark-without-mbr', 'note', ({ layout }) => {
  if (layout.table.kind === 'mbr') return [];
  // What a hybrid shows in sector 0 has its mark there.
  const shown = layout.table.kind === 'gpt' ? (layout.table.hybrid ?? []) : [];
  return layout.slots
    .filter((slot) => slot.kind === 'partition' && slot.active && !shown.includes(slot.id))
    .map((slot) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} is marked active, and ${layout.table.kind === 'gpt' ? 'a GPT has' : 'without a table there is'} no place for the mark: it is not written.`,
      why: 'Only a BIOS looks for it, in an MBR.',
      remedies: [changing(`Take the mark from ${slot.name}`, slot.id, { active: undefined })],
    }));
});

const oneWithoutTable = rule('table/none-holds-one-volume', 'stop', ({ layout }) => {
  if (layout.table.kind !== 'none') return [];
  const others = layout.slots.length - 1;
  if (others === 0 && layout.slots[0]!.kind === 'partition') return [];
  return [
    {
      place: { kind: 'table' },
      sentence: `Without a table the medium is one volume from its first sector on; the layout has ${counted(layout.slots.length, 'slot')}.`,
      why: 'Nothing would say where the others begin.',
      remedies: [{ label: 'Write an MBR', edit: retable(layout, 'mbr') }],
    },
  ];
});

const startsLate = rule('table/none-starts-late', 'stop', (placement) => {
  const { layout } = placement;
  const [only, ...others] = partitionsOf(placement);
  if (layout.table.kind !== 'none' || !only || others.length > 0 || only.start === 0) return [];
  const { slot, start } = only;
  return [
    {
      place: atSlot(slot.id),
      sentence: `Without a table the medium is one volume from its first sector on; ${slot.name} begins at sector ${grouped(start)}.`,
      why: 'Nothing would say that it begins there.',
      remedies: [
        slot.at === undefined
          ? { label: 'Use the grain by rule', edit: { do: 'change layout', patch: { grain: undefined } } }
          : changing(`Let ${slot.name} begin with the medium`, slot.id, { at: undefined }),
        { label: 'Write an MBR', edit: retable(layout, 'mbr') },
      ],
    },
  ];
});

const RULE_DECIDES = 'Let role and content decide the type';

/** Types of an MBR that are no ordinary partition. */
const typeOfNone = rule('table/type-of-no-partition', 'stop', (placement) =>
  (isMbr(placement) ? entriesOf(placement) : [])
    .filter(({ entry }) => promiseOf(entry.type) === 'container' || promiseOf(entry.type) === 'protective')
    .map(({ slot, entry }) => ({
      place: atSlot(slot.id),
      sentence:
        promiseOf(entry.type) === 'container'
          ? `Type ${typeName(entry.type)} of ${slot.name} (partition ${entry.number}) says that it is a container of logical partitions.`
          : `Type ${typeName(entry.type)} of ${slot.name} (partition ${entry.number}) says that a GPT protects the medium.`,
      why: 'Kernels follow a chain there, or show no partition at all: what is written cannot be what is meant.',
      remedies: [changing(RULE_DECIDES, slot.id, { type: undefined })],
    })),
);

const wrongKindOfType = rule('table/type-of-another-table', 'stop', ({ layout }) =>
  layout.slots.flatMap((slot): Occurrence[] => {
    if (slot.kind !== 'partition' || slot.type === undefined || fitsTable(slot.type, layout.table.kind)) return [];
    return [
      {
        place: atSlot(slot.id),
        sentence: `Type ${slot.type} of ${slot.name} has ${slot.type.length} characters; ${layout.table.kind === 'gpt' ? 'a GPT wants a GUID of 36' : 'an MBR wants a code of 2'}.`,
        why: 'The table has no place for it.',
        remedies: [changing(RULE_DECIDES, slot.id, { type: undefined })],
      },
    ];
  }),
);

const twoActive = rule('table/two-active', 'risk', ({ layout }) => {
  const active = layout.slots.filter((slot) => slot.kind === 'partition' && slot.active);
  if (layout.table.kind !== 'mbr') return [];
  const [first, ...others] = active;
  if (!first || others.length === 0) return [];
  return [
    {
      place: atSlot(others[0]!.id),
      sentence: `${counted(active.length, 'partition')} are marked active: ${active.map((slot) => slot.name).join(', ')}.`,
      why: 'A BIOS loader expects one; what happens with more differs from machine to machine.',
      remedies: [{ label: `Keep the mark on ${first.name} only`, edit: activateOnly(layout, first.id) }],
    },
  ];
});

/** The bytes of sector 0 that a raw range must leave alone, where there is a table. */
const TABLE_BYTES: Span = { start: CODE_LENGTH, end: MBR_LENGTH };

const rawRanges = (placement: Placement): PlacedRaw[] =>
  placement.layout.table.kind === 'none' ? [] : placement.placed.filter(isRaw);

function overlap(a: Span, b: Span): number {
  return Math.max(0, Math.min(a.end, b.end) - Math.max(a.start, b.start));
}

const rawOverTable = rule('table/raw-range-over-table', 'stop', (placement) => {
  const { sectorSize } = placement;
  return rawRanges(placement)
    .filter(({ span }) => overlap(span, TABLE_BYTES) > 0)
    .map(({ slot, span }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} covers bytes ${grouped(span.start)} to ${grouped(span.end - 1)} and with them ${overlap(span, TABLE_BYTES)} bytes of the table (${CODE_LENGTH} to ${MBR_LENGTH - 1}).`,
      why: 'Whichever is written last destroys the other.',
      remedies: [
        changing(`Start ${slot.name} at sector 1`, slot.id, { at: '1 sector' }),
        // Bytes behind the table's own are free where the sector has any.
        ...(sectorSize > MBR_LENGTH
          ? [changing(`Start ${slot.name} at byte ${MBR_LENGTH}`, slot.id, { at: `${MBR_LENGTH} B` })]
          : []),
        ...(span.start < CODE_LENGTH
          ? [changing(`End ${slot.name} at byte ${CODE_LENGTH}`, slot.id, { length: `${CODE_LENGTH - span.start} B` })]
          : []),
      ],
    }));
});

const rawInCodeArea = rule('table/raw-range-in-code-area', 'note', (placement) =>
  rawRanges(placement)
    .filter(({ span }) => span.start < CODE_LENGTH && overlap(span, TABLE_BYTES) === 0)
    .map(({ slot, span }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} takes bytes ${grouped(span.start)} to ${grouped(span.end - 1)} of the code area of sector 0 (0 to ${CODE_LENGTH - 1}).`,
      why: 'A BIOS would run these bytes as its boot code.',
      remedies: [],
    })),
);

const rawOverRaw = rule('table/raw-ranges-overlap', 'stop' as const, (placement) => {
  const raws = placement.placed.filter(isRaw).sort((a, b) => a.span.start - b.span.start);
  return raws.slice(1).flatMap((later, i) => {
    const earlier: PlacedRaw = raws[i]!;
    const shared = overlap(earlier.span, later.span);
    if (shared === 0) return [];
    return [
      {
        place: atSlot(later.slot.id),
        sentence: `${later.slot.name} and ${earlier.slot.name} share ${counted(shared, 'byte')} from byte ${grouped(later.span.start)} on.`,
        why: 'Whichever is written last destroys the other.',
        remedies: startBehind(later, earlier),
      },
    ];
  });
});

function startBehind(later: PlacedRaw, earlier: PlacedRaw) {
  return [
    changing(`Start ${later.slot.name} behind ${earlier.slot.name}`, later.slot.id, { at: `${earlier.span.end} B` }),
  ];
}

const rawBeyondMedium = rule('table/raw-range-beyond-medium', 'stop', (placement: Placement) => {
  const end = placement.sectors * placement.sectorSize;
  return placement.placed
    .filter(isRaw)
    .filter(({ span }) => span.end > end)
    .map(({ slot, span }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} ends at byte ${grouped(span.end)}, ${inBoth(span.end - end)} behind the end of the medium.`,
      why: 'Those bytes do not exist.',
      remedies:
        span.start < end
          ? [changing(`End ${slot.name} with the medium`, slot.id, { length: `${end - span.start} B` })]
          : [],
    }));
});

export const TABLE_RULES: readonly Rule[] = [
  notEncodable,
  endsBeyondLimit,
  zeroSignature,
  outOfReach,
  twoActive,
  activeWithoutMbr,
  oneWithoutTable,
  startsLate,
  typeOfNone,
  wrongKindOfType,
  rawOverTable,
  rawInCodeArea,
  rawOverRaw,
  rawBeyondMedium,
];

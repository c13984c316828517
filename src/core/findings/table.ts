/** Findings about the partition table. */
import type { Span } from '../bytes/extents';
import { markOnly } from '../layout/edits';
import { isRaw, lastSector, type Placement, type PlacedRaw } from '../placement/placement';
import { grouped, inBoth, sectorCount } from '../quantity/units';
import { CODE_LENGTH, encodable, MBR_LENGTH, PRIMARY_ENTRIES, SECTOR_LIMIT } from '../tables/mbr';
import { atSlot, changing, partitionsOf, type Rule } from './finding';

const LIMIT_WHY = 'MBR keeps starts and counts as 32-bit numbers of sectors.';

const fifthPrimary: Rule = (placement) => {
  const partitions = partitionsOf(placement);
  return partitions.slice(PRIMARY_ENTRIES).map(({ slot, partition }) => ({
    rule: 'table/fifth-primary',
    severity: 'stop',
    place: atSlot(slot.id),
    sentence: `${slot.name} would be partition ${partition.number}; the table in sector 0 has ${PRIMARY_ENTRIES} entries and the layout ${partitions.length} partitions.`,
    why: 'A partition without an entry does not exist for any reader.',
    remedies: [{ label: `Delete ${slot.name}`, edit: { do: 'remove slot', id: slot.id } }],
  }));
};

const notEncodable: Rule = (placement) =>
  partitionsOf(placement)
    .filter(({ start, sectors }) => !encodable(start, sectors))
    .map(({ slot, start, sectors }) => ({
      rule: 'table/not-encodable',
      severity: 'stop',
      place: atSlot(slot.id),
      sentence:
        start >= SECTOR_LIMIT
          ? `${slot.name} starts at sector ${grouped(start)}; the largest start that MBR can write is ${grouped(SECTOR_LIMIT - 1)}.`
          : `${slot.name} has ${sectorCount(sectors)} (${inBoth(sectors * placement.sectorSize)}); the most that MBR can write is ${grouped(SECTOR_LIMIT - 1)}.`,
      why: LIMIT_WHY,
      remedies: [],
    }));

const endsBeyondLimit: Rule = (placement) =>
  partitionsOf(placement)
    .filter((one) => encodable(one.start, one.sectors) && lastSector(one) >= SECTOR_LIMIT)
    .map((one) => ({
      rule: 'table/ends-beyond-limit',
      severity: 'risk',
      place: atSlot(one.slot.id),
      sentence: `${one.slot.name} ends at sector ${grouped(lastSector(one))}, beyond ${grouped(SECTOR_LIMIT - 1)}.`,
      why: 'Its start and count can be written, but some readers add them up in 32 bits.',
      remedies: [],
    }));

const zeroSignature: Rule = ({ layout }) => {
  if (layout.table.signature !== '00000000') return [];
  const characters = [...layout.name];
  const sum = characters.reduce((hash, c) => (Math.imul(hash, 33) + c.charCodeAt(0)) >>> 0, 5381) || 1;
  const signature = sum.toString(16).padStart(8, '0');
  return [
    {
      rule: 'table/zero-signature',
      severity: 'risk',
      place: { kind: 'table' },
      sentence: 'The disk signature is 00000000, so the partitions have no stable ids.',
      why: 'Kernels make partition ids from it, and other systems write one of their own when they find none.',
      remedies: [
        {
          label: `Set signature ${signature}`,
          edit: { do: 'change layout', patch: { table: { kind: 'mbr', signature } } },
        },
      ],
    },
  ];
};

const twoActive: Rule = ({ layout }) => {
  const active = layout.slots.filter((slot) => slot.kind === 'partition' && slot.active);
  const [first, ...others] = active;
  if (!first || others.length === 0) return [];
  return [
    {
      rule: 'table/two-active',
      severity: 'risk',
      place: atSlot(others[0]!.id),
      sentence: `${active.length} partitions are marked active: ${active.map((slot) => slot.name).join(', ')}.`,
      why: 'A BIOS loader expects one; what happens with more differs from machine to machine.',
      remedies: [{ label: `Keep the mark on ${first.name} only`, edit: markOnly(layout, first.id) }],
    },
  ];
};

/** The bytes of sector 0 that a raw range must leave alone. */
const TABLE_BYTES: Span = { start: CODE_LENGTH, end: MBR_LENGTH };

function overlap(a: Span, b: Span): number {
  return Math.max(0, Math.min(a.end, b.end) - Math.max(a.start, b.start));
}

const rawOverTable: Rule = (placement) =>
  placement.placed
    .filter(isRaw)
    .filter(({ span }) => overlap(span, TABLE_BYTES) > 0)
    .map(({ slot, span }) => ({
      rule: 'table/raw-range-over-table',
      severity: 'stop',
      place: atSlot(slot.id),
      sentence: `${slot.name} covers bytes ${grouped(span.start)} to ${grouped(span.end - 1)} and with them ${overlap(span, TABLE_BYTES)} bytes of the table (${CODE_LENGTH} to ${MBR_LENGTH - 1}).`,
      why: 'Whichever is written last destroys the other.',
      remedies: [
        changing(`Start ${slot.name} at sector 1`, slot.id, { at: '1 sector' }),
        ...(span.start < CODE_LENGTH
          ? [changing(`End ${slot.name} at byte ${CODE_LENGTH}`, slot.id, { length: `${CODE_LENGTH - span.start} B` })]
          : []),
      ],
    }));

const rawInCodeArea: Rule = (placement) =>
  placement.placed
    .filter(isRaw)
    .filter(({ span }) => span.start < CODE_LENGTH && overlap(span, TABLE_BYTES) === 0)
    .map(({ slot }) => ({
      rule: 'table/raw-range-in-code-area',
      severity: 'note',
      place: atSlot(slot.id),
      sentence: `${slot.name} takes the code area of sector 0 (bytes 0 to ${CODE_LENGTH - 1}).`,
      why: 'A BIOS would run these bytes as its boot code.',
      remedies: [],
    }));

const rawOverRaw: Rule = (placement) => {
  const raws = placement.placed.filter(isRaw).sort((a, b) => a.span.start - b.span.start);
  return raws.slice(1).flatMap((later, i) => {
    const earlier: PlacedRaw = raws[i]!;
    const shared = overlap(earlier.span, later.span);
    if (shared === 0) return [];
    return [
      {
        rule: 'table/raw-ranges-overlap',
        severity: 'stop' as const,
        place: atSlot(later.slot.id),
        sentence: `${later.slot.name} and ${earlier.slot.name} share ${grouped(shared)} bytes from byte ${grouped(later.span.start)} on.`,
        why: 'Whichever is written last destroys the other.',
        remedies: startBehind(later, earlier),
      },
    ];
  });
};

function startBehind(later: PlacedRaw, earlier: PlacedRaw) {
  return [
    changing(`Start ${later.slot.name} behind ${earlier.slot.name}`, later.slot.id, { at: `${earlier.span.end} B` }),
  ];
}

const rawBeyondMedium: Rule = (placement: Placement) => {
  const end = placement.sectors * placement.sectorSize;
  return placement.placed
    .filter(isRaw)
    .filter(({ span }) => span.end > end)
    .map(({ slot, span }) => ({
      rule: 'table/raw-range-beyond-medium',
      severity: 'stop',
      place: atSlot(slot.id),
      sentence: `${slot.name} ends at byte ${grouped(span.end)}, ${inBoth(span.end - end)} behind the end of the medium.`,
      why: 'Those bytes do not exist.',
      remedies:
        span.start < end
          ? [changing(`End ${slot.name} with the medium`, slot.id, { length: `${end - span.start} B` })]
          : [],
    }));
};

export const TABLE_RULES: readonly Rule[] = [
  fifthPrimary,
  notEncodable,
  endsBeyondLimit,
  zeroSignature,
  twoActive,
  rawOverTable,
  rawInCodeArea,
  rawOverRaw,
  rawBeyondMedium,
];

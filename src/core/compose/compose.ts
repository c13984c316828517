/**
 * Composing: from a placement to every byte range that a build defines.
 *
 * Three things define ranges: the table, the structures of each file system made here, and
 * clearing. Clearing puts zeros where an older use of the medium may have left structures that
 * readers would still find: the first and last MiB of the medium (old tables and their
 * backups, signatures) and of each partition that is left empty for its system. It yields to
 * everything else. Reserved raw ranges are cleared whole.
 */
import { endOf, type Extent, type Span, without } from '../bytes/extents';
import { formatFat } from '../filesystems/fat/format';
import type { Table } from '../layout/document';
import { hybridType } from '../placement/entries';
import {
  type Entered,
  isEntered,
  isPartition,
  isRaw,
  lastSector,
  type Placement,
  type PlacedPartition,
} from '../placement/placement';
import { attributeBits, encodeGpt } from '../tables/gpt';
import { encodeChain, encodeMbr } from '../tables/mbr';

/** A defined range, what it is, and the slot that it belongs to (none for table and medium). */
export interface DefinedRange {
  readonly owner: string | undefined;
  readonly what: string;
  readonly extent: Extent;
}

/** How far from each end old structures are looked for. */
const CLEARED = 1024 * 1024;

/** The 32-bit volume id of `3A1F-77C0`. */
export function volumeIdNumber(text: string): number {
  return parseInt(text.replace('-', ''), 16);
}

function mbrRanges(placement: Placement, signature: number): DefinedRange[] {
  const { sectorSize, containers } = placement;
  const entered = placement.placed.filter(isEntered);
  const asEntry = ({ slot, entry, start, sectors }: Entered) => ({
    index: entry.number - 1,
    active: slot.active === true,
    type: parseInt(entry.type, 16),
    first: start,
    count: sectors,
  });
  const boxes = containers.map(({ number, type, start, sectors }) => ({
    index: number - 1,
    active: false,
    type: parseInt(type, 16),
    first: start,
    count: sectors,
  }));
  const primaries = entered.filter((one) => one.recordAt === undefined).map(asEntry);
  const bytes = encodeMbr({ signature, entries: [...primaries, ...boxes], code: new Uint8Array(0) }, sectorSize);
  const logical = entered.flatMap((one) =>
    one.recordAt === undefined
      ? []
      : [{ ...asEntry(one), id: one.slot.id, recordAt: one.recordAt, number: one.entry.number }],
  );
  const records = encodeChain(logical, sectorSize).map(({ sector, bytes: record }, i) => ({
    owner: undefined,
    what: `record of partition ${logical[i]!.number}`,
    extent: { offset: sector * sectorSize, bytes: record },
  }));
  return [{ owner: undefined, what: 'master boot record', extent: { offset: 0, bytes } }, ...records];
}

/** Entries of an MBR that show partitions of a GPT to readers that know nothing else. */
export function besideEntries(placement: Placement) {
  const { table } = placement.layout;
  const hybrid = table.kind === 'gpt' ? (table.hybrid ?? []) : [];
  return hybrid.flatMap((id) => {
    const one = placement.placed.filter(isEntered).find(({ slot }) => slot.id === id);
    if (!one) return [];
    const type = parseInt(hybridType(one, placement), 16);
    return [{ active: one.slot.active === true, type, first: one.start, count: one.sectors }];
  });
}

function gptRanges(placement: Placement, table: Extract<Table, { kind: 'gpt' }>): DefinedRange[] {
  const { sectorSize, sectors, gpt } = placement;
  const entries = placement.placed.filter(isEntered).map((one) => ({
    index: one.entry.number - 1,
    type: one.entry.type,
    id: one.entry.id,
    first: one.start,
    last: lastSector(one),
    attributes: attributeBits(one.slot.attributes ?? []),
    name: one.slot.name,
  }));
  const said = {
    diskId: table.diskId,
    entries,
    hybrid: besideEntries(placement),
    markProtective: table.markProtective === true,
  };
  return encodeGpt(said, sectorSize, sectors, gpt).map(({ what, sector, bytes }) => ({
    owner: undefined,
    what,
    extent: { offset: sector * sectorSize, bytes },
  }));
}

function tableRanges(placement: Placement): DefinedRange[] {
  const { table } = placement.layout;
  if (table.kind === 'mbr') return mbrRanges(placement, parseInt(table.signature, 16));
  return table.kind === 'gpt' ? gptRanges(placement, table) : [];
}

function fileSystemRanges(placed: PlacedPartition, date: string): DefinedRange[] {
  const { slot, fat } = placed;
  if (!slot.fileSystem || !fat?.ok) return [];
  const { label = '', volumeId } = slot.fileSystem;
  const ranges = formatFat(fat.value, { label, volumeId: volumeIdNumber(volumeId), date });
  return ranges.map((range) => ({ owner: slot.id, ...range }));
}

function bothEnds({ start, end }: Span): Span[] {
  return end - start <= 2 * CLEARED
    ? [{ start, end }]
    : [
        { start, end: start + CLEARED },
        { start: end - CLEARED, end },
      ];
}

function clearings(placement: Placement): { owner: string | undefined; what: string; span: Span }[] {
  const whole = { start: 0, end: placement.sectors * placement.sectorSize };
  const slots = placement.placed.flatMap((placed) => {
    const owner = placed.slot.id;
    if (isRaw(placed)) return [{ owner, what: 'reserved range, zeros', span: placed.span }];
    if (!isPartition(placed) || placed.slot.fileSystem) return [];
    return bothEnds(placed.span).map((span) => ({ owner, what: 'old signatures cleared', span }));
  });
  const ends = bothEnds(whole).map((span) => ({ owner: undefined, what: 'old tables cleared', span }));
  return [...slots, ...ends];
}

/**
 * Every range that a build of this placement defines, ascending and without overlap. The
 * placement must have no stop finding: overlapping slots or a fifth primary make no sense here.
 */
export function compose(placement: Placement): DefinedRange[] {
  const ranges = [
    ...tableRanges(placement),
    ...placement.placed.filter(isPartition).flatMap((one) => fileSystemRanges(one, placement.layout.date)),
  ];
  const taken: Span[] = ranges.map(({ extent }) => ({ start: extent.offset, end: endOf(extent) }));
  for (const { owner, what, span } of clearings(placement)) {
    for (const left of without(span, taken)) {
      ranges.push({ owner, what, extent: { offset: left.start, zeros: left.end - left.start } });
      taken.push(left);
    }
  }
  return ranges.sort((a, b) => a.extent.offset - b.extent.offset);
}

/**
 * Composing: from a placement to every byte range that a build defines.
 *
 * Three things define ranges: the table, what the slots hold, and clearing. Clearing puts zeros
 * where an older use of the medium may have left structures that readers would still find: the
 * first and last MiB of the medium (old tables and their backups, signatures) and of each
 * partition, in the free clusters of a volume too. It yields to everything else. What a supplied
 * file leaves of a raw range is cleared whole.
 */
import { MIB } from '../quantity/units';
import { type Copied, endOf, type Span, without } from '../bytes/extents';
import type { Table } from '../layout/document';
import { isKeptRaw, keepsInside } from '../layout/kept';
import { hybridType } from '../placement/entries';
import { type Entered, isEntered, isRaw, lastSector, type Placed, type Placement } from '../placement/placement';
import { codeTaken, hasOwnCode } from '../placement/supplied';
import { attributeBits, encodeGpt } from '../tables/gpt';
import { GPT_CODE } from '../tables/gpt-code';
import { encodeChain, encodeMbr } from '../tables/mbr';
import { MBR_CODE } from '../tables/mbr-code';
import { contentRanges, type DefinedRange } from './contents';

/** How far from each end old structures are looked for. */
const CLEARED = MIB;

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
  const bytes = encodeMbr({ signature, entries: [...primaries, ...boxes] }, sectorSize);
  const logical = entered.flatMap((one) =>
    one.recordAt === undefined
      ? []
      : // A mark means nothing in a chain, and is not written there.
        [{ ...asEntry(one), active: false, id: one.slot.id, recordAt: one.recordAt, number: one.entry.number }],
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
  const facts = {
    diskId: table.diskId,
    entries,
    hybrid: besideEntries(placement),
    markProtective: table.markProtective === true,
  };
  return encodeGpt(facts, sectorSize, sectors, gpt).map(({ what, sector, bytes }) => ({
    owner: undefined,
    what,
    extent: { offset: sector * sectorSize, bytes },
  }));
}

/** Boot code of sector 0: our own, or supplied and copied, so that its sum is checked like that of every content. */
export function codeRange(placement: Placement): DefinedRange[] {
  const { table } = placement.layout;
  if (hasOwnCode(placement)) {
    const bytes = table.kind === 'gpt' ? GPT_CODE : MBR_CODE;
    return [{ owner: undefined, what: 'boot code of sector 0', extent: { offset: 0, bytes } }];
  }
  const copied: Copied | undefined = table.kind === 'none' ? undefined : codeTaken(table.code);
  return copied && copied.length > 0
    ? [{ owner: undefined, what: 'boot code of sector 0', extent: { offset: 0, copied } }]
    : [];
}

/** What of a range of literal bytes is left around others that lie within it. */
function around(range: DefinedRange, others: readonly Span[]): DefinedRange[] {
  const { extent } = range;
  if (!('bytes' in extent)) return [range];
  const { offset, bytes } = extent;
  return without({ start: offset, end: endOf(extent) }, others).map(({ start, end }) => ({
    ...range,
    extent: { offset: start, bytes: bytes.subarray(start - offset, end - offset) },
  }));
}

/** The table, whole; in sector 0 it leaves room for boot code and for raw ranges that lie beside its own bytes. */
export function tableRanges(placement: Placement): DefinedRange[] {
  const { table } = placement.layout;
  if (table.kind === 'none') return [];
  const code = codeRange(placement);
  const taken = [
    ...code.map(({ extent }) => ({ start: extent.offset, end: endOf(extent) })),
    ...placement.placed.filter(isRaw).map(({ span }) => span),
  ].filter(({ start }) => start < placement.sectorSize);
  const ranges =
    table.kind === 'mbr' ? mbrRanges(placement, parseInt(table.signature, 16)) : gptRanges(placement, table);
  return [...code, ...ranges.flatMap((range) => around(range, taken))];
}

function bothEnds({ start, end }: Span): Span[] {
  return end - start <= 2 * CLEARED
    ? [{ start, end }]
    : [
        { start, end: start + CLEARED },
        { start: end - CLEARED, end },
      ];
}

interface Clearing {
  readonly owner: string | undefined;
  readonly what: string;
  readonly span: Span;
}

/** Where a slot is cleared: a raw range whole, a partition at both ends; nothing of what stays. */
function clearingsOf(placed: Placed): Clearing[] {
  const { slot, span } = placed;
  if (keepsInside(slot) || isKeptRaw(slot)) return [];
  if (slot.kind === 'raw') return [{ owner: slot.id, what: 'reserved range, zeros', span }];
  if (slot.kind === 'free') return [];
  return bothEnds(span).map((one) => ({ owner: slot.id, what: 'old signatures cleared', span: one }));
}

/** Ranges with zeros where they are wanted and nothing else is defined. */
function withClearings(ranges: DefinedRange[], wanted: readonly Clearing[]): DefinedRange[] {
  const cleared: DefinedRange[] = [];
  const taken: Span[] = [];
  // Clearing concerns few places: of a volume with many files most ranges touch none of them.
  for (const { extent } of ranges) {
    const [start, end] = [extent.offset, endOf(extent)];
    if (wanted.some(({ span }) => span.start < end && span.end > start)) taken.push({ start, end });
  }
  for (const { owner, what, span } of wanted) {
    for (const left of without(span, taken)) {
      cleared.push({ owner, what, extent: { offset: left.start, zeros: left.end - left.start } });
      taken.push(left);
    }
  }
  ranges.push(...cleared);
  return ranges.sort((a, b) => a.extent.offset - b.extent.offset);
}

/**
 * Every range that a build of this placement defines, ascending and without overlap. The
 * placement must have no stop finding: overlapping slots or a fifth primary make no sense here.
 */
export function compose(placement: Placement): DefinedRange[] {
  const whole = { start: 0, end: placement.sectors * placement.sectorSize };
  const ends = bothEnds(whole).map((span) => ({ owner: undefined, what: 'old tables cleared', span }));
  return withClearings(
    [...tableRanges(placement), ...contentRanges(placement)],
    [...placement.placed.flatMap(clearingsOf), ...ends],
  );
}

/** The ranges that slots define on a medium that has other things too: no table, and nothing of what is kept. */
export function composeSlots(placement: Placement): DefinedRange[] {
  return withClearings(contentRanges(placement), placement.placed.flatMap(clearingsOf));
}

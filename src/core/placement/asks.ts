/** What each slot asks of the run that it stands in: a size in sectors, or a share. */
import type { Contents } from '../filesystems/supplied';
import { preparedBytes } from '../layout/contents';
import type { Layout, Slot } from '../layout/document';
import { foundOf, isLocked } from '../layout/kept';
import { type Figures, flowFigures, type FlowSlot, rawFigures } from '../layout/figures';
import { amountInSectors, memoryBytes, shareOf, type SizeRule } from '../quantity/size-language';
import type { Grain } from '../medium/grain';
import { alignDown } from '../quantity/integers';

/** Facts that hold for the whole placement. Sectors are logical sectors. */
export interface Ground {
  readonly layout: Layout;
  readonly sectorSize: 512 | 4096;
  readonly sectors: number;
  readonly usable: { readonly first: number; readonly end: number };
  readonly grain: Grain;
  /** Unit for FAT data areas, in bytes. */
  readonly unit: number;
  readonly prefersLba: boolean;
  /** What the layout says in numbers. */
  readonly figures: Figures;
  readonly contents: Contents;
}

/** A claim on what is left: `root` is the slot whose share it follows, itself where it has its own. */
export interface ShareAsked {
  readonly weight: number;
  /** In sectors. */
  readonly least: number;
  readonly most: number;
  readonly root: string;
}

/** A slot with what it asks. */
export interface Ask {
  readonly slot: FlowSlot;
  readonly rule: SizeRule;
  /** Its own grain in sectors, or that of the layout. */
  readonly grain: number;
  /** Where the first partition of the medium may start off the grain. */
  readonly firstAt: number | undefined;
  readonly endsOnGrain: boolean;
  /** Sectors from the record of a logical partition to its start; 0 for every other slot. */
  readonly lead: number;
  /** The record stands directly behind what precedes it. */
  readonly packed: boolean;
  readonly pinned: number | undefined;
  /** Sectors, or a share of what is left. */
  readonly wants: number | ShareAsked;
}

/** The slot that a name means: the first of that name. */
function named(layout: Layout, name: string): Slot | undefined {
  return layout.slots.find((slot) => slot.name === name);
}

/** The slot whose size a chain of `same as` ends in; undefined where the chain names nobody or itself. */
export function sizeRootOf(layout: Layout, slot: FlowSlot): Slot | undefined {
  const seen = new Set<string>();
  let current: Slot | undefined = slot;
  while (current && current.kind !== 'raw') {
    const { size: rule } = flowFigures(current, layout.medium.logicalSector);
    if (rule.kind !== 'same') return current;
    if (seen.has(current.id)) return undefined;
    seen.add(current.id);
    current = named(layout, rule.as);
  }
  return current;
}

/** Sectors that the rule of a slot means by itself; undefined for a share of what is left. */
function fixedSectors(
  slot: FlowSlot,
  rule: SizeRule,
  { sectorSize, usable, grain, figures: { memory } }: Ground,
): number | undefined {
  switch (rule.kind) {
    case 'exact':
      return amountInSectors(rule.amount, sectorSize);
    case 'percent': {
      const share = shareOf(rule.share, usable.end - usable.first);
      return alignDown(share, grain.sectors) || Math.max(1, share);
    }
    case 'memory':
      return memory === undefined ? grain.sectors : Math.ceil(memoryBytes(rule.factor, memory) / sectorSize);
    case 'image':
      return Math.max(1, Math.ceil((preparedBytes(slot) ?? grain.bytes) / sectorSize));
    default:
      return undefined;
  }
}

function wants(slot: FlowSlot, rule: SizeRule, ground: Ground, got: ReadonlyMap<string, number>): Ask['wants'] {
  const { layout, sectorSize, grain } = ground;
  const root = rule.kind === 'same' ? sizeRootOf(layout, slot) : slot;
  if (!root) return grain.sectors;
  if (root.kind === 'raw') return Math.ceil(rawFigures(root, sectorSize).length / sectorSize);
  const asked = root === slot ? rule : flowFigures(root, sectorSize).size;
  const fixed = fixedSectors(root, asked, ground);
  if (fixed !== undefined) return fixed;
  const known = root === slot ? undefined : got.get(root.id);
  if (known !== undefined) return known;
  const bounds = asked.kind === 'rest' ? asked : { weight: 1, atLeast: undefined, atMost: undefined };
  const least = bounds.atLeast ? amountInSectors(bounds.atLeast, sectorSize) : grain.sectors;
  const most = bounds.atMost ? amountInSectors(bounds.atMost, sectorSize) : Number.MAX_SAFE_INTEGER;
  return { weight: bounds.weight, least, most, root: root.id };
}

/** Sectors from the record of a kept logical partition to its start. */
function foundLead(slot: FlowSlot, pinned: number | undefined, { layout }: Ground): number | undefined {
  const entry = foundOf(layout, slot);
  if (!entry) return undefined;
  // One that comes into a chain needs the sector before it, and has no more than that for certain.
  return entry.recordAt !== undefined && entry.at === pinned ? entry.at - entry.recordAt : 1;
}

/** What a slot asks. `got` holds sizes of slots of other runs that are known already. */
export function askOf(slot: FlowSlot, ground: Ground, got: ReadonlyMap<string, number>): Ask {
  const { layout, sectorSize, grain } = ground;
  const { table } = layout;
  const { size: rule, at, grain: asked } = flowFigures(slot, sectorSize);
  const own = asked === undefined ? undefined : Math.max(1, Math.round(asked / sectorSize));
  const isLogical = slot.kind === 'partition' && slot.logical === true && table.kind === 'mbr';
  const packed = isLogical && table.packed === true;
  const size = own ?? grain.sectors;
  const pinned = at === undefined ? undefined : Math.ceil(at / sectorSize);
  const lead = packed ? 1 : own === undefined ? (grain.first ?? size) : size;
  return {
    slot,
    rule,
    grain: size,
    firstAt: own === undefined ? grain.first : undefined,
    endsOnGrain: !isLocked(slot) && (slot.endsOnGrain === true || (own === undefined && grain.rule === 'cylinders')),
    lead: isLogical ? (foundLead(slot, pinned, ground) ?? lead) : 0,
    packed,
    pinned,
    wants: wants(slot, rule, ground, got),
  };
}

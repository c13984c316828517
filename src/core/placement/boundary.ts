/** Moving a boundary: from a sector that a person points at to the edit that puts it there. */
import type { Edit } from '../layout/edits';
import { isLocked } from '../layout/kept';
import { alignDown, alignUp } from '../quantity/integers';
import { exactText } from '../quantity/units';
import type { Placed, Placement } from './placement';

/** A boundary that can be moved: the end of `upper`. */
export interface Boundary {
  readonly upper: Placed;
  /** The slot that begins there, when one of the same run does. */
  readonly lower?: Placed;
  /** Sectors on which the boundary may lie; both are on the grain, but for the end of the medium. */
  readonly least: number;
  readonly most: number;
}

/** What moving a boundary to a sector means. */
export interface BoundaryMove {
  readonly sector: number;
  readonly upperSectors: number;
  readonly lowerSectors: number | undefined;
  readonly edit: Edit;
}

/** A slot that stands where it does whatever lies ahead of it. */
function isFixed(placed: Placed): boolean {
  return placed.slot.kind === 'raw' || placed.startReason.rule === 'pinned';
}

/** Sectors that the record of a logical partition takes ahead of it. */
function leadOf({ start, recordAt }: Placed): number {
  return recordAt === undefined ? 0 : start - recordAt;
}

/** The last sector on which a slot may begin so that something of it is left. */
function lastStart(lower: Placed, grain: number): number {
  const end = lower.start + lower.sectors - leadOf(lower);
  return Math.min(end - grain, alignDown(end - 1, lower.startReason.grain));
}

/**
 * The boundary below a slot; undefined for raw ranges, which are not moved but given a place, and
 * where it could not move without leaving nothing of one of the two.
 */
export function boundaryBelow(placement: Placement, id: string): Boundary | undefined {
  const index = placement.placed.findIndex((one) => one.slot.id === id);
  const upper = placement.placed[index];
  if (!upper || upper.slot.kind === 'raw' || isLocked(upper.slot)) return undefined;
  const next = placement.placed[index + 1];
  const lower = next && !isFixed(next) ? next : undefined;
  const runEnd = next && !lower ? next.start - leadOf(next) : placement.usable.end;
  const grain = placement.grain.sectors;
  const most = lower ? lastStart(lower, grain) : runEnd;
  if (most <= upper.start || (lower && most < upper.start + grain)) return undefined;
  return { upper, ...(lower && { lower }), least: Math.min(upper.start + grain, most), most };
}

function setSize({ sectorSize }: Placement, { slot }: Placed, sectors: number): Edit {
  return { do: 'change slot', id: slot.id, patch: { size: exactText(sectors * sectorSize, sectorSize) } };
}

/** The edit that lets a slot end ahead of a sector: a position stays a position. */
function endAt(placement: Placement, placed: Placed, sector: number): Edit {
  const { sectorSize } = placement;
  if (placed.rule?.kind !== 'ending') return setSize(placement, placed, sector - placed.start);
  const size = `ending at ${exactText(sector * sectorSize, sectorSize)}`;
  return { do: 'change slot', id: placed.slot.id, patch: { size } };
}

/** True when no other slot of the same run shares the rest with this one. */
function isOnlyShare(placement: Placement, id: string): boolean {
  let sharers: string[] = [];
  for (const placed of placement.placed) {
    const { slot, rule } = placed;
    if (isFixed(placed)) {
      if (sharers.includes(id)) break;
      sharers = [];
    }
    if (rule?.kind === 'rest' || rule?.kind === 'same') sharers.push(slot.id);
    if (rule?.kind !== 'ending') continue;
    if (sharers.includes(id)) return false;
    sharers = [];
  }
  return sharers.length === 1 && sharers[0] === id;
}

/**
 * Moves a boundary to the multiple of the grain nearest to `sector`, within its limits. The
 * slot that takes the rest goes on taking it where that gives the same result; sizes on both
 * sides change against each other, so that nothing behind them moves.
 */
export function moveBoundary(placement: Placement, boundary: Boundary, sector: number): BoundaryMove {
  const { upper, lower, least, most } = boundary;
  const grain = placement.grain.sectors;
  const snapped = sector >= most ? most : Math.round(sector / grain) * grain;
  const to = Math.min(most, Math.max(least, snapped));
  const upperSectors = to - upper.start;
  const lowerStart = lower && alignUp(to, lower.startReason.grain) + leadOf(lower);
  const lowerSectors = lower && lower.start + lower.sectors - lowerStart!;
  const edits: Edit[] = [];
  // A share and a position give way by themselves; everything else would push what lies behind it.
  const lowerGivesWay = lower?.rule?.kind === 'rest' || lower?.rule?.kind === 'ending';
  const upperAbsorbs =
    upper.rule?.kind === 'rest' && lower !== undefined && !lowerGivesWay && isOnlyShare(placement, upper.slot.id);
  const fillsTheEnd = !lower && upper.rule?.kind === 'rest' && to === most;
  if (!upperAbsorbs && !fillsTheEnd) edits.push(endAt(placement, upper, to));
  if (lower && !lowerGivesWay && lowerSectors !== undefined) edits.push(setSize(placement, lower, lowerSectors));
  return { sector: to, upperSectors, lowerSectors, edit: { do: 'several', edits } };
}

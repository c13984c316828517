/** Moving a boundary: from a sector that a person points at to the edit that puts it there. */
import type { Edit } from '../layout/edits';
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

/** The boundary below a slot; undefined for raw ranges, which are not moved but given a place. */
export function boundaryBelow(placement: Placement, id: string): Boundary | undefined {
  const index = placement.placed.findIndex((one) => one.slot.id === id);
  const upper = placement.placed[index];
  if (!upper || upper.slot.kind === 'raw') return undefined;
  const next = placement.placed[index + 1];
  const lower = next && next.slot.kind !== 'raw' ? next : undefined;
  const runEnd = next?.slot.kind === 'raw' ? next.start : placement.usable.end;
  const grain = placement.grain.sectors;
  const most = lower ? lower.start + lower.sectors - grain : runEnd;
  return { upper, ...(lower && { lower }), least: upper.start + grain, most: Math.max(most, upper.start + grain) };
}

function setSize(placement: Placement, placed: Placed, sectors: number): Edit {
  const size = exactText(sectors * placement.sectorSize, placement.sectorSize);
  return { do: 'change slot', id: placed.slot.id, patch: { size } };
}

/** True when no other slot of the same run shares the rest with this one. */
function isOnlyShare(placement: Placement, id: string): boolean {
  let sharers: string[] = [];
  for (const { slot, rule } of placement.placed) {
    if (slot.kind === 'raw') {
      if (sharers.includes(id)) break;
      sharers = [];
    } else if (rule?.kind === 'rest') sharers.push(slot.id);
  }
  return sharers.length === 1 && sharers[0] === id;
}

/**
 * Moves a boundary to the multiple of the grain nearest to `sector`, within its limits. The
 * slot that takes the rest goes on taking it where that gives the same result; exact sizes on
 * both sides change against each other, so that nothing behind them moves.
 */
export function moveBoundary(placement: Placement, boundary: Boundary, sector: number): BoundaryMove {
  const { upper, lower, least, most } = boundary;
  const grain = placement.grain.sectors;
  const snapped = sector >= most ? most : Math.round(sector / grain) * grain;
  const to = Math.min(most, Math.max(least, snapped));
  const upperSectors = to - upper.start;
  const lowerSectors = lower && lower.start + lower.sectors - to;
  const edits: Edit[] = [];
  const upperAbsorbs =
    upper.rule?.kind === 'rest' && lower?.rule?.kind === 'exact' && isOnlyShare(placement, upper.slot.id);
  const fillsTheEnd = !lower && upper.rule?.kind === 'rest' && to === most;
  if (!upperAbsorbs && !fillsTheEnd) edits.push(setSize(placement, upper, upperSectors));
  if (lower?.rule?.kind === 'exact' && lowerSectors !== undefined) edits.push(setSize(placement, lower, lowerSectors));
  return { sector: to, upperSectors, lowerSectors, edit: { do: 'several', edits } };
}

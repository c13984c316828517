/**
 * Laying a run: slots one behind the other between two fixed places. Starts are rounded up to
 * the grain of their slot, a logical partition leaves room for its record, fixed sizes are kept
 * to the sector, and what is left is divided among the shares.
 */
import { alignDown, alignUp } from '../quantity/integers';
import type { Ask, ShareAsked } from './asks';
import { divide, type Share } from './share';

/** Where a slot of a run lies. Sectors. */
export interface Spot {
  readonly start: number;
  readonly sectors: number;
  /** Sectors between what precedes it and its start. */
  readonly cost: number;
  /** Sector of the record of a logical partition. */
  readonly recordAt: number | undefined;
  /** What bound its share, if anything. */
  readonly bound: Share['bound'];
}

const isShare = (wants: Ask['wants']): wants is ShareAsked => typeof wants !== 'number';

function onGrain(cursor: number, { grain, firstAt }: Ask): number {
  return firstAt !== undefined && cursor <= firstAt ? firstAt : alignUp(cursor, grain);
}

/** First sector of a slot behind `cursor`, and of its record where it is logical. */
function startBehind(cursor: number, ask: Ask): { start: number; recordAt: number | undefined } {
  const { lead, packed, pinned } = ask;
  if (pinned !== undefined) return { start: pinned, recordAt: lead > 0 ? pinned - lead : undefined };
  if (lead === 0) return { start: onGrain(cursor, ask), recordAt: undefined };
  const recordAt = packed ? cursor : onGrain(cursor, ask);
  return { start: recordAt + lead, recordAt };
}

function lay(asks: readonly Ask[], sizes: readonly number[], from: number): Spot[] {
  let cursor = from;
  return asks.map((ask, i) => {
    const { start, recordAt } = startBehind(cursor, ask);
    const wanted = start + sizes[i]!;
    const end = ask.endsOnGrain ? alignUp(wanted, ask.grain) : wanted;
    const spot = { start, sectors: end - start, cost: start - cursor, recordAt, bound: undefined };
    cursor = end;
    return spot;
  });
}

function endOf(spots: readonly Spot[], from: number): number {
  const last = spots.at(-1);
  return last ? last.start + last.sectors : from;
}

/** Shares that must come out equal are one claim, as wide as there are of them. */
interface Group {
  readonly root: string;
  readonly members: number;
  readonly weight: number;
  readonly least: number;
  readonly most: number;
}

function groupsOf(asks: readonly Ask[], unit: number): Group[] {
  const groups = new Map<string, Group>();
  for (const { wants } of asks) {
    if (!isShare(wants)) continue;
    const least = Math.max(1, Math.ceil(wants.least / unit));
    const most = Math.max(least, Math.floor(wants.most / unit));
    const members = (groups.get(wants.root)?.members ?? 0) + 1;
    groups.set(wants.root, { root: wants.root, members, weight: wants.weight, least, most });
  }
  return [...groups.values()];
}

/** Units of every share of a space, by root. */
function divided(space: number, groups: readonly Group[]): Map<string, Share> {
  const claims = groups.map(({ members, weight, least, most }) => ({
    weight: weight * members,
    least: least * members,
    most: Math.min(Number.MAX_SAFE_INTEGER, most * members),
  }));
  const shares = divide(space, claims);
  return new Map(
    groups.map(({ root, members }, i) => [
      root,
      { units: Math.floor(shares[i]!.units / members), bound: shares[i]!.bound },
    ]),
  );
}

/** Times that the space is made smaller before the certain answer is taken. */
const TRIES = 12;

/** A run in sectors: `until` is the sector behind it. */
export interface RunRoom {
  readonly from: number;
  readonly until: number;
}

/**
 * Places a run. With one grain for all, the first division is exact; grains of one's own and
 * records change the padding with the sizes, so the space shrinks until everything lies inside.
 */
export function placeRun(asks: readonly Ask[], { from, until: limit }: RunRoom, unit: number): Spot[] {
  const groups = groupsOf(asks, unit);
  const last = asks.at(-1);
  const fixed = asks.map(({ wants }) => (isShare(wants) ? 0 : wants));
  const empty = lay(asks, fixed, from);
  if (groups.length === 0 || !last) return empty;
  const until = last.endsOnGrain ? alignDown(limit, last.grain) : limit;
  const leasts = groups.reduce((sum, one) => sum + one.least * one.members, 0);
  let space = until - endOf(empty, from);
  for (let tries = 0; ; tries++) {
    const units = Math.floor(Math.max(0, space) / unit);
    const shares = divided(units, groups);
    const shareOf = ({ wants }: Ask) => (isShare(wants) ? shares.get(wants.root) : undefined);
    const sizes = asks.map((ask, i) => {
      const share = shareOf(ask);
      return share ? share.units * unit : fixed[i]!;
    });
    const spots = lay(asks, sizes, from);
    const over = endOf(spots, from) - until;
    if (over <= 0 || units <= leasts)
      return spots.map((spot, i) =>
        withTail(spot, asks[i]!, shareOf(asks[i]!)?.bound, i === asks.length - 1 ? -over : 0),
      );
    const most = asks.reduce((sum, ask) => sum + ask.grain + ask.lead, 0);
    space =
      tries < TRIES
        ? space - alignUp(over, unit)
        : Math.min(space - unit, until - from - fixed.reduce((a, b) => a + b, 0) - most);
  }
}

/** The last slot of a run may end off the grain, because nothing starts behind it: it takes what no unit fills. */
function withTail(spot: Spot, ask: Ask, bound: Share['bound'], tail: number): Spot {
  const { wants, slot } = ask;
  if (!isShare(wants) || wants.root !== slot.id) return { ...spot, bound };
  if (tail <= 0 || ask.endsOnGrain) return { ...spot, bound };
  return { ...spot, sectors: Math.min(Math.max(wants.most, spot.sectors), spot.sectors + tail), bound };
}

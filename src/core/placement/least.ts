/**
 * The smallest medium that a layout fits on. The need of a layout grows with the medium (per
 * cent, grains of large media), but slower than the medium: so the least size is the least
 * fixed point of "what is needed here", and every step below it is a lower bound.
 */
import { GIB, MIB } from '../quantity/units';
import { madeAs } from '../filesystems/kinds';
import type { Layout } from '../layout/document';
import { exactBytes } from '../quantity/size-language';
import { nominalCapacity, SOLD_SIZES, usualFloor } from '../medium/medium';
import type { Placement } from './placement';
import { place } from './place';

/** Capacities from which on other rules for the grain hold, in bytes. */
const REGIMES = [0, 4 * MIB, 64 * MIB, GIB, Number.MAX_SAFE_INTEGER] as const;
/** More steps are not needed for any layout of whole grains; who needs more does not fit anywhere. */
const STEPS = 500;

/** The layout on a medium of exactly this many sectors. */
export function onSectors(layout: Layout, sectors: number): Layout {
  const exact = sectors === 1 ? '1 sector' : `${sectors} sectors`;
  return { ...layout, medium: { ...layout.medium, capacity: { exact } } };
}

/** Part of the medium that slots ask for in per cent. */
function percentOf({ placed }: Placement): number {
  return placed.reduce(
    (sum, { rule }) =>
      rule?.kind === 'percent' ? sum + Number(rule.share.numerator) / Number(rule.share.denominator) : sum,
    0,
  );
}

/** Sectors that this medium lacks for certain; 0 where the layout fits, undefined where no medium helps. */
function lacking(placement: Placement): number | undefined {
  if (placement.misfits.some(({ against }) => against.kind !== 'medium')) return undefined;
  const missing = Math.max(0, ...placement.misfits.map((one) => one.shortBy));
  if (missing > 0) {
    const percent = percentOf(placement);
    // What rounding may give back on a larger medium: a grain for each share, and for each start.
    const rounding = placement.placed.reduce(
      (sum, { startReason, start, recordAt }) =>
        sum + placement.grain.sectors + startReason.grain + (recordAt === undefined ? 0 : start - recordAt),
      0,
    );
    if (percent < 1) return Math.max(missing, Math.floor((missing - rounding) / (1 - percent)));
    // Shares of all of it leave room for others only by what is rounded off.
    return missing <= rounding ? missing : undefined;
  }
  const volumes = placement.placed.map(({ made, rule, sectors }) => {
    const fat = madeAs({ made }, 'fat');
    if (!fat || fat.ok || fat.error.reason !== 'too few clusters') return 0;
    const isShare = rule?.kind === 'rest' || rule?.kind === 'percent' || rule?.kind === 'same';
    return isShare && fat.error.least !== undefined ? Math.max(1, fat.error.least - sectors) : 0;
  });
  return Math.max(0, ...volumes);
}

/** Sectors that the parts of the table need before anything else. */
function first(layout: Layout): number {
  return layout.table.kind === 'gpt' ? 8 : 2;
}

/**
 * The fewest sectors, `atLeast` so many, of a medium of this kind and sector size on which the layout fits with
 * every bound kept; undefined where none does, because slots lie over fixed places, or ask
 * for the whole medium and more.
 */
export function leastSectors(layout: Layout, atLeast = 0): number | undefined {
  const sectorSize = layout.medium.logicalSector;
  for (let regime = 0; regime + 1 < REGIMES.length; regime++) {
    const [from, until] = [REGIMES[regime]!, REGIMES[regime + 1]!];
    let sectors = Math.max(first(layout), Math.ceil(from / sectorSize), atLeast);
    for (let step = 0; step < STEPS && sectors * sectorSize < until; step++) {
      const more = lacking(place(onSectors(layout, sectors)));
      if (more === undefined) break;
      if (more === 0) return sectors;
      sectors += more;
    }
  }
  return undefined;
}

/** The smallest size that such media are sold in and that holds the layout, larger than the one it is for; as a size text. */
export function nextNominal(layout: Layout): string | undefined {
  const { capacity, kind, logicalSector } = layout.medium;
  if (!('nominal' in capacity)) return undefined;
  const now = exactBytes(capacity.nominal, logicalSector);
  const floorNow = nominalCapacity(kind, now, capacity.floor ?? usualFloor(kind), logicalSector);
  const least = leastSectors(layout, Math.floor(floorNow / logicalSector));
  if (least === undefined) return undefined;
  const floor = capacity.floor ?? usualFloor(kind);
  const size = SOLD_SIZES[kind].find((gigabytes) => {
    if (gigabytes * 1e9 <= now) return false;
    const bytes = nominalCapacity(kind, gigabytes * 1e9, floor, logicalSector);
    // Shares of all of the medium fit where rounding allows it, not on every larger one.
    return bytes >= least * logicalSector && lacking(place(onSectors(layout, bytes / logicalSector))) === 0;
  });
  return size === undefined ? undefined : `${size} GB`;
}

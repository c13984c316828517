/** One layout on several media side by side: what grows, what breaks, and what is spare on each. */
import { MIB } from '../quantity/units';
import { check } from '../findings/layout/check';
import { type Finding, stopsAmong } from '../findings/layout/finding';
import type { Layout, MediumSpec } from '../layout/document';
import { mediumOf } from '../layout/medium-spec';
import { exactBytes } from '../quantity/size-language';
import { SOLD_SIZES } from '../medium/medium';
import { leastSectors } from '../placement/least';
import { place } from '../placement/place';
import type { Placement } from '../placement/placement';
import { grouped } from '../quantity/units';

/** The layout on one medium. */
export interface FitColumn {
  readonly medium: MediumSpec;
  readonly placement: Placement;
  readonly findings: readonly Finding[];
  /** Neither a stop nor a misfit. */
  readonly works: boolean;
  /** Bytes that the medium has more than the layout needs at least; negative where it lacks them. */
  readonly slack: number | undefined;
  /** Why an image made for the layout's own medium cannot be used here, whatever its size. */
  readonly moved: string | undefined;
}

/** Slots whose size differs between media, with their bytes on each. */
export interface Growth {
  readonly id: string;
  readonly name: string;
  readonly bytes: readonly number[];
}

/** The fit of a layout on a set of media. */
export interface Fit {
  readonly columns: readonly FitColumn[];
  readonly growing: readonly Growth[];
  /** Bytes of the smallest medium of the layout's kind and sectors that works; undefined where none does. */
  readonly least: number | undefined;
}

function movedText({ medium }: Layout, { logicalSector }: MediumSpec): string | undefined {
  if (medium.logicalSector === logicalSector) return undefined;
  return `An image for sectors of ${grouped(medium.logicalSector)} bytes cannot be read on sectors of ${grouped(logicalSector)}: it must be made anew.`;
}

/** Places and checks a layout on every medium of a set. */
export function fitOn(layout: Layout, media: readonly MediumSpec[]): Fit {
  const leasts = new Map<string, number | undefined>();
  const leastFor = (spec: MediumSpec): number | undefined => {
    // The least size depends on everything but the capacity.
    const key = JSON.stringify({ ...spec, capacity: undefined });
    if (!leasts.has(key)) {
      const sectors = leastSectors({ ...layout, medium: spec });
      leasts.set(key, sectors === undefined ? undefined : sectors * spec.logicalSector);
    }
    return leasts.get(key);
  };
  const columns = media.map((medium): FitColumn => {
    const placement = place({ ...layout, medium });
    const findings = check(placement);
    const least = leastFor(medium);
    return {
      medium,
      placement,
      findings,
      works: stopsAmong(findings).length === 0,
      slack: least === undefined ? undefined : mediumOf(medium).capacity - least,
      moved: movedText(layout, medium),
    };
  });
  const growing = layout.slots.flatMap(({ id, name }): Growth[] => {
    const bytes = columns.map(({ placement }) => {
      const span = placement.placed.find((one) => one.slot.id === id)!.span;
      return span.end - span.start;
    });
    return new Set(bytes).size > 1 ? [{ id, name, bytes }] : [];
  });
  return { columns, growing, least: leastFor(layout.medium) };
}

/** Most media of a set. */
export const FIT_LIMIT = 12;

/**
 * Media to begin with: the layout's own, and the sizes around it that such media are sold in.
 * Image files have any size: half, the same, twice and four times as much.
 */
export function usualSet({ medium }: Layout): MediumSpec[] {
  const own = mediumOf(medium).capacity;
  if (medium.kind === 'image')
    return [0.5, 1, 2, 4].map((times) => {
      const mib = Math.max(1, Math.round((own * times) / MIB));
      return times === 1 ? medium : { ...medium, capacity: { exact: `${mib} MiB` } };
    });
  const nominal = 'nominal' in medium.capacity ? exactBytes(medium.capacity.nominal, medium.logicalSector) : own;
  const sold = SOLD_SIZES[medium.kind];
  const at = sold.findIndex((gigabytes) => gigabytes * 1e9 >= nominal);
  const near = sold
    .slice(Math.max(0, at - 1), at < 0 ? undefined : at + 4)
    .filter((gigabytes) => gigabytes * 1e9 !== nominal);
  const others = (at < 0 ? sold.slice(-3) : near).map((gigabytes): MediumSpec => ({
    ...medium,
    capacity: { nominal: `${gigabytes} GB` },
  }));
  const smaller = others.filter((one) => mediumOf(one).capacity < own);
  return [...smaller, medium, ...others.slice(smaller.length)].slice(0, FIT_LIMIT);
}

/**
 * Geometry of the column on screen, in CSS pixels. Two scales: *true*, where a stratum is as
 * tall as its share of the medium, and *legible*, where every stratum has room for its line.
 */

/** What matters of a stratum here: slots have lines of their own, and `sectors` their size. */
export interface Layer {
  readonly kind: string;
  readonly sectors: number;
}

/** A vertical stretch. */
export interface Band {
  readonly y: number;
  readonly height: number;
}

export type Scale = 'legible' | 'true';

/** Height of lines about things that are no slots: table, gaps. */
export const THIN = 24;
/** Least height of a slot's line: two lines of text. */
export const LINE_HEIGHT = 46;
/** Least height of a stratum in the true scale: it must be visible at all. */
const HAIRLINE = 1;
/** A stratum is drawn broken when a pixel of it stands for so many times more than in the slot above. */
const BREAK_RATIO = 4;

function stacked(heights: readonly number[]): Band[] {
  let y = 0;
  return heights.map((height) => {
    const band = { y, height };
    y += height;
    return band;
  });
}

/** Lower edge of the last band. */
export function depthOf(bands: readonly Band[]): number {
  const last = bands[bands.length - 1];
  return last ? last.y + last.height : 0;
}

/** Lines of text, one a stratum; room beyond the least is shared by the logarithm of the size: by slots, or by gaps where there are none. */
export function legibleBands(strata: readonly Layer[], available: number): Band[] {
  const least = strata.map((one) => (one.kind === 'slot' ? LINE_HEIGHT : THIN));
  const growing = strata.some((one) => one.kind === 'slot') ? 'slot' : 'gap';
  const weights = strata.map((one) => (one.kind === growing ? Math.log2(1 + one.sectors) ** 2 : 0));
  const total = weights.reduce((sum, weight) => sum + weight, 0);
  const spare = Math.max(0, available - least.reduce((sum, height) => sum + height, 0));
  const grown = least.map((height, i) => (total === 0 ? height : height + Math.floor((spare * weights[i]!) / total)));
  return stacked(grown);
}

/** A layer that other columns may have too, by its key. */
export interface Keyed extends Layer {
  readonly key: string | undefined;
}

/**
 * Legible bands of columns that stand side by side: what has the same key begins level in all of them. What
 * lies ahead of it in the shorter columns is drawn taller; a key that stands in another order somewhere is left.
 */
export function levelBands(columns: readonly (readonly Keyed[])[], available: number): Band[][] {
  const bands = columns.map((layers) => legibleBands(layers, available));
  const last = columns.map(() => -1);
  for (const { key } of columns[0] ?? []) {
    if (key === undefined) continue;
    const at = columns.map((layers) => layers.findIndex((one) => one.key === key));
    if (at.some((i, c) => i <= last[c]!)) continue;
    const top = Math.max(...at.map((i, c) => bands[c]![i]!.y));
    at.forEach((i, c) => {
      bands[c] = pushedDown(bands[c]!, i, top - bands[c]![i]!.y);
      last[c] = i;
    });
  }
  return bands;
}

/** Bands from one on lower by so much; the one ahead of it takes the room. */
function pushedDown(bands: readonly Band[], from: number, by: number): Band[] {
  if (by === 0 || from === 0) return [...bands];
  return bands.map(({ y, height }, i) => {
    if (i === from - 1) return { y, height: height + by };
    return i < from ? { y, height } : { y: y + by, height };
  });
}

/** Heights in proportion to sectors; what would vanish gets a hairline. */
export function trueBands(strata: readonly Layer[], height: number): Band[] {
  const total = strata.reduce((sum, one) => sum + one.sectors, 0);
  const small = (one: Layer) => (one.sectors / total) * height < HAIRLINE;
  const hairlines = strata.filter(small).length * HAIRLINE;
  const sectors = strata.filter((one) => !small(one)).reduce((sum, one) => sum + one.sectors, 0);
  return stacked(strata.map((one) => (small(one) ? HAIRLINE : (one.sectors / sectors) * (height - hairlines))));
}

/**
 * Which bands of the legible scale are drawn broken: where a pixel stands for much more than
 * in the slot above, so that the eye must not compare their heights.
 */
export function brokenBands(strata: readonly Layer[], bands: readonly Band[]): boolean[] {
  let above: number | undefined;
  return strata.map((one, i) => {
    if (one.kind !== 'slot' || one.sectors === 0) return false;
    const perPixel = one.sectors / bands[i]!.height;
    const jumps = above !== undefined && perPixel > above * BREAK_RATIO;
    above = perPixel;
    return jumps;
  });
}

/** Two bands that meet at a boundary, and the sectors at their three edges. */
export interface Neighbours {
  readonly upper: Band;
  readonly lower: Band;
  readonly first: number;
  readonly boundary: number;
  readonly end: number;
}

/**
 * The sector under height `y` while the boundary between two bands is moved. Each band has a
 * scale of its own, so that the boundary stays where it is until the pointer moves.
 */
export function sectorAt(y: number, { upper, lower, first, boundary, end }: Neighbours): number {
  const within = (band: Band, from: number, to: number) =>
    band.height === 0 ? from : from + Math.min(1, Math.max(0, (y - band.y) / band.height)) * (to - from);
  return Math.round(y < lower.y ? within(upper, first, boundary) : within(lower, boundary, end));
}

/** The height of a sector between two bands: the inverse of `sectorAt`. */
export function heightAt(sector: number, { upper, lower, first, boundary, end }: Neighbours): number {
  const within = (band: Band, from: number, to: number) =>
    to === from ? band.y : band.y + ((sector - from) / (to - from)) * band.height;
  return sector < boundary ? within(upper, first, boundary) : within(lower, boundary, end);
}

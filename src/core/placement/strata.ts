/** The strata of a placement: the whole medium from the first sector to the last, in disk order. */
import { isRaw, type Placed, type Stratum } from './placement';

function gap(start: number, end: number, next: Placed | undefined, grain: number): Stratum {
  const sectors = end - start;
  if (next && isRaw(next))
    return {
      kind: 'gap',
      start,
      sectors,
      cause: 'before raw range',
      text: `Free, because ${next.slot.name} stands at a fixed place behind it.`,
    };
  if (next)
    return {
      kind: 'gap',
      start,
      sectors,
      cause: next.startReason.cost === sectors ? 'grain' : 'unclaimed',
      text: next.startReason.text,
    };
  return sectors < grain
    ? { kind: 'gap', start, sectors, cause: 'grain', text: 'Less than one grain: no partition could start here.' }
    : { kind: 'gap', start, sectors, cause: 'unclaimed', text: 'No slot claims this space.' };
}

/**
 * Strata by depth. Slots that overlap are both there, the earlier start first; gaps are only
 * where nothing lies. A slot that got no sectors still has its stratum of height zero.
 */
export function strataOf(placed: readonly Placed[], sectors: number, grain: number): Stratum[] {
  const strata: Stratum[] = [{ kind: 'table', start: 0, sectors: 1 }];
  let cursor = 1;
  for (const one of [...placed].sort((a, b) => a.span.start - b.span.start)) {
    if (one.start > cursor) strata.push(gap(cursor, one.start, one, grain));
    strata.push({ kind: 'slot', start: one.start, sectors: one.sectors, placed: one });
    cursor = Math.max(cursor, one.start + one.sectors);
  }
  if (cursor < sectors) strata.push(gap(cursor, sectors, undefined, grain));
  return strata;
}

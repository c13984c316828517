/** The strata of a placement: the whole medium from the first sector to the last, in disk order. */
import type { TableKind } from '../layout/vocabulary';
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

/** The medium around the slots. */
export interface Frame {
  readonly table: TableKind;
  readonly sectors: number;
  readonly usable: { readonly first: number; readonly end: number };
}

function tableStrata({ table, sectors, usable }: Frame): { top: Stratum[]; bottom: Stratum[] } {
  if (table === 'none') return { top: [], bottom: [] };
  if (table === 'mbr')
    return { top: [{ kind: 'table', start: 0, sectors: 1, text: 'Sector 0, four entries' }], bottom: [] };
  return {
    top: [{ kind: 'table', start: 0, sectors: usable.first, text: 'Protective sector, header, entries' }],
    bottom: [
      {
        kind: 'table',
        start: usable.end,
        sectors: Math.max(0, sectors - usable.end),
        text: 'Entries and header, copy',
      },
    ],
  };
}

/**
 * Strata by depth. Slots that overlap are both there, the earlier start first; gaps are only
 * where nothing lies. A slot that got no sectors still has its stratum of height zero.
 */
export function strataOf(placed: readonly Placed[], frame: Frame, grain: number): Stratum[] {
  const { top, bottom } = tableStrata(frame);
  const strata: Stratum[] = [...top];
  let cursor = frame.usable.first;
  for (const one of [...placed].sort((a, b) => a.span.start - b.span.start)) {
    if (one.start > cursor) strata.push(gap(cursor, one.start, one, grain));
    strata.push({ kind: 'slot', start: one.start, sectors: one.sectors, placed: one });
    cursor = Math.max(cursor, one.start + one.sectors);
  }
  if (cursor < frame.usable.end) strata.push(gap(cursor, frame.usable.end, undefined, grain));
  return [...strata, ...bottom];
}

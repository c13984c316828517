/** The strata of a placement: the whole medium from the first sector to the last, in disk order. */
import { isLocked } from '../layout/kept';
import type { TableKind } from '../layout/vocabulary';
import type { GptPlaces } from '../tables/gpt';
import { isRaw, type Placed, type Stratum } from './placement';

type Gap = Extract<Stratum, { kind: 'gap' }>;
type TablePart = Extract<Stratum, { kind: 'table' }>;

function gap(start: number, end: number, next: Placed | undefined, grain: number): Gap {
  const at = { kind: 'gap', start, sectors: end - start } as const;
  if (next && isRaw(next))
    return {
      ...at,
      cause: 'before raw range',
      text: `Free, because ${next.slot.name} stands at a fixed place behind it.`,
    };
  if (next?.startReason.rule === 'pinned')
    return {
      ...at,
      cause: 'before pinned slot',
      text: isLocked(next.slot)
        ? `Free: ${next.slot.name}, behind it, is kept.`
        : `Free, because ${next.slot.name} is pinned to a place behind it.`,
    };
  if (next)
    return {
      ...at,
      cause: next.startReason.cost >= at.sectors ? 'grain' : 'unclaimed',
      get text() {
        return next.startReason.text;
      },
    };
  return at.sectors < grain
    ? { ...at, cause: 'grain', text: 'Less than one grain: no partition could start here.' }
    : { ...at, cause: 'unclaimed', text: 'No slot claims this space.' };
}

/** The medium around the slots. */
export interface Frame {
  readonly table: TableKind;
  readonly sectors: number;
  readonly usable: { readonly first: number; readonly end: number };
  readonly gpt: GptPlaces | undefined;
}

const part = (start: number, sectors: number, text: string): TablePart => ({
  kind: 'table',
  start,
  sectors: Math.max(0, sectors),
  text,
});

/** Parts of the table around the slots, and the sector behind those at the start. */
function tableParts({ table, sectors, usable, gpt }: Frame): { top: TablePart[]; bottom: TablePart[] } {
  if (table === 'none') return { top: [], bottom: [] };
  if (!gpt) return { top: [part(0, 1, 'Sector 0, four entries')], bottom: [] };
  const bottom = [part(usable.end, sectors - usable.end, 'Entries and header, copy')];
  if (gpt.array === 2) return { top: [part(0, usable.first, 'Protective sector, header, entries')], bottom };
  return {
    top: [part(0, 2, 'Protective sector, header'), part(gpt.array, gpt.arraySectors, 'Entries')],
    bottom,
  };
}

type Layer = TablePart | Extract<Stratum, { kind: 'slot' }>;

/** Slots with the records of logical partitions ahead of them. */
function layersOf(one: Placed): Layer[] {
  const slot = { kind: 'slot', start: one.start, sectors: one.sectors, placed: one } as const;
  if (one.recordAt === undefined) return [slot];
  return [part(one.recordAt, one.start - one.recordAt, `Record of partition ${one.entry?.number ?? ''}`.trim()), slot];
}

/** By sector; raw ranges of one sector by their first byte. */
function inDepth(a: Layer, b: Layer): number {
  const bytes = a.kind === 'slot' && b.kind === 'slot' ? a.placed.span.start - b.placed.span.start : 0;
  return a.start - b.start || bytes;
}

/**
 * Strata by depth. Slots that overlap are both there, the earlier start first; gaps are only
 * where nothing lies. A slot that got no sectors still has its stratum of height zero.
 */
export function strataOf(placed: readonly Placed[], frame: Frame, grain: number): Stratum[] {
  const { top, bottom } = tableParts(frame);
  const layers = [...top.slice(1), ...placed.flatMap(layersOf)].sort(inDepth);
  const strata: Stratum[] = top.slice(0, 1);
  let cursor = top[0]?.sectors ?? 0;
  const { first } = frame.usable;
  const fill = (end: number, next: Placed | undefined) => {
    // Under a GPT with its entries moved back, partitions cannot begin ahead of them.
    const closed = Math.min(end, first);
    if (cursor < closed && frame.gpt)
      strata.push({
        kind: 'gap',
        start: cursor,
        sectors: closed - cursor,
        cause: next && isRaw(next) ? 'before raw range' : 'closed',
        text: 'Ahead of the entries, where no partition may begin; a loader may.',
      });
    cursor = frame.gpt ? Math.max(cursor, Math.min(end, first)) : cursor;
    if (cursor < end) strata.push(gap(cursor, end, next, grain));
  };
  layers.forEach((layer, i) => {
    const next = layer.kind === 'slot' ? layer.placed : nextSlot(layers, i);
    if (layer.start > cursor) fill(layer.start, next);
    strata.push(layer);
    cursor = Math.max(cursor, layer.start + layer.sectors);
  });
  if (cursor < frame.usable.end) fill(frame.usable.end, undefined);
  return [...strata, ...bottom];
}

function nextSlot(layers: readonly Layer[], from: number): Placed | undefined {
  const next = layers.slice(from).find((one) => one.kind === 'slot');
  return next?.kind === 'slot' ? next.placed : undefined;
}

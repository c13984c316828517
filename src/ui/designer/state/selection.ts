/** What is selected on the screen, and what follows from it. */
import type { Layout } from '@/core/layout/document';
import type { Behind } from '@/core/layout/pasted';

/** What the panel at the side is about. */
export type DesignerSelection =
  | { readonly kind: 'layout' }
  | { readonly kind: 'machine' }
  /** A part of the table; the first where none is said. */
  | { readonly kind: 'table'; readonly start?: number }
  | { readonly kind: 'ledger'; readonly sector: number }
  | { readonly kind: 'history' }
  | { readonly kind: 'slot'; readonly id: string }
  /** Several slots at once; the last one was chosen last. */
  | { readonly kind: 'several'; readonly ids: readonly string[] }
  /** Slots as lines of text, with what was pasted and could not be read. */
  | { readonly kind: 'lines'; readonly begun?: string; readonly behind?: readonly Behind[] }
  | { readonly kind: 'chart' }
  | { readonly kind: 'gap'; readonly start: number };

/** What to select when the selected slot is gone: the one that took its place, else the layout. */
export function neighbour(document: Layout, before: Layout, id: string): DesignerSelection {
  const index = before.slots.findIndex((slot) => slot.id === id);
  const next = document.slots[Math.min(index, document.slots.length - 1)];
  return next ? { kind: 'slot', id: next.id } : { kind: 'layout' };
}

/** A selection of as many slots as there are. */
export function severalOf(ids: readonly string[]): DesignerSelection {
  if (ids.length > 1) return { kind: 'several', ids };
  return ids.length === 1 ? { kind: 'slot', id: ids[0]! } : { kind: 'layout' };
}

/** Ids of the slots that are selected. */
export function idsOf(selection: DesignerSelection): readonly string[] {
  if (selection.kind === 'slot') return [selection.id];
  return selection.kind === 'several' ? selection.ids : [];
}

/** The part of an address that names the selected slot; empty where none is. */
export function slotQuery(selection: DesignerSelection): string {
  const id = idsOf(selection).at(-1);
  return id === undefined ? '' : `?slot=${id}`;
}

/** From a document to what is on the screen: its placement, its findings, and what stays selected. */
import { checkWith } from '@/core/findings/layout/checking';
import type { Layout } from '@/core/layout/document';
import { applyEdit, type Edit } from '@/core/layout/edits';
import { placeKnown, rulesInside } from '../../contents/known';
import type { DesignerState } from './designer';
import { neighbour, severalOf } from './selection';

/** A document with its placement and its findings. */
export function computed(document: Layout) {
  const placement = placeKnown(document);
  return { document, placement, findings: checkWith(rulesInside(), placement) };
}

/** A document with an edit that may be half typed: one that cannot be placed is not shown. */
export function tryEdit(document: Layout, edit: Edit): ReturnType<typeof computed> | undefined {
  try {
    return computed(applyEdit(document, edit));
  } catch {
    return undefined;
  }
}

/** A new document on screen; the selection stays, or goes to what took its place. */
export function shown(document: Layout, { selection, document: before }: DesignerState): Partial<DesignerState> {
  const isThere = (id: string) => document.slots.some((slot) => slot.id === id);
  const isGone = selection.kind === 'slot' && !isThere(selection.id);
  const left = selection.kind === 'several' ? selection.ids.filter(isThere) : [];
  const next = computed(document);
  return {
    ...next,
    base: next.placement,
    ...(isGone && { selection: neighbour(document, before, selection.id) }),
    ...(selection.kind === 'several' && left.length < selection.ids.length && { selection: severalOf(left) }),
  };
}

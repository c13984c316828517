/**
 * The machine of a designer's work, without a browser or a server: what is on screen follows from
 * what the server said last and from the steps that it does not have yet. Steps are plain data with
 * an id each, so that they can be kept over a reload, put on top of a newer revision, and sent
 * again without being taken twice.
 */
import type { LayoutView } from '@/contract/layouts';
import type { Layout } from '@/core/layout/document';
import { applyEdit, type Edit } from '@/core/layout/edits';
import { place } from '@/core/placement/place';

/** A finished gesture that waits for the server. */
export type Step =
  | { readonly id: string; readonly kind: 'edit'; readonly edit: Edit; readonly note: string }
  | { readonly id: string; readonly kind: 'move'; readonly direction: 'undo' | 'redo' };

/** Documents that undo and redo lead to, the nearest last, as far as this page has seen them. */
export interface Beside {
  readonly past: readonly Layout[];
  readonly future: readonly Layout[];
}

/** What the server said last, what it does not have yet, and what lies on both sides of what it said. */
export interface Work {
  readonly view: LayoutView;
  readonly steps: readonly Step[];
  readonly beside?: Beside;
}

/** So many documents are remembered on each side. */
const REMEMBERED = 50;
const NOTHING: Beside = { past: [], future: [] };

/** What edits made of a document: the same ones are asked for again with every step. */
const known = new WeakMap<Edit, { readonly from: Layout; readonly to: Layout | undefined }>();

/** A document with an edit; undefined where the edit makes what cannot be placed. */
export function edited(layout: Layout, edit: Edit): Layout | undefined {
  const before = known.get(edit);
  if (before?.from === layout) return before.to;
  const to = tried(layout, edit);
  known.set(edit, { from: layout, to });
  return to;
}

function tried(layout: Layout, edit: Edit): Layout | undefined {
  try {
    const next = applyEdit(layout, edit);
    const ids = new Set(next.slots.map(({ id }) => id));
    if (ids.size < next.slots.length) return undefined;
    place(next);
    return next;
  } catch {
    return undefined;
  }
}

/**
 * The document as it stands on screen. An undo takes back an edit that waits before it; what it
 * takes back behind that only the server knows, and nothing after it is shown until it has said so.
 */
export function documentOf({ view, steps, beside = NOTHING }: Work): Layout {
  let at = { document: view.document, ...beside };
  for (const step of steps) {
    const next = stepped(at, step);
    if (next) at = next;
    else if (step.kind === 'move') break;
  }
  return at.document;
}

type At = Beside & { readonly document: Layout };

/** Where a step leads; undefined for an edit that says nothing, and for a move that only the server can make. */
function stepped({ document, past, future }: At, step: Step): At | undefined {
  if (step.kind === 'edit') {
    const next = edited(document, step.edit);
    return next && { document: next, past: [...past, document].slice(-REMEMBERED), future: [] };
  }
  const isUndo = step.direction === 'undo';
  const next = (isUndo ? past : future).at(-1);
  if (!next) return undefined;
  return isUndo
    ? { document: next, past: past.slice(0, -1), future: [...future, document] }
    : { document: next, past: [...past, document], future: future.slice(0, -1) };
}

/** The steps without those whose edits say nothing any more, as far as that is known, and those. */
export function applying(work: Work): { readonly work: Work; readonly dropped: readonly Step[] } {
  let document = work.view.document;
  const dropped: Step[] = [];
  for (const step of work.steps) {
    // What follows a move is judged when it has been made.
    if (step.kind === 'move') break;
    const next = edited(document, step.edit);
    if (next) document = next;
    else dropped.push(step);
  }
  if (dropped.length === 0) return { work, dropped };
  return { work: { ...work, steps: work.steps.filter((step) => !dropped.includes(step)) }, dropped };
}

/** The work after the server took its first step. */
export function taken({ view: before, steps, beside = NOTHING }: Work, view: LayoutView): Work {
  const [first] = steps;
  const { past, future } = (first && stepped({ document: before.document, ...beside }, first)) ?? NOTHING;
  return { view, steps: steps.slice(1), beside: { past, future } };
}

/** The work on top of a newer revision, beside which nothing is known, without the steps that the server has. */
export function renewed({ steps }: Work, view: LayoutView): Work {
  return { view, steps: withoutTaken(steps, view), beside: NOTHING };
}

/** Steps that the server does not have: those behind the last one that it says it took. */
export function withoutTaken(steps: readonly Step[], view: LayoutView): readonly Step[] {
  const last = steps.findLastIndex(({ id }) => view.taken.includes(id));
  return steps.slice(last + 1);
}

/** What to say of steps that were left out. */
export function leftOutText(dropped: readonly Step[]): string | undefined {
  if (dropped.length === 0) return undefined;
  const notes = dropped.map((step) => (step.kind === 'edit' ? `“${step.note}”` : step.direction));
  return `Left out, because it does not fit this layout any more: ${notes.slice(0, 3).join(', ')}${notes.length > 3 ? ` and ${notes.length - 3} more` : ''}.`;
}

const FIRST_WAIT = 1000;
const LONGEST_WAIT = 60_000;

/** How long a server that did not answer is left alone, in milliseconds: longer each time. */
export function waitAfter(tries: number): number {
  return Math.min(LONGEST_WAIT, FIRST_WAIT * 2 ** Math.min(tries, 10));
}

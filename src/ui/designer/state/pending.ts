/**
 * Steps that the server does not have yet. Edits are plain data, so they can be kept in the
 * browser over a reload and put on top of a newer revision without losing anything.
 */
import type { Layout } from '@/core/layout/document';
import { applyEdit, type Edit } from '@/core/layout/edits';

/** A finished gesture that waits for the server. */
export type Step =
  | { readonly kind: 'edit'; readonly edit: Edit; readonly note: string }
  | { readonly kind: 'move'; readonly direction: 'undo' | 'redo' };

/**
 * The document as it stands on screen: what the server has, with the edits that wait. An undo
 * or redo that waits hides what comes after it, because its result is not known yet.
 */
export function settledWith(settled: Layout, steps: readonly Step[]): Layout {
  const firstMove = steps.findIndex((step) => step.kind === 'move');
  const edits = firstMove < 0 ? steps : steps.slice(0, firstMove);
  return edits.reduce((layout, step) => (step.kind === 'edit' ? applyEdit(layout, step.edit) : layout), settled);
}

const keyOf = (id: string) => `loess:waiting:${id}`;

interface Kept {
  /** Revision on which the first of them was made. */
  readonly base: number;
  readonly edits: readonly Step[];
}

/** Keeps the waiting edits of a layout in this browser; none removes them. */
export function keepSteps(id: string, base: number, steps: readonly Step[]): void {
  const edits = steps.filter((step) => step.kind === 'edit');
  try {
    if (edits.length === 0) localStorage.removeItem(keyOf(id));
    else localStorage.setItem(keyOf(id), JSON.stringify({ base, edits } satisfies Kept));
  } catch {
    // A browser without storage keeps them in memory only.
  }
}

/**
 * The waiting edits that an earlier page kept for the layout that is now at `revision`, whose
 * note is `note`. One that the server took just before the page went is left out.
 */
export function keptSteps(id: string, revision: number, note: string): Step[] {
  try {
    const kept = JSON.parse(localStorage.getItem(keyOf(id)) ?? 'null') as Kept | null;
    if (!kept || !Array.isArray(kept.edits)) return [];
    const [first, ...rest] = kept.edits as Step[];
    const taken = revision !== kept.base && first?.kind === 'edit' && first.note === note;
    return taken ? rest : kept.edits.slice();
  } catch {
    return [];
  }
}

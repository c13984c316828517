/** What server and interface tell each other about layouts. Types only. */
import type { Layout } from '@/core/layout/document';

/** A layout at its revision in force. */
export interface LayoutView {
  readonly id: string;
  readonly revision: number;
  readonly note: string;
  readonly savedAt: string;
  readonly canUndo: boolean;
  readonly canRedo: boolean;
  readonly document: Layout;
}

/** A revision in the list of them. */
export interface RevisionView {
  readonly number: number;
  readonly note: string;
  /** A name that a person gave it. */
  readonly name: string | null;
  readonly savedAt: string;
  readonly inForce: boolean;
}

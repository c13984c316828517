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
  /** Ids of the steps that were taken last, the newest first. */
  readonly taken: readonly string[];
}

/** A layout whose revision in force cannot be read. */
export interface DamagedLayout {
  readonly id: string;
  readonly revision: number;
  /** What is wrong with it, in a sentence. */
  readonly damaged: string;
  /** The newest revision that can be read, where there is one. */
  readonly readable: number | null;
}

/** A page of the shelf. */
export interface ShelfView {
  readonly layouts: LayoutView[];
  readonly damaged: DamagedLayout[];
  /** Layouts that fit what was asked for, and the pages that they take. */
  readonly total: number;
  readonly pages: number;
}

/** A layout that was put away: nothing of it is deleted. */
export interface AwayLayout {
  readonly id: string;
  readonly name: string;
  readonly revision: number;
  readonly putAwayAt: string;
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

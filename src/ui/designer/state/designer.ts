/** What the state of one designer is. */
import type { StoreApi } from 'zustand/vanilla';
import type { LayoutView } from '@/contract/layouts';
import type { Finding } from '@/core/findings/layout/finding';
import type { Layout } from '@/core/layout/document';
import type { Edit } from '@/core/layout/edits';
import type { Placement } from '@/core/placement/placement';
import type { Scale } from '../../column/geometry';
import type { Step } from './steps';
import type { DesignerSelection } from './selection';

/** Whether the server has what is on screen. */
export type SaveState =
  /** Nobody has looked yet whether this browser keeps something that the server does not have. */
  | { readonly kind: 'opening' }
  | { readonly kind: 'saved' }
  | { readonly kind: 'saving' }
  /** `gone`: the layout is not on the shelf any more. */
  | { readonly kind: 'waiting' | 'gone'; readonly sentence: string };

export interface DesignerState {
  readonly view: LayoutView;
  readonly steps: readonly Step[];
  /** The document on screen: settled, waiting edits, and a gesture that is not finished. */
  readonly document: Layout;
  readonly placement: Placement;
  readonly findings: readonly Finding[];
  /** The same without the unfinished gesture: what a drag starts from. */
  readonly base: Placement;
  readonly selection: DesignerSelection;
  readonly scale: Scale;
  /** The properties at the side are put aside, so that the column has the window. */
  readonly isFolded: boolean;
  readonly save: SaveState;
  /** Something to tell once, for instance that a change was refused. */
  readonly notice: string | undefined;

  /** The state as it is now, of the page that took over from this one where one did: for what ends late. */
  readonly now: () => DesignerState;
  readonly select: (selection: DesignerSelection) => void;
  readonly setScale: (scale: Scale) => void;
  readonly fold: (isFolded: boolean) => void;
  /** Shows an unfinished gesture, or ends showing it. */
  readonly preview: (edit: Edit | undefined) => void;
  /** A finished gesture; what is kept is moved, resized and emptied by no such one. */
  readonly commit: (edit: Edit) => void;
  /** An act on what is kept, after it was said what it costs. */
  readonly act: (edit: Edit) => void;
  readonly undo: () => void;
  readonly redo: () => void;
  readonly dismiss: () => void;
  /** Says something once. */
  readonly notify: (sentence: string) => void;
  /** Begins to live in a window: learns what the document names, takes up what an earlier page left unsaved, and follows other windows. Returns how to end that. */
  readonly resume: () => () => void;
}

export type DesignerStore = StoreApi<DesignerState>;

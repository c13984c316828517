/**
 * State of one designer, and its queue to the server. An edit shows at once; one finished
 * gesture becomes one revision; undo and redo move through the revisions.
 */
import { createStore, type StoreApi } from 'zustand/vanilla';
import { checkWith } from '@/core/findings/layout/checking';
import type { Finding } from '@/core/findings/layout/finding';
import { describeEdit } from '@/core/layout/describe';
import type { Layout } from '@/core/layout/document';
import { applyEdit, type Edit } from '@/core/layout/edits';
import { place } from '@/core/placement/place';
import type { Placement } from '@/core/placement/placement';
import type { LayoutView } from '@/contract/layouts';
import { type Answer, getLayout, moveHead, saveRevision } from '../api';
import type { Scale } from '../column/geometry';
import { knownContents, learn, rulesInside } from '../contents/known';
import { keepSteps, keptSteps, settledWith, type Step } from './pending';

/** What the panel at the side is about. */
export type Selection =
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
  | { readonly kind: 'lines'; readonly begun?: string }
  | { readonly kind: 'chart' }
  | { readonly kind: 'gap'; readonly start: number };

/** Whether the server has what is on screen. */
export type SaveState =
  { readonly kind: 'saved' } | { readonly kind: 'saving' } | { readonly kind: 'waiting'; readonly sentence: string };

export interface DesignerState {
  readonly view: LayoutView;
  readonly steps: readonly Step[];
  /** The document on screen: settled, waiting edits, and a gesture that is not finished. */
  readonly document: Layout;
  readonly placement: Placement;
  readonly findings: readonly Finding[];
  /** The same without the unfinished gesture: what a drag starts from. */
  readonly base: Placement;
  readonly selection: Selection;
  readonly scale: Scale;
  readonly save: SaveState;
  /** Something to tell once, for instance that a change was refused. */
  readonly notice: string | undefined;

  readonly select: (selection: Selection) => void;
  readonly setScale: (scale: Scale) => void;
  /** Shows an unfinished gesture, or ends showing it. */
  readonly preview: (edit: Edit | undefined) => void;
  /** A finished gesture. */
  readonly commit: (edit: Edit) => void;
  readonly undo: () => void;
  readonly redo: () => void;
  readonly dismiss: () => void;
  /** Says something once. */
  readonly tell: (sentence: string) => void;
  /** Begins to live in a window: learns what the document names, and takes up what an earlier page left unsaved. */
  readonly resume: () => void;
}

export type DesignerStore = StoreApi<DesignerState>;

function computed(document: Layout) {
  const placement = place(document, knownContents);
  return { document, placement, findings: checkWith(rulesInside(), placement) };
}

/** A document with an edit that may be half typed: one that cannot be placed is not shown. */
function tryEdit(document: Layout, edit: Edit): ReturnType<typeof computed> | undefined {
  try {
    return computed(applyEdit(document, edit));
  } catch {
    return undefined;
  }
}

/** Asks a silent server again after a while, in milliseconds. */
const RETRY = 2000;
const afterAWhile = (work: () => void): void => {
  setTimeout(work, RETRY);
};

/** The queue of the page that shows a layout, by its id: the next page of the same layout takes its work over. */
const queues = new Map<string, Queue>();

class Queue {
  private busy = false;
  private retired = false;
  /** The step that is on its way. */
  private sending: Promise<Answer<LayoutView>> | undefined;
  /** What must have ended before anything is sent. */
  private ready: Promise<void> = Promise.resolve();

  constructor(
    private readonly store: DesignerStore,
    private readonly later: (work: () => void) => void,
  ) {}

  /** Becomes the queue of its layout. False where no page before it was, so that nothing is to be taken over. */
  takeOver(): boolean {
    const { view } = this.store.getState();
    const before = queues.get(view.id);
    queues.set(view.id, this);
    if (!before || before === this) return false;
    const { sending, store } = before;
    if (!sending && store.getState().steps.length === 0 && store.getState().view.revision === view.revision)
      return true;
    this.ready = this.continued(before);
    void this.run();
    return true;
  }

  /** Goes on where another page was: behind the step that it was sending, on top of what is in force then. */
  private async continued(before: Queue): Promise<void> {
    before.retired = true;
    const { steps } = before.store.getState();
    const isTaken = (await before.sending)?.ok === true;
    const left = isTaken ? steps.slice(1) : steps;
    const newest = await getLayout(this.store.getState().view.id);
    const state = this.store.getState();
    const view = newest.ok ? newest.value : state.view;
    const all = [...left, ...state.steps];
    keepSteps(view.id, view.revision, all);
    this.store.setState({ view, steps: all, ...shown(settledWith(view.document, all), state) });
  }

  async run(): Promise<void> {
    if (this.busy) return;
    this.busy = true;
    await this.ready;
    for (;;) {
      const [step] = this.store.getState().steps;
      if (!step || this.retired) break;
      this.store.setState({ save: { kind: 'saving' } });
      const { view } = this.store.getState();
      this.sending = send(view, step);
      const answer = await this.sending;
      this.sending = undefined;
      if (this.retired) break;
      if (answer.ok) this.settle(answer.value);
      else if (!(await this.recover(step, answer.error))) break;
    }
    this.busy = false;
  }

  /** The server has taken the first step. */
  private settle(view: LayoutView, notice?: string): void {
    const { steps, view: old } = this.store.getState();
    const [done, ...rest] = steps;
    keepSteps(view.id, view.revision, rest);
    const base = settledWith(view.document, rest);
    const current = this.store.getState();
    // After a saved edit the screen shows it already; anything else brings a new document.
    const same = done?.kind === 'edit' && view.revision !== old.revision && notice === undefined;
    this.store.setState({
      view,
      steps: rest,
      save: rest.length === 0 ? { kind: 'saved' } : { kind: 'saving' },
      ...(notice !== undefined && { notice }),
      ...(same ? {} : shown(base, current)),
    });
  }

  /** Deals with a step that was not taken; false when the queue must pause. */
  private async recover(step: Step, error: { status: number; code: string; sentence: string }): Promise<boolean> {
    const { view } = this.store.getState();
    if (error.status === 0 || error.status >= 500) {
      this.store.setState({
        save: { kind: 'waiting', sentence: `${error.sentence} Your changes are kept in this browser.` },
      });
      this.later(() => void this.run());
      return false;
    }
    const newest = await getLayout(view.id);
    if (!newest.ok) return true;
    if (error.code === 'layout-moved-on' && step.kind === 'edit') {
      const steps = this.store.getState().steps;
      this.store.setState({
        view: newest.value,
        notice: `This layout was changed in another window (revision ${newest.value.revision}); your change goes on top of it.`,
        ...shown(settledWith(newest.value.document, steps), this.store.getState()),
      });
      return true;
    }
    this.settle(newest.value, error.code.startsWith('nothing-to-') ? undefined : error.sentence);
    return true;
  }
}

function send(view: LayoutView, step: Step): Promise<Answer<LayoutView>> {
  if (step.kind === 'move') return moveHead(view.id, { base: view.revision, direction: step.direction });
  return saveRevision(view.id, {
    base: view.revision,
    document: applyEdit(view.document, step.edit),
    note: step.note.slice(0, 200),
  });
}

/** What to select when the selected slot is gone: the one that took its place, else the layout. */
function neighbour(document: Layout, before: Layout, id: string): Selection {
  const index = before.slots.findIndex((slot) => slot.id === id);
  const next = document.slots[Math.min(index, document.slots.length - 1)];
  return next ? { kind: 'slot', id: next.id } : { kind: 'layout' };
}

/** A selection of as many slots as there are. */
export function severalOf(ids: readonly string[]): Selection {
  if (ids.length > 1) return { kind: 'several', ids };
  return ids.length === 1 ? { kind: 'slot', id: ids[0]! } : { kind: 'layout' };
}

/** A new document on screen; the selection stays, or goes to what took its place. */
function shown(document: Layout, { selection, document: before }: DesignerState): Partial<DesignerState> {
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

/** Asks for what a document names and nobody knows here yet, and computes anew when it came. */
function learning(store: DesignerStore): void {
  const { document } = store.getState();
  void learn(document).then((isNews) => {
    if (!isNews) return;
    const state = store.getState();
    const base = place(state.base.layout, knownContents);
    store.setState({ ...computed(state.document), base });
  });
}

/** Makes the state of a designer that shows `view`; `later` says when a silent server is asked again. */
export function createDesigner(view: LayoutView, later = afterAWhile): DesignerStore {
  const first = computed(view.document);
  const add = (step: Step) => {
    const state = store.getState();
    const steps = [...state.steps, step];
    keepSteps(view.id, state.view.revision, steps);
    store.setState({ steps, ...shown(settledWith(state.view.document, steps), state) });
    void queue.run();
  };
  const store: DesignerStore = createStore<DesignerState>((set, get) => ({
    view,
    steps: [],
    ...first,
    base: first.placement,
    selection: { kind: 'layout' },
    scale: 'legible',
    save: { kind: 'saved' },
    notice: undefined,
    select: (selection) => set({ selection }),
    setScale: (scale) => set({ scale }),
    preview: (edit) => {
      const { view: settled, steps } = get();
      const document = settledWith(settled.document, steps);
      const next = edit ? tryEdit(document, edit) : computed(document);
      if (next) set(next);
    },
    commit: (edit) => {
      const { view: settled, steps } = get();
      const before = settledWith(settled.document, steps);
      if (edit.do === 'several' && edit.edits.length === 0) return;
      add({ kind: 'edit', edit, note: describeEdit(before, edit) || 'Changed' });
    },
    undo: () => add({ kind: 'move', direction: 'undo' }),
    redo: () => add({ kind: 'move', direction: 'redo' }),
    dismiss: () => set({ notice: undefined }),
    tell: (notice) => set({ notice }),
    resume: () => {
      learning(store);
      if (queue.takeOver()) return;
      const kept = keptSteps(view.id, view.revision, view.note);
      if (kept.length === 0 || get().steps.length > 0) return;
      set({ steps: kept, ...shown(settledWith(get().view.document, kept), get()) });
      void queue.run();
    },
  }));
  const queue = new Queue(store, later);
  store.subscribe((state, before) => {
    if (state.document !== before.document) learning(store);
  });
  return store;
}

/**
 * State of one designer, and its queue to the server. An edit shows at once; one finished
 * gesture becomes one revision; undo and redo move through the revisions.
 */
import type { DesignerState, DesignerStore } from './designer';
import { computed, shown, tryEdit } from './shown';
import { StepQueue } from './queue';
import { createStore } from 'zustand/vanilla';
import { describeEdit } from '@/core/layout/describe';
import { place } from '@/core/placement/place';
import type { LayoutView } from '@/contract/layouts';
import { knownContents, learn } from '../../contents/known';
import { keepSteps, keptSteps, settledWith, type Step } from './pending';

/** Asks a silent server again after a while, in milliseconds. */
const RETRY = 2000;
const afterAWhile = (work: () => void): void => {
  setTimeout(work, RETRY);
};

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
      const heir = queue.heir();
      if (heir) return heir.getState().commit(edit);
      const { view: settled, steps } = get();
      const before = settledWith(settled.document, steps);
      if (edit.do === 'several' && edit.edits.length === 0) return;
      add({ kind: 'edit', edit, note: describeEdit(before, edit) || 'Changed' });
    },
    undo: () => add({ kind: 'move', direction: 'undo' }),
    redo: () => add({ kind: 'move', direction: 'redo' }),
    dismiss: () => set({ notice: undefined }),
    notify: (notice) => set({ notice }),
    resume: () => {
      learning(store);
      if (queue.takeOver()) return;
      const kept = keptSteps(view.id, view.revision, view.note);
      if (kept.length === 0 || get().steps.length > 0) return;
      set({ steps: kept, ...shown(settledWith(get().view.document, kept), get()) });
      void queue.run();
    },
  }));
  const queue = new StepQueue(store, later);
  store.subscribe((state, before) => {
    if (state.document !== before.document) learning(store);
  });
  return store;
}

/**
 * State of one designer, and its queue to the server. An edit shows at once; one finished
 * gesture becomes one revision; undo and redo move through the revisions.
 */
import { saysGone } from '@/core/layout/acts';
import { foundOf } from '@/core/layout/kept';
import { deletedKept, disturbed } from '@/core/layout/locked';
import type { DesignerState, DesignerStore } from './designer';
import { computed, shown, tryEdit } from './shown';
import { Home, type Later, StepQueue } from './queue';
import { documentOf, edited, type Step } from './steps';
import { onNews } from './windows';
import { createStore } from 'zustand/vanilla';
import { describeEdit } from '@/core/layout/describe';
import type { LayoutView } from '@/contract/layouts';
import { learn, placeKnown } from '../../contents/known';

const afterAWhile: Later = (work, milliseconds) => void setTimeout(work, milliseconds);

/** Asks for what a document names and nobody knows here yet, and computes anew when it came. */
function learning(store: DesignerStore): void {
  const { document } = store.getState();
  void learn(document).then((isNews) => {
    if (!isNews) return;
    const state = store.getState();
    const base = placeKnown(state.base.layout);
    store.setState({ ...computed(state.document), base });
  });
}

/** This window. */
const here = new Home();

/** Makes the state of a designer that shows `view`; `later` says when a silent server is asked again, `home` which window it is in. */
export function createDesigner(view: LayoutView, later = afterAWhile, home = here): DesignerStore {
  const first = computed(view.document);
  const add = (step: Step) => {
    const state = store.getState();
    const steps = [...state.steps, step];
    // First it must be shown: what cannot be is not kept either.
    store.setState({ steps, ...shown(documentOf({ ...state, steps }), state) });
    home.kept.keep(view.id, steps);
    void queue.run();
  };
  const move = (direction: 'undo' | 'redo') => add({ id: crypto.randomUUID(), kind: 'move', direction });
  const store: DesignerStore = createStore<DesignerState>((set, get) => ({
    view,
    steps: [],
    ...first,
    base: first.placement,
    selection: { kind: 'layout' },
    scale: 'legible',
    isFolded: false,
    save: { kind: 'opening' },
    notice: undefined,
    now: () => queue.heir()?.getState().now() ?? get(),
    select: (selection) => set({ selection }),
    setScale: (scale) => set({ scale }),
    fold: (isFolded) => set({ isFolded }),
    preview: (edit) => {
      const document = documentOf(get());
      const next = edit ? tryEdit(document, edit) : computed(document);
      if (next) set(next);
    },
    commit: (edit) => {
      const before = documentOf(get());
      const kept = disturbed(edit, before);
      if (kept)
        return set({
          notice: `${kept.name} is kept: it is moved, resized or made anew by the acts in its properties.`,
          ...computed(before),
        });
      get().act(edit);
      const lost = deletedKept(edit, before).flatMap((slot) => foundOf(before, slot) ?? []);
      if (lost.length > 0)
        set({
          notice: lost
            .map((one) => `${saysGone(one, before.medium.logicalSector).sentence} Undo keeps it again.`)
            .join(' '),
        });
    },
    act: (edit) => {
      const heir = queue.heir();
      if (heir) return heir.getState().act(edit);
      const before = documentOf(get());
      if (edit.do === 'several' && edit.edits.length === 0) return;
      const note = describeEdit(before, edit) || 'Changed';
      if (edited(before, edit)) add({ id: crypto.randomUUID(), kind: 'edit', edit, note });
      else set({ notice: `This cannot be done here, and nothing was changed: ${note}.`, ...computed(before) });
    },
    undo: () => move('undo'),
    redo: () => move('redo'),
    dismiss: () => set({ notice: undefined }),
    notify: (notice) => set({ notice }),
    resume: () => {
      learning(store);
      if (!queue.takeOver()) queue.adopt();
      return onNews(view.id, () => void queue.refresh());
    },
  }));
  const queue = new StepQueue(store, later, home);
  store.subscribe((state, before) => {
    if (state.document !== before.document) learning(store);
  });
  return store;
}

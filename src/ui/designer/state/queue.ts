/** The queue of a designer to the server: one finished gesture becomes one revision, in order, and nothing is lost. */
import type { LayoutView } from '@/contract/layouts';
import { applyEdit } from '@/core/layout/edits';
import { type Answer, getLayout, moveHead, saveRevision } from '../../api';
import type { DesignerStore } from './designer';
import { keepSteps, settledWith, type Step } from './pending';
import { shown } from './shown';

/** The queue of the page that shows a layout, by its id: the next page of the same layout takes its work over. */
const queues = new Map<string, StepQueue>();

/** Sends the steps of one designer, one after the other. */
export class StepQueue {
  private busy = false;
  private retired = false;
  private wasInForce = false;
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
    this.wasInForce = true;
    if (!before || before === this) return false;
    const { sending, store } = before;
    if (!sending && store.getState().steps.length === 0 && store.getState().view.revision === view.revision)
      return true;
    this.ready = this.continued(before);
    void this.run();
    return true;
  }

  /** The page that took over, where one did: what ends late on this one, an upload say, belongs to it. */
  heir(): DesignerStore | undefined {
    const now = queues.get(this.store.getState().view.id);
    return this.wasInForce && now !== this ? now?.store : undefined;
  }

  /** Goes on where another page was: behind the step that it was sending, on top of what is in force then. */
  private async continued(before: StepQueue): Promise<void> {
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

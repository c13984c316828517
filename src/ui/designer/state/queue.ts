/** The queue of a designer to the server: one finished gesture becomes one revision, in order, and nothing is lost. */
import type { LayoutView } from '@/contract/layouts';
import { type Answer, type CallError, getLayout, moveHead, saveRevision } from '../../api';
import type { DesignerState, DesignerStore } from './designer';
import { KeptSteps } from './kept';
import { shown } from './shown';
import {
  applying,
  documentOf,
  edited,
  leftOutText,
  renewed,
  type Step,
  taken,
  waitAfter,
  type Work,
  withoutTaken,
} from './steps';
import { tellOthers } from './windows';

/** What the pages of one window have in common. */
export class Home {
  /** The queue of the page that shows a layout, by its id: the next page of the same layout takes its work over. */
  readonly queues = new Map<string, StepQueue>();

  constructor(readonly kept = new KeptSteps()) {}
}

/** Does something after so many milliseconds. */
export type Later = (work: () => void, milliseconds: number) => void;

/** Sends the steps of one designer, one after the other. */
export class StepQueue {
  private busy = false;
  private retired = false;
  private wasInForce = false;
  /** How often the server has not answered, in a row. */
  private tries = 0;
  /** The step that is on its way. */
  private sending: Promise<Answer<LayoutView>> | undefined;
  /** Ids of steps that were sent before: their answer may be of another revision than theirs. */
  private readonly sent = new Set<string>();
  /** What must have ended before anything is sent. */
  private ready: Promise<void> = Promise.resolve();

  constructor(
    private readonly store: DesignerStore,
    private readonly later: Later,
    private readonly home: Home,
  ) {}

  private get state(): DesignerState {
    return this.store.getState();
  }

  /** Becomes the queue of its layout. False where no page before it was, so that nothing is to be taken over. */
  takeOver(): boolean {
    const { view } = this.state;
    const before = this.home.queues.get(view.id);
    this.home.queues.set(view.id, this);
    this.wasInForce = true;
    if (!before || before === this) return false;
    const { sending, store } = before;
    if (sending || store.getState().steps.length > 0 || store.getState().view.revision !== view.revision)
      this.ready = this.continued(before);
    void this.run();
    return true;
  }

  /** Sends nothing before what windows that are gone have left stands before the steps of this one. */
  adopt(): void {
    this.ready = this.home.kept.adopt(this.state.view.id, (kept) => {
      const { view, steps } = this.state;
      this.put(renewed({ view, steps: [...kept, ...steps] }, view));
    });
    void this.run();
  }

  /** The page that took over, where one did: what ends late on this one, an upload say, belongs to it. */
  heir(): DesignerStore | undefined {
    const now = this.home.queues.get(this.state.view.id);
    return this.wasInForce && now !== this ? now?.store : undefined;
  }

  /** Goes on where another page was: behind the step that it was sending, on top of what is in force then. */
  private async continued(before: StepQueue): Promise<void> {
    before.retired = true;
    await before.sending;
    const newest = await getLayout(this.state.view.id);
    const view = newest.ok ? newest.value : this.state.view;
    const ids = new Set(this.state.steps.map(({ id }) => id));
    const left = before.store.getState().steps.filter(({ id }) => !ids.has(id));
    this.put(renewed({ view, steps: [...left, ...this.state.steps] }, view));
  }

  /** Puts work in the place of what was: kept, and shown; what does not fit any more is left out, and said. */
  put(next: Work, { notice, isShown = false }: { notice?: string | undefined; isShown?: boolean } = {}): void {
    const { work, dropped } = applying(next);
    const { view, steps, beside } = work;
    this.home.kept.keep(view.id, steps);
    const told = notice ?? leftOutText(dropped);
    this.store.setState({
      view,
      steps,
      ...(beside && { beside }),
      save: steps.length === 0 ? { kind: 'saved' } : this.state.save,
      ...(told !== undefined && { notice: told }),
      ...(isShown && dropped.length === 0 ? {} : shown(documentOf(work), this.state)),
    });
  }

  /** Another window, or time, may have changed the layout: looks, unless something is on its way. */
  async refresh(): Promise<void> {
    const { view } = this.state;
    if (this.sending || this.retired) return;
    const newest = await getLayout(view.id);
    // What was sent meanwhile is newer than this answer may be.
    if (this.sending || this.retired || !newest.ok || this.state.view !== view) return;
    if (newest.value.revision !== this.state.view.revision) this.put(renewed(this.state, newest.value));
    void this.run();
  }

  async run(): Promise<void> {
    if (this.busy) return;
    this.busy = true;
    await this.ready;
    for (;;) {
      const [step] = this.state.steps;
      if (!step || this.retired) break;
      if (!(await this.sendFirst(step))) break;
    }
    // Before, nobody knew whether anything waits.
    if (this.state.save.kind === 'opening') this.store.setState({ save: { kind: 'saved' } });
    this.busy = false;
  }

  /** Sends the first step; false when the queue must pause. */
  private async sendFirst(step: Step): Promise<boolean> {
    const { view } = this.state;
    const request = requestFor(view, step);
    if (!request) {
      this.drop(step, leftOutText([step]));
      return true;
    }
    this.store.setState({ save: { kind: 'saving' } });
    const isFirst = !this.sent.has(step.id);
    this.sent.add(step.id);
    this.sending = request();
    const answer = await this.sending;
    this.sending = undefined;
    if (this.retired) return false;
    if (!answer.ok) return this.recover(step, answer.error);
    this.tries = 0;
    tellOthers(answer.value);
    // After a saved edit the screen shows it already; anything else brings a new document.
    const next = taken(this.state, answer.value);
    this.put(isFirst ? next : renewed(next, answer.value), { isShown: isFirst && step.kind === 'edit' });
    return true;
  }

  private drop(step: Step, notice: string | undefined, view = this.state.view): void {
    const steps = this.state.steps.filter(({ id }) => id !== step.id);
    this.put(view === this.state.view ? { ...this.state, steps } : { ...renewed(this.state, view), steps }, { notice });
  }

  /** Says why nothing is saved, and tries again after a while, which is longer each time. */
  private pause(sentence: string, isGone = false): false {
    const kept = `${sentence} Your changes are kept in this browser.`;
    this.store.setState({ save: { kind: isGone ? 'gone' : 'waiting', sentence: kept } });
    this.later(() => void this.run(), waitAfter(this.tries++));
    return false;
  }

  /** Deals with a step that was not taken; false when the queue must pause. */
  private async recover(step: Step, error: CallError): Promise<boolean> {
    if (error.status === 0 || error.status >= 500) return this.pause(error.sentence);
    if (error.code === 'layout-unknown') return this.pause(error.sentence, true);
    // What an undo would lead to is damaged: then it is not undone. Otherwise the layout itself is.
    if (error.code === 'document-damaged' && step.kind === 'edit') return this.pause(error.sentence);
    if (error.code.startsWith('nothing-to-')) {
      this.drop(step, undefined);
      return true;
    }
    const newest = await getLayout(this.state.view.id);
    if (!newest.ok) return this.pause(newest.error.sentence, newest.error.code === 'layout-unknown');
    const view = newest.value;
    if (error.code !== 'layout-moved-on') {
      this.drop(step, error.sentence, view);
      return true;
    }
    // It was taken, and its answer was lost; or the layout was changed elsewhere.
    if (withoutTaken([step], view).length === 0) this.put(renewed(this.state, view));
    else if (step.kind === 'move')
      this.drop(
        step,
        `This layout was changed in another window (revision ${view.revision}); look before you ${step.direction}.`,
        view,
      );
    else
      this.put(renewed(this.state, view), {
        notice: `This layout was changed in another window (revision ${view.revision}); your change goes on top of it.`,
      });
    return true;
  }
}

/** The call that a step is; undefined for an edit that says nothing on this revision. */
function requestFor(view: LayoutView, step: Step): (() => Promise<Answer<LayoutView>>) | undefined {
  const { id, revision: base } = view;
  if (step.kind === 'move') return () => moveHead(id, { base, direction: step.direction, step: step.id });
  const document = edited(view.document, step.edit);
  return document && (() => saveRevision(id, { base, document, note: step.note.slice(0, 200), step: step.id }));
}

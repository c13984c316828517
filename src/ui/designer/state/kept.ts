/**
 * Steps that are kept in this browser until the server has them. Each window keeps its own, under a
 * lock that the browser drops with the window, however that goes: what a window that is gone left
 * is taken up by the next one that shows the layout.
 */
import type { Step } from './steps';

const PREFIX = 'loess:waiting';
/** For how long a browser may hold the lock of a window that is gone, in milliseconds. */
const LINGERS = 1000;
const lockOf = (window: string) => `loess:window:${window}`;

interface Kept {
  readonly at: number;
  readonly steps: readonly Step[];
}

function isStep(value: unknown): value is Step {
  const step = value as Partial<Record<'id' | 'kind' | 'note' | 'direction', unknown>> & { edit?: { do?: unknown } };
  if (typeof step !== 'object' || step === null || typeof step.id !== 'string') return false;
  if (step.kind === 'move') return step.direction === 'undo' || step.direction === 'redo';
  return step.kind === 'edit' && typeof step.note === 'string' && typeof step.edit?.do === 'string';
}

/** What a text that was kept says; nothing where it cannot be read. */
function parsed(text: string | null): Kept {
  try {
    const kept = JSON.parse(text ?? 'null') as Partial<Kept> | null;
    if (kept && Array.isArray(kept.steps))
      return { at: Number(kept.at) || 0, steps: (kept.steps as unknown[]).filter(isStep) };
  } catch {
    // What cannot be read says nothing.
  }
  return { at: 0, steps: [] };
}

/** What one window keeps, for as long as its page is not loaded anew. */
export class KeptSteps {
  private readonly window = crypto.randomUUID();
  /** Steps that were taken up from other windows and are not among those of a page yet, by layout. */
  private readonly adopting = new Map<string, readonly Step[]>();
  private held = false;

  /** `storage` gives the browser's, or throws where it has none: then steps are kept in memory only. */
  constructor(private readonly storage: () => Storage = () => localStorage) {}

  private keyOf(layout: string): string {
    return `${PREFIX}:${layout}:${this.window}`;
  }

  /** Holds the lock of this window until its page goes. */
  private hold(): void {
    if (this.held || !navigator.locks) return;
    this.held = true;
    void navigator.locks.request(lockOf(this.window), () => new Promise<void>(() => undefined)).catch(() => undefined);
  }

  /** Keeps the waiting steps of a layout; none removes them. */
  keep(layout: string, steps: readonly Step[]): void {
    this.hold();
    const all = [...(this.adopting.get(layout) ?? []), ...steps];
    try {
      if (all.length === 0) this.storage().removeItem(this.keyOf(layout));
      else this.storage().setItem(this.keyOf(layout), JSON.stringify({ at: Date.now(), steps: all } satisfies Kept));
    } catch {
      // A browser without storage, or with a full one, keeps them in memory only.
    }
  }

  /**
   * Takes up the steps for a layout that windows kept which are gone, the oldest first: `put` puts them
   * before those of the page. This window keeps them from the moment on at which the others do not.
   */
  async adopt(layout: string, put: (steps: readonly Step[]) => void): Promise<void> {
    await this.collect(layout).catch(() => undefined);
    const steps = this.adopting.get(layout) ?? [];
    this.adopting.delete(layout);
    if (steps.length > 0) put(steps);
  }

  /** Puts what other windows kept before what this one keeps, all at once: a window that goes has adopted all of it or nothing. */
  private merge(layout: string, keys: readonly string[]): void {
    const storage = this.storage();
    const adopted = this.adopting.get(layout) ?? [];
    const own = parsed(storage.getItem(this.keyOf(layout))).steps.slice(adopted.length);
    this.adopting.set(layout, [...adopted, ...keys.flatMap((key) => parsed(storage.getItem(key)).steps)]);
    this.keep(layout, own);
    for (const key of keys) storage.removeItem(key);
  }

  private async collect(layout: string): Promise<void> {
    this.hold();
    const storage = this.storage();
    const start = `${PREFIX}:${layout}:`;
    const keys = Array.from({ length: storage.length }, (_, i) => storage.key(i) ?? '');
    const others = keys.filter((key) => key.startsWith(start) && key !== this.keyOf(layout));
    const ages = others.map((key) => ({ key, at: parsed(storage.getItem(key)).at })).sort((a, b) => a.at - b.at);
    const windows = ages.map(({ key }) => key.slice(start.length));
    await holdingThoseThatAreGone(windows, (gone) => {
      this.merge(
        layout,
        gone.map((window) => start + window),
      );
    });
  }
}

/**
 * Does `work` with the windows that are gone, while nobody else can take them for that. A window that
 * lives holds its lock, and keeps its steps; one that is gone may hold it for a moment yet.
 */
async function holdingThoseThatAreGone(
  [window, ...others]: readonly string[],
  work: (gone: readonly string[]) => void,
  gone: readonly string[] = [],
): Promise<void> {
  if (window === undefined) return work(gone);
  const goOn = (isGone: boolean) => holdingThoseThatAreGone(others, work, isGone ? [...gone, window] : gone);
  if (!navigator.locks) return goOn(true);
  let isGone = false;
  const held = () => {
    isGone = true;
    return goOn(true);
  };
  const options = { signal: AbortSignal.timeout(LINGERS) };
  await navigator.locks.request(lockOf(window), options, held).catch((error: unknown) => {
    if (isGone) throw error;
  });
  if (!isGone) await goOn(false);
}

/** A server in memory that keeps the revisions of one layout as the real one does, and a browser for it. */
import { AsyncResource } from 'node:async_hooks';
import type { LayoutView } from '@/contract/layouts';
import type { Layout } from '@/core/layout/document';
import { fatPart, layoutOn, part } from '@tests/samples';

export const refusal = (status: number, code: string, sentence: string) =>
  Response.json({ error: { code, sentence } }, { status });

interface Body {
  readonly base: number;
  readonly document?: Layout;
  readonly direction?: 'undo' | 'redo';
  readonly step?: string;
}

export class FakeServer {
  static readonly LAYOUT = layoutOn('1 GiB', [part('a', '100 MiB'), fatPart('b', 'rest')]);
  /** Every test has a layout of its own: what is under way for one outlives its page. */
  static made = 0;
  readonly id = `test-${++FakeServer.made}`;
  documents: Layout[] = [FakeServer.LAYOUT];
  parents: (number | undefined)[] = [undefined];
  redos: (number | undefined)[] = [undefined];
  head = 1;
  taken: string[] = [];
  /** Answers to give instead of the real one, one a call. */
  failures: (() => Response)[] = [];
  calls: string[] = [];

  view(): LayoutView {
    return {
      id: this.id,
      revision: this.head,
      note: 'note',
      savedAt: '2026-03-01T00:00:00Z',
      canUndo: this.parents[this.head - 1] !== undefined,
      canRedo: this.redos[this.head - 1] !== undefined,
      document: this.documents[this.head - 1]!,
      taken: this.taken.toReversed(),
    };
  }

  private carryOut({ document, direction }: Body): Response | undefined {
    if (document) {
      this.documents.push(document);
      this.parents.push(this.head);
      this.redos.push(undefined);
      this.redos[this.head - 1] = this.documents.length;
      this.head = this.documents.length;
      return undefined;
    }
    const to = (direction === 'undo' ? this.parents : this.redos)[this.head - 1];
    if (to === undefined) return refusal(409, `nothing-to-${direction}`, 'nothing');
    if (direction === 'undo') this.redos[to - 1] = this.head;
    this.head = to;
    return undefined;
  }

  answer(url: string, init: RequestInit | undefined): Response {
    const body = init?.body ? (JSON.parse(init.body as string) as Body) : undefined;
    this.calls.push(`${init?.method ?? 'GET'} ${url.split('/').pop()}`);
    const failure = body && this.failures.shift();
    if (failure) return failure();
    if (!body) return Response.json(this.view());
    if (body.step !== undefined && this.taken.includes(body.step)) return Response.json(this.view());
    if (body.base !== this.head) return refusal(409, 'layout-moved-on', 'moved on');
    const refused = this.carryOut(body);
    if (refused) return refused;
    if (body.step !== undefined) this.taken.push(body.step);
    return Response.json(this.view());
  }
}

/** Locks of a browser, each held by a life of a page; those of a page that is gone may be held a while yet. */
export class FakeLocks {
  private readonly holders = new Map<string, number>();

  /** `life` says which life asks; `isGone` whether a life has ended; `pause` lets everything else go on. */
  constructor(
    private readonly life: () => number,
    private readonly isGone: (life: number) => boolean,
    private readonly pause: () => Promise<unknown>,
  ) {}

  /** What a browser does some time after a page has gone. */
  release(life: number): void {
    for (const [name, holder] of this.holders) if (holder === life) this.holders.delete(name);
  }

  async request(
    name: string,
    ...rest: [(lock: object) => unknown] | [LockOptions, (lock: object) => unknown]
  ): Promise<unknown> {
    const [options, work] = rest.length === 2 ? rest : [{}, rest[0]];
    const life = this.life();
    await this.pause();
    for (; this.holders.has(name) && !this.isGone(life); await this.pause()) options.signal?.throwIfAborted();
    // A page that is gone gets no lock.
    if (this.isGone(life)) return new Promise(() => undefined);
    this.holders.set(name, life);
    try {
      return await work({ name });
    } finally {
      this.holders.delete(name);
    }
  }
}

let windows: ((message: { data: unknown }) => void)[] = [];

/** Says to every window what another one would. */
export function tellFakeWindow(data: unknown): void {
  for (const heard of windows) heard({ data });
}

/** Makes `server` the one that is asked, and `kept` what the browser keeps. */
export function installFakeBrowser(server: FakeServer, kept: Map<string, string>): void {
  windows = [];
  const put = (name: string, value: unknown) => Object.defineProperty(globalThis, name, { configurable: true, value });
  const listeners = { addEventListener: () => undefined, removeEventListener: () => undefined };
  globalThis.fetch = ((url: string, init?: RequestInit) => Promise.resolve(server.answer(url, init))) as typeof fetch;
  put('window', listeners);
  put('document', { ...listeners, visibilityState: 'visible' });
  put('navigator', {});
  put(
    'BroadcastChannel',
    class {
      postMessage() {}
      addEventListener(_: string, heard: (message: { data: unknown }) => void) {
        // What a page hears it does as that page, even if another one said it.
        windows.push(AsyncResource.bind(heard));
      }
      removeEventListener() {}
    },
  );
  put('localStorage', {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => kept.set(key, value),
    removeItem: (key: string) => kept.delete(key),
    key: (index: number) => [...kept.keys()][index] ?? null,
    get length() {
      return kept.size;
    },
  });
}

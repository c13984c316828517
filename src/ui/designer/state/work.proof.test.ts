/**
 * Work in a page that is killed and loaded anew at random moments, over a network that loses
 * requests and answers: what the server has in the end is what was meant.
 */
import { AsyncLocalStorage } from 'node:async_hooks';
import fc from 'fast-check';
import { FakeLocks, FakeServer, installFakeBrowser } from '@tests/fake-server';
import type { Edit } from '@/core/layout/edits';
import { part } from '@tests/samples';
import { cases } from '@tests/tier';
import { turn, until } from '@tests/until';
import type { DesignerStore } from './designer';
import { KeptSteps } from './kept';
import { Home } from './queue';
import { edited } from './steps';
import { createDesigner } from './store';

type Gesture = { readonly edit: Edit } | { readonly move: 'undo' | 'redo' };

const edit = fc.oneof(
  fc.integer({ min: 1, max: 900 }).map((n): Edit => ({ do: 'change slot', id: 'a', patch: { size: `${n} MiB` } })),
  fc.integer({ min: 1, max: 99 }).map((n): Edit => ({ do: 'change slot', id: 'b', patch: { name: `Named ${n}` } })),
  fc.integer({ min: 1, max: 5 }).map((n): Edit => ({ do: 'add slot', slot: part(`c${n}`, '1 MiB'), index: 1 })),
  fc.integer({ min: 1, max: 5 }).map((n): Edit => ({ do: 'remove slot', id: `c${n}` })),
  fc.boolean().map((up): Edit => ({ do: 'move slot', id: 'a', index: up ? 0 : 1 })),
);
const gesture: fc.Arbitrary<Gesture> = fc.oneof(
  { weight: 4, arbitrary: edit.map((one) => ({ edit: one })) },
  { weight: 2, arbitrary: fc.constantFrom('undo', 'redo').map((move) => ({ move }) as Gesture) },
);
/** What happens behind a gesture: nothing, a little time, or the page is killed and loaded anew. */
const event = fc.constantFrom('on', 'on', 'wait', 'reload');
/** What the network does with a call. */
const luck = fc.constantFrom('good', 'good', 'good', 'lost', 'answer lost');

/** For how long a browser holds the locks of a page that is gone, in pauses. */
const LINGERS = 6;

/** The same gestures where nothing goes wrong. */
function meant(gestures: readonly Gesture[]) {
  const server = new FakeServer();
  for (const one of gestures) {
    const { revision: base, document } = server.view();
    const next = 'edit' in one ? edited(document, one.edit) : undefined;
    if ('edit' in one && !next) continue;
    const body = 'edit' in one ? { base, document: next } : { base, direction: one.move };
    server.answer('/x', { method: 'POST', body: JSON.stringify(body) });
  }
  return server.view();
}

/** A page of its own, in a window of its own, which is gone when `living` says another life than its own. */
function page(server: FakeServer, living: () => number): DesignerStore {
  const life = living();
  const storage = () => {
    if (life !== living()) throw new Error('this window is gone');
    return localStorage;
  };
  // A silent server is asked again at once, so that the test need not wait.
  const later = (work: () => void) => void setImmediate(() => life === living() && work());
  const store = createDesigner(server.view(), later, new Home(new KeptSteps(storage)));
  store.getState().resume();
  return store;
}

/** A page that is gone makes no new calls: which page a call is of is known by what it follows from. One for all: each costs every promise of the process. */
const lives = new AsyncLocalStorage<number>();
let living = 0;
afterAll(() => lives.disable());

test('sequences of work, killed and loaded anew at random moments, end as they were meant', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.tuple(gesture, event), { minLength: 1, maxLength: 14 }),
      fc.array(luck, { minLength: 1, maxLength: 40 }),
      async (work, lucks) => {
        const server = new FakeServer();
        const kept = new Map<string, string>();
        installFakeBrowser(server, kept);
        const done: Gesture[] = [];
        let calls = 0;
        living += 1;
        const locks = new FakeLocks(
          () => lives.getStore()!,
          (life) => life !== living,
          turn,
        );
        Object.defineProperty(navigator, 'locks', { configurable: true, value: locks });
        const inLife = <T>(work: () => T) => lives.run(living, work);
        globalThis.fetch = (async (url: string, init?: RequestInit) => {
          const life = lives.getStore();
          if (life !== living) return new Promise<Response>(() => undefined);
          const fate = lucks[calls++ % lucks.length];
          await turn();
          // The calls of a page that is gone may have left it, or not.
          if (life !== living && calls % 2 === 0) return new Promise<Response>(() => undefined);
          if (fate === 'lost' && calls < 30) return Response.error();
          const answer = server.answer(url, init);
          if (life !== living) return new Promise<Response>(() => undefined);
          return fate === 'answer lost' && calls < 30 ? Response.error() : answer;
        }) as typeof fetch;
        let store = inLife(() => page(server, () => living));
        for (const [one, then] of work) {
          store.getState().dismiss();
          inLife(() => ('edit' in one ? store.getState().commit(one.edit) : store.getState()[one.move]()));
          // What cannot be done on what the screen shows is told, and is no work.
          if (!store.getState().notice?.startsWith('This cannot be done here')) done.push(one);
          if (then === 'wait') for (let i = 0; i < 6; i++) await turn();
          if (then !== 'reload') continue;
          const gone = living++;
          for (let i = 0; i < lucks.length % LINGERS; i++) await turn();
          void lives.run(gone, async () => {
            for (let i = 0; i < work.length % LINGERS; i++) await turn();
            locks.release(gone);
          });
          store = inLife(() => page(server, () => living));
        }
        await until(() => kept.size === 0 && store.getState().save.kind === 'saved');
        expect(kept.size).toBe(0);
        const { document } = meant(done);
        expect(server.view().document).toEqual(document);
        expect(store.getState().document).toEqual(document);
      },
    ),
    { numRuns: cases(60, 200), endOnFailure: true },
  );
});

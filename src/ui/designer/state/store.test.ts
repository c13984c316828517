import type { DesignerStore } from './designer';
import { gate, turn, until } from '@tests/until';
import { FakeServer, installFakeBrowser, refusal, tellFakeWindow } from '@tests/fake-server';
import type { LayoutView } from '@/contract/layouts';
import type { Layout } from '@/core/layout/document';
import type { Edit } from '@/core/layout/edits';
import { Home } from './queue';
import { createDesigner } from './store';

const resize = (size: string): Edit => ({ do: 'change slot', id: 'a', patch: { size } });
const sizeOf = (layout: Layout) => (layout.slots[0] as { size: string }).size;
const LAYOUT = FakeServer.LAYOUT;

let server: FakeServer;
let kept: Map<string, string>;

beforeEach(() => {
  server = new FakeServer();
  kept = new Map();
  installFakeBrowser(server, kept);
});

/** Waits until the server has so many revisions, and the page says that nothing waits. */
const reached = (revisions: number, store: DesignerStore) =>
  until(() => server.documents.length >= revisions && kept.size === 0 && store.getState().save.kind === 'saved');

/** Waits until the page has nothing under way. */
const saved = (store: DesignerStore) =>
  until(() => store.getState().steps.length === 0 && store.getState().save.kind !== 'saving');

test('an edit shows at once, is placed and checked, and becomes one revision', async () => {
  const store = createDesigner(server.view());
  store.getState().commit(resize('2 GiB'));
  expect(sizeOf(store.getState().document)).toBe('2 GiB');
  expect(store.getState().findings[0]).toMatchObject({ rule: 'size/larger-than-the-medium' });
  await saved(store);
  expect(server.head).toBe(2);
  expect(sizeOf(server.documents[1]!)).toBe('2 GiB');
  expect(store.getState()).toMatchObject({ save: { kind: 'saved' }, view: { revision: 2 } });
  expect(kept.size).toBe(0);
});

test('edits in quick succession are saved one after the other, in order', async () => {
  const store = createDesigner(server.view());
  for (const size of ['10 MiB', '20 MiB', '30 MiB']) store.getState().commit(resize(size));
  expect(sizeOf(store.getState().document)).toBe('30 MiB');
  await saved(store);
  expect(server.documents.map(sizeOf)).toEqual(['100 MiB', '10 MiB', '20 MiB', '30 MiB']);
});

test('undo and redo walk through the revisions; an edit asked for meanwhile comes after', async () => {
  const store = createDesigner(server.view());
  store.getState().commit(resize('10 MiB'));
  store.getState().undo();
  await saved(store);
  expect(sizeOf(store.getState().document)).toBe('100 MiB');
  store.getState().redo();
  store.getState().commit({ do: 'change slot', id: 'a', patch: { name: 'later' } });
  await saved(store);
  expect(store.getState().document.slots[0]).toMatchObject({ size: '10 MiB', name: 'later' });
  expect(server.head).toBe(3);
});

test('what was saved from this page is undone and redone at once, before the server has answered', async () => {
  const store = createDesigner(server.view());
  store.getState().commit(resize('10 MiB'));
  store.getState().commit(resize('20 MiB'));
  await saved(store);
  const seen: string[] = [];
  const moved = (direction: 'undo' | 'redo') => {
    store.getState()[direction]();
    seen.push(sizeOf(store.getState().document));
  };
  moved('undo');
  moved('undo');
  moved('redo');
  expect(seen).toEqual(['10 MiB', '100 MiB', '10 MiB']);
  await saved(store);
  moved('undo');
  moved('redo');
  moved('redo');
  expect(seen.slice(3)).toEqual(['100 MiB', '10 MiB', '20 MiB']);
  await saved(store);
  expect(store.getState()).toMatchObject({ view: { revision: 3 } });
  expect(sizeOf(store.getState().document)).toBe('20 MiB');
});

test('what another window changed is nothing that this page could undo by itself', async () => {
  const store = createDesigner(server.view());
  const end = store.getState().resume();
  store.getState().commit(resize('10 MiB'));
  await saved(store);
  server.documents.push({ ...server.documents[1]!, name: 'Renamed elsewhere' });
  server.head = 3;
  tellFakeWindow({ id: server.id, revision: 3 });
  await until(() => store.getState().view.revision === 3);
  store.getState().undo();
  // Only the server knows what lies behind it.
  expect(store.getState().document).toMatchObject({ name: 'Renamed elsewhere' });
  await saved(store);
  end();
});

test('undoing more than there is does nothing, without a word', async () => {
  const store = createDesigner(server.view());
  store.getState().undo();
  await saved(store);
  expect(store.getState()).toMatchObject({ notice: undefined, save: { kind: 'saved' } });
});

test('a preview is placed but not saved, and ends without a trace', () => {
  const store = createDesigner(server.view());
  store.getState().preview(resize('200 MiB'));
  expect(store.getState().placement.placed[0]!.sectors).toBe(200 * 2048);
  expect(store.getState().base.placed[0]!.sectors).toBe(100 * 2048);
  store.getState().preview(resize('nonsense'));
  expect(store.getState().placement.placed[0]!.sectors).toBe(200 * 2048);
  store.getState().preview(undefined);
  expect(store.getState().placement.placed[0]!.sectors).toBe(100 * 2048);
  expect(server.calls).toEqual([]);
});

test('a silent server is asked again, and the change is not lost meanwhile', async () => {
  server.failures = [() => Response.error(), () => refusal(500, 'internal', 'broken')];
  const waiting: (() => void)[] = [];
  const store = createDesigner(server.view(), (work) => waiting.push(work));
  store.getState().commit(resize('10 MiB'));
  for (let tries = 0; tries < 2; tries++) {
    await until(() => waiting.length > 0);
    expect(store.getState().save).toMatchObject({ kind: 'waiting' });
    waiting.pop()!();
  }
  await saved(store);
  expect(server.documents.map(sizeOf)).toEqual(['100 MiB', '10 MiB']);
});

test('a new page takes up what the old one could not save', async () => {
  server.failures = [() => Response.error()];
  const store = createDesigner(server.view(), () => undefined);
  store.getState().commit(resize('10 MiB'));
  await until(() => store.getState().save.kind === 'waiting');
  expect(kept.size).toBe(1);
  const reloaded = await reloadedPage();
  await reached(2, reloaded);
  expect(sizeOf(server.documents[1]!)).toBe('10 MiB');
});

describe('the next page of a layout, in the same window', () => {
  /** Calls that wait for `answers`. */
  let calls: number;
  let answers: ReturnType<typeof gate>;

  beforeEach(() => {
    calls = 0;
    answers = gate();
    globalThis.fetch = (async (url: string, init?: RequestInit) => {
      calls += 1;
      await answers.opened;
      return server.answer(url, init);
    }) as typeof fetch;
  });

  /** A page that has begun to live. */
  const opened = (view: LayoutView) => {
    const store = createDesigner(view);
    store.getState().resume();
    return store;
  };

  test('goes on behind what the page before is still sending, and sends nothing twice', async () => {
    const first = opened(server.view());
    const old = server.view();
    for (const size of ['10 MiB', '20 MiB', '30 MiB']) first.getState().commit(resize(size));
    await until(() => calls === 1);
    // This page was made before any of that was taken, and the first step is on its way.
    expect(server.documents).toHaveLength(1);
    const second = opened(old);
    answers.open();
    await reached(4, second);
    expect(server.documents.map(sizeOf)).toEqual(['100 MiB', '10 MiB', '20 MiB', '30 MiB']);
    expect(second.getState()).toMatchObject({ view: { revision: 4 }, steps: [], notice: undefined });
    expect(sizeOf(second.getState().document)).toBe('30 MiB');
    expect(kept.size).toBe(0);
  });

  test('puts its own changes on top', async () => {
    const first = opened(server.view());
    const old = server.view();
    first.getState().commit(resize('10 MiB'));
    const second = opened(old);
    answers.open();
    second.getState().commit({ do: 'change slot', id: 'a', patch: { name: 'Renamed' } });
    await reached(3, second);
    expect(server.documents.at(-1)!.slots[0]).toMatchObject({ name: 'Renamed', size: '10 MiB' });
    expect(server.documents).toHaveLength(3);
  });

  test('takes up a step that the page before could not send', async () => {
    const first = opened(server.view());
    server.failures = [() => Response.error()];
    first.getState().commit(resize('10 MiB'));
    await until(() => calls === 1);
    const second = opened(server.view());
    answers.open();
    await reached(2, second);
    expect(server.documents.map(sizeOf)).toEqual(['100 MiB', '10 MiB']);
    expect(second.getState().save).toEqual({ kind: 'saved' });
  });

  test('takes what ends late on the page before, an upload say', async () => {
    const first = opened(server.view());
    const second = opened(server.view());
    answers.open();
    second.getState().commit({ do: 'change slot', id: 'a', patch: { name: 'Renamed' } });
    await reached(2, second);
    first.getState().commit(resize('10 MiB'));
    await reached(3, second);
    expect(second.getState().document.slots[0]).toMatchObject({ name: 'Renamed', size: '10 MiB' });
    expect(server.documents.at(-1)!.slots[0]).toMatchObject({ name: 'Renamed', size: '10 MiB' });
    expect(server.documents).toHaveLength(3);
  });

  test('asks for nothing where nothing was under way', () => {
    opened(server.view());
    opened(server.view());
    expect(server.calls).toEqual([]);
  });
});

/** A page of another window, where the one before is gone. */
async function reloadedPage(): Promise<DesignerStore> {
  const store = createDesigner(server.view(), undefined, new Home());
  store.getState().resume();
  await until(() => store.getState().save.kind !== 'opening');
  return store;
}

test('a change that the server took just before the page went is not made twice', async () => {
  // The answer is lost: the server has it, the page does not know.
  const answer = server.answer.bind(server);
  server.answer = (url, init) => {
    const said = answer(url, init);
    return init?.body ? Response.error() : said;
  };
  const store = createDesigner(server.view(), () => undefined);
  store.getState().commit(resize('10 MiB'));
  await until(() => store.getState().save.kind === 'waiting');
  expect(server.head).toBe(2);
  expect(kept.size).toBe(1);
  server.answer = answer;
  const reloaded = await reloadedPage();
  await saved(reloaded);
  expect(server.head).toBe(2);
  expect(sizeOf(reloaded.getState().document)).toBe('10 MiB');
  expect(kept.size).toBe(0);
});

test('an undo that waits is kept too: what was undone does not come back', async () => {
  server.failures = Array.from({ length: 20 }, () => () => Response.error());
  const store = createDesigner(server.view(), () => undefined);
  store.getState().commit(resize('10 MiB'));
  store.getState().commit(resize('20 MiB'));
  store.getState().undo();
  // It shows at once, although the server has said nothing.
  expect(sizeOf(store.getState().document)).toBe('10 MiB');
  await until(() => store.getState().save.kind === 'waiting');
  server.failures = [];
  const reloaded = await reloadedPage();
  await saved(reloaded);
  expect(sizeOf(reloaded.getState().document)).toBe('10 MiB');
  expect(server.documents.map(sizeOf)).toEqual(['100 MiB', '10 MiB', '20 MiB']);
  expect(server.head).toBe(2);
});

test('what cannot be placed is neither kept nor sent, and that is told', async () => {
  const store = createDesigner(server.view());
  store.getState().commit(resize('nonsense'));
  expect(store.getState().notice).toMatch(/cannot be done here/);
  expect(kept.size).toBe(0);
  await saved(store);
  expect(server.calls).toEqual([]);
  expect(sizeOf(store.getState().document)).toBe('100 MiB');
});

test.each<[string, string]>([
  [
    'an edit that cannot be placed',
    JSON.stringify({ at: 1, steps: [{ id: 'x', kind: 'edit', edit: resize('nonsense'), note: 'n' }] }),
  ],
  [
    'an edit of no known kind',
    JSON.stringify({ at: 1, steps: [{ id: 'x', kind: 'edit', edit: { do: 'dance' }, note: 'n' }] }),
  ],
  ['no steps at all', '{"at":1}'],
  ['what is no JSON', '{"steps":['],
])('a browser that kept %s opens the layout all the same', async (_, text) => {
  kept.set(`loess:waiting:${server.id}:gone`, text);
  const store = await reloadedPage();
  await saved(store);
  expect(sizeOf(store.getState().document)).toBe('100 MiB');
  store.getState().commit(resize('10 MiB'));
  await saved(store);
  expect(sizeOf(server.documents.at(-1)!)).toBe('10 MiB');
});

test('a server that answers 404 to everything is asked less and less often, and the change is kept', async () => {
  const waits: number[] = [];
  globalThis.fetch = (() => {
    server.calls.push('x');
    return Promise.resolve(refusal(404, 'layout-unknown', 'There is no layout.'));
  }) as typeof fetch;
  const store = createDesigner(server.view(), (work, milliseconds) => {
    waits.push(milliseconds);
    if (waits.length < 12) setTimeout(work, 0);
  });
  store.getState().commit(resize('10 MiB'));
  await until(() => waits.length === 12);
  expect(server.calls).toHaveLength(12);
  expect(waits.slice(0, 8)).toEqual([1000, 2000, 4000, 8000, 16_000, 32_000, 60_000, 60_000]);
  expect(store.getState().save).toMatchObject({
    kind: 'gone',
    sentence: expect.stringContaining('kept in this browser') as string,
  });
  expect(kept.size).toBe(1);
  expect(sizeOf(store.getState().document)).toBe('10 MiB');
});

test('another window’s change is shown when it is told, and what waits goes on top', async () => {
  const store = createDesigner(server.view());
  const end = store.getState().resume();
  server.documents.push({ ...LAYOUT, name: 'Renamed elsewhere' });
  server.head = 2;
  tellFakeWindow({ id: server.id, revision: 2 });
  await until(() => store.getState().view.revision === 2);
  expect(store.getState()).toMatchObject({ view: { revision: 2 }, document: { name: 'Renamed elsewhere' } });
  end();
});

test('an answer that comes late says nothing about what was saved meanwhile', async () => {
  const store = createDesigner(server.view());
  const end = store.getState().resume();
  await until(() => store.getState().save.kind === 'saved');
  const stale = server.view();
  let answer: (response: Response) => void = () => undefined;
  const fetchNow = globalThis.fetch;
  globalThis.fetch = () => new Promise((resolve) => (answer = resolve));
  tellFakeWindow({ id: server.id, revision: 7 });
  globalThis.fetch = fetchNow;
  store.getState().commit(resize('10 MiB'));
  await until(() => store.getState().view.revision === 2);
  const late = Response.json(stale);
  answer(late);
  await until(() => late.bodyUsed);
  await turn();
  expect(store.getState().view.revision).toBe(2);
  expect(sizeOf(store.getState().document)).toBe('10 MiB');
  end();
});

test('nobody says that all is saved before it was looked whether something is kept here', async () => {
  const store = createDesigner(server.view());
  expect(store.getState().save).toEqual({ kind: 'opening' });
  const end = store.getState().resume();
  await until(() => store.getState().save.kind === 'saved');
  expect(store.getState().save).toEqual({ kind: 'saved' });
  end();
});

test('a change made on an old revision goes on top of the newest one, and that is told', async () => {
  const store = createDesigner(server.view());
  const elsewhere = { ...LAYOUT, name: 'Renamed elsewhere' };
  server.documents.push(elsewhere);
  server.head = 2;
  store.getState().commit(resize('10 MiB'));
  await saved(store);
  expect(store.getState().notice).toContain('another window');
  expect(store.getState().document).toMatchObject({ name: 'Renamed elsewhere' });
  expect(sizeOf(store.getState().document)).toBe('10 MiB');
  expect(server.documents).toHaveLength(3);
});

test('an undo that leads to a damaged revision is not made, and that is told; what comes behind it is', async () => {
  const store = createDesigner(server.view());
  store.getState().commit(resize('10 MiB'));
  await saved(store);
  server.failures = [() => refusal(409, 'document-damaged', 'Revision 1 is damaged.')];
  store.getState().undo();
  store.getState().commit(resize('20 MiB'));
  await saved(store);
  expect(store.getState()).toMatchObject({ notice: 'Revision 1 is damaged.', save: { kind: 'saved' } });
  expect(server.documents.map(sizeOf)).toEqual(['100 MiB', '10 MiB', '20 MiB']);
});

test('a change that the server refuses is taken back with its sentence', async () => {
  server.failures = [() => refusal(422, 'document-invalid', 'Too many slots.')];
  const store = createDesigner(server.view());
  store.getState().commit(resize('10 MiB'));
  await saved(store);
  expect(store.getState().notice).toBe('Too many slots.');
  expect(sizeOf(store.getState().document)).toBe('100 MiB');
});

test('when the selected slot is gone its neighbour is selected, and without one the layout', async () => {
  const store = createDesigner(server.view());
  store.getState().select({ kind: 'slot', id: 'a' });
  store.getState().commit({ do: 'remove slot', id: 'a' });
  expect(store.getState().selection).toEqual({ kind: 'slot', id: 'b' });
  store.getState().commit({ do: 'remove slot', id: 'b' });
  expect(store.getState().selection).toEqual({ kind: 'layout' });
  await saved(store);
});

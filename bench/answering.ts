/** How soon the interface answers, in Chromium: keys and clicks in 60 slots, many bad lines, opening, and going from screen to screen. */
import { mkdtempSync } from 'node:fs';
import path from 'node:path';
import type { Page } from '@playwright/test';
import type { LayoutView } from '@/contract/layouts';
import type { Layout, Slot } from '@/core/layout/document';
import { launched } from './browser';
import { quickly } from './options';
import { median, type Row } from './row';
import { BASE, post, serving } from './server';

const SLOTS = 60;
/** How often each gesture is made. */
const TIMES = quickly(3, 5);
/** Milliseconds without a change after which a gesture has had its effect. */
const QUIET = 250;

/** Sixty slots that much is to be said of: names twice, bounds that press, FAT of all sizes. */
function sixty(): Layout {
  const slots = Array.from({ length: SLOTS }, (_, i): Slot => {
    const content = {
      kind: 'fat',
      label: `TIDE ${i}`,
      volumeId: `7A1D-${(4096 + i).toString(16).toUpperCase()}`,
    } as const;
    if (i % 10 === 9) return { id: `s${i}`, kind: 'free', name: `Gap ${i}`, size: '64 MiB' };
    return {
      id: `s${i}`,
      kind: 'partition',
      name: i % 7 === 3 ? `Slot ${i - 1}` : `Slot ${i}`,
      role: i % 3 === 0 ? 'system' : 'data',
      size: i === 40 ? 'rest, at most 20 GiB' : i % 5 === 4 ? `same as Slot ${i - 4}` : `${i + 2} GB`,
      ...(i % 4 === 0 && { content }),
    };
  });
  return {
    format: 'loess-layout',
    version: 2,
    name: 'Answering',
    date: '2026-03-01T12:00:00',
    medium: { kind: 'disk', capacity: { nominal: '4000 GB' }, logicalSector: 512, physicalSector: 4096 },
    boots: ['uefi'],
    table: { kind: 'gpt', diskId: '6d617272-616d-4c0a-8d05-7469646573ab' },
    slots,
  };
}

/** Watches the page: when something was pressed, when something changed, and when that was painted. */
function watch(page: Page): Promise<void> {
  return page.evaluate(() => {
    const seen = { pressed: 0, painted: 0 };
    (window as unknown as { seen: typeof seen }).seen = seen;
    const press = (event: Event) => {
      if (event instanceof KeyboardEvent && ['Control', 'Shift', 'Alt'].includes(event.key)) return;
      seen.pressed = event.timeStamp;
      seen.painted = 0;
    };
    window.addEventListener('keydown', press, true);
    window.addEventListener('pointerdown', press, true);
    // What is said of saving comes later, and is no effect of the gesture.
    const isEffect = ({ target }: MutationRecord) =>
      (target instanceof Element ? target : target.parentElement)?.closest('header') === null;
    new MutationObserver((list) => {
      if (list.some(isEffect)) requestAnimationFrame(() => setTimeout(() => (seen.painted = performance.now())));
    }).observe(document.body, { subtree: true, childList: true, characterData: true, attributes: true });
  });
}

/** Makes a gesture and waits until nothing changes any more: milliseconds until the last change was painted. */
async function answered(page: Page, name: string, gesture: () => Promise<void>): Promise<number> {
  await gesture();
  await page.waitForTimeout(QUIET);
  const { pressed, painted } = await page.evaluate(
    () => (window as unknown as { seen: { pressed: number; painted: number } }).seen,
  );
  if (painted === 0) throw new Error(`“${name}” had no effect.`);
  return painted - pressed;
}

type Gesture = readonly [name: string, make: (page: Page) => Promise<void>];

const key =
  (...keys: string[]) =>
  async (page: Page) => {
    for (const one of keys) await page.keyboard.press(one);
  };
const clickOn = (name: string) => (page: Page) => page.getByRole('option', { name: new RegExp(`^${name},`) }).click();

/** Each changes what is shown, from whatever the one before left. */
const GESTURES: readonly Gesture[] = [
  ['a click on a slot', clickOn('Slot 5')],
  ['a click on another slot', clickOn('Slot 12')],
  ['a grain more', key('+')],
  ['a grain less', key('-')],
  ['moved down', key('Alt+ArrowDown')],
  ['undone', key('Control+z')],
  ['the next stratum', key('ArrowDown')],
  ['true scale', key('s')],
  ['legible scale', key('s')],
  ['the machine', key('m')],
  ['the table', key('t')],
  ['the first slot', key('Home')],
  ['a partition more', key('a')],
  ['a digit of its size', key('1')],
  ['back to the column', key('Escape')],
  ['deleted', key('Delete')],
];

/** The middle and the most of each, and the one whose middle is the largest, with its runs. */
function middlesOf(times: ReadonlyMap<string, readonly number[]>) {
  const middles = [...times].map(([name, all]) => ({ name, middle: median(all), most: Math.max(...all), runs: all }));
  return { middles, slowest: middles.reduce((a, b) => (b.middle > a.middle ? b : a)) };
}

async function benchGestures(page: Page): Promise<Row> {
  const times = new Map(GESTURES.map(([name]) => [name, [] as number[]]));
  for (let i = 0; i <= TIMES; i++)
    for (const [name, make] of GESTURES) {
      const took = await answered(page, name, () => make(page));
      // The first round loads what comes with its first use.
      if (i > 0) times.get(name)!.push(took);
    }
  const { middles, slowest } = middlesOf(times);
  return {
    name: `designer: slowest of ${GESTURES.length} gestures in ${SLOTS} slots, until painted`,
    runs: slowest.runs,
    limit: 100,
    unit: 'ms',
    detail: `${slowest.name}; ${middles.map(({ name, middle, most }) => `${name} ${middle.toFixed(0)}, at most ${most.toFixed(0)}`).join('; ')}`,
  };
}

async function benchLines(page: Page): Promise<Row> {
  await page.getByRole('listbox').focus();
  await page.keyboard.press('p');
  const lines = page.getByLabel('Lines to add, one slot each');
  await lines.fill(Array.from({ length: 2000 }, (_, i) => `Bad ${i}: ${i} parsecs`).join('\n'));
  await page.getByText('2,000 lines cannot be read').waitFor();
  await page.waitForTimeout(QUIET);
  await page.keyboard.press('Control+Home');
  const times: number[] = [];
  for (const letter of 'A slot of 5 MiB') times.push(await answered(page, letter, () => page.keyboard.type(letter)));
  return {
    name: 'designer: a key in 2,000 lines that cannot be read, until painted',
    runs: times,
    limit: 100,
    unit: 'ms',
    detail: `at most ${Math.max(...times).toFixed(0)} of ${times.length} keys`,
  };
}

/** Seconds from asking for a designer until its column has the focus: it is drawn then, and alive. */
async function benchOpening(page: Page, designer: string): Promise<Row> {
  const times: number[] = [];
  for (let i = 0; i < TIMES; i++) {
    await page.goto('about:blank');
    await page.goto(designer, { waitUntil: 'commit' });
    await page.waitForFunction(() => document.activeElement?.getAttribute('role') === 'listbox', null, { polling: 10 });
    times.push(await page.evaluate(() => performance.now() / 1000));
  }
  return {
    name: `designer: opened, ${SLOTS} slots, until it answers`,
    runs: times,
    limit: 1,
    unit: 's',
    detail: `${times.map((one) => one.toFixed(2)).join(', ')}; the first fills the browser's cache`,
  };
}

/** From a click on a way to another screen until that is there. */
async function benchGoing(page: Page, designer: string): Promise<Row> {
  const ways: readonly [link: string | RegExp, heading: string][] = [
    ['Contents', 'contents'],
    [/^Back to the design/, 'saved'],
    ['Fit', 'one layout on several media'],
    [/^Back to the design/, 'saved'],
    ['Build image', 'build an image'],
    [/^Back to the design/, 'saved'],
    ['To the shelf', 'computed to the sector'],
    [/^Bench/, 'media at hand'],
  ];
  const times = new Map<string, number[]>();
  for (let i = 0; i < TIMES; i++) {
    await page.goto(designer, { waitUntil: 'networkidle' });
    for (const [link, heading] of ways) {
      const target = page.getByRole('link', { name: link, exact: true }).first();
      await target.hover();
      await page.evaluate(() =>
        window.addEventListener('click', (event) => Object.assign(window, { clicked: event.timeStamp }), {
          capture: true,
          once: true,
        }),
      );
      await target.click();
      const took = await page.waitForFunction(
        (text) =>
          document.querySelector('header')?.textContent?.includes(text) &&
          performance.now() - (window as unknown as { clicked: number }).clicked,
        heading,
        { polling: 'raf' },
      );
      const all = times.get(heading) ?? [];
      all.push(Number(await took.jsonValue()));
      times.set(heading, all);
    }
  }
  const { middles, slowest } = middlesOf(times);
  return {
    name: 'going to another screen: the slowest',
    runs: slowest.runs,
    limit: 300,
    unit: 'ms',
    detail: middles.map(({ name, middle }) => `“${name}” ${middle.toFixed(0)}`).join(', '),
  };
}

/** Everything about answering, by a server of its own. */
export function benchAnswering(folder: string): Promise<Row[]> {
  return serving(mkdtempSync(path.join(folder, 'bench-data-')), async () => {
    const { id } = await post<LayoutView>('/api/layouts', { document: sixty(), note: 'bench' });
    const designer = `${BASE}/layouts/${id}`;
    const browser = await launched();
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const opening = await benchOpening(page, designer);
    await page.waitForTimeout(1000);
    await watch(page);
    const gestures = await benchGestures(page);
    const others = quickly([], [benchLines, benchGoing]);
    const rows = [gestures, opening];
    for (const bench of others) rows.push(await bench(page, designer));
    await browser.close();
    return rows;
  });
}

import { type APIRequestContext, expect, type Locator, type Page } from '@playwright/test';
import type { BuildView } from '../src/contract/builds';
import type { LayoutView } from '../src/contract/layouts';
import type { Slot } from '../src/core/layout/document';
import { test as served } from './server';

/** Runs in the page: all that the server sent and a person can use belongs to React by now, where the page has scripts. */
function isAlive(): boolean {
  if (document.querySelector('script[src*="/_next/"]') === null) return true;
  const used = document.querySelectorAll('#main, a, button, input, select, textarea, [tabindex]');
  const hasFiber = (one: Element) => Object.keys(one).some((key) => key.startsWith('__reactFiber'));
  return [...used].filter((one) => one.closest('nextjs-portal, next-route-announcer') === null).every(hasFiber);
}

/** Runs in the page: resolves when the effects of what is on it have run, which listen to keys: two frames later. */
function whenSettled(): Promise<void> {
  return new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(() => resolve())));
}

/** What a page shows, for whoever reads of a failure and has not seen it. */
async function shownBy(page: Page): Promise<string> {
  const text = await page.evaluate(() => document.body.innerText).catch((error: Error) => error.message);
  return `It was at ${page.url()}, and showed:\n${text.replace(/\s*\n\s*/g, '\n').slice(0, 1500)}`;
}

/** A test in which a console error or a request to another host is a failure. */
export const test = served.extend<{ quiet: undefined }>({
  quiet: [
    async ({ page, baseURL }, use, test) => {
      const troubles: string[] = [];
      // A request that is refused, or cut by a test, is shown in the console by the browser itself.
      page.on('console', (message) => {
        if (message.type() === 'error' && !/status of 4\d\d|net::ERR_FAILED/.test(message.text()))
          troubles.push(message.text());
      });
      page.on('pageerror', (error) => troubles.push(error.message));
      page.on('request', (request) => {
        const url = request.url();
        if (!url.startsWith(baseURL!) && !url.startsWith('data:') && !url.startsWith('blob:'))
          troubles.push(`asked for ${url}`);
      });
      // A page is looked at when it is alive, not only painted.
      const goto = page.goto.bind(page);
      page.goto = async (url, options) => {
        const response = await goto(url, options);
        await page.waitForFunction(isAlive);
        await page.evaluate(whenSettled);
        return response;
      };
      await use(undefined);
      if (test.status !== test.expectedStatus) console.log(await shownBy(page));
      expect(troubles).toEqual([]);
    },
    { auto: true },
  ],
});

export { expect };

/** A 1 GiB image with two partitions, or others: a layout of a test's own. */
export async function newLayout(
  request: APIRequestContext,
  name: string,
  slots?: Slot[],
  exact = '1 GiB',
): Promise<string> {
  const document = {
    format: 'loess-layout',
    version: 2,
    name,
    date: '2026-03-01T12:00:00',
    medium: { kind: 'image', capacity: { exact }, logicalSector: 512, physicalSector: 512 },
    boots: [],
    table: { kind: 'mbr', signature: '6d617272' },
    slots: slots ?? [
      { id: 'one', kind: 'partition', name: 'One', role: 'system', size: '200 MiB' },
      { id: 'two', kind: 'partition', name: 'Two', role: 'data', size: '300 MiB' },
      { id: 'three', kind: 'partition', name: 'Three', role: 'data', size: 'rest' },
    ],
  };
  const response = await request.post('/api/layouts', { data: { document, note: 'made by a test' } });
  expect(response.status()).toBe(201);
  return ((await response.json()) as LayoutView).id;
}

/** The document in force on the server. */
export async function documentOf(request: APIRequestContext, id: string): Promise<LayoutView['document']> {
  return ((await (await request.get(`/api/layouts/${id}`)).json()) as LayoutView).document;
}

/** Names of the slots with their sizes, in order, as the server has them. */
export async function sizesOf(request: APIRequestContext, id: string): Promise<string[]> {
  const { slots } = await documentOf(request, id);
  return slots.map((slot) => `${slot.name} ${slot.kind === 'raw' ? slot.length : slot.size}`);
}

/** More elements than a page has that take the focus. */
const MOST_STOPS = 1500;

/** Presses Tab, or another key, until an element has the focus; fails where it never gets it. */
export async function tabTo(
  page: Page,
  target: Locator,
  key = 'Tab',
  press = (one: string) => page.keyboard.press(one),
) {
  await target.waitFor();
  const hasFocus = () => target.evaluate((one) => one === document.activeElement);
  for (let keys = 0; !(await hasFocus()); keys++) {
    if (keys > MOST_STOPS) throw new Error(`${key} never leads to ${target.toString()}`);
    await press(key);
  }
}

/** Waits until the server has everything; returns the revision in force. */
export async function saved(page: Page): Promise<number> {
  const text = page.getByText(/^revision \d+, saved$/);
  await text.waitFor();
  return Number(/\d+/.exec(await text.innerText())![0]);
}

/** Builds a demo layout and gives the name of its image, as surveys are asked for it. */
export async function builtDemo(request: APIRequestContext, layoutId: string): Promise<string> {
  const started = await request.post('/api/builds', { data: { layoutId, revision: 1 } });
  const { id } = (await started.json()) as BuildView;
  const state = async () => ((await (await request.get(`/api/builds/${id}`)).json()) as BuildView).state;
  await expect.poll(state).toBe('done');
  return `build:${id}`;
}

/** The address of the survey of the built gauge logger, beside its layout. */
export async function surveyOfDemo(request: APIRequestContext): Promise<string> {
  return `/surveys?of=${await builtDemo(request, 'gauge-logger')}&layout=gauge-logger`;
}

/** Opens what is folded in the properties, where it is not open yet. */
export async function unfold(page: Page, title: string): Promise<void> {
  const fold = page.locator('details').filter({ has: page.getByText(title, { exact: true }) });
  if ((await fold.getAttribute('open')) === null) await fold.locator('summary').click();
}

/** The row of a slot in the column, by its name. */
export const slotRow = (page: Page, name: string) => page.getByRole('option', { name: new RegExp(`^${name},`) });

/** What holds on every screen: accessibility, themes, and who may talk to the server. */
import type { ChildProcess } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { request as httpRequest } from 'node:http';
import { tmpdir } from 'node:os';
import path from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { oneOf } from '../tests/tier';
import { builtDemo, expect, newLayout, surveyOfDemo, test } from './fixtures';
import { endServer, startServer } from '../scripts/serving.mjs';

/** Violations of accessibility on what the page shows; of a theme they depend in their contrast alone. */
async function violationsOf(page: Page, rules?: readonly string[]): Promise<string[]> {
  // No page of ours has frames: results are not gathered in a window of their own.
  const axe = new AxeBuilder({ page }).setLegacyMode();
  const { violations } = await (
    rules ? axe.withRules([...rules]) : axe.withTags(['wcag2a', 'wcag2aa', 'wcag21aa'])
  ).analyze();
  return violations.map((one) => `${one.id}: ${one.nodes.map((node) => node.html).join(' | ')}`);
}

/** What the page shows has no violation in either theme. */
async function expectAccessible(page: Page): Promise<void> {
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'light');
  expect(await violationsOf(page)).toEqual([]);
  await page.evaluate(() => (document.documentElement.dataset.theme = 'dark'));
  expect(await violationsOf(page, ['color-contrast'])).toEqual([]);
}

/** Screens; every third of them is looked at in the first tier, all in the second. */
const SCREENS = [
  ['the shelf', '/'],
  ['the designer', '/layouts/service-stick'],
  ['the build screen', '/layouts/service-stick/build'],
  ['a GPT in the designer', '/layouts/harbour-display'],
  ['a survey', 'survey'],
  ['the start', '/new?start=second-system'],
  ['the bench', '/bench'],
  ['the data folder', '/data'],
  ['the fit', '/layouts/gauge-logger/fit'],
  ['the mount table', '/layouts/quay-server/hand-over?with=quay-archive'],
  ['a table that is checked', '/layouts/quay-server/hand-over?show=check'],
  ['the boot entries', '/layouts/quay-server/hand-over?show=boot'],
  ['the ids', '/layouts/quay-server/hand-over?show=ids'],
  ['a comparison', '/layouts/gauge-logger/compare'],
  ['logical partitions in the designer', '/layouts/chart-plotter'],
  ['the machine in the designer', '/layouts/beacon-image'],
  ['the contents of a volume', '/layouts/gauge-card-with-its-files/contents?slot=boot'],
  ['supplied boot code', '/layouts/gauge-card-with-its-files/contents'],
  ['the study of a FAT', '/layouts/gauge-card-with-its-files/study?slot=boot'],
  ['a folder of a built volume', 'folder'],
] as const;

for (const [name, url] of oneOf(3, SCREENS)) {
  test(`${name} has no accessibility violation in either theme`, async ({ page, request }) => {
    if (url === 'folder')
      await page.goto(
        `/surveys/files?of=${await builtDemo(request, 'gauge-card-with-its-files')}&partition=4&path=2026`,
      );
    else await page.goto(url === 'survey' ? await surveyOfDemo(request) : url);
    if (url === 'folder') await expect(page.getByRole('link', { name: 'February' })).toBeVisible();
    if (url.endsWith('contents?slot=boot')) await page.getByRole('button', { name: 'STATION.CFG' }).click();
    if (url.endsWith('study?slot=boot')) await expect(page.getByText(/^6 files, /)).toBeVisible();
    const option = page.getByRole('option', { name: /^Shared area/ });
    if (url.endsWith('stick')) await option.click();
    if (url.endsWith('display')) await page.getByRole('option', { name: /^ESP/ }).click();
    if (url.endsWith('plotter')) await page.getByRole('option', { name: /^Charts/ }).click();
    if (url.endsWith('image')) await page.keyboard.press('m');
    if (url.endsWith('show=check'))
      await page
        .getByRole('textbox', { name: 'Mount table to check' })
        .fill('PARTUUID=71756179-02 / ext4 defualts 0 1\n');
    if (url.endsWith('fit')) await page.getByRole('button', { name: 'Show it as a chart' }).click();
    if (url === 'survey') await expect(page.getByText('Ledger: Master boot record')).toBeVisible();
    await expectAccessible(page);
  });
}

/** What a screen may look like beside how it begins. */
const STATES: readonly (readonly [name: string, url: string, reach: (page: Page) => Promise<void>])[] = [
  ['the sheet of keys', '/layouts/gauge-logger', (page) => page.keyboard.press('?')],
  ['the palette of orders', '/layouts/gauge-logger', (page) => page.keyboard.press('Control+k')],
  [
    'a size that cannot be read, with the card of sizes',
    '/layouts/gauge-logger',
    async (page) => {
      await page.getByRole('option', { name: /^System A,/ }).click();
      await page.getByRole('button', { name: 'How sizes are said' }).click();
      await page.getByLabel('Size', { exact: true }).fill('banana');
    },
  ],
  [
    'everything unfolded',
    '/layouts/harbour-display',
    async (page) => {
      await page.getByRole('option', { name: /^ESP,/ }).click();
      await page.getByRole('button', { name: 'other kinds' }).click();
      for (const fold of await page.locator('aside details summary').all()) await fold.click();
    },
  ],
  [
    'the properties folded away',
    '/layouts/harbour-display',
    (page) => page.getByRole('button', { name: 'Fold the properties away' }).click(),
  ],
  [
    'lines that cannot be read',
    '/layouts/gauge-logger',
    async (page) => {
      await page.keyboard.press('p');
      await page.getByLabel('Lines to add, one slot each').fill('A: rest\nB: banana');
    },
  ],
  ['a start that cannot be read', '/new?start=bios-server', (page) => page.getByLabel('Sold as').fill('banana')],
  [
    'a reason that is asked for',
    '/layouts/chart-plotter/build',
    (page) => page.getByRole('button', { name: 'Accept with a reason' }).first().click(),
  ],
];

for (const [name, url, reach] of oneOf(3, STATES))
  test(`${name}: no accessibility violation in either theme`, async ({ page }) => {
    await page.goto(url);
    await reach(page);
    await expectAccessible(page);
  });

test('a dark system gives the dark theme', async ({ page }) => {
  await page.emulateMedia({ colorScheme: 'dark' });
  await page.goto('/');
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark');
});

test('the theme is switched by hand and remembered', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Light or dark' }).click();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark');
  await page.reload();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark');
});

test('the designer shows six partitions, properties and findings without scrolling the page', async ({
  page,
  request,
}) => {
  // A fifth and sixth primary are a stop, and still they are shown.
  const id = await newLayout(
    request,
    'Six',
    ['a', 'b', 'c', 'd', 'e', 'f'].map((name) => ({
      id: name,
      kind: 'partition',
      name,
      role: 'data',
      size: '100 MiB',
    })),
  );
  await page.goto(`/layouts/${id}`);
  const size = await page.evaluate(() => [document.documentElement.scrollHeight, document.documentElement.scrollWidth]);
  expect(size).toEqual([800, 1280]);
  await expect(page.getByText('f would be entry 6 of sector 0')).toBeInViewport();
  await expect(page.getByRole('option', { name: /^f,/ })).toBeInViewport({ ratio: 1 });
});

function rawStatus(
  port: number,
  headers: Record<string, string>,
  method = 'GET',
  url = '/api/layouts/gauge-logger',
): Promise<number> {
  return new Promise((resolve, reject) => {
    const sent = httpRequest({ host: '127.0.0.1', port, path: url, method, headers }, (response) => {
      response.resume();
      resolve(response.statusCode!);
    });
    sent.on('error', reject);
    sent.end();
  });
}

test('strangers are refused at every door', async ({ baseURL }) => {
  const port = Number(new URL(baseURL!).port);
  expect(await rawStatus(port, {})).toBe(200);
  expect(await rawStatus(port, { host: 'tide.example' })).toBe(403);
  expect(await rawStatus(port, { host: 'tide.example' }, 'GET', '/')).toBe(403);
  expect(await rawStatus(port, { host: 'tide.example' }, 'GET', '/api/images/x')).toBe(403);
  expect(await rawStatus(port, { origin: 'http://tide.example' }, 'POST', '/api/builds')).toBe(403);
  expect(await rawStatus(port, { origin: 'http://tide.example' }, 'DELETE')).toBe(403);
});

test('bad requests get a status, a code and a sentence that names the field', async ({ request }) => {
  const cases: [string, string, unknown, number, string, string][] = [
    ['POST', '/api/layouts', { document: { format: 'loess-layout' }, note: 'x' }, 422, 'document-invalid', 'version'],
    ['POST', '/api/layouts', { note: 'x' }, 400, 'body-invalid', 'document'],
    [
      'POST',
      '/api/layouts/gauge-logger/revisions',
      { base: 'one', document: {}, note: 'x' },
      400,
      'body-invalid',
      'base',
    ],
    ['POST', '/api/layouts/gauge-logger/head', { base: 1, direction: 'up' }, 400, 'body-invalid', 'direction'],
    ['POST', '/api/builds', { layoutId: 'nobody', revision: 1 }, 404, 'revision-unknown', 'revision'],
    ['GET', '/api/builds/nobody', undefined, 404, 'build-unknown', 'id'],
    ['GET', '/api/images/nobody?as=raw', undefined, 404, 'build-unknown', 'id'],
    ['GET', '/api/images/nobody?as=zip', undefined, 400, 'form-unknown', 'as'],
    ['DELETE', '/api/layouts/nobody', undefined, 404, 'layout-unknown', 'id'],
    ['GET', '/api/surveys?of=file:none.img', undefined, 404, 'file-unknown', 'of'],
    ['GET', '/api/surveys?of=file:none.img&sectorSize=1024', undefined, 400, 'query-invalid', 'sectorSize'],
    ['GET', '/api/surveys/sector?of=file:none.img&sector=-1', undefined, 400, 'query-invalid', 'sector'],
    ['DELETE', '/api/files/none.img', undefined, 404, 'file-unknown', 'name'],
  ];
  for (const [method, url, data, status, code, field] of cases) {
    const response = await request.fetch(url, { method, ...(data !== undefined && { data }) });
    const body = (await response.json()) as { error: { code: string; sentence: string; field: string } };
    expect([url, response.status(), body.error.code, body.error.field]).toEqual([url, status, code, field]);
    expect(body.error.sentence.length).toBeGreaterThan(20);
  }
});

test('the published schema is served', async ({ request }) => {
  const schema = (await (await request.get('/layout-2.schema.json')).json()) as { title: string };
  expect(schema.title).toBe('Loess layout');
});

test.describe('a server that writes slowly', () => {
  let server: ChildProcess;
  let data: string;

  const start = async (port: number) => {
    server = await startServer(port, data, { LOESS_WRITE_RATE: '1000' });
  };
  /** Ends the server as a power cut would. */
  const kill = () => endServer(server, 'SIGKILL');

  test.beforeAll(async ({ sparePort }) => {
    data = mkdtempSync(path.join(tmpdir(), 'loess-slow-'));
    await start(sparePort);
  });

  test.afterAll(async () => {
    await kill();
    rmSync(data, { recursive: true, force: true });
  });

  test.use({ baseURL: ({ sparePort }, provide) => provide(`http://127.0.0.1:${sparePort}`) });

  test('shows progress with rate and time left; cancel leaves nothing', async ({ page }) => {
    await page.goto('/layouts/gauge-logger/build');
    await page.getByRole('button', { name: 'Build revision 1' }).click();
    await expect(page.getByText(/writing · [\d.]+ \w+ of 7\.5 KiB · [\d.,]+ k?B\/s · \d+ s left/)).toBeVisible();
    await expect(page.getByRole('progressbar', { name: 'Build' })).toBeVisible();
    await page.getByRole('button', { name: 'Cancel' }).click();
    await expect(page.getByText('cancelled')).toBeVisible();
    expect(readdirSync(path.join(data, 'builds'))).toEqual([]);
  });

  test('killed during a build, it says so after the restart and keeps everything else', async ({ page, sparePort }) => {
    await page.goto('/layouts/gauge-logger/build');
    await page.getByRole('button', { name: 'Build revision 1' }).click();
    await expect(page.getByText(/writing · .* left/)).toBeVisible();
    expect(readdirSync(path.join(data, 'builds'))).toHaveLength(1);
    await page.goto('about:blank');
    await kill();
    await start(sparePort);
    await page.goto('/layouts/gauge-logger/build');
    await expect(page.getByText('The server ended while this was being built.')).toBeVisible();
    expect(readdirSync(path.join(data, 'builds'))).toEqual([]);
    await page.goto('/');
    await expect(page.getByRole('link', { name: 'Service stick', exact: true })).toBeVisible();
  });

  test('while it is down, a change waits in the browser; when it is back, the change is saved', async ({ page }) => {
    await page.goto('/layouts/service-stick');
    await page.route('**/revisions', (route) => route.abort());
    await page.getByRole('option', { name: /^Service system/ }).click();
    await page.getByLabel('Size', { exact: true }).fill('5 GiB');
    await page.getByLabel('Size', { exact: true }).press('Enter');
    await expect(page.getByText('Your changes are kept in this browser')).toBeVisible();
    await page.unroute('**/revisions');
    await page.reload();
    await expect(page.getByText('revision 2, saved')).toBeVisible();
    await expect(page.getByRole('option', { name: /^Service system/ })).toContainText('5 GiB');
  });
});

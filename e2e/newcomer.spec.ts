/** A newcomer's way from the first page to a downloaded image. */
import { createHash } from 'node:crypto';
import { createReadStream, statSync } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { createGunzip, gzipSync } from 'node:zlib';
import { tarOf } from '../tests/archives';
import { cases } from '../tests/tier';
import type { Slot } from '../src/core/layout/document';
import { documentOf, expect, newLayout, test } from './fixtures';

async function sha256(file: string, isGzip: boolean): Promise<string> {
  const hash = createHash('sha256');
  if (isGzip) await pipeline(createReadStream(file), createGunzip(), hash);
  else await pipeline(createReadStream(file), hash);
  return hash.digest('hex');
}

test('from the shelf to an image of a real card', async ({ page }) => {
  // The shelf has the layouts of all tests before.
  await page.goto('/?find=gauge+logger');
  await expect(page.getByRole('listitem').filter({ hasText: 'Gauge logger' })).toContainText('14,368,768 sectors');
  await page.getByRole('link', { name: 'Gauge logger', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Gauge logger' })).toBeVisible();
  await expect(page.getByText('every rule is kept')).toBeVisible();
  await page.getByRole('link', { name: 'Build image' }).click();
  await expect(page.getByRole('cell', { name: 'First-stage loader' })).toBeVisible();
  const before = await page.getByRole('article').count();
  await page.getByRole('button', { name: 'Build revision' }).click();
  await expect(page.getByRole('article')).toHaveCount(before + 1);
  const build = page.getByRole('article').first();
  await expect(build).toContainText('done, read back');
  await expect(build).toContainText(/(\d+) of \1 facts agree/);
  await build.getByText('Ranges and checksums').click();
  await expect(build.getByRole('cell', { name: 'master boot record' })).toBeVisible();
  const link = build.getByRole('link', { name: /Download image/ });
  const head = await page.request.head((await link.getAttribute('href'))!);
  expect(head.headers()['content-length']).toBe(String(14_368_768 * 512));
});

/** Size of an image that is downloaded twice, in mebibytes. */
const DOWNLOADED = cases(48, 200);

test('raw and gzip downloads are the image, and its checksum is the one shown', async ({ page, request }) => {
  const slots: Slot[] = [
    {
      id: 'log',
      kind: 'partition',
      name: 'Log',
      role: 'data',
      size: 'rest',
      content: { kind: 'fat', variant: 32, volumeId: '7A1D-10C5' },
    },
  ];
  const id = await newLayout(request, 'Download', slots, `${DOWNLOADED} MiB`);
  await page.goto(`/layouts/${id}/build`);
  await page.getByRole('button', { name: 'Build revision 1' }).click();
  await page.getByRole('button', { name: /Compute SHA-256/ }).click();
  const shown = /[0-9a-f]{64}/.exec(await page.getByText(/^SHA-256 [0-9a-f]{64}$/).innerText())![0];
  for (const [name, isGzip] of [
    [/Download image/, false],
    ['Download gzip', true],
  ] as const) {
    const waiting = page.waitForEvent('download');
    await page.getByRole('link', { name }).click();
    const download = await waiting;
    expect(download.suggestedFilename()).toBe(isGzip ? 'download-r1.img.gz' : 'download-r1.img');
    const file = await download.path();
    if (!isGzip) expect(statSync(file).size).toBe(DOWNLOADED * 2 ** 20);
    expect(await sha256(file, isGzip)).toBe(shown);
  }
});

test('an image is listed on the shelf and can be deleted', async ({ page, request }) => {
  const id = await newLayout(request, 'Listed');
  await page.goto(`/layouts/${id}/build`);
  await page.getByRole('button', { name: 'Build revision 1' }).click();
  await expect(page.getByText('done, read back')).toBeVisible();
  await page.goto('/');
  await expect(page.getByRole('link', { name: 'Download listed-r1.img' })).toBeVisible();
  await page.goto(`/layouts/${id}/build`);
  await page.getByRole('button', { name: 'Delete listed-r1.img' }).click();
  await page.getByRole('button', { name: 'Delete for good' }).click();
  await expect(page.getByText('No image yet')).toBeVisible();
});

test('a layout from nothing: medium, remedy, FAT32, build', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'An empty layout' }).click();
  await expect(page.getByText('The layout has no slot yet.')).toBeVisible();
  await page.getByRole('button', { name: 'Add a partition over the whole medium' }).click();
  await page.getByRole('option', { name: /^Data/ }).click();
  await page.getByRole('radio', { name: 'FAT', exact: true }).click();
  await page.getByRole('radio', { name: 'FAT32' }).click();
  await page.getByLabel('Label').fill('Shared tide data');
  await expect(page.getByText('“ DATA” is cut off')).toBeVisible();
  await page.getByLabel('Label').press('Enter');
  await page.getByRole('button', { name: 'Write it as SHARED TIDE' }).click();
  await expect(page.getByRole('option', { name: /^Data/ })).toContainText('SHARED TIDE');
  await page.getByRole('link', { name: 'Build image' }).click();
  await page.getByRole('button', { name: /Build revision \d/ }).click();
  await expect(page.getByText('done, read back')).toBeVisible();
});

test('export and import give the same document; what is no document is refused with its path', async ({
  page,
  request,
}) => {
  const id = await newLayout(request, 'Travelling');
  await page.goto(`/layouts/${id}`);
  const waiting = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Export' }).click();
  const file = await (await waiting).path();
  await page.goto('/');
  await page
    .getByLabel('Layout document')
    .setInputFiles({ name: 'bad.json', mimeType: 'application/json', buffer: Buffer.from('{"a":') });
  await expect(
    page.getByText(/“bad.json” is no valid layout: line 1, column \d+: the document is not JSON/),
  ).toBeVisible();
  const wrong = { format: 'loess-layout', version: 2, slots: 5 };
  await page
    .getByLabel('Layout document')
    .setInputFiles({ name: 'wrong.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(wrong)) });
  await expect(page.getByText('“wrong.json” is no valid layout: line 1, column 1: name is missing')).toBeVisible();
  await page.getByLabel('Layout document').setInputFiles(file);
  await expect(page).toHaveURL(/\/layouts\/travelling-2$/);
  const text = async (of: string) => (await request.get(`/api/layouts/${of}/document`)).text();
  expect(await text('travelling-2')).toBe(await text(id));
});

test('a document that names its files by a path comes in with them, in one archive', async ({ page, request }) => {
  const id = await newLayout(request, 'Pier card');
  const layout = await documentOf(request, id);
  const content = { kind: 'fat', volumeId: '7A1D-10C5', filesFrom: 'files' } as const;
  const slots = [{ id: 'boot', kind: 'partition', name: 'Boot', role: 'boot', size: 'rest', content }];
  const document = JSON.stringify({ ...layout, slots });
  await page.goto('/');
  const choose = (name: string, buffer: Buffer) =>
    page.getByLabel('Layout document').setInputFiles({ name, mimeType: 'application/octet-stream', buffer });
  await choose('pier.json', Buffer.from(document));
  await expect(page.getByText(/names “files” beside the document without its sum/)).toBeVisible();
  const tar = await tarOf([
    { name: 'pier.json', content: document },
    { name: 'files/gauge.cfg', content: 'station = pier' },
  ]);
  await choose('pier.tgz', gzipSync(tar));
  await expect(page).toHaveURL(/\/layouts\/pier-card-2$/);
  await page.goto('/layouts/pier-card-2/contents?slot=boot');
  await expect(page.getByRole('row', { name: /gauge\.cfg/ })).toBeVisible();
});

test('putting a layout away can be taken back', async ({ page, request }) => {
  await newLayout(request, 'Out of sight');
  await page.goto('/');
  await page.getByRole('button', { name: 'Put Out of sight away' }).click();
  await expect(page.getByRole('link', { name: 'Out of sight', exact: true })).toHaveCount(0);
  await page.getByRole('button', { name: 'Bring it back' }).click();
  await expect(page.getByRole('link', { name: 'Out of sight', exact: true })).toBeVisible();
  // Later too: what was put away is listed.
  await page.getByRole('button', { name: 'Put Out of sight away' }).click();
  await expect(page.getByRole('link', { name: 'Out of sight', exact: true })).toHaveCount(0);
  await page.reload();
  await page.getByText(/^Put away: /).click();
  await page.getByRole('button', { name: 'Bring Out of sight back' }).click();
  await expect(page.getByRole('link', { name: 'Out of sight', exact: true })).toBeVisible();
});

test('an address where nothing is says so', async ({ page }) => {
  const response = await page.goto('/layouts/nobody');
  expect(response!.status()).toBe(404);
  await expect(page.getByText('There is nothing at this address')).toBeVisible();
});

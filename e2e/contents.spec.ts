/** What is inside: a folder dropped, studied, built, browsed and fetched again; and what cannot be stored. */
import { fillingOf } from '@/core/layout/contents';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readFileSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { APIRequestContext } from '@playwright/test';
import type { TreeView } from '../src/contract/contents';
import { builtDemo, documentOf, expect, newLayout, test } from './fixtures';

const VOLUME = {
  id: 'boot',
  kind: 'partition',
  name: 'Boot',
  role: 'boot',
  size: '64 MiB',
  content: { kind: 'fat', variant: 32, label: 'GAUGEBOOT', volumeId: '7A1D-10C5' },
} as const;

/** Entries of the files of the first slot, as the server has them. */
async function treeOf(request: APIRequestContext, id: string): Promise<TreeView['entries']> {
  const [slot] = (await documentOf(request, id)).slots;
  const files = slot?.kind === 'partition' ? fillingOf(slot)?.files : undefined;
  if (files === undefined) return [];
  return ((await (await request.get(`/api/contents/trees/${files}`)).json()) as TreeView).entries;
}

/** Files as a browser takes them from a disk. */
const files = (...named: readonly (readonly [name: string, content: string])[]) =>
  named.map(([name, content]) => ({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(content) }));

test('files are put in, studied, built, browsed and fetched again', async ({ page, request }) => {
  const kernel = 'kernel of the gauge '.repeat(20_000);
  const id = await newLayout(request, 'Filled card', [VOLUME], '80 MiB');
  await page.goto(`/layouts/${id}/contents?slot=boot`);
  await page
    .getByLabel('Files to put in')
    .setInputFiles(files(['KERNEL.IMG', kernel], ['Station of the coast.cfg', 'marram']));
  await expect(page.getByText(/^2 files in 0 folders/)).toBeVisible();
  await expect(page.getByText('STATIO~1.CFG')).toBeVisible();
  await page.getByRole('button', { name: 'KERNEL.IMG' }).click();
  await page.getByRole('button', { name: 'Later' }).click();
  await expect(page.getByRole('row').nth(1)).toContainText('Station of the coast.cfg');
  await expect.poll(async () => (await documentOf(request, id)).slots[0]).toHaveProperty('content.files');

  await page.goto(`/layouts/${id}/study?slot=boot`);
  await expect(page.getByText(/^2 files, /)).toBeVisible();
  await page.getByRole('button', { name: 'Use FAT16, 4 KiB' }).click();
  await expect
    .poll(async () => (await documentOf(request, id)).slots[0])
    .toMatchObject({ content: { kind: 'fat', variant: 16, cluster: '4 KiB' } });

  await page.goto(`/layouts/${id}/build`);
  await page.getByRole('spinbutton', { name: 'copy' }).fill('7');
  await page.getByRole('button', { name: /^Build revision/ }).click();
  await expect(page.getByText('2 files and folders were compared')).toBeVisible();
  await page.getByRole('link', { name: 'Boot', exact: true }).click();
  await expect(page.getByText('FAT16; 0 folders and 2 files here')).toBeVisible();
  await page.getByRole('link', { name: 'Back to the survey' }).click();
  await page.getByRole('option', { name: /^Partition 1, sector/ }).click();
  await page.getByRole('link', { name: 'Browse its files' }).click();
  await expect(page.getByText('FAT16; 0 folders and 2 files here')).toBeVisible();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'KERNEL.IMG' }).click(),
  ]);
  const hash = (bytes: Uint8Array | string) => createHash('sha256').update(bytes).digest('hex');
  expect(hash(readFileSync(await download.path()))).toBe(hash(kernel));
});

test('a real folder is dropped; the list is walked, ordered and emptied by keys', async ({ page, request }) => {
  const folder = path.join(mkdtempSync(path.join(tmpdir(), 'loess-drop-')), 'station');
  mkdirSync(path.join(folder, 'Tables', 'March'), { recursive: true });
  writeFileSync(path.join(folder, 'STATION.CFG'), 'station = 07\n');
  writeFileSync(path.join(folder, 'Tables', 'BUOY07.CSV'), 'level\n2400\n');
  writeFileSync(path.join(folder, 'Tables', 'March', 'Readings of the gauge.csv'), 'x'.repeat(5000));
  const id = await newLayout(request, 'Dropped', [VOLUME], '80 MiB');
  await page.goto(`/layouts/${id}/contents?slot=boot`);
  const place = await page.getByText('Drop files or a folder here').boundingBox();
  const browser = await page.context().newCDPSession(page);
  const drop = async (dropped: string) => {
    for (const type of ['dragEnter', 'dragOver', 'drop'] as const)
      await browser.send('Input.dispatchDragEvent', {
        type,
        x: place!.x + 40,
        y: place!.y + 10,
        data: { items: [], files: [dropped], dragOperationsMask: 1 },
      });
  };
  await drop(mkdtempSync(path.join(tmpdir(), 'loess-empty-')));
  await expect(page.getByRole('alert').filter({ hasText: 'There is no file in it' })).toBeVisible();
  await page.getByRole('button', { name: 'Understood' }).click();
  await drop(folder);
  await expect(page.getByText('is a folder with 3 files.')).toBeVisible();
  await page.getByRole('button', { name: 'Put in what is in it' }).press('Enter');
  await expect(page.getByText(/^3 files in 2 folders/)).toBeVisible();

  const names = () => page.getByRole('row').getByRole('button', { pressed: undefined }).allInnerTexts();
  const first = page.getByRole('row').nth(1).getByRole('button').first();
  await first.focus();
  await page.keyboard.press('Home');
  const before = (await names()).filter((name) => name !== 'open');
  expect(before.toSorted()).toEqual(['STATION.CFG', 'Tables/']);
  await page.keyboard.press('Alt+ArrowDown');
  await expect(page.getByRole('row').nth(1)).toContainText(before[1]!);
  // The order of the list is the order of the volume.
  await page.getByRole('button', { name: 'Tables/' }).focus();
  await page.keyboard.press(before[0] === 'Tables/' ? 'End' : 'Home');
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('button', { name: 'BUOY07.CSV' })).toBeVisible();
  await page.getByRole('button', { name: 'BUOY07.CSV' }).press('ArrowDown');
  await page.getByRole('button', { name: 'BUOY07.CSV' }).click();
  await page.keyboard.press('Delete');
  await expect(page.getByText(/^2 files in 2 folders/)).toBeVisible();
  await page.getByRole('button', { name: 'March/' }).press('Backspace');
  await expect(page.getByRole('button', { name: 'STATION.CFG' })).toBeVisible();
});

test('files of another system are taken from an image: one, a folder, and all of it', async ({ page, request }) => {
  const of = await builtDemo(request, 'gauge-card-with-its-files');
  const listed = async (query: string) => request.get(`/api/contents/listing?of=${of}&${query}`);
  expect((await listed('partition=4&path=2026')).status()).toBe(200);
  expect((await listed('partition=4&path=nowhere')).status()).toBe(404);
  expect((await listed('partition=4')).status()).toBe(400);
  const id = await newLayout(request, 'Taken over', [VOLUME], '80 MiB');
  await page.goto(`/layouts/${id}/contents?slot=boot`);
  await page.getByRole('button', { name: 'From an image …' }).click();
  const image = page.getByRole('region', { name: 'From an image' });
  const volumes = image.getByLabel('Volume of an image');
  await volumes.selectOption({ label: await volumes.locator('option', { hasText: 'TIDELOG' }).first().innerText() });
  await image.getByRole('button', { name: '2026/' }).click();
  await image.getByRole('button', { name: 'Take February' }).click();
  await expect(page.getByRole('button', { name: 'February/' }).last()).toBeVisible();
  await image.getByRole('button', { name: 'February/' }).click();
  await image.getByRole('button', { name: 'Take BUOY07.CSV' }).click();
  await expect(page.getByRole('button', { name: 'BUOY07.CSV', exact: true })).toBeVisible();
  await image.getByRole('navigation', { name: 'Folder of the image' }).getByRole('button', { name: 'volume' }).click();
  await image.getByRole('button', { name: 'Take all of it, folders too' }).click();
  await expect(page.getByRole('button', { name: '2026/' }).last()).toBeVisible();
  await expect
    .poll(async () => (await treeOf(request, id)).map((one) => one.path))
    .toEqual(expect.arrayContaining(['February/BUOY07.CSV', 'BUOY07.CSV', '2026/February/BUOY07.CSV']));
  // What is the same file is stored once.
  const same = (await treeOf(request, id)).filter((one) => one.path.endsWith('February/BUOY07.CSV'));
  expect(new Set(same.map((one) => (one.kind === 'file' ? one.sha256 : ''))).size).toBe(1);
});

test('an upload is stopped half way: nothing of it is left, and it can be sent again', async ({ page, request }) => {
  const file = path.join(mkdtempSync(path.join(tmpdir(), 'loess-send-')), 'system.img');
  writeFileSync(file, '');
  truncateSync(file, 48 * 2 ** 20);
  const id = await newLayout(request, 'Stopped', [VOLUME], '80 MiB');
  await page.goto(`/layouts/${id}/contents?slot=boot`);
  const browser = await page.context().newCDPSession(page);
  const speed = (uploadThroughput: number) =>
    browser.send('Network.emulateNetworkConditions', {
      offline: false,
      latency: 0,
      downloadThroughput: -1,
      uploadThroughput,
    });
  await speed(2 * 2 ** 20);
  await page.getByLabel('Files to put in').setInputFiles(file);
  await expect(page.getByText(/MB\/s · \d+ s left/)).toBeVisible();
  await page.getByRole('button', { name: 'Stop' }).press('Enter');
  await expect(page.getByRole('alert').filter({ hasText: 'nothing of it is left' })).toBeVisible();
  await expect(page.getByText('Drop files or a folder here')).toBeVisible();
  expect((await documentOf(request, id)).slots[0]).not.toHaveProperty('content.files');
  await speed(-1);
  await page.getByLabel('Files to put in').setInputFiles(file);
  await expect(page.getByText(/^1 file in 0 folders, 48 MiB/)).toBeVisible();
});

test('contents and study are reached by keys from the selected slot, and undone by keys there', async ({
  page,
  request,
}) => {
  const id = await newLayout(
    request,
    'By keys',
    [VOLUME, { ...VOLUME, id: 'log', name: 'Log', size: '40 MiB' }],
    '128 MiB',
  );
  await page.goto(`/layouts/${id}`);
  await page.getByRole('option', { name: /^Log,/ }).click();
  await page.getByRole('listbox').press('w');
  await expect(page).toHaveURL(/\/contents\?slot=log$/);
  await page.getByRole('button', { name: 'An empty folder …' }).press('Enter');
  await page.getByLabel('New folder').fill('March');
  await page.getByLabel('New folder').press('Enter');
  await expect(page.getByRole('button', { name: 'March/' })).toBeVisible();
  await page.getByRole('button', { name: 'March/' }).press('Control+z');
  await expect(page.getByText('Drop files or a folder here')).toBeVisible();
  await page.goto(`/layouts/${id}`);
  await page.getByRole('option', { name: /^Log,/ }).click();
  await page.getByRole('listbox').press('v');
  await expect(page).toHaveURL(/\/study\?slot=log$/);
  await page.getByRole('button', { name: 'Use FAT16, 2 KiB' }).press('Enter');
  await expect
    .poll(async () => (await documentOf(request, id)).slots[1])
    .toMatchObject({ content: { kind: 'fat', variant: 16 } });
  await page.getByRole('main').press('Control+z');
  await expect
    .poll(async () => (await documentOf(request, id)).slots[1])
    .toMatchObject({ content: { kind: 'fat', variant: 32 } });
});

test('a name that cannot be stored is told, renamed by keyboard, and every change can be undone', async ({
  page,
  request,
}) => {
  const id = await newLayout(request, 'Odd names', [VOLUME], '80 MiB');
  await page.goto(`/layouts/${id}/contents?slot=boot`);
  await page.getByLabel('Files to put in').setInputFiles(files(['buoy:7.csv', '1']));
  await expect(page.getByRole('list', { name: 'Findings' })).toContainText('has the character :');
  await page.getByRole('button', { name: 'buoy:7.csv', exact: true }).click();
  const name = page.getByLabel('Name', { exact: true });
  await name.fill('buoy 7.csv');
  await name.press('Enter');
  await expect(page.getByRole('button', { name: 'buoy 7.csv' })).toBeVisible();
  await expect(page.getByRole('list', { name: 'Findings' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'buoy:7.csv', exact: true })).toBeVisible();
});

test('boot code that is too long is refused to the byte, and what fits lies in the code area', async ({
  page,
  request,
}) => {
  const id = await newLayout(request, 'Boot code', [VOLUME], '80 MiB');
  await page.goto(`/layouts/${id}/contents`);
  await page.getByRole('button', { name: /^Code area of sector 0/ }).click();
  const input = page.getByLabel('Choose a file: Boot code of sector 0');
  await input.setInputFiles(files(['code.bin', 'x'.repeat(446)]));
  await expect(page.getByText('of 440 bytes here: 6 too many')).toBeVisible();
  await page.getByRole('list', { name: 'Findings' }).getByRole('button', { name: 'Take the first 440 bytes' }).click();
  await expect
    .poll(async () => (await documentOf(request, id)).table)
    .toMatchObject({ code: { size: 446, take: 440 } });
  await input.setInputFiles(files(['code.bin', 'x'.repeat(440)]));
  await expect(page.getByText('too many')).toHaveCount(0);
  await expect
    .poll(async () => (await documentOf(request, id)).table)
    .toMatchObject({ code: { name: 'code.bin', size: 440 } });
});

test('what its system will make of a partition decides its type, and is said in its line', async ({
  page,
  request,
}) => {
  const id = await newLayout(request, 'Left to their systems');
  const slots = async () => (await documentOf(request, id)).slots;
  await page.goto(`/layouts/${id}`);
  const two = page.getByRole('option', { name: /^Two/ });
  await two.click();
  await page.getByLabel('What its system will make').selectOption({ label: 'LVM' });
  await expect(two).toContainText('left to its system');
  await expect(two).toContainText('for LVM');
  await expect(two).toContainText('8E LVM');
  await expect(page.getByLabel('In one line')).toHaveValue(/left for lvm/);
  await expect.poll(async () => (await slots())[1]).toMatchObject({ content: { kind: 'left', expects: 'lvm' } });
  await page.getByLabel('What its system will make').selectOption({ label: 'not said' });
  await expect(two).toContainText('83 Linux');
  // A swap partition of which nothing is said is made swap; it can be left to its system too.
  await page.getByRole('radio', { name: 'swap', exact: true }).first().click();
  await expect.poll(async () => (await slots())[1]).toMatchObject({ role: 'swap', content: { kind: 'swap' } });
  await expect(page.getByLabel('UUID')).toHaveValue(/^[0-9a-f-]{36}$/);
  await page.getByRole('radio', { name: 'left to its system' }).click();
  await expect.poll(async () => (await slots())[1]).toMatchObject({ role: 'swap', content: { kind: 'left' } });
});

test('a slot takes the size of the image that is put into it, and keeps to it', async ({ page, request }, testInfo) => {
  const id = await newLayout(request, 'As large as its image');
  await page.goto(`/layouts/${id}/contents?slot=two`);
  const put = async (mebibytes: number) => {
    const ext = Buffer.alloc(mebibytes * 2 ** 20);
    ext.writeUInt16LE(0xef53, 1080);
    // As a file: contents that are handed over by the test itself take seconds for each megabyte.
    const file = testInfo.outputPath(`data-${mebibytes}.img`);
    writeFileSync(file, ext);
    await page.getByLabel('Choose a file: File in this partition').setInputFiles(file);
    await expect(page.getByText(`${(mebibytes * 2 ** 20).toLocaleString('en')} bytes`).first()).toBeVisible();
  };
  await put(20);
  await page.getByRole('link', { name: 'Back to the designer' }).click();
  const two = page.getByRole('option', { name: /^Two,/ });
  await two.click();
  await expect(page.getByText(/behind it belong to no file system/)).toBeVisible();
  await page.getByRole('button', { name: 'Take its size' }).click();
  await expect(page.getByLabel('Size', { exact: true })).toHaveValue('its image');
  await expect(two).toContainText('= 20 MiB');
  await expect(page.getByText(/behind it belong to no file system/)).toHaveCount(0);
  await expect(page.getByLabel('In one line')).toHaveValue(/^Two: its image/);
  await page.getByRole('link', { name: 'Contents', exact: true }).first().click();
  await put(24);
  await page.getByRole('link', { name: 'Back to the designer' }).click();
  await expect(two).toContainText('= 24 MiB');
});

test('a folder with thousands of files is walked to its end, and shows only what is seen', async ({
  page,
  request,
}) => {
  const id = await newLayout(request, 'A long folder', [VOLUME]);
  await page.goto(`/layouts/${id}/contents?slot=boot`);
  const names = Array.from({ length: 2400 }, (_, i) => `R${String(i).padStart(5, '0')}.CSV`);
  await page.getByLabel('Files to put in').setInputFiles(files(...names.map((name) => [name, name] as const)));
  const row = (name: string) => page.getByRole('button', { name, exact: true });
  await expect(row('R00000.CSV')).toBeVisible();
  await expect(row('R02399.CSV')).toHaveCount(0);
  expect(await page.getByRole('row').count()).toBeLessThan(200);
  await expect(page.getByRole('table')).toHaveAttribute('aria-rowcount', '2401');
  await row('R00000.CSV').click();
  await page.keyboard.press('End');
  await expect(row('R02399.CSV')).toBeFocused();
  await page.keyboard.press('ArrowUp');
  await expect(row('R02398.CSV')).toBeFocused();
  await page.keyboard.press('Home');
  await expect(row('R00000.CSV')).toBeFocused();
});

test('a document of version 1 is imported, and shown as it was meant', async ({ page, request }) => {
  const old = {
    format: 'loess-layout',
    version: 1,
    name: 'From last year',
    date: '2026-03-01T12:00:00',
    medium: { kind: 'image', capacity: { exact: '200 MiB' }, logicalSector: 512, physicalSector: 512 },
    boots: [],
    table: { kind: 'mbr', signature: '6d617272' },
    slots: [
      {
        id: 'a',
        kind: 'partition',
        name: 'Tide',
        role: 'data',
        size: '40 MiB',
        fileSystem: { kind: 'fat16', label: 'TIDE', volumeId: '7A1D-10C5' },
      },
      { id: 'b', kind: 'partition', name: 'Old', role: 'data', size: 'rest', content: { kind: 'overwritten' } },
    ],
  };
  await page.goto('/');
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    page.getByRole('button', { name: /Import/ }).click(),
  ]);
  await chooser.setFiles(files(['old.json', JSON.stringify(old)]));
  await expect(page.getByRole('option', { name: /^Tide/ })).toContainText('FAT16');
  await expect(page.getByRole('option', { name: /^Old/ })).toContainText('zeros');
  const id = new URL(page.url()).pathname.split('/')[2]!;
  expect(await documentOf(request, id)).toMatchObject({
    version: 2,
    slots: [{ content: { kind: 'fat', variant: 16, label: 'TIDE' } }, { content: { kind: 'zeros' } }],
  });
});

test('exFAT and swap are chosen in the designer, with their labels', async ({ page, request }) => {
  const id = await newLayout(request, 'Other contents');
  await page.goto(`/layouts/${id}`);
  await page.getByRole('option', { name: /^Two/ }).click();
  await page.getByRole('radio', { name: 'exFAT' }).click();
  await page.getByLabel('Label', { exact: true }).fill('Tide data');
  await page.getByLabel('Label', { exact: true }).press('Enter');
  await page.getByRole('option', { name: /^Three/ }).click();
  await page.getByRole('radio', { name: 'swap', exact: true }).last().click();
  const slots = async () => (await documentOf(request, id)).slots;
  await expect.poll(async () => (await slots())[1]).toMatchObject({ content: { kind: 'exfat', label: 'Tide data' } });
  await expect.poll(async () => (await slots())[2]).toMatchObject({ content: { kind: 'swap' } });
  // The same choice stands among the contents, with what belongs to each.
  await page.getByRole('link', { name: 'Contents', exact: true }).first().click();
  await page.waitForURL(/contents/);
  await expect(page.getByLabel('UUID')).toHaveValue(/^[0-9a-f-]{36}$/);
  await page.getByRole('button', { name: 'other kinds' }).click();
  await page.getByRole('radio', { name: 'zeros' }).click();
  await expect(page.getByText('Every byte of it is zeros')).toBeVisible();
  await page.getByRole('radio', { name: 'left to its system' }).click();
  await expect(page.getByLabel('Choose a file: File in this partition')).toBeAttached();
  await page.getByRole('radio', { name: 'swap', exact: true }).click();
  await expect.poll(async () => (await slots())[2]).toMatchObject({ content: { kind: 'swap' } });
  await page.getByRole('link', { name: 'Back to the designer' }).click();
  await page.getByRole('option', { name: /^Three/ }).click();
  await expect(page.getByText('swap, 32 pages', { exact: false }).or(page.getByText(/Where the .* go/))).toBeVisible();
});

/** An ext file system in the browser: chosen, filled from a tar with all its facts, owned, studied, made as small as it can be, built. */
import { execFileSync } from 'node:child_process';
import { chmodSync, mkdirSync, mkdtempSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { APIRequestContext, Page } from '@playwright/test';
import { fillingOf } from '@/core/layout/contents';
import type { TreeView } from '../src/contract/contents';
import { builtDemo, documentOf, expect, newLayout, saved, test, unfold } from './fixtures';

const ROOT = {
  id: 'root',
  kind: 'partition',
  name: 'Root',
  role: 'system',
  size: '64 MiB',
  content: { kind: 'ext', version: 'ext4', label: 'root', uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5' },
} as const;

const contentOf = async (request: APIRequestContext, id: string) => {
  const [slot] = (await documentOf(request, id)).slots;
  return slot?.kind === 'partition' ? slot.content : undefined;
};

/** Entries of the files of the first slot, as the server has them, by path. */
async function entriesOf(request: APIRequestContext, id: string) {
  const content = await contentOf(request, id);
  const files = content && fillingOf({ content })?.files;
  const view = (await (await request.get(`/api/contents/trees/${files}`)).json()) as TreeView;
  return new Map(view.entries.map((one) => [one.path, one]));
}

/** A tar of a small system, made by the system's own archiver. */
function tarOfSystem(): Buffer {
  const folder = mkdtempSync(path.join(tmpdir(), 'loess-e2e-'));
  const at = (name: string) => path.join(folder, 'root', name);
  for (const name of ['etc', 'bin', 'home']) mkdirSync(at(name), { recursive: true });
  writeFileSync(at('etc/hostname'), 'gauge-07\n');
  writeFileSync(at('bin/tide'), 'tide '.repeat(30_000));
  chmodSync(at('bin/tide'), 0o4755);
  symlinkSync('/proc/self/mounts', at('etc/mtab'));
  const tar = path.join(folder, 'root.tar');
  execFileSync('tar', ['--create', '--file', tar, '--directory', at(''), '--owner=1000', '--group=100', '.']);
  return readFileSync(tar);
}

async function putTar(page: Page, id: string): Promise<void> {
  await page.goto(`/layouts/${id}/contents?slot=root`);
  const file = { name: 'root.tar', mimeType: 'application/octet-stream', buffer: tarOfSystem() };
  await page.getByLabel('Files to put in').setInputFiles(file);
  await page.getByRole('button', { name: 'Put in what is in it' }).click();
  await expect(page.getByRole('button', { name: 'Open etc' })).toBeVisible();
}

test('ext is chosen, in each of its versions, with what reads it, and says what is made', async ({ page, request }) => {
  const id = await newLayout(request, 'Chosen ext');
  await page.goto(`/layouts/${id}`);
  await page.getByRole('option', { name: /^One/ }).click();
  await page.getByRole('radio', { name: 'ext', exact: true }).click();
  await expect.poll(() => contentOf(request, id)).toMatchObject({ kind: 'ext', version: 'ext4' });
  await page.getByRole('radio', { name: 'old loaders' }).click();
  await expect.poll(() => contentOf(request, id)).toMatchObject({ profile: 'old loaders' });
  const label = page.getByLabel('Label', { exact: true });
  await label.fill('Gezeitenübersicht');
  await expect(page.getByText('16 of 16 bytes: stored as “Gezeitenübersic”, “ht” is cut off')).toBeVisible();
  await label.press('Enter');
  await unfold(page, 'Blocks and inodes');
  await expect(page.getByText(/^\d+ groups?; [\d,]+ inodes free; journal \d+ MiB; reserved/)).toBeVisible();
  await page.getByLabel('Journal').fill('lots');
  await expect(page.getByText('A size, as in 64 MiB, or none.')).toBeVisible();
  await page.getByLabel('Journal').fill('none');
  await page.getByLabel('Journal').press('Enter');
  await expect(page.getByText(/inodes free; journal none; reserved/)).toBeVisible();
  await page.getByRole('radio', { name: 'ext2' }).click();
  await expect.poll(() => contentOf(request, id)).toMatchObject({ version: 'ext2', label: 'Gezeitenübersicht' });
  // What ext2 has no mark for cannot be chosen, and says why.
  await expect(page.getByRole('radio', { name: 'left to the kernel' })).toBeDisabled();
  await expect(page.getByLabel('Journal')).toHaveCount(0);
});

test('a tar brings owners, modes and links; they are shown, and set, and that is undone', async ({ page, request }) => {
  const id = await newLayout(request, 'Owned files', [ROOT], '80 MiB');
  await putTar(page, id);
  await page.getByRole('button', { name: 'Open bin' }).click();
  await page.getByRole('button', { name: 'tide', exact: true }).click();
  await expect(page.getByLabel('Owner')).toHaveValue('1000:100');
  await expect(page.getByLabel('Mode')).toHaveValue('4755');
  await page.getByLabel('Owner').fill('root');
  await expect(page.getByText('Two numbers, user and group, as in 1000:100.')).toBeVisible();
  await page.getByLabel('Owner').fill('0:0');
  await page.getByLabel('Owner').press('Enter');
  await expect.poll(async () => (await entriesOf(request, id)).get('bin/tide')).toMatchObject({ mode: 0o4755 });
  await expect.poll(async () => (await entriesOf(request, id)).get('bin/tide')?.user ?? 0).toBe(0);
  // The change can be undone, as every other.
  await page.goto(`/layouts/${id}`);
  await page.getByRole('button', { name: 'Undo' }).click();
  await saved(page);
  expect((await entriesOf(request, id)).get('bin/tide')).toMatchObject({ user: 1000, group: 100 });

  await page.goto(`/layouts/${id}/contents?slot=root`);
  await page.getByRole('button', { name: 'Open etc' }).click();
  await page.getByRole('button', { name: 'mtab', exact: true }).click();
  await expect(page.getByText('/proc/self/mounts', { exact: true })).toBeVisible();
  expect((await entriesOf(request, id)).get('etc/mtab')).toMatchObject({ kind: 'link', target: '/proc/self/mounts' });
});

test('a folder gives its owner, and its mode, to all below it; files keep whether they can be run', async ({
  page,
  request,
}) => {
  const id = await newLayout(request, 'Given to all', [ROOT], '80 MiB');
  await putTar(page, id);
  await page.getByRole('button', { name: 'bin/' }).click();
  await page.getByLabel('Owner').fill('7:8');
  await page.getByLabel('Owner').press('Enter');
  await page.getByRole('button', { name: 'Give all below to 7:8' }).click();
  const entry = async (name: string) => (await entriesOf(request, id)).get(name);
  await expect.poll(() => entry('bin/tide')).toMatchObject({ user: 7, group: 8, mode: 0o4755 });
  expect(await entry('etc/hostname')).toMatchObject({ user: 1000, group: 100 });
  await page.getByLabel('Mode').fill('0750');
  await page.getByLabel('Mode').press('Enter');
  await page.getByRole('button', { name: 'Give all below the mode 0750' }).click();
  await expect.poll(async () => (await entry('bin/tide'))?.mode).toBe(0o750);
  await page.getByRole('button', { name: 'etc/' }).click();
  await page.getByLabel('Mode').fill('0750');
  await page.getByLabel('Mode').press('Enter');
  await page.getByRole('button', { name: 'Give all below the mode 0750' }).click();
  await expect.poll(async () => (await entry('etc/hostname'))?.mode).toBe(0o640);
});

test('the smallest slot is worked out and taken, the study changes blocks, and the volume is built', async ({
  page,
  request,
}) => {
  const id = await newLayout(request, 'Small root', [ROOT], '80 MiB');
  await putTar(page, id);
  await page.goto(`/layouts/${id}`);
  await page.getByRole('option', { name: /^Root/ }).click();
  await unfold(page, 'Blocks and inodes');
  await page.getByRole('button', { name: /^Make the slot \d+ MiB/ }).click();
  const sizeOf = async () => (await documentOf(request, id)).slots[0]!;
  await expect.poll(sizeOf).not.toHaveProperty('size', '64 MiB');
  await expect(page.getByRole('button', { name: /^Make the slot/ })).toHaveCount(0);
  await saved(page);

  await page.goto(`/layouts/${id}/study?slot=root`);
  await page.getByRole('button', { name: 'Use 1 KiB, inode for 16 KiB' }).click();
  await expect.poll(() => contentOf(request, id)).toMatchObject({ block: '1 KiB', perInode: '16 KiB' });
  await expect(page.getByRole('row', { name: /^1 KiB, inode for 16 KiB now/ })).toBeVisible();

  await page.goto(`/layouts/${id}/build`);
  await page.getByRole('button', { name: /^Build revision/ }).click();
  await expect(page.getByText(/files and folders were compared/)).toBeVisible();
});

test('the files of an ext4 are listed and fetched out of the image that was built', async ({ page, request }) => {
  const of = await builtDemo(request, 'gauge-card-with-its-files');
  await page.goto(`/surveys?of=${of}`);
  await page.getByRole('option', { name: /^Partition 2, sector/ }).click();
  await page.getByRole('link', { name: /Browse/ }).click();
  await expect(page.getByText(/^ext4; \d+ folders/)).toBeVisible();
  await page.getByRole('link', { name: 'etc/' }).click();
  await expect(page.getByRole('row', { name: /mtab/ })).toContainText('link to /proc/self/mounts');
  await expect(page.getByRole('columnheader', { name: 'inode' })).toBeVisible();
  const link = page.getByRole('link', { name: 'hostname' });
  const fetched = await request.get((await link.getAttribute('href'))!);
  expect(await fetched.text()).toBe(readFileSync('demo/contents/root/etc/hostname', 'utf8'));
  const special = await request.get(
    `/api/contents/volume?${new URLSearchParams({ of, partition: '2', path: 'etc/mtab' })}`,
  );
  expect([special.status(), ((await special.json()) as { error: { code: string } }).error.code]).toEqual([
    400,
    'not-a-file',
  ]);
});

/** Nothing is lost: the data folder and its page, and work in windows that are killed, offline, or of which there are two. */
import { appendFileSync, existsSync } from 'node:fs';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { createClient } from '@libsql/client';
import type { Page } from '@playwright/test';
import type { Holdings } from '../src/contract/keeping';
import type { TreeView } from '../src/contract/contents';
import { cases, numbersFrom, SEED } from '../tests/tier';
import { documentOf, expect, newLayout, saved, sizesOf, slotRow, test } from './fixtures';

const VOLUME = {
  id: 'boot',
  kind: 'partition',
  name: 'Boot',
  role: 'boot',
  size: '64 MiB',
  content: { kind: 'fat', variant: 32, volumeId: '7A1D-10C5' },
} as const;

const size = (page: Page) => page.getByLabel('Size', { exact: true });

async function resize(page: Page, name: string, to: string): Promise<void> {
  await slotRow(page, name).click();
  await size(page).fill(to);
  await size(page).press('Enter');
}

test.describe('the page of the data folder', () => {
  test('a damaged file is found, named with its layout, quarantined, and healed by sending it again', async ({
    page,
    request,
  }) => {
    const put = async () =>
      (await (
        await request.put('/api/contents/file?name=LOG.BIN', { data: Buffer.from('log of the gauge') })
      ).json()) as TreeView;
    const { sha256, entries } = await put();
    const id = await newLayout(
      request,
      'Damaged card',
      [{ ...VOLUME, content: { ...VOLUME.content, files: sha256! } }],
      '80 MiB',
    );
    const { root } = (await (await request.get('/api/data')).json()) as Holdings;
    const name = (entries[0] as { sha256: string }).sha256;
    const file = path.join(root, 'contents', name.slice(0, 2), name);
    appendFileSync(file, 'x');
    await page.goto('/');
    await page.getByRole('link', { name: 'Data folder' }).click();
    await page.getByRole('button', { name: 'Check everything' }).click();
    const damages = page.getByRole('list', { name: 'What is damaged' });
    await expect(damages).toContainText(name);
    await expect(damages.getByRole('link', { name: id })).toBeVisible();
    await expect(page.getByText(/1 file went into quarantine/)).toBeVisible();
    expect(existsSync(file)).toBe(false);
    await put();
    await page.getByRole('button', { name: 'Check everything' }).click();
    await expect(page.getByText('All of it is what it was.')).toBeVisible();
  });

  test('limits are set in the size language, and refuse what lies over them', async ({ page, request }) => {
    await page.goto('/data');
    const field = page.getByLabel('Contents, at most');
    await field.fill('12 KB extra');
    await expect(field).toHaveAttribute('aria-invalid', 'true');
    await field.fill('1 MiB');
    await field.press('Enter');
    await expect
      .poll(async () => ((await (await request.get('/api/data')).json()) as Holdings).limits.contents)
      .toBe(2 ** 20);
    const refused = await request.put('/api/contents/blob?name=x', { data: Buffer.alloc(2 ** 20) });
    expect(refused.status()).toBe(413);
    expect(await refused.json()).toMatchObject({ error: { code: 'limit-of-contents' } });
    await field.fill('');
    await field.press('Enter');
    await expect
      .poll(async () => ((await (await request.get('/api/data')).json()) as Holdings).limits.contents)
      .toBe(null);
  });

  test('a limit stands in its field while it is saved, and is given back where it is refused', async ({ page }) => {
    await page.goto('/data');
    let answer: () => void = () => undefined;
    const held = new Promise<void>((resolve) => (answer = resolve));
    await page.route(/\/api\/data$/, async (route) => {
      if (route.request().method() === 'GET') return route.continue();
      await held;
      await route.fulfill({
        status: 409,
        json: { error: { code: 'limits-kept', sentence: 'Somebody keeps the limits.' } },
      });
    });
    const field = page.getByLabel('Contents, at most');
    await field.fill('3 MiB');
    await field.press('Enter');
    await expect(field).toHaveValue('3 MiB');
    answer();
    await expect(page.getByText('Somebody keeps the limits.')).toBeVisible();
    await expect(field).toHaveValue('');
  });

  test('builds that are over are removed together', async ({ page, request }) => {
    const count = async () => ((await (await request.get('/api/data')).json()) as Holdings).builds.number;
    await page.goto('/data');
    const started = await request.post('/api/builds', { data: { layoutId: 'gauge-logger', revision: 1 } });
    expect(started.status()).toBe(202);
    await expect.poll(count).toBeGreaterThan(0);
    await page.reload();
    await page.getByRole('button', { name: 'Remove all builds that are over' }).click();
    await page.getByRole('button', { name: /^Remove them and/ }).click();
    await expect.poll(count).toBe(0);
  });
});

test.describe('designing loses nothing', () => {
  test('a change and its undo, made while the server is silent, are there after a reload', async ({
    page,
    request,
  }) => {
    const id = await newLayout(request, 'Silent server');
    await page.goto(`/layouts/${id}`);
    await page.route(/\/(revisions|head)$/, (route) => route.abort());
    await resize(page, 'One', '111 MiB');
    await resize(page, 'One', '222 MiB');
    await page.keyboard.press('Escape');
    await slotRow(page, 'One').focus();
    await page.keyboard.press('Control+z');
    await expect(page.getByText(/not saved yet/)).toBeVisible();
    await page.unroute(/\/(revisions|head)$/);
    await page.reload();
    await saved(page);
    await slotRow(page, 'One').click();
    await expect(size(page)).toHaveValue('111 MiB');
    expect(await sizesOf(request, id)).toEqual(['One 111 MiB', 'Two 300 MiB', 'Three rest']);
  });

  test('a second window shows what the first one saved, without a touch', async ({ page, request, context }) => {
    const id = await newLayout(request, 'Two windows');
    await page.goto(`/layouts/${id}`);
    const other = await context.newPage();
    await other.goto(`/layouts/${id}`);
    await resize(page, 'Two', '123 MiB');
    await saved(page);
    await expect(slotRow(other, 'Two')).toContainText('123 MiB');
    await expect(other.getByText('revision 2, saved')).toBeVisible();
    await other.close();
  });

  test('what is selected in a field is still replaced by what is typed when another text came meanwhile', async ({
    page,
    request,
    context,
  }) => {
    const id = await newLayout(request, 'Selected text');
    await page.goto(`/layouts/${id}`);
    await slotRow(page, 'Two').click();
    await size(page).press('Control+a');
    const other = await context.newPage();
    await other.goto(`/layouts/${id}`);
    await resize(other, 'Two', '123 MiB');
    await saved(other);
    await other.close();
    await expect(size(page)).toHaveValue('123 MiB');
    await page.keyboard.type('77 MiB');
    await expect(size(page)).toHaveValue('77 MiB');
    await page.keyboard.press('Enter');
    await expect.poll(() => sizesOf(request, id)).toEqual(['One 200 MiB', 'Two 77 MiB', 'Three rest']);
  });

  test('text that cannot be read stays in its field while other slots are looked at, and over a reload', async ({
    page,
    request,
  }) => {
    const id = await newLayout(request, 'Half typed');
    await page.goto(`/layouts/${id}`);
    await slotRow(page, 'One').click();
    await size(page).fill('12 something');
    await slotRow(page, 'Two').click();
    await expect(page.getByText(/“12 something” in the field “Size” of One cannot be read/)).toBeVisible();
    await expect(size(page)).toHaveValue('300 MiB');
    await slotRow(page, 'One').click();
    await expect(size(page)).toHaveValue('12 something');
    await page.reload();
    await slotRow(page, 'One').click();
    await expect(size(page)).toHaveValue('12 something');
    await size(page).press('Escape');
    await slotRow(page, 'Two').click();
    await slotRow(page, 'One').click();
    await expect(size(page)).toHaveValue('200 MiB');
  });

  test('a layout that is gone keeps its changes here, is not asked for without end, and can be put on the shelf anew', async ({
    page,
    request,
  }) => {
    const id = await newLayout(request, 'Gone from the shelf');
    await page.clock.install();
    await page.goto(`/layouts/${id}`);
    let asked = 0;
    await page.route(new RegExp(`/api/layouts/${id}`), (route) => {
      asked += 1;
      return route.fulfill({
        status: 404,
        json: { error: { code: 'layout-unknown', sentence: 'There is no such layout.' } },
      });
    });
    await resize(page, 'One', '99 MiB');
    await expect(page.getByText(/kept in this browser/)).toBeVisible();
    await page.clock.runFor(3500);
    expect(asked).toBeLessThan(6);
    await page.getByRole('button', { name: 'Put it on the shelf anew' }).click();
    await page.waitForURL(/gone-from-the-shelf-2$/);
    expect((await sizesOf(request, 'gone-from-the-shelf-2'))[0]).toBe('One 99 MiB');
  });

  test('an upload goes on when its page is left, is told of there, and is in the layout in the end', async ({
    page,
    request,
  }) => {
    const id = await newLayout(request, 'Left alone', [VOLUME], '80 MiB');
    await page.goto(`/layouts/${id}/contents?slot=boot`);
    let go: () => void = () => undefined;
    const held = new Promise<void>((resolve) => (go = resolve));
    await page.route(/\/api\/contents\/folder/, async (route) => {
      await held;
      await route.continue();
    });
    await page
      .getByLabel('Files to put in')
      .setInputFiles([{ name: 'LATE.BIN', mimeType: 'application/octet-stream', buffer: Buffer.from('late') }]);
    await expect(page.getByRole('progressbar', { name: 'Sending LATE.BIN' })).toBeVisible();
    // The folder that is made meanwhile and the upload do not undo each other.
    await page.getByRole('link', { name: 'Back to the designer' }).click();
    await page.waitForURL(new RegExp(`/layouts/${id}$`));
    const bar = page.getByRole('complementary', { name: 'Uploads' });
    await expect(bar).toContainText('“LATE.BIN” for Boot of Left alone');
    await resize(page, 'Boot', '65 MiB');
    go();
    await expect(bar).toContainText('It is in.');
    await saved(page);
    const [boot] = (await documentOf(request, id)).slots;
    expect(boot).toMatchObject({
      size: '65 MiB',
      content: { files: expect.any(String) as unknown },
    });
  });

  test('changes of a folder and an upload that runs meanwhile both stay', async ({ page, request }) => {
    const id = await newLayout(request, 'Both at once', [VOLUME], '80 MiB');
    await page.goto(`/layouts/${id}/contents?slot=boot`);
    const put = (name: string) =>
      page.getByLabel('Files to put in').setInputFiles([{ name, mimeType: 'text/plain', buffer: Buffer.from(name) }]);
    await put('FIRST.TXT');
    await expect(page.getByRole('button', { name: 'FIRST.TXT' })).toBeVisible();
    let go: () => void = () => undefined;
    const held = new Promise<void>((resolve) => (go = resolve));
    await page.route(/\/api\/contents\/folder/, async (route) => {
      await held;
      await route.continue();
    });
    await put('SECOND.TXT');
    await page.getByRole('button', { name: 'FIRST.TXT' }).click();
    await page.getByLabel('Name', { exact: true }).fill('RENAMED.TXT');
    await page.getByLabel('Name', { exact: true }).press('Enter');
    await expect(page.getByRole('button', { name: 'RENAMED.TXT' })).toBeVisible();
    go();
    await expect(page.getByRole('button', { name: 'SECOND.TXT' })).toBeVisible();
    await expect(page.getByRole('button', { name: 'RENAMED.TXT' })).toBeVisible();
    await expect(page.getByRole('button', { name: 'FIRST.TXT' })).toHaveCount(0);
  });

  test('back from the designer, the answers of the Start are as they were', async ({ page }) => {
    await page.goto('/new');
    await page.getByRole('radiogroup', { name: 'What boots it' }).getByText('UEFI').click();
    await page.getByLabel('Name', { exact: true }).fill('Kept answers');
    await page.getByLabel('Name', { exact: true }).press('Enter');
    await page.getByRole('button', { name: 'Make this layout' }).click();
    await page.waitForURL(/layouts\/kept-answers/);
    await page.goBack();
    await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Kept answers');
    await expect(
      page.getByRole('radiogroup', { name: 'What boots it' }).getByRole('radio', { name: 'UEFI' }),
    ).toBeChecked();
  });
});

test('a damaged layout stands on the shelf among sound ones, and can be gone on from', async ({ page, request }) => {
  const id = await newLayout(request, 'Sound and damaged');
  await request.post(`/api/layouts/${id}/revisions`, {
    data: { base: 1, document: { ...(await documentOf(request, id)), story: 'Two' }, note: 'Two' },
  });
  const { root } = (await (await request.get('/api/data')).json()) as Holdings;
  const database = createClient({ url: pathToFileURL(path.join(root, 'loess.db')).href, timeout: 5000 });
  await database.execute({
    sql: "UPDATE revisions SET document = 'torn' WHERE layout_id = ? AND number = 2",
    args: [id],
  });
  database.close();
  // An old address of it leads to the shelf, which says what can be done.
  await page.goto(`/layouts/${id}`);
  await expect(page.getByText(/Revision 2 of “sound-and-damaged” is damaged on the disk/)).toBeVisible();
  await expect(page.getByRole('link', { name: /^Fit / }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Go on from revision 1' }).click();
  await page.waitForURL(new RegExp(`/layouts/${id}$`));
  await expect(page.getByText('revision 3, saved')).toBeVisible();
  expect((await sizesOf(request, id))[0]).toBe('One 200 MiB');
});

/** Runs in the page: selects the text of a field and types another one over it, with nothing between the two. */
function replaceText(field: Element, text: string): void {
  (field as HTMLInputElement).select();
  document.execCommand('insertText', false, text);
}

/** Runs in the page: resolves with the next frame. */
const oneFrame = () => new Promise<void>((resolve) => requestAnimationFrame(() => resolve()));

for (let n = 1; n <= cases(2, 200); n++)
  test(`random sequence ${n} of work in windows that are killed at random moments ends as it was meant`, async ({
    page: first,
    request,
    context,
  }) => {
    await first.close();
    const random = numbersFrom(SEED + n * 7919);
    const id = await newLayout(request, `Killed ${n}`);
    const open = async () => {
      const page = await context.newPage();
      // The network loses a request, or its answer, now and then.
      await page.route(/\/(revisions|head)$/, async (route) => {
        const luck = random(6);
        if (luck === 0) return route.abort().catch(() => undefined);
        if (luck === 1) await route.fetch().catch(() => undefined);
        return (luck === 1 ? route.abort() : route.continue()).catch(() => undefined);
      });
      await page.goto(`/layouts/${id}`, { waitUntil: 'load' });
      await slotRow(page, 'One').click();
      await expect(size(page)).toBeVisible();
      return page;
    };
    let page = await open();
    const past: string[] = [];
    const future: string[] = [];
    let now = '200 MiB';
    for (let i = 0; i < 7; i++) {
      const what = random(5);
      if (what < 3) {
        past.push(now);
        future.length = 0;
        now = `${100 + n * 7 + i} MiB`;
        await size(page).evaluate(replaceText, now);
        await expect(size(page)).toHaveValue(now);
        await size(page).press('Enter');
      } else {
        const [from, to] = what === 3 ? [past, future] : [future, past];
        const next = from.pop();
        if (next === undefined) continue;
        to.push(now);
        now = next;
        await page.getByRole('button', { name: what === 3 ? 'Undo' : 'Redo' }).click();
      }
      if (random(3) > 0) continue;
      for (let frames = random(5); frames > 0; frames--) await page.evaluate(oneFrame);
      await page.close();
      page = await open();
      // What it showed before it was killed, it shows again, whatever the server has.
      await expect(slotRow(page, 'One')).toContainText(now);
    }
    await saved(page);
    expect((await sizesOf(request, id))[0]).toBe(`One ${now}`);
    await page.close();
  });

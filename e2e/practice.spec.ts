/** The work as practitioners do it: how it is said, by which keys, and in which windows. */
import type { Locator, Page } from '@playwright/test';
import { oneOf } from '../tests/tier';
import { documentOf, expect, newLayout, saved, sizesOf, slotRow, tabTo, test } from './fixtures';

const open = (page: Page, id: string) => page.goto(`/layouts/${id}`);
const sizeField = (page: Page) => page.getByLabel('Size', { exact: true });

/** Pastes a text where the focus is. */
async function paste(page: Page, text: string): Promise<void> {
  await page.evaluate((given) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData('text/plain', given);
    document.activeElement!.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true }));
  }, text);
}

test.describe('as people say it', () => {
  test('sizes in words of their own are taken, written in ours, and explained where they cannot be read', async ({
    page,
    request,
  }) => {
    const id = await newLayout(request, 'Said');
    await open(page, id);
    await slotRow(page, 'Three').click();
    for (const [said, written] of [
      ['up to 300 MiB', 'rest, at most 300 MiB'],
      ['as large as One', 'same as One'],
      ['to 900 MiB', 'ending at 900 MiB'],
      ['max', 'rest'],
    ] as const) {
      await sizeField(page).fill(said);
      await sizeField(page).press('Enter');
      await expect(sizeField(page)).toHaveValue(written);
      await expect.poll(() => sizesOf(request, id)).toContain(`Three ${written}`);
    }
    await sizeField(page).fill('banana');
    await expect(page.getByText('For instance')).toContainText('rest');
    await page.getByRole('button', { name: 'How sizes are said' }).click();
    await expect(page.getByText('rest / all, max, remaining')).toBeVisible();
    await sizeField(page).press('Escape');
    await expect(sizeField(page)).toHaveValue('rest');
  });

  test('types by name, by code and by GUID', async ({ page, request }) => {
    const id = await newLayout(request, 'Typed');
    await open(page, id);
    await slotRow(page, 'Three').click();
    const type = page.getByLabel('Type', { exact: true });
    for (const said of ['Linux LVM', '0x8e', 'E6D6D379-F507-44C2-A23C-238F2A3DF928']) {
      await type.fill(said);
      await expect(page.getByText('LVM · 8E; empty: by rule')).toBeVisible();
      await type.press('Enter');
      await expect(type).toHaveValue('LVM');
      await expect.poll(async () => (await documentOf(request, id)).slots[2]).toMatchObject({ type: '8E' });
      await type.fill('');
      await type.press('Enter');
      await expect.poll(async () => (await documentOf(request, id)).slots[2]).not.toHaveProperty('type');
    }
    await type.fill('banana');
    await expect(page.getByText('or two hexadecimal digits')).toBeVisible();
  });

  test('a name by its role goes along with it; a name that a person gave stays', async ({ page, request }) => {
    const id = await newLayout(request, 'Roles', []);
    await open(page, id);
    await page.keyboard.press('a');
    await expect(sizeField(page)).toBeFocused();
    await page.getByRole('radio', { name: 'system', exact: true }).click();
    await expect.poll(() => sizesOf(request, id)).toEqual(['System rest']);
    await page.getByLabel('Name', { exact: true }).fill('Root');
    await page.getByLabel('Name', { exact: true }).press('Enter');
    await page.getByRole('radio', { name: 'data', exact: true }).click();
    await expect.poll(() => sizesOf(request, id)).toEqual(['Root rest']);
    await expect(page.getByText(/^0 stops/)).toBeVisible();
  });

  test('pasted lines keep their order: what cannot be read holds its place until it is mended', async ({
    page,
    request,
  }) => {
    const id = await newLayout(request, 'Pasted');
    await open(page, id);
    await slotRow(page, 'One').click();
    await page.getByRole('listbox').focus();
    await paste(page, 'A: 10 MiB\nB: 10 parsecs\nC: 10 MiB');
    await expect(page.getByText('1 line cannot be read; it stays here and holds its place.')).toBeVisible();
    await expect
      .poll(() => sizesOf(request, id))
      .toEqual(['One 200 MiB', 'A 10 MiB', 'C 10 MiB', 'Two 300 MiB', 'Three rest']);
    await page.getByLabel('Lines to add, one slot each').fill('B: 10 MiB');
    await page.getByRole('button', { name: 'Add 1 slot' }).click();
    await expect
      .poll(() => sizesOf(request, id))
      .toEqual(['One 200 MiB', 'A 10 MiB', 'B 10 MiB', 'C 10 MiB', 'Two 300 MiB', 'Three rest']);
  });

  test('2,000 lines that cannot be read do not hold up what is typed', async ({ page, request }) => {
    const id = await newLayout(request, 'Long paste');
    await open(page, id);
    await page.getByRole('listbox').focus();
    await paste(page, Array.from({ length: 2000 }, (_, i) => `Bad ${i}: ${i} parsecs`).join('\n'));
    const lines = page.getByLabel('Lines to add, one slot each');
    await expect(page.getByText('2,000 lines cannot be read')).toBeVisible();
    await lines.focus();
    await page.keyboard.press('Control+Home');
    await page.keyboard.type('Good: 5 MiB\n');
    await expect(page.getByRole('button', { name: 'Add 1 slot' })).toBeEnabled();
    expect(await page.getByRole('list', { name: 'What the lines mean' }).getByRole('listitem').count()).toBeLessThan(
      60,
    );
  });
});

test.describe('the start', () => {
  test('no proposal is made of an answer that cannot be read; what is typed shows at once; back keeps all', async ({
    page,
  }) => {
    await page.goto('/new?start=bios-server');
    const proposed = page.getByRole('region', { name: 'Proposed layout' });
    const make = page.getByRole('button', { name: 'Make this layout' });
    for (const bad of ['banana', '32']) {
      await page.getByLabel('Sold as').fill(bad);
      await expect(proposed).toContainText(`How big: “${bad}” cannot be read.`);
      await expect(make).toBeDisabled();
    }
    await page.getByLabel('Sold as').fill('48 GB');
    await expect(proposed).toContainText('Every BIOS loader understands it.');
    await expect(proposed).not.toContainText('Data');
    await page.getByRole('radio', { name: 'a partition of its own' }).check();
    await expect(proposed).toContainText('both will be tight');
    await expect(proposed.getByRole('list', { name: 'Findings' })).toContainText('440 bytes of code');
    await page.getByRole('radio', { name: 'an installer, later' }).check();
    await expect(proposed).not.toContainText('440 bytes of code');
    await page.getByRole('radio', { name: 'GPT', exact: true }).check();
    await expect(proposed).toContainText('You chose it.');
    await page.getByLabel('Memory', { exact: true }).fill('6 GiB');
    await make.click();
    await page.waitForURL(/\/layouts\//);
    await page.goBack();
    await expect(page.getByLabel('Sold as')).toHaveValue('48 GB');
    await expect(page.getByLabel('Memory', { exact: true })).toHaveValue('6 GiB');
    await expect(page.getByRole('radio', { name: 'a partition of its own' })).toBeChecked();
    await expect(page.getByRole('radio', { name: 'GPT', exact: true })).toBeChecked();
  });

  test('says what “something must stay” can do today', async ({ page }) => {
    await page.goto('/new');
    await page.getByRole('radio', { name: 'something must stay' }).check();
    await expect(page.getByText('do not write that image over the medium')).toBeVisible();
  });
});

test('risks are accepted where they stand, on Build too, several for one reason', async ({ page, request }) => {
  const id = await newLayout(request, 'Accepted on build', [
    { id: 'boot', kind: 'partition', name: 'Boot', role: 'boot', size: '100 MiB' },
    { id: 'log', kind: 'partition', name: 'Log', role: 'data', size: 'rest' },
  ]);
  await open(page, id);
  await page.getByRole('button', { name: /^Starts from it/ }).click();
  await page.getByRole('checkbox', { name: 'BIOS', exact: true }).click();
  await saved(page);
  await page.getByRole('link', { name: 'Build image' }).click();
  const build = page.getByRole('button', { name: /Build revision/ });
  await expect(build).toBeDisabled();
  await page.getByRole('button', { name: 'Accept with a reason' }).first().click();
  await page.getByLabel('Reason').fill('a loader is installed at the quay');
  await page.getByLabel(/for all \d open risks/).check();
  await page.getByRole('button', { name: 'Accept', exact: true }).click();
  await expect(build).toBeEnabled();
  await build.click();
  await expect(page.getByText('done, read back')).toBeVisible();
  expect((await documentOf(request, id)).accepted!.length).toBeGreaterThan(1);
});

test('a name that FAT cannot hold is renamed by its remedy, or that one file left out', async ({ page, request }) => {
  const sent = await request.put('/api/contents/file?name=buoy%3A7.csv', { data: Buffer.from('tide') });
  const first = (await sent.json()) as { sha256: string };
  const more = await request.put(`/api/contents/file?name=log.csv&into=${first.sha256}`, { data: Buffer.from('tide') });
  const { sha256 } = (await more.json()) as { sha256: string };
  const id = await newLayout(request, 'Names', [
    {
      id: 'one',
      kind: 'partition',
      name: 'One',
      role: 'data',
      size: '200 MiB',
      content: { kind: 'fat', volumeId: '7A1D-10C5', files: sha256 },
    },
  ]);
  await open(page, id);
  const finding = page.getByText('no FAT volume can hold such a name');
  await expect(finding).toBeVisible();
  await page.getByRole('button', { name: 'Call it “buoy_7.csv”' }).click();
  await expect(finding).toHaveCount(0);
  await saved(page);
  await page.goto(`/layouts/${id}/contents?slot=one`);
  await expect(page.getByText('buoy_7.csv')).toBeVisible();
  await expect(page.getByText('log.csv')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(finding).toBeVisible();
  await page.getByRole('button', { name: 'Leave “buoy:7.csv” out' }).click();
  await expect(finding).toHaveCount(0);
  await expect(page.getByText('log.csv')).toBeVisible();
});

test.describe('keys', () => {
  test('letters act in the column and in lists, nowhere else, and can be switched off', async ({ page, request }) => {
    const id = await newLayout(request, 'Letters');
    await open(page, id);
    await expect(page.getByRole('listbox')).toBeFocused();
    await page.getByRole('link', { name: 'Fit', exact: true }).focus();
    await page.keyboard.press('a');
    await page.keyboard.press('b');
    await expect(page).toHaveURL(new RegExp(`${id}$`));
    await page.getByRole('listbox').focus();
    await page.keyboard.press('m');
    await expect(page.getByRole('heading', { name: 'Machine' })).toBeVisible();
    await page.keyboard.press('?');
    await page.getByRole('checkbox', { name: /Letters by themselves/ }).uncheck();
    await page.keyboard.press('Escape');
    await page.getByRole('listbox').focus();
    await page.keyboard.press('t');
    await expect(page.getByRole('heading', { name: 'Machine' })).toBeVisible();
    expect(await sizesOf(request, id)).toHaveLength(3);
  });

  test('arrow keys choose, Enter gives the focus back, and Ctrl Z undoes', async ({ page, request }) => {
    const id = await newLayout(request, 'Arrows');
    await open(page, id);
    await slotRow(page, 'Two').click();
    await page.getByRole('radio', { name: 'data', exact: true }).focus();
    await page.keyboard.press('ArrowLeft');
    await expect(page.getByRole('radio', { name: 'system', exact: true })).toBeChecked();
    await expect.poll(async () => (await documentOf(request, id)).slots[1]).toMatchObject({ role: 'system' });
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await documentOf(request, id)).slots[1]).toMatchObject({ role: 'data' });
    await sizeField(page).fill('123 MiB');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('listbox')).toBeFocused();
    await expect.poll(() => sizesOf(request, id)).toContain('Two 123 MiB');
    await page.keyboard.press('Control+z');
    await expect.poll(() => sizesOf(request, id)).toContain('Two 300 MiB');
  });

  for (const url of oneOf(4, [
    '/',
    '/new',
    '/bench',
    '/layouts/gauge-logger',
    '/data',
    '/layouts/gauge-logger/fit',
    '/layouts/gauge-logger/build',
    '/layouts/gauge-logger/contents',
    '/layouts/gauge-logger/compare',
    '/layouts/gauge-logger/hand-over',
  ]))
    test(`the sheet, the orders and the way past the bars on ${url}`, async ({ page }) => {
      await page.goto(url);
      await page.keyboard.press('?');
      await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('Ctrl K');
      await page.keyboard.press('Escape');
      await page.keyboard.press('Control+k');
      await page.getByPlaceholder('What is to be done?').fill('data folder');
      await expect(page.getByRole('option', { name: /To the data folder/ })).toBeVisible();
      await page.keyboard.press('Escape');
      await page.getByRole('link', { name: 'Past the bars, to the work' }).focus();
      await page.keyboard.press('Enter');
      await expect(page.locator('#main')).toBeFocused();
    });

  test('the whole way by keys alone, in 60 keys at most: start, design, contents, build, download', async ({
    page,
  }) => {
    let keys = 0;
    const press = async (key: string) => {
      keys += 1;
      await page.keyboard.press(key);
    };
    const tab = (target: Locator, key = 'Tab') => tabTo(page, target, key, press);
    const order = async (name: string) => {
      await press('Control+k');
      const field = page.getByPlaceholder('What is to be done?');
      await expect(field).toBeFocused();
      await page.keyboard.type(name);
      await press('Enter');
    };
    await page.goto('/layouts/gauge-logger');
    await order('start a new layout');
    await page.waitForURL(/\/new/);
    await expect(page.locator('#main')).toBeFocused();
    await tab(page.getByRole('button', { name: 'Make this layout' }), 'Shift+Tab');
    await press('Enter');
    await page.waitForURL(/\/layouts\/new-layout/);
    await expect(page.getByRole('listbox')).toBeFocused();
    for (let i = 0; i < 4; i++) await press('ArrowDown');
    await expect(page.getByRole('option', { selected: true })).toContainText('ESP');
    await press('Enter');
    await page.keyboard.type('600 MiB');
    await press('Enter');
    await expect(page.getByRole('option', { selected: true })).toContainText('600 MiB');
    await saved(page);
    await press('w');
    await page.waitForURL(/contents/);
    await tab(page.getByRole('button', { name: 'An empty folder …' }));
    await press('Enter');
    await page.keyboard.type('EFI');
    await press('Enter');
    await expect(page.getByText('EFI/')).toBeVisible();
    await order('build an image');
    await page.waitForURL(/build/);
    // Nobody has said yet who brings the loader of the BIOS.
    await tab(page.getByRole('button', { name: 'Accept with a reason' }).first());
    await press('Enter');
    await page.keyboard.type('an installer brings it');
    await press('Enter');
    const build = page.getByRole('button', { name: /Build revision/ });
    await expect(build).toBeEnabled();
    await tab(build);
    await press('Enter');
    const download = page.getByRole('link', { name: /^Download image/ });
    await tab(download);
    const started = page.waitForEvent('download');
    await press('Enter');
    expect((await started).suggestedFilename()).toMatch(/^new-layout.*\.img$/);
    expect(keys).toBeLessThanOrEqual(60);
  });

  test('sixty slots: what is selected is in view, and a boundary says both sizes', async ({ page, request }) => {
    const slots = Array.from({ length: 60 }, (_, i) => ({
      id: `s${i}`,
      kind: 'partition' as const,
      name: `Slot ${i}`,
      role: 'data' as const,
      size: '10 MiB',
      ...(i >= 3 && { logical: true as const }),
    }));
    const id = await newLayout(request, 'Sixty', slots);
    await open(page, id);
    await page.keyboard.press('End');
    await expect(page.getByRole('option', { selected: true })).toBeInViewport();
    await page.keyboard.press('ArrowUp');
    await expect(page.getByRole('option', { selected: true })).toBeInViewport();
    await page.keyboard.press('Home');
    await expect(page.getByRole('option', { selected: true })).toBeInViewport();
    const boundary = page.getByRole('separator', { name: 'Boundary below Slot 0', exact: true });
    await expect(boundary).toHaveAttribute('aria-valuetext', /10 MiB .* above, .* below/);
  });
});

test.describe('in small windows', () => {
  for (const [width, height] of oneOf(2, [
    [1024, 640],
    [1024, 700],
  ] as const))
    test(`nothing hides at the side at ${width} × ${height}`, async ({ page }) => {
      await page.setViewportSize({ width, height });
      for (const path of [
        '/',
        '/new',
        '/bench',
        '/data',
        '/layouts/harbour-display',
        '/layouts/harbour-display/fit',
        '/layouts/harbour-display/build',
        '/layouts/gauge-card-with-its-files/contents?slot=boot',
        '/layouts/gauge-card-with-its-files/study?slot=boot',
        '/layouts/gauge-logger/compare',
        '/layouts/quay-server/hand-over?with=quay-archive',
        '/layouts/gauge-logger/hand-over?show=steps',
      ]) {
        await page.goto(path);
        const over = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
        expect({ path, over: Math.max(0, over) }).toEqual({ path, over: 0 });
      }
    });

  test('the properties fold away and come back when they are needed', async ({ page, request }) => {
    await page.setViewportSize({ width: 1024, height: 640 });
    const id = await newLayout(request, 'Folded');
    await open(page, id);
    await slotRow(page, 'One').click();
    await page.getByRole('button', { name: 'Fold the properties away' }).click();
    await expect(sizeField(page)).toHaveCount(0);
    await page.getByRole('listbox').focus();
    await page.keyboard.press('Enter');
    await expect(sizeField(page)).toBeFocused();
  });

  test('a narrow window says that designing wants a wider one', async ({ page }) => {
    await page.setViewportSize({ width: 800, height: 640 });
    await page.goto('/layouts/harbour-display');
    await expect(page.getByText('Designing wants a window of 1,024 points')).toBeVisible();
    await expect(page.getByText('512 MiB').first()).toBeVisible();
  });
});

/** The designing craft: questions, tables, lines, order, fit, comparison, and a whole design by keyboard. */
import type { Page } from '@playwright/test';
import { documentOf, expect, newLayout, saved, sizesOf, slotRow, tabTo, test } from './fixtures';

/** Asks the palette for something by name; it may still be on its way while the name is typed. */
async function order(page: Page, name: string): Promise<void> {
  await page.keyboard.press('Control+k');
  await page.keyboard.type(name);
  await expect(page.getByPlaceholder('What is to be done?')).toHaveValue(name);
  await page.keyboard.press('Enter');
}

async function open(page: Page, id: string): Promise<void> {
  await page.goto(`/layouts/${id}`);
  await saved(page);
}

/** The page's address tells the id of the layout. */
async function idOf(page: Page): Promise<string> {
  await page.waitForURL(/\/layouts\/[a-z0-9-]+$/);
  return new URL(page.url()).pathname.split('/').at(-1)!;
}

test.describe('the Start', () => {
  test('begins with answers, follows every change, and makes the layout that it shows', async ({ page, request }) => {
    await page.goto('/');
    await page.getByRole('link', { name: /^Disk of a UEFI machine/ }).click();
    const proposed = page.getByRole('region', { name: 'Proposed layout' });
    await expect(proposed).toContainText('UEFI firmware looks for an ESP in a GPT.');
    await expect(proposed).toContainText('8 GiB ≈ 8.589 GB');
    await page.getByRole('radio', { name: 'hibernates', exact: true }).click();
    await expect(proposed).toContainText('which must fit into it for hibernation');
    await page.getByRole('radio', { name: 'other systems' }).click();
    await expect(proposed).toContainText('every other system reads and writes it');
    await page.getByLabel('Name').fill('Pier desktop');
    await page.getByLabel('Name').press('Enter');
    await page.getByRole('button', { name: 'Make this layout' }).click();
    const id = await idOf(page);
    expect(id).toBe('pier-desktop');
    const layout = await documentOf(request, id);
    expect(layout.slots.map((one) => one.name)).toEqual(['ESP', 'Swap', 'System', 'Home', 'Shared']);
    expect(layout.machine).toMatchObject({ use: 'desktop', memory: '16 GiB', hibernates: true });
    await expect(page.getByText(/^0 stops/)).toBeVisible();
  });

  test('knows no dead end: nothing said, and something that must stay', async ({ page }) => {
    await page.goto('/new');
    const proposed = page.getByRole('region', { name: 'Proposed layout' });
    await expect(proposed).toContainText('0 stops');
    await page.getByRole('radio', { name: 'something must stay' }).click();
    await expect(proposed).toContainText('Stays as it is');
    await expect(proposed).toContainText('the table that is there must be kept');
    await page.getByLabel('up to').fill('12 GX');
    await page.getByLabel('up to').press('Enter');
    await expect(page.getByText('“GX” is no unit')).toBeVisible();
  });

  test('makes a layout for a medium of the bench, to the sector', async ({ page, request }) => {
    await page.goto('/bench');
    await expect(page.getByText('told apart by serial MCT-0007-A')).toBeVisible();
    await page.getByRole('link', { name: 'Make a layout for GAUGE8, 0x6d617272' }).click();
    await expect(page.getByText('15,523,840 sectors of 512')).toBeVisible();
    await page.getByRole('radio', { name: 'a board' }).click();
    await page.getByLabel('Which board').selectOption({ label: 'Rockchip' });
    await page.getByRole('button', { name: 'Make this layout' }).click();
    const { medium, machine } = await documentOf(request, await idOf(page));
    expect(medium).toMatchObject({ kind: 'card', capacity: { exact: '15523840 sectors' }, writeUnit: '4 MiB' });
    expect(machine).toMatchObject({ board: { family: 'rockchip' } });
  });

  test('makes a layout as large as a file, and says when the file is gone', async ({ page, request }) => {
    const sent = await request.put('/api/files/sized.img', { data: Buffer.alloc(3 * 2 ** 20) });
    expect(sent.ok()).toBe(true);
    await page.goto('/');
    await page.getByRole('link', { name: 'Make a layout as large as sized.img' }).click();
    await expect(page.getByText('3 MiB ≈ 3.145 MB · 6,144 sectors of 512')).toBeVisible();
    await expect(page.getByRole('region', { name: 'Proposed layout' })).toContainText('0 stops');
    await request.delete('/api/files/sized.img');
    await page.reload();
    await expect(page.getByText('There is no file “sized.img”')).toBeVisible();
  });

  test('a medium that vanished from the bench is said, with what to do', async ({ page }) => {
    await page.goto('/new?bench=sdz');
    await expect(page.getByText(/Was it unplugged\?/)).toBeVisible();
  });
});

test('changing the table translates, makes slots past the fourth logical, says so, and is undone in one step', async ({
  page,
  request,
}) => {
  const slots = ['a', 'b', 'c', 'd', 'e'].map((id) => ({
    id,
    kind: 'partition' as const,
    name: id.toUpperCase(),
    role: 'data' as const,
    size: '100 MiB',
  }));
  const id = await newLayout(request, 'Tables', slots);
  await open(page, id);
  await expect(page.getByText('E would be entry 5 of sector 0')).toBeVisible();
  await page.getByRole('button', { name: 'Make all from the fourth on logical' }).click();
  await expect(slotRow(page, 'E')).toContainText('6 E logical');
  await expect(page.getByRole('option', { name: /^Table: Record of partition 5/ })).toBeVisible();
  await page.keyboard.press('t');
  await expect(page.getByText('container of 2')).toBeVisible();
  await page.getByRole('radio', { name: 'one sector ahead' }).click();
  await expect(page.getByText(/The records of 2 logical partitions stand directly before them/)).toBeVisible();
  await page.getByRole('radio', { name: 'GPT' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'is a partition like the others' })).toBeVisible();
  await expect(slotRow(page, 'E')).toContainText('5 E');
  await page.getByRole('radio', { name: 'MBR' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'becomes a logical partition' })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(async () => (await documentOf(request, id)).table.kind).toBe('gpt');
});

test('a loader that collides with the entries of a GPT gets its place', async ({ page, request }) => {
  const id = await newLayout(request, 'Collision', [
    { id: 'l', kind: 'raw', name: 'Loader', at: '8 KiB', length: '504 KiB' },
    { id: 'd', kind: 'partition', name: 'Data', role: 'data', size: 'rest' },
  ]);
  await open(page, id);
  await page.keyboard.press('t');
  await page.getByRole('radio', { name: 'GPT' }).click();
  await page.getByRole('button', { name: 'Keep 56 entries ahead of it' }).click();
  await expect(page.getByText(/56 entries takes 7 KiB/)).toBeVisible();
  await expect(page.getByText(/^0 stops/)).toBeVisible();
  await page.getByLabel('They begin').fill('1008 KiB');
  await page.getByLabel('They begin').press('Enter');
  await expect(page.getByText('The entries stand at sector 2,016')).toBeVisible();
});

test('a slot in one line: completed, echoed, pointed at, and taken over', async ({ page, request }) => {
  const id = await newLayout(request, 'One line');
  await open(page, id);
  await slotRow(page, 'One').click();
  await page.keyboard.press('/');
  const line = page.getByRole('combobox', { name: 'In one line' });
  await expect(line).toHaveValue('One: 200 MiB, system');
  await line.fill('One: 300 MiX');
  await expect(page.locator('mark')).toHaveText('MiX');
  await line.fill('One: 300 MiB, FAT32, la');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(line).toHaveValue('One: 300 MiB, FAT32, label "');
  await page.keyboard.type('tide log", /srv, active');
  await expect(page.getByText('label stored as “TIDE LOG”; mounted at /srv; marked active')).toBeVisible();
  await page.keyboard.press('Enter');
  await saved(page);
  expect((await documentOf(request, id)).slots[0]).toMatchObject({
    name: 'One',
    role: 'data',
    size: '300 MiB',
    mount: '/srv',
    active: true,
    content: { kind: 'fat', variant: 32, label: 'tide log' },
  });
});

test('start, last sector and length are typed; the others follow; a pinned slot is let go', async ({
  page,
  request,
}) => {
  const id = await newLayout(request, 'Typed places');
  await open(page, id);
  await slotRow(page, 'Two').click();
  await page.getByLabel('Start', { exact: true }).fill('500 MiB');
  await expect(page.getByText('sectors 1,024,000 – 1,638,399, 614,400 sectors')).toBeVisible();
  await page.getByLabel('Start', { exact: true }).press('Enter');
  await page.getByLabel('Last sector').fill('1228799');
  await page.getByLabel('Last sector').press('Enter');
  await expect.poll(() => sizesOf(request, id)).toContain('Two 100 MiB');
  await expect(slotRow(page, 'Two')).toContainText('pinned');
  await page.getByRole('button', { name: 'Let it follow' }).click();
  await saved(page);
  expect((await documentOf(request, id)).slots[1]).not.toHaveProperty('at');
});

test('lines are pasted: the good ones become slots, the bad one stays and is marked', async ({ page, request }) => {
  const id = await newLayout(request, 'Pasted', []);
  await open(page, id);
  await page.getByRole('listbox').focus();
  await page.evaluate(() => {
    const data = new DataTransfer();
    data.setData('text/plain', 'Boot: 64 MiB, FAT16, boot\nOdd: 5 parsecs\nLog: rest');
    window.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await expect.poll(() => sizesOf(request, id)).toEqual(['Boot 64 MiB', 'Log rest']);
  await expect(page.getByText('2 of 3 pasted lines became slots')).toBeVisible();
  const lines = page.getByLabel('Lines to add, one slot each');
  await expect(lines).toHaveValue('Odd: 5 parsecs');
  await lines.fill('Odd: 5 MiB');
  await page.getByRole('button', { name: 'Add 1 slot' }).click();
  await expect.poll(() => sizesOf(request, id)).toEqual(['Boot 64 MiB', 'Odd 5 MiB', 'Log rest']);
});

test('several slots are chosen with the keyboard, moved, copied into another layout, and deleted', async ({
  page,
  request,
}) => {
  const id = await newLayout(request, 'Several');
  const other = await newLayout(request, 'Several, other', []);
  await open(page, id);
  await slotRow(page, 'One').click();
  await page.getByRole('listbox').focus();
  await page.keyboard.press('Shift+ArrowDown');
  await expect(page.getByRole('heading', { name: '2 slots' })).toBeVisible();
  await page.keyboard.press('Alt+ArrowDown');
  await expect.poll(() => sizesOf(request, id)).toEqual(['Three rest', 'One 200 MiB', 'Two 300 MiB']);
  const text = await page.evaluate(() => {
    const data = new DataTransfer();
    window.dispatchEvent(new ClipboardEvent('copy', { clipboardData: data, bubbles: true, cancelable: true }));
    return data.getData('text/plain');
  });
  expect(text).toBe('One: 200 MiB, system\nTwo: 300 MiB\n');
  await page.keyboard.press('Delete');
  await expect.poll(() => sizesOf(request, id)).toEqual(['Three rest']);
  await open(page, other);
  await page.evaluate((lines) => {
    const data = new DataTransfer();
    data.setData('text/plain', lines);
    window.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
  }, text);
  await expect.poll(() => sizesOf(request, other)).toEqual(['One 200 MiB', 'Two 300 MiB']);
});

test('a row is dragged into another order', async ({ page, request }) => {
  const id = await newLayout(request, 'Order');
  await open(page, id);
  const three = (await slotRow(page, 'Three').boundingBox())!;
  await slotRow(page, 'One').dragTo(slotRow(page, 'Three'), { targetPosition: { x: 60, y: three.height - 6 } });
  await expect.poll(() => sizesOf(request, id)).toEqual(['Two 300 MiB', 'Three rest', 'One 200 MiB']);
});

test('the palette runs what is asked for by name', async ({ page, request }) => {
  const id = await newLayout(request, 'Palette');
  await open(page, id);
  await order(page, 'go to two');
  await expect(slotRow(page, 'Two')).toHaveAttribute('aria-selected', 'true');
  await order(page, 'change to a gpt');
  await expect.poll(async () => (await documentOf(request, id)).table.kind).toBe('gpt');
  await order(page, 'chart');
  await expect(page.getByRole('img', { name: /One 200 MiB, Two 300 MiB/ })).toBeVisible();
});

test('fit: what grows, what breaks, the smallest medium; one more is added, one left out', async ({ page }) => {
  await page.goto('/layouts/gauge-logger/fit');
  await expect(page.getByText(/Smallest card that works/)).toBeVisible();
  await expect(page.getByRole('region', { name: 'What breaks' })).toContainText('larger than the medium');
  await expect(page.getByRole('region', { name: 'What grows' })).toContainText('Tide log differs between them');
  await page.getByLabel('Size of one more medium').fill('128 GB');
  await page.getByRole('radio', { name: '4096 B' }).click();
  await page.getByRole('button', { name: 'Add it' }).click();
  await expect(page.getByRole('region', { name: 'What breaks' })).toContainText('cannot be read on sectors of 4,096');
  await page.getByRole('button', { name: 'Leave out 4 GB' }).click();
  await expect(page.getByRole('region', { name: 'On each medium' })).not.toContainText('any 4 GB card');
  await page.getByRole('button', { name: 'Show it as a chart' }).click();
  await expect(page.getByRole('img', { name: /How the space divides on 8 GB/ })).toBeVisible();
});

test('revisions get names, and any two are compared', async ({ page, request }) => {
  const id = await newLayout(request, 'Named');
  await open(page, id);
  await slotRow(page, 'One').click();
  await page.getByLabel('Size', { exact: true }).fill('250 MiB');
  await page.getByLabel('Size', { exact: true }).press('Enter');
  await saved(page);
  await page.getByRole('listbox').focus();
  await page.keyboard.press('h');
  await page.getByLabel('Name of revision 1').fill('before the review');
  await page.getByLabel('Name of revision 1').press('Enter');
  await page.getByRole('link', { name: 'Compare revision 1 with the one in force' }).click();
  await expect(page.getByLabel('Before')).toContainText('1: before the review');
  const differs = page.getByRole('region', { name: 'What differs' });
  await expect(differs).toContainText('50 MiB ≈ 52.42 MB (102,400 sectors) larger');
  await expect(differs).toContainText('starts at sector 514,048, before at 411,648');
  await page.getByLabel('Before').selectOption('2');
  await expect(differs).toContainText('Nothing: both place every slot on the same sectors');
});

test('a whole design by keyboard alone: from the shelf to the build', async ({ page, request }) => {
  await page.goto('/');
  const empty = page.getByRole('button', { name: 'An empty layout' });
  await tabTo(page, empty);
  await page.keyboard.press('Enter');
  const id = await idOf(page);
  await saved(page);
  await order(page, 'change to a gpt');
  await page.keyboard.press('p');
  await tabTo(page, page.getByLabel('Lines to add, one slot each'));
  await page.keyboard.type('ESP: 300 MiB, ESP, FAT32, label "ESP"\nSystem: rest, system, /');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await expect.poll(() => sizesOf(request, id)).toEqual(['ESP 300 MiB', 'System rest']);
  await order(page, 'machine');
  const uefi = page.getByRole('checkbox', { name: 'UEFI', exact: true });
  await tabTo(page, uefi);
  await page.keyboard.press('Space');
  await expect.poll(async () => (await documentOf(request, id)).boots).toEqual(['uefi']);
  await saved(page);
  await order(page, 'build an image');
  const build = page.getByRole('button', { name: /Build revision/ });
  await expect(build).toBeEnabled();
  await build.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText('done, read back')).toBeVisible();
});

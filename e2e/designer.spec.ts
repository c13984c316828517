/** Designing: with the mouse, by typing, and by keyboard alone. */
import type { Page } from '@playwright/test';
import { documentOf, expect, newLayout, saved, sizesOf, slotRow, test, unfold } from './fixtures';

/** Opens a designer and waits until it is alive, not only painted. */
async function open(page: Page, id: string): Promise<void> {
  await page.goto(`/layouts/${id}`);
  await saved(page);
}

test.describe('a boundary', () => {
  test('is dragged: sizes snap to the grain, both are shown in both families, one revision', async ({
    page,
    request,
  }) => {
    const id = await newLayout(request, 'Dragging');
    await open(page, id);
    const handle = page.getByRole('separator', { name: 'Boundary below One' });
    const box = (await handle.boundingBox())!;
    await page.mouse.move(box.x + 40, box.y + 4);
    await page.mouse.down();
    await page.mouse.move(box.x + 40, box.y + 24, { steps: 6 });
    const shown = await handle.innerText();
    expect(shown).toMatch(/▲ [\d.]+ MiB [=≈] [\d.]+ MB · [\d,]+ sec\s+▼ [\d.]+ MiB [=≈] [\d.]+ MB · [\d,]+ sec/);
    expect(await sizesOf(request, id)).toEqual(['One 200 MiB', 'Two 300 MiB', 'Three rest']);
    await page.mouse.up();
    expect(await saved(page)).toBe(2);
    const [one, two, three] = await sizesOf(request, id);
    const [upper, lower] = [one!, two!].map((text) => Number(/(\d+) MiB/.exec(text)![1]));
    expect(upper! + lower!).toBe(500);
    expect(upper).toBeGreaterThan(200);
    expect(three).toBe('Three rest');
  });

  test('does not jump when it is taken hold of, and Escape gives the drag up', async ({ page, request }) => {
    const id = await newLayout(request, 'No jump', [
      { id: 'one', kind: 'partition', name: 'One', role: 'data', size: '10 MiB' },
      { id: 'two', kind: 'partition', name: 'Two', role: 'data', size: 'rest' },
    ]);
    await open(page, id);
    const handle = page.getByRole('separator', { name: 'Boundary below One' });
    const box = (await handle.boundingBox())!;
    await page.mouse.move(box.x + 40, box.y + 8);
    await page.mouse.down();
    await page.mouse.move(box.x + 44, box.y + 8);
    await expect(handle).toHaveAttribute('aria-valuetext', /: 10 MiB ≈ 10\.48 MB above/);
    await page.mouse.move(box.x + 40, box.y + 48, { steps: 4 });
    await expect(slotRow(page, 'One')).not.toContainText('10 MiB');
    await page.keyboard.press('Escape');
    await page.mouse.move(box.x + 40, box.y + 58);
    await page.mouse.up();
    await expect(slotRow(page, 'One')).toContainText('10 MiB');
    expect(await saved(page)).toBe(1);
  });

  test('moved by keys, it is given up with Escape', async ({ page, request }) => {
    const id = await newLayout(request, 'Giving up');
    await open(page, id);
    await page.getByRole('separator', { name: 'Boundary below One' }).focus();
    await page.keyboard.down('ArrowDown');
    await expect(slotRow(page, 'One')).toContainText('201 MiB');
    await page.keyboard.press('Escape');
    await page.keyboard.up('ArrowDown');
    await expect(slotRow(page, 'One')).toContainText('200 MiB');
    expect(await saved(page)).toBe(1);
  });

  test('is moved by keys, one revision for each time they are let go', async ({ page, request }) => {
    const id = await newLayout(request, 'Keys on a boundary');
    await open(page, id);
    await page.getByRole('separator', { name: 'Boundary below One' }).focus();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Shift+ArrowDown');
    await page.keyboard.press('ArrowUp');
    await expect.poll(() => sizesOf(request, id)).toEqual(['One 216 MiB', 'Two 284 MiB', 'Three rest']);
    expect(await saved(page)).toBe(4);
  });
});

test('a size is typed: its meaning is echoed, errors point at the character, Escape gives up', async ({
  page,
  request,
}) => {
  const id = await newLayout(request, 'Typing');
  await open(page, id);
  await slotRow(page, 'One').click();
  const size = page.getByLabel('Size', { exact: true });
  await size.fill('1.5 GiX');
  await expect(page.locator('mark')).toHaveText('GiX');
  await expect(size).toHaveAttribute('aria-invalid', 'true');
  await size.fill('300 × 1 MiB');
  await expect(page.getByText('314,572,800 bytes · 300 MiB ≈ 314.5 MB · 614,400 sectors')).toBeVisible();
  await expect(slotRow(page, 'One')).toContainText('614,400 sec');
  await size.press('Escape');
  await expect(slotRow(page, 'One')).toContainText('409,600 sec');
  await size.fill('64 MiB');
  await size.press('Enter');
  await expect.poll(() => sizesOf(request, id)).toContain('One 64 MiB');
  expect(await saved(page)).toBe(2);
});

test('undo and redo have no limit and survive a reload', async ({ page, request }) => {
  const id = await newLayout(request, 'Undo');
  await open(page, id);
  await slotRow(page, 'One').click();
  const size = page.getByLabel('Size', { exact: true });
  for (const text of ['10 MiB', '20 MiB', '30 MiB']) {
    await size.fill(text);
    await size.press('Enter');
  }
  expect(await saved(page)).toBe(4);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => sizesOf(request, id)).toContain('One 20 MiB');
  await page.reload();
  await saved(page);
  await page.keyboard.press('Control+z');
  await expect.poll(() => sizesOf(request, id)).toContain('One 10 MiB');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();
  await expect(slotRow(page, 'One')).toContainText('200 MiB');
  await page.reload();
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+Shift+z');
  await expect.poll(() => sizesOf(request, id)).toContain('One 30 MiB');
  await page.getByRole('button', { name: /^revision/ }).click();
  await expect(page.getByRole('complementary').getByRole('listitem')).toHaveCount(4);
});

test('everything by keyboard alone', async ({ page, request }) => {
  const id = await newLayout(request, 'Keyboard');
  await open(page, id);
  const column = page.getByRole('listbox');
  await column.focus();
  for (const stratum of [/^Table: Sector 0/, /^Free space, sector 1,/, /^One,/]) {
    await page.keyboard.press('ArrowDown');
    await expect(page.getByRole('option', { name: stratum })).toHaveAttribute('aria-selected', 'true');
  }
  await page.keyboard.press('Alt+ArrowDown');
  await expect.poll(() => sizesOf(request, id)).toEqual(['Two 300 MiB', 'One 200 MiB', 'Three rest']);
  await page.keyboard.press('Enter');
  await page.keyboard.type('128 MiB');
  await page.keyboard.press('Enter');
  await expect.poll(() => sizesOf(request, id)).toContain('One 128 MiB');
  await expect(column).toBeFocused();
  await page.keyboard.press('+');
  await expect.poll(() => sizesOf(request, id)).toContain('One 129 MiB');
  // What is added has its size ready to be typed; the column has the focus again behind that.
  await page.keyboard.press('a');
  await page.keyboard.type('70 MiB');
  await page.keyboard.press('Enter');
  await expect.poll(() => sizesOf(request, id)).toEqual(['Two 300 MiB', 'One 129 MiB', 'Data 70 MiB', 'Three rest']);
  await expect(column).toBeFocused();
  await page.keyboard.press('Delete');
  await expect.poll(() => sizesOf(request, id)).toEqual(['Two 300 MiB', 'One 129 MiB', 'Three rest']);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(column).toBeFocused();
  await page.keyboard.press('b');
  await expect(page).toHaveURL(/\/build$/);
});

test('the field of the selected slot is there at once: what is typed belongs to it, and is no shortcut', async ({
  page,
  request,
}) => {
  const id = await newLayout(request, 'Typed ahead');
  await open(page, id);
  // Every part of the program that comes with its first use comes late: after what is typed.
  let arrive: () => void = () => undefined;
  const late = new Promise<void>((resolve) => (arrive = resolve));
  await page.route('**/_next/static/chunks/**', async (route) => {
    await late;
    await route.continue();
  });
  await page.getByRole('listbox').focus();
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('option', { name: /^One,/ })).toHaveAttribute('aria-selected', 'true');
  await expect(page.getByLabel('Size', { exact: true })).toHaveCount(1);
  await page.keyboard.press('Enter');
  await page.keyboard.type('bimn');
  await expect(page.getByLabel('Size', { exact: true })).toHaveValue('bimn');
  arrive();
  await page.keyboard.press('Escape');
  await expect(page.getByLabel('Size', { exact: true })).toHaveValue('200 MiB');
  await page.getByRole('listbox').focus();
  await page.keyboard.press('Enter');
  await page.keyboard.type('96 MiB');
  await page.keyboard.press('Enter');
  await expect.poll(() => sizesOf(request, id)).toEqual(['One 96 MiB', 'Two 300 MiB', 'Three rest']);
  await expect(page).toHaveURL(new RegExp(`/layouts/${id}$`));
});

test('slots of each kind are added from the menu and changed in the panel', async ({ page, request }) => {
  const id = await newLayout(request, 'Adding');
  await open(page, id);
  await page.getByRole('button', { name: 'Add a slot' }).click();
  await page.getByRole('menuitem', { name: /Raw range/ }).click();
  await page.getByLabel('Starts at').fill('8 KiB');
  await page.getByLabel('Starts at').press('Enter');
  await page.getByLabel('Length', { exact: true }).fill('500 KiB');
  await page.getByLabel('Length', { exact: true }).press('Enter');
  await page.getByRole('button', { name: 'Add a slot' }).click();
  await page.getByRole('menuitem', { name: /Free on purpose/ }).click();
  await expect
    .poll(() => sizesOf(request, id))
    .toEqual(['Loader range 500 KiB', 'Free on purpose 256 MiB', 'One 200 MiB', 'Two 300 MiB', 'Three rest']);
  await slotRow(page, 'Two').click();
  await page.getByLabel('Name', { exact: true }).fill('Log');
  await page.getByLabel('Mounts at').fill('/var/tide');
  await page.getByRole('radio', { name: 'active', exact: true }).click();
  await page.getByRole('radio', { name: 'FAT', exact: true }).click();
  await page.getByRole('radio', { name: 'FAT32' }).click();
  await unfold(page, 'Clusters and id');
  await page.getByRole('radio', { name: '1K' }).click();
  await page.getByLabel('Type').fill('ef');
  await page.getByLabel('Type').press('Enter');
  await saved(page);
  const { slots } = await documentOf(request, id);
  expect(slots[3]).toMatchObject({
    name: 'Log',
    mount: '/var/tide',
    active: true,
    type: 'EF',
    content: { kind: 'fat', variant: 32, cluster: '1 KiB' },
  });
  await expect(page.getByText('Where the 300 MiB go')).toBeVisible();
});

test('medium, starting and table are changed in the panel', async ({ page, request }) => {
  const id = await newLayout(request, 'Medium');
  await open(page, id);
  await page.getByRole('radio', { name: 'card', exact: true }).click();
  await page.getByRole('radio', { name: 'any of its size' }).click();
  await page.getByLabel('Sold as').fill('16 GB');
  await page.getByLabel('Sold as').press('Enter');
  await expect(page.getByText('any 16 GB card')).toBeVisible();
  await page.getByRole('radio', { name: '512 in 4096 B' }).click();
  await page.getByLabel('Write unit').fill('16 MiB');
  await page.getByLabel('Write unit').press('Enter');
  await expect(page.getByText(/raised to the write unit of 16 MiB/)).toBeVisible();
  await page.getByRole('button', { name: /^Starts from it/ }).click();
  await page.getByRole('checkbox', { name: 'BIOS', exact: true }).click();
  await expect(page.getByText('440 bytes of code in sector 0 are all zero')).toBeVisible();
  await page.getByRole('button', { name: 'Mark One active' }).click();
  await expect(slotRow(page, 'One')).toContainText('active');
  await page.getByRole('option', { name: /^Table: Sector 0/ }).click();
  await page.getByLabel('Signature').fill('0badcafe');
  await page.getByLabel('Signature').press('Enter');
  await saved(page);
  const layout = await documentOf(request, id);
  expect(layout).toMatchObject({
    medium: { kind: 'card', capacity: { nominal: '16 GB' }, physicalSector: 4096, writeUnit: '16 MiB' },
    boots: ['bios'],
    table: { signature: '0badcafe' },
  });
});

test('a stop prevents the build and says so at the button; its remedy clears the way', async ({ page, request }) => {
  const id = await newLayout(request, 'Stopped', [
    { id: 'one', kind: 'partition', name: 'One', role: 'data', size: '2 GiB' },
  ]);
  await page.goto(`/layouts/${id}/build`);
  await expect(page.getByRole('button', { name: /Build revision/ })).toBeDisabled();
  await expect(page.getByText('A stop prevents it')).toBeVisible();
  await page.getByRole('link', { name: 'Back to the designer', exact: true }).first().click();
  await page.getByRole('button', { name: 'Let One take the rest' }).click();
  await expect(page.getByText(/^0 stops/)).toBeVisible();
  await saved(page);
  await page.getByRole('link', { name: 'Build image' }).click();
  await expect(page.getByRole('button', { name: 'Build revision 2' })).toBeEnabled();
});

test('a change made in another browser is not lost, and neither is this one', async ({ page, request }) => {
  const id = await newLayout(request, 'Two browsers');
  await open(page, id);
  const document = await documentOf(request, id);
  const slots = document.slots.map((one) => (one.name === 'Two' ? { ...one, size: '111 MiB' } : one));
  const change = { base: 1, document: { ...document, slots }, note: 'Elsewhere' };
  expect((await request.post(`/api/layouts/${id}/revisions`, { data: change })).status()).toBe(201);
  await slotRow(page, 'One').click();
  await page.getByLabel('Size', { exact: true }).fill('222 MiB');
  await page.getByLabel('Size', { exact: true }).press('Enter');
  await expect(page.getByText('changed in another window')).toBeVisible();
  await expect.poll(() => sizesOf(request, id)).toEqual(['One 222 MiB', 'Two 111 MiB', 'Three rest']);
});

test('a gap that nobody claims is filled from its panel', async ({ page, request }) => {
  const id = await newLayout(request, 'Gap', [
    { id: 'one', kind: 'partition', name: 'One', role: 'data', size: '200 MiB' },
  ]);
  await open(page, id);
  await page.getByRole('option', { name: /^Free space, sector 411,648/ }).click();
  await page.getByRole('button', { name: 'Add a partition here' }).click();
  await expect.poll(() => sizesOf(request, id)).toEqual(['One 200 MiB', 'Data rest']);
});

test('the true scale draws strata in proportion', async ({ page, request }) => {
  const id = await newLayout(request, 'Scale');
  await open(page, id);
  await page.keyboard.press('s');
  const edge = async (name: string) =>
    (await page.getByRole('separator', { name: `Boundary below ${name}` }).boundingBox())!.y;
  const [one, two, three] = [await edge('One'), await edge('Two'), await edge('Three')];
  // 300 MiB against the 523 MiB of the rest.
  expect((two - one) / (three - two)).toBeCloseTo(300 / 523, 1);
});

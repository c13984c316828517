/** The second system beside the first: from a survey to a layout, acts on what is kept, before and after, the new image. */
import type { Page } from '@playwright/test';
import { documentOf, expect, saved, test } from './fixtures';

const slot = (page: Page, name: string) => page.getByRole('option', { name: new RegExp(`^${name},`) });

/** Keeps the laptop's disk in a layout; gives the id of that. */
async function keptLaptop(page: Page): Promise<string> {
  await page.goto('/surveys?of=file:survey-laptop.img');
  await page.getByRole('button', { name: 'Keep it in a layout' }).click();
  await page.waitForURL(/\/layouts\/survey-laptop/);
  await expect(slot(page, 'First system')).toBeVisible();
  return /\/layouts\/([^/?]+)/.exec(page.url())![1]!;
}

async function acceptAll(page: Page, reason: string): Promise<void> {
  await page.getByRole('button', { name: 'Accept with a reason' }).first().click();
  await page.getByLabel('Reason').fill(reason);
  await page.getByRole('button', { name: 'Accept', exact: true }).click();
}

test('a second system comes beside the first by mouse: what stays is untouched, and the new image is compared', async ({
  page,
  request,
}) => {
  const id = await keptLaptop(page);
  await expect(page.getByText('0 stops, 0 risks, 0 notes')).toBeVisible();
  await page
    .getByRole('option', { name: /^Free space/ })
    .last()
    .click();
  await page.getByRole('button', { name: 'Add a partition here' }).click();
  await page.getByLabel('Name').fill('Second system');
  await page.getByLabel('Name').press('Enter');
  await page.getByRole('radio', { name: 'ext', exact: true }).click();
  await saved(page);
  await page.getByRole('link', { name: 'Before and after' }).click();
  await expect(page.getByRole('heading', { name: 'Partition by partition' })).toBeVisible();
  await expect(page.getByText('Nothing that is kept is lost.')).toBeVisible();
  const row = page.getByRole('row', { name: /Second system/ }).first();
  await expect(row).toContainText('new');
  await expect(row).toContainText('5:');
  await expect(page.getByRole('row', { name: /GPT entries, copy/ })).toContainText('28 73 2a c1 1f f8 d2 11');
  await page.getByRole('button', { name: 'Make the new image' }).click();
  await expect(page.getByText('done, read back')).toBeVisible();
  await expect(page.getByText(/equal to those of “survey-laptop.img”, compared one by one/)).toBeVisible();
  await page.getByRole('link', { name: 'Survey it' }).click();
  await page.waitForURL(/\/surveys\?of=build/);
  await expect(page.getByRole('option', { name: /Partition 5, Second system/ })).toContainText('ext4');
  await expect(page.getByText('0 stops, 0 risks, 0 notes')).toBeVisible();
  const { slots } = await documentOf(request, id);
  expect(slots.map((one) => one.kind === 'partition' && one.keeps)).toEqual([1, 2, 3, undefined, 4]);
});

test('by keys: a kept slot is not moved by itself, and acts say what they cost before they are done', async ({
  page,
  request,
}) => {
  const id = await keptLaptop(page);
  const column = page.getByRole('listbox').first();
  await slot(page, 'First system').click();
  await column.focus();
  const before = await documentOf(request, id);
  await page.keyboard.press('Alt+ArrowUp');
  await expect(page.getByText('First system is kept: it is moved, resized or made anew by the acts')).toBeVisible();
  expect((await documentOf(request, id)).slots).toEqual(before.slots);
  await column.focus();
  await page.keyboard.press('Enter');
  const size = page.getByLabel('Size', { exact: true });
  await expect(size).toBeFocused();
  await size.fill('3000 MiB');
  await expect(page.getByText(/of the NTFS are cut off.*Its own system can make the NTFS smaller/)).toBeVisible();
  await page.keyboard.press('Enter');
  await saved(page);
  await expect(page.getByText(/First system: .* of the NTFS are cut off/)).toBeVisible();
  await page.getByRole('button', { name: 'Leave it as it was found' }).click();
  await saved(page);
  await expect(page.getByText('0 stops, 0 risks, 0 notes')).toBeVisible();

  await slot(page, 'Recovery').click();
  await column.focus();
  await page.keyboard.press('Delete');
  await expect(page.getByText('of NTFS will be lost. Undo keeps it again.')).toBeVisible();
  await saved(page);
  await page.goto(`/layouts/${id}/build`);
  await expect(page).toHaveURL(/\/change$/);
  await expect(page.getByRole('row', { name: /Recovery/ })).toContainText('deleted');
  await expect(page.getByText(/in one partition will be lost/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Make the new image' })).toBeDisabled();
  await acceptAll(page, 'its maker has a newer one');
  await expect(page.getByRole('button', { name: 'Make the new image' })).toBeEnabled();
  await page.getByLabel('On the image').focus();
  await expect(page.getByLabel('On the image')).toContainText('survey-laptop.img');
});

test('an image is mended, cut and cleared from its survey: each is shown first, and makes a new image', async ({
  page,
}) => {
  await page.goto('/surveys?of=file:gauge-card-grown.img');
  await page.getByRole('link', { name: 'Bring the copy of the GPT to the end of the medium' }).click();
  await expect(page.getByRole('row', { name: /former copy of the GPT entries/ })).toContainText('268,418,560');
  await page.getByRole('link', { name: 'Back to the survey' }).click();
  await page.getByRole('link', { name: 'Mend it' }).click();
  await expect(page.getByText('A survey of the new image would find nothing.')).toBeVisible();
  await page.getByRole('button', { name: 'Make the new image' }).click();
  await expect(page.getByText(/equal to those of “gauge-card-grown.img”/)).toBeVisible();
  await page.getByRole('link', { name: 'Survey it' }).click();
  await expect(page.getByText('0 stops, 0 risks, 0 notes')).toBeVisible();

  await page.goto('/surveys?of=file:gauge-card-grown.img');
  await page.getByRole('link', { name: 'Cut its end' }).click();
  await expect(page.getByText(/The new image has 256 MiB ≈ 268.4 MB, 268,435,456 bytes/)).toBeVisible();
  await page.goto('/surveys?of=file:chart-plotter.img');
  await page.getByRole('link', { name: 'Clear it' }).click();
  await expect(page.getByText('Partition 5: FAT32, CHARTS.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Make the new image' })).toBeEnabled();
});

test('the files of a kept volume are taken over into a new slot, and the kept one stays', async ({ page, request }) => {
  const id = await keptLaptop(page);
  await slot(page, 'EFI system').click();
  await page.getByRole('button', { name: 'Its files in a new slot' }).click();
  // Images that were made of this one have its size, too.
  const ofLaptop = page.getByRole('button', { name: /^survey-laptop.img: Partition 1/ });
  await expect(slot(page, 'EFI system 2').or(ofLaptop)).toBeVisible();
  if (await ofLaptop.isVisible()) await ofLaptop.click();
  await expect(slot(page, 'EFI system 2')).toBeVisible();
  await expect(page.getByText('3 files, ≈ 48.06 KiB')).toBeVisible();
  await saved(page);
  const { slots } = await documentOf(request, id);
  const made = slots.find(({ name }) => name === 'EFI system 2');
  expect(made).toMatchObject({ role: 'esp', size: '64 MiB', content: { kind: 'fat', label: 'SURVEY EFI' } });
  expect(slots.filter((one) => one.kind === 'partition' && one.keeps !== undefined)).toHaveLength(4);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(slot(page, 'EFI system 2')).toBeHidden();
});

test('which FAT is believed is chosen by whoever sees which files differ', async ({ page }) => {
  await page.goto('/surveys?of=file:chart-plotter.img');
  await page.getByRole('link', { name: 'Mend it' }).click();
  await expect(page.getByText('Nothing is to be mended.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Make the new image' })).toBeDisabled();
  await page.getByRole('link', { name: 'Believe the second FAT, and write the first from it' }).click();
  await expect(
    page.getByText(/“KERNEL.IMG”: by the first FAT its clusters end .* by the second it is whole/),
  ).toBeVisible();
  await expect(page.getByRole('row', { name: /FAT 1 of Partition 1/ })).toContainText('1,950,720');
  await page.getByRole('button', { name: 'Make the new image' }).click();
  await expect(page.getByText(/equal to those of “chart-plotter.img”/)).toBeVisible();
});

/** Reading what is there, tables and FAT in the designer, and risks that are taken. */
import { documentOf, expect, newLayout, saved, slotRow, surveyOfDemo, test, unfold } from './fixtures';

/** An image of 1 MiB with one entry that ends too far, and data behind sector 0. */
function oddImage(): Buffer {
  const image = Buffer.alloc(2 ** 20);
  image.write('LOADER', 512, 'latin1');
  image.writeUInt32LE(0x6d617272, 440);
  image[450] = 0x0c;
  image.writeUInt32LE(64, 454);
  image.writeUInt32LE(9_000_000, 458);
  image.writeUInt16LE(0xaa55, 510);
  return image;
}

test('an image file is sent, surveyed, opened sector by sector, and deleted', async ({ page }) => {
  await page.goto('/');
  const file = { name: 'old card.img', mimeType: 'application/octet-stream', buffer: oddImage() };
  await page.getByLabel('Image file', { exact: true }).setInputFiles(file);
  await page.getByRole('link', { name: 'Survey old card.img' }).click();
  await expect(page.getByRole('heading', { name: 'old card.img' })).toBeVisible();
  await expect(page.getByText(/Partition 1 ends 8,998,016 sectors .* too far/)).toBeVisible();
  await expect(page.getByText('There is data at byte 512')).toBeVisible();
  await expect(page.getByText('1 stop, 0 risks, 1 note')).toBeVisible();
  await page.getByRole('button', { name: 'Sector 1', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Ledger: Between partitions' })).toBeVisible();
  await expect(page.getByText('4C 4F 41 44 45 52')).toBeVisible();
  await page.getByLabel('Sector', { exact: true }).fill('0');
  await page.getByLabel('Sector', { exact: true }).press('Enter');
  await expect(page.getByRole('cell', { name: '1,835,102,834 (6D617272h)' })).toBeVisible();
  await page.getByRole('radio', { name: '4096 B' }).click();
  await expect(page.getByText('sector size chosen')).toBeVisible();
  await page.getByRole('link', { name: 'Back to the shelf' }).click();
  await page.getByLabel('Image file', { exact: true }).setInputFiles(file);
  await expect(page.getByText('There is a file “old card.img” already')).toBeVisible();
  await page.getByRole('button', { name: 'Delete old card.img' }).click();
  await page.getByRole('button', { name: 'Keep it' }).click();
  await page.getByRole('button', { name: 'Delete old card.img' }).click();
  await page.getByRole('button', { name: 'Delete for good' }).click();
  await expect(page.getByRole('link', { name: 'Survey old card.img' })).toHaveCount(0);
});

test('a survey beside its layout, by keyboard alone', async ({ page, request }) => {
  await page.goto(await surveyOfDemo(request));
  const column = page.getByRole('listbox', { name: /What was found/ });
  await column.focus();
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowDown');
  await expect(column.getByRole('option', { selected: true })).toContainText('Partition 1');
  await expect(page.getByText('7A1D-0B07')).toBeVisible();
  await expect(page.getByText('FAT32, 129,024 clusters of 2 KiB')).toBeVisible();
  await expect(page.getByLabel('Beside it')).toHaveValue('gauge-logger');
  await page.keyboard.press('l');
  await expect(page.getByRole('heading', { name: 'Ledger: Partition 1: boot sector' })).toBeVisible();
  await page.getByLabel('Go to a structure').selectOption({ label: 'Partition 1: FAT 1' });
  await expect(page.getByRole('cell', { name: 'end of a chain' })).toBeVisible();
});

test('what cannot be surveyed says why', async ({ page }) => {
  await page.goto('/surveys?of=file:nothing.img');
  await expect(page.getByText('There is no file “nothing.img”.')).toBeVisible();
  await page.getByRole('link', { name: 'Back to the shelf' }).click();
  await expect(page.getByRole('heading', { name: 'Layouts', exact: true })).toBeVisible();
});

test('a risk is accepted with a reason, builds, stands in the report, and comes back with other figures', async ({
  page,
  request,
}) => {
  const id = await newLayout(request, 'Risky', [
    { id: 'boot', kind: 'partition', name: 'Boot', role: 'boot', size: '100 MiB' },
    { id: 'log', kind: 'partition', name: 'Log', role: 'data', size: 'rest' },
  ]);
  await page.goto(`/layouts/${id}`);
  await page.getByRole('button', { name: /^Starts from it/ }).click();
  await page.getByRole('checkbox', { name: 'BIOS', exact: true }).click();
  await page.getByLabel('Where the loader of the BIOS lies').selectOption('active partition');
  await saved(page);
  await page.getByRole('link', { name: 'Build image' }).click();
  await expect(page.getByRole('button', { name: /Build revision/ })).toBeDisabled();
  await expect(page.getByText(/^2 risks wait to be mended/)).toBeVisible();
  await page.getByRole('link', { name: 'Back to the designer', exact: true }).first().click();
  // The page that it leaves says the same of both.
  await expect(page.getByRole('listbox')).toBeVisible();
  for (const [sentence, reason] of [
    [/none of its partitions \(2\)/, 'the loader looks for a label'],
    [/440 bytes of code/, 'installed on the first start'],
  ] as const) {
    const line = page.getByRole('listitem').filter({ hasText: sentence });
    await line.getByRole('button', { name: 'Accept with a reason' }).click();
    await line.getByLabel('Reason').fill(reason);
    await line.getByLabel('Reason').press('Enter');
    await expect(line.getByText(`Accepted: ${reason}`)).toBeVisible();
  }
  await expect(page.getByText('2 risks (2 accepted)')).toBeVisible();
  await saved(page);
  await page.getByRole('link', { name: 'Build image' }).click();
  await page.getByRole('button', { name: /Build revision/ }).click();
  const report = page.getByRole('article').first();
  await expect(report.getByText('Reason: installed on the first start')).toBeVisible();
  await page.getByRole('link', { name: 'Back to the designer', exact: true }).first().click();
  await page.getByRole('listbox').focus();
  await page.keyboard.press('a');
  await expect(page.getByText(/It was accepted \(“the loader looks for a label”\)/)).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('2 risks (2 accepted)')).toBeVisible();
});

test('a GPT: chosen, named, marked with attributes, and opened in the ledger', async ({ page, request }) => {
  const id = await newLayout(request, 'To GPT');
  await page.goto(`/layouts/${id}`);
  await page.getByRole('option', { name: /^Table: Sector 0/ }).click();
  await page.getByRole('radio', { name: 'GPT' }).click();
  await expect(page.getByText('Entries and header, copy')).toBeVisible();
  await slotRow(page, 'One').click();
  await unfold(page, 'Id and attributes');
  await page.getByRole('checkbox', { name: 'grow' }).click();
  await page.getByLabel('Type', { exact: true }).fill('Linux root, x86-64');
  await page.getByLabel('Type', { exact: true }).press('Enter');
  await saved(page);
  expect(await documentOf(request, id)).toMatchObject({
    table: { kind: 'gpt' },
    slots: [{ attributes: ['grow'], type: '4f68bce3-e8cd-4db1-96e7-fbcaf984b709' }, {}, {}],
  });
  await page.getByRole('listbox').focus();
  await page.keyboard.press('Home');
  await page.keyboard.press('l');
  await page.getByLabel('Go to a structure').selectOption({ label: 'GPT entries' });
  await expect(page.getByText(/: Linux root, x86-64/).last()).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Close the ledger' }).click();
  await expect(page.getByRole('heading', { name: 'Layout and medium' })).toBeVisible();
});

test('FAT of each variant: geometry while it is chosen, and a volume without a table', async ({ page, request }) => {
  const id = await newLayout(
    request,
    'Float',
    [
      {
        id: 'one',
        kind: 'partition',
        name: 'One',
        role: 'data',
        size: '100 MiB',
        content: { kind: 'fat', volumeId: '7A1D-10C5' },
      },
    ],
    '100 MiB',
  );
  await page.goto(`/layouts/${id}`);
  await page.getByRole('button', { name: 'Let One take the rest' }).first().click();
  await slotRow(page, 'One').click();
  await unfold(page, 'Where the 99 MiB go');
  await expect(page.getByText('FAT16, 50,176 clusters')).toBeVisible();
  await expect(page.getByText('46,091 above the least, 15,348 below the most of FAT16')).toBeVisible();
  await page.getByRole('radio', { name: 'FAT12' }).click();
  await expect(page.getByText(/FAT12, 3,1\d\d clusters/)).toBeVisible();
  await unfold(page, 'Clusters and id');
  await page.getByRole('radio', { name: 'root, FATs' }).click();
  await expect(page.getByText('Reserved, 1 sector', { exact: true })).toBeVisible();
  await page.getByRole('option', { name: /^Table: Sector 0/ }).click();
  await page.getByRole('radio', { name: 'none' }).click();
  await expect(page.getByText('without a table').first()).toBeVisible();
  await saved(page);
  await page.getByRole('link', { name: 'Build image' }).click();
  await page.getByRole('button', { name: /Build revision/ }).click();
  await expect(page.getByText('done, read back')).toBeVisible();
});

test('a card that was pulled in the middle of a write is shown replayed, and checked as a whole', async ({ page }) => {
  await page.goto('/surveys?of=file:pier-card.img');
  await expect(page.getByText('Its journal was replayed in memory: 2 transactions with 2 blocks.')).toBeVisible();
  await page.getByRole('option', { name: /^Partition 2, sector/ }).click();
  await page.getByRole('link', { name: 'Browse its files' }).click();
  await expect(page.getByRole('link', { name: 'last reading of the pier.csv' })).toBeVisible();
  await expect(page.getByText('0644 0:0, 2 names')).toBeVisible();
  const volume = page.getByRole('complementary', { name: 'Volume' });
  await expect(volume.getByText('not let go of')).toBeVisible();
  await volume.getByRole('button', { name: 'Check all of it' }).click();
  await expect(volume.getByText('5 folders and 8 files were looked at.')).toBeVisible();
  await expect(volume.getByText('Nothing is amiss.')).toBeVisible();
  // What was found is still there when the page is opened again.
  await page.reload();
  await expect(volume.getByText('Nothing is amiss.')).toBeVisible();
  await page.getByRole('link', { name: '2026/' }).click();
  await expect(page.getByRole('link', { name: 'January/' })).toBeVisible();
});

test('where the room of a volume is, how small it can be, and laid anew in an image of its own', async ({ page }) => {
  await page.goto('/surveys?of=file:pier-card.img');
  await page.getByRole('option', { name: /^Partition 2, sector/ }).click();
  await page.getByRole('link', { name: 'Browse its files' }).click();
  const volume = page.getByRole('complementary', { name: 'Volume' });
  await expect(volume.getByRole('img', { name: /How full each of \d+ stretches/ })).toBeVisible();
  await expect(volume.getByText(/inodes in use, the highest has number/)).toBeVisible();
  await volume.getByRole('textbox', { name: 'Size' }).fill('8 Mi');
  await expect(volume.getByText('Say for example 512 MiB, 40 GB, or minimum.')).toBeVisible();
  await volume.getByRole('textbox', { name: 'Size' }).fill('8 MiB');
  await volume.getByRole('radio', { name: 'numbers kept' }).check();
  await volume.getByRole('button', { name: 'Lay it anew in an image of its own' }).click();
  await expect(volume.getByText(/^Laid anew: Partition 2 of pier-card\.img, in 8 MiB/)).toBeVisible();
  await volume.getByRole('link', { name: 'the volume' }).click();
  await expect(page.getByRole('link', { name: 'last reading of the pier.csv' })).toBeVisible();
  await expect(page.getByText('0644 0:0, 2 names')).toBeVisible();
});

test('a kept ext is made smaller by keys: it is laid anew, and before and after says so', async ({ page }) => {
  await page.goto('/surveys?of=file:pier-card.img');
  await page.getByRole('button', { name: /Keep/ }).first().click();
  await page.waitForURL(/layouts/);
  await page
    .getByRole('option', { name: /tide log/ })
    .first()
    .click();
  await page.getByRole('textbox', { name: 'Size' }).fill('40 MiB');
  await expect(page.getByText(/The ext4 inside is checked, and all of it laid anew in 40 MiB/).first()).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('What becomes of its ext4')).toHaveValue('renumbered');
  await page.getByRole('link', { name: 'Before and after' }).click();
  await expect(page.getByText(/all of it laid anew in 40 MiB/).first()).toBeVisible();
  await page.getByRole('button', { name: 'Make the new image' }).click();
  await expect(page.getByText('done, read back')).toBeVisible();
});

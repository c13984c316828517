/** What is handed over, in the browser: the mount table with its strokes and choices, one that exists checked and mended, steps, ids. */
import type { PartitionSlot } from '@/core/layout/document';
import { OFFICE_DISK, SHARE_STICK } from '@tests/machine-media';
import { OFFICE_TABLE } from '@tests/mount-mistakes';
import { documentOf, expect, type newLayout, test } from './fixtures';

const post = async (request: Parameters<typeof newLayout>[0], document: object, name: string) => {
  const made = await request.post('/api/layouts', { data: { document: { ...document, name }, note: 'Made' } });
  return ((await made.json()) as { id: string }).id;
};

test('the mount table of two media: a line is explained, chosen otherwise, kept in the layout, and undone', async ({
  page,
  request,
}) => {
  const disk = await post(request, OFFICE_DISK, 'Harbour office table');
  const stick = await post(request, SHARE_STICK, 'Share stick table');
  await page.goto(`/layouts/${disk}`);
  await page.getByRole('link', { name: 'Hand over' }).click();
  await page.getByLabel('Another medium of the machine').selectOption({ label: 'Share stick table' });
  await expect(page).toHaveURL(new RegExp(`with=${stick}$`));
  const lines = page.getByRole('list', { name: 'Lines of the mount table' }).getByRole('button');
  await expect(lines).toHaveCount(6);
  await expect(lines.nth(4)).toContainText('nofail,x-systemd.device-timeout=10s');
  // Of another layout nothing is chosen here.
  await lines.nth(4).click();
  await expect(page.getByText('It is chosen in the layout of Share stick table')).toBeVisible();
  await lines.nth(1).click();
  await expect(page.getByText('Where Home is mounted, as the layout says.')).toBeVisible();
  await page.getByRole('radio', { name: 'LABEL', exact: true }).click();
  await page.getByLabel('Options').fill('no atime');
  await expect(page.getByText('Options with commas between them, without blanks')).toBeVisible();
  await page.getByLabel('Options').fill('nodev,noatime');
  await page.getByLabel('Options').press('Enter');
  await page.getByRole('radio', { name: 'never' }).click();
  await expect(lines.nth(1)).toHaveText(/^LABEL=quay-home +\/home +ext4 +nodev,noatime +0 {2}0$/);
  const mountingOf = async () => {
    const { slots } = await documentOf(request, disk);
    return (slots.find(({ id }) => id === 'home') as PartitionSlot).mounting;
  };
  await expect.poll(mountingOf).toEqual({ by: 'LABEL', options: 'nodev,noatime', pass: 0 });
  // What is left out can be put in again.
  await page.getByRole('radio', { name: 'left out' }).click();
  await expect(lines).toHaveCount(5);
  await page.getByRole('button', { name: 'Put Home in' }).click();
  await expect(lines).toHaveCount(6);
  for (let i = 0; i < 2; i++) await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(mountingOf).toEqual({ by: 'LABEL', options: 'nodev,noatime', pass: 0 });
  // BusyBox knows no words of a service manager.
  await page.getByRole('radio', { name: 'BusyBox' }).click();
  await expect(lines.nth(4)).toHaveText(/nofail {2}0/);
  await page.getByRole('button', { name: 'Without Share stick table' }).click();
  await expect(lines).toHaveCount(5);
});

test('a table that exists is checked, mended finding by finding, added to, and survives a reload', async ({
  page,
  request,
}) => {
  const id = await post(request, OFFICE_DISK, 'Harbour office check');
  await page.goto(`/layouts/${id}/hand-over?show=check`);
  const area = page.getByRole('textbox', { name: 'Mount table to check' });
  const own = OFFICE_TABLE.replace(/^UUID=51A0.*\n/m, '');
  const archive = /^PARTUUID=b4a2.*\n/m.exec(own)![0];
  await area.fill(
    own.replace('defaults,noatime', 'defaults,noatme').replace('UUID=7A1D', 'UUID=7a1d').replace(archive, ''),
  );
  const findings = page.getByRole('region', { name: 'Findings in the table' });
  await expect(findings).toContainText('2 stops, 0 risks, 1 note');
  await findings.getByRole('button', { name: '3:66' }).click();
  await expect(area).toBeFocused();
  expect(await area.evaluate((one: HTMLTextAreaElement) => one.value.slice(one.selectionStart, one.selectionEnd))).toBe(
    'noatme',
  );
  await findings.getByRole('button', { name: 'Write noatime' }).click();
  await findings.getByRole('button', { name: 'Write UUID=7A1D-E5B0' }).click();
  await expect(findings).toContainText('0 stops, 0 risks, 1 note');
  await page.getByRole('button', { name: 'Add 1 line' }).click();
  await expect(findings).toContainText('Nothing was found.');
  await expect(area).toHaveValue(
    `${own.replace(archive, '')}# Added for Harbour office check\n${archive.replace('noatime,inode64  0 0', 'defaults  0  0')}`,
  );
  await page.reload();
  await expect(area).toHaveValue(/Added for Harbour office check/);
  // A line says what it names; another file is chosen.
  await page.getByRole('button', { name: /^Line 3: UUID=1d7c/ }).press('ArrowDown');
  await expect(page.getByRole('button', { name: /^Line 4: UUID=7A1D/ })).toBeFocused();
  const file = {
    name: 'fstab',
    mimeType: 'text/plain',
    buffer: Buffer.from('UUID=0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5 /home ext4 defaults 0 2\n'),
  };
  await page.getByLabel('A file of a mount table').setInputFiles(file);
  await expect(findings).toContainText('The line mounts System at /home; the layout mounts Home there.');
});

test('steps by hand and ids, reached by keys', async ({ page, request }) => {
  const id = await post(request, OFFICE_DISK, 'Harbour office keys');
  await page.goto(`/layouts/${id}`);
  await page.getByRole('option', { name: /^Home/ }).click();
  await page.keyboard.press('o');
  await page.getByRole('radio', { name: 'mount table' }).focus();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('radio', { name: 'by hand' })).toBeChecked();
  await page.getByLabel('Steps for').selectOption({ label: 'Home, at /home' });
  await expect(
    page.getByText('mount -t ext4 UUID=1d7c2f0b-63de-4c1f-8b46-8b31c3f4d5e6 /home', { exact: true }),
  ).toBeVisible();
  await page.getByRole('radio', { name: 'by hand' }).press('ArrowRight');
  await page.getByRole('radio', { name: 'boot entries' }).press('ArrowRight');
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.getByRole('button', { name: 'Copy PARTUUID of System' }).click();
  await expect(page.getByRole('button', { name: 'Copy PARTUUID of System' })).toHaveText('copied');
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe('a3f1c2d4-5b6e-4f70-8192-a3b4c5d6e7f8');
});

test('boot entries are proposed, changed field by field, and name the root as the layout has it', async ({
  page,
  request,
}) => {
  const id = await post(request, OFFICE_DISK, 'Harbour office entries');
  await page.goto(`/layouts/${id}/hand-over?show=boot`);
  await page.getByRole('button', { name: 'Propose entries' }).click();
  const lines = page.getByRole('list', { name: 'Lines of the boot entries' });
  await expect(lines).toContainText('root=UUID=0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5 ro single');
  await page.getByLabel('RAM disks').fill('initrd.img');
  await expect(page.getByText('“initrd.img” does not begin with /')).toBeVisible();
  await page.getByLabel('RAM disks').fill('');
  await page.getByLabel('RAM disks').press('Enter');
  await expect(lines).toContainText('root=PARTUUID=a3f1c2d4-5b6e-4f70-8192-a3b4c5d6e7f8 ro');
  await page.getByRole('radio', { name: 'UUID', exact: true }).click();
  await expect(page.getByText('is found by an initial RAM disk alone, and the entry has none')).toBeVisible();
  await page.getByLabel('File name').fill('system-rescue');
  await expect(page.getByText('Another entry has that name.')).toBeVisible();
  await page.getByLabel('File name').fill('quay');
  await page.getByLabel('File name').press('Enter');
  await expect(lines).toContainText('/loader/entries/quay.conf, on ESP');
  await page.getByRole('radio', { name: 'writable at once' }).click();
  await page.getByRole('button', { name: 'Add one like it' }).click();
  await page.getByRole('button', { name: 'Make it the usual one' }).click();
  const entriesOf = async () => (await documentOf(request, id)).entries?.map((one) => one.id);
  await expect.poll(entriesOf).toEqual(['entry-3', 'quay', 'system-rescue']);
  await page.getByRole('button', { name: 'Remove it' }).click();
  await expect.poll(entriesOf).toEqual(['quay', 'system-rescue']);
  const [first] = (await documentOf(request, id)).entries!;
  expect(first).toEqual({
    id: 'quay',
    title: 'Harbour office entries: System',
    root: 'system',
    rootBy: 'UUID',
    kernel: '/vmlinuz',
    writable: true,
  });
});

test('files of a slot are written from the layout, and what lies there is checked against its ids', async ({
  page,
  request,
}) => {
  const text = 'title Old\nlinux /none\noptions root=PARTUUID=a5d79a7e-55de-84a9-a902-59f65231cc16\n';
  const put = await request.put('/api/contents/file?name=old.conf&under=loader/entries', { data: Buffer.from(text) });
  const { sha256: files } = (await put.json()) as { sha256: string };
  const slots = OFFICE_DISK.slots.map((slot) =>
    slot.kind === 'partition' && slot.content?.kind === 'fat' ? { ...slot, content: { ...slot.content, files } } : slot,
  );
  const id = await post(request, { ...OFFICE_DISK, slots }, 'Harbour office written');
  await page.goto(`/layouts/${id}/hand-over?show=boot`);
  const findings = page.getByRole('list', { name: 'Findings about the boot entries' });
  await expect(findings).toContainText('which is Swap (swap space)');
  await expect(findings).toContainText('the kernel /none is not among the files of ESP');
  await page.getByRole('button', { name: 'Propose entries' }).click();
  await page.getByRole('checkbox', { name: /^ESP/ }).check();
  const writesOf = async (slotId: string) => {
    const { slots: now } = await documentOf(request, id);
    return (now.find((slot) => slot.id === slotId) as PartitionSlot).writes;
  };
  await expect.poll(() => writesOf('esp')).toEqual(['boot entries']);
  // The proposed entry names a kernel that is not there either.
  await expect(findings).toContainText('“loader/entries/system.conf” of ESP');
  await findings.getByRole('button', { name: 'Leave “old.conf” out' }).first().click();
  await expect(findings).not.toContainText('old.conf');
  await page.getByRole('radio', { name: 'mount table' }).click();
  await page.getByRole('checkbox', { name: /^System/ }).check();
  await expect.poll(() => writesOf('system')).toEqual(['mount table']);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => writesOf('system')).toBeUndefined();
});

test('the sheet is printed on one page of A4 and of Letter, and is the Markdown that is saved', async ({
  page,
  request,
}) => {
  const id = await post(request, OFFICE_DISK, 'Harbour office sheet');
  await page.goto(`/layouts/${id}/hand-over?show=sheet`);
  const sheet = page.getByRole('article', { name: 'The sheet' });
  await expect(sheet.getByRole('heading', { name: 'Harbour office sheet' })).toBeVisible();
  await expect(sheet.getByRole('region', { name: 'Sectors of 512 B' })).toContainText('17,393,663');
  await expect(sheet.getByRole('region', { name: 'Left to do' })).toContainText('Make XFS on Tide archive');
  for (const format of ['A4', 'Letter']) {
    const pdf = (await page.pdf({ format })).toString('latin1');
    expect(pdf.match(/\/Type\s*\/Page\b/g)).toHaveLength(1);
  }
  await page.emulateMedia({ media: 'print', colorScheme: 'dark' });
  await expect(page.getByRole('radio', { name: 'ids' })).toBeHidden();
  await expect(sheet.getByRole('heading', { name: 'Harbour office sheet' })).toHaveCSS('color', 'rgb(0, 0, 0)');
  await page.emulateMedia({ media: 'screen' });
  const link = page.getByRole('link', { name: 'Save as Markdown' });
  const text = decodeURIComponent(((await link.getAttribute('href')) ?? '').split(',').slice(1).join(','));
  expect(text).toContain('| 5 | Tide archive |');
});

/** `hand-over` at the terminal: the table of a machine of two media, one that is checked, one that is added to. */
import { createHash } from 'node:crypto';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { OFFICE_DISK, SHARE_STICK } from '@tests/machine-media';
import { OFFICE_TABLE } from '@tests/mount-mistakes';
import { fatPart, GPT_TABLE, layoutOn, part } from '@tests/samples';
import { folderOfEachTest, loess } from '@tests/terminal';
import { copyOf } from '@/core/layout/series';
import { writeLayout } from '@/core/layout/validate';
import { place } from '@/core/placement/place';
import { EXIT } from './exit';

const { file } = folderOfEachTest();

/** Both documents and a table, as files. */
function office(table = OFFICE_TABLE): { readonly media: readonly string[]; readonly table: string } {
  const put = (name: string, text: string) => {
    writeFileSync(file(name), text);
    return file(name);
  };
  const [disk, stick] = [put('disk.json', writeLayout(OFFICE_DISK)), put('stick.json', writeLayout(SHARE_STICK))];
  return { media: [disk, '--with', stick], table: put('fstab', table) };
}

test('the mount table of two media is what the checker has nothing to say about', async () => {
  const { media } = office();
  const { exit, out } = await loess(['hand-over', ...media]);
  expect(exit).toBe(EXIT.done);
  expect(out).toContain('# Share on Share stick\nUUID=51A0-0C5E ');
  expect(await loess(['hand-over', ...media, '--check', '-'], out)).toMatchObject({
    exit: EXIT.done,
    out: 'Nothing was found.\n',
  });
});

test('ids and steps are written, into a new file where that is asked', async () => {
  const { media } = office();
  expect((await loess(['hand-over', ...media, '--show', 'ids'])).out).toMatch(/ 1 {2}ESP +7A1D-E5B0 /);
  expect(await loess(['hand-over', ...media, '--show', 'steps', '--into', file('steps')])).toMatchObject({ out: '' });
  expect(readFileSync(file('steps'), 'utf8')).toContain('1. Make the mount point\n');
  expect(await loess(['hand-over', ...media, '--into', file('steps')])).toMatchObject({ exit: EXIT.file });
});

test('boot entries are those of the document, or proposed, which is said', async () => {
  const { media } = office();
  const proposed = await loess(['hand-over', ...media, '--show', 'boot']);
  expect(proposed.error).toContain('these are proposed');
  expect(proposed.out).toContain('options    root=UUID=0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5 ro single\n');
  const entries = [{ id: 'quay', title: 'Quay', root: 'system', kernel: '/vmlinuz', rootBy: 'LABEL' as const }];
  writeFileSync(file('own.json'), writeLayout({ ...OFFICE_DISK, entries }));
  const own = await loess(['hand-over', file('own.json'), '--show', 'boot']);
  expect(own.out.startsWith('# /loader/entries/quay.conf on ESP\n')).toBe(true);
  expect(own.error).toContain('an initial RAM disk alone');
  const { json } = await loess(['hand-over', file('own.json'), '--json']);
  expect(json().boot).toMatchObject([{ path: '/loader/entries/quay.conf', slot: 'esp' }]);
});

test('for machines: every word with its reason, and steps', async () => {
  const { json } = await loess(['hand-over', ...office().media, '--json']);
  const { media, mounts } = json() as {
    media: { name: string }[];
    mounts: { slot: string; source: { text: string } }[];
  };
  expect(media.map(({ name }) => name)).toEqual(['Harbour office', 'Share stick']);
  expect(mounts.map(({ slot }) => slot)).toEqual(['system', 'home', 'esp', 'archive', 'share', 'swap']);
  expect(mounts[3]!.source.text).toMatch(/^PARTUUID=/);
});

test('a table is checked by line and column, and ends by the worst that was found', async () => {
  const { media, table } = office(OFFICE_TABLE.replace('noatime', 'noatme'));
  const { exit, out } = await loess(['hand-over', ...media, '--check', table]);
  expect(exit).toBe(EXIT.stop);
  expect(out).toContain('fstab:3:66: stop: ext4 knows no option “noatme”; it knows noatime.');
  expect(out).toContain('remedy: Write noatime');
  const { json } = await loess(['hand-over', ...media, '--check', table, '--json']);
  expect(json().findings).toMatchObject([{ rule: 'table/unknown-option', line: 3, column: 66 }]);
  const risky = office(OFFICE_TABLE.replace('nofail,', ''));
  expect(await loess(['hand-over', ...risky.media, '--check', risky.table])).toMatchObject({ exit: EXIT.risk });
});

test('a table gets the lines that it lacks, and keeps its own text; what is in their way is said', async () => {
  const own = '# old\n/dev/mapper/office-root / ext4 defaults 0 1\n';
  const { media, table } = office(own);
  const { exit, out, error } = await loess(['hand-over', ...media, '--add-to', table]);
  expect(exit).toBe(EXIT.risk);
  expect(out.startsWith(`${own}# Added for Harbour office and Share stick\n`)).toBe(true);
  expect(error).toContain('Line 2 mounts something at / already');
  expect(readFileSync(table, 'utf8')).toBe(own);
  const { json } = await loess(['hand-over', ...media, '--add-to', table, '--json']);
  expect(json().clashes).toEqual([{ slot: 'system', line: 2, over: 'mount point' }]);
});

test('what cannot be is refused', async () => {
  const { media, table } = office();
  expect(await loess(['hand-over', ...media, '--check', table, '--add-to', table])).toMatchObject({ exit: EXIT.usage });
  expect(await loess(['hand-over', '-', '--check', '-'])).toMatchObject({ exit: EXIT.usage });
  expect(await loess(['hand-over', '-', '--with', '-'])).toMatchObject({ exit: EXIT.usage });
  expect(await loess(['hand-over', ...media, '--check', file('none')])).toMatchObject({ exit: EXIT.file });
});

test('the sheet is Markdown, with the sums of images that are named', async () => {
  const { media } = office();
  writeFileSync(file('office.img'), 'not long');
  const { exit, out } = await loess(['hand-over', ...media, '--show', 'sheet', '--image', file('office.img')]);
  expect(exit).toBe(EXIT.done);
  expect(out).toMatch(/^# Harbour office\n/);
  expect(out).toContain('| 2 | System | System, ext4 quay-system');
  const sum = createHash('sha256').update('not long').digest('hex');
  expect(out).toContain(`- office.img: 8 B, 8 B\n  SHA-256 ${sum}`);
  const { json } = await loess(['hand-over', ...media, '--json', '--image', file('office.img')]);
  expect(json().attaching).toEqual([]);
  expect(json().sheet).toMatchObject({ images: [{ name: 'office.img', bytes: 8, sha256: sum }] });
  expect(await loess(['hand-over', ...media, '--image', file('office.img')])).toMatchObject({ exit: EXIT.usage });
  expect(await loess(['hand-over', ...media, '--show', 'sheet', '--image', file('none.img')])).toMatchObject({
    exit: EXIT.file,
    error: expect.stringContaining('none.img') as string,
  });
});

test('what is asked to be written is built, in a copy with its own ids; what lies in a folder is read and checked', async () => {
  const id = '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5';
  const layout = layoutOn(
    '64 MiB',
    [
      fatPart('boot', '20 MiB', { variant: 16 }, { role: 'boot', writes: ['boot entries'] }),
      part('root', '32 MiB', { role: 'system', mount: '/', content: { kind: 'ext', version: 'ext4', uuid: id } }),
    ],
    { table: GPT_TABLE, entries: [{ id: 'gauge', title: 'Gauge', root: 'root', kernel: '/Image' }] },
  );
  writeFileSync(file('gauge.json'), writeLayout(layout));
  mkdirSync(file('files/loader/entries'), { recursive: true });
  writeFileSync(file('files/loader/entries/old.conf'), `title Old\nlinux /Image\noptions root=PARTUUID=${id}\n`);
  writeFileSync(file('files/Image'), 'a kernel');
  const from = ['--from', `boot=${file('files')}`, '--outside'];
  const checked = await loess(['check', file('gauge.json'), ...from]);
  expect(checked.out).toContain(
    `“loader/entries/old.conf” of boot, line 3, column 9: root= names PARTUUID ${id}. root has it as its UUID.`,
  );
  expect(await loess(['build', file('gauge.json'), '--into', file('no.img'), ...from])).toMatchObject({
    exit: EXIT.risk,
  });
  rmSync(file('files/loader'), { recursive: true });
  const textOf = async (copy: string) => {
    const image = file(`copy-${copy}.img`);
    const built = await loess(['build', file('gauge.json'), '--into', image, '--copy', copy, ...from]);
    expect(built).toMatchObject({ exit: EXIT.done });
    return /root=PARTUUID=[0-9a-f-]{36} /.exec(readFileSync(image, 'latin1'))?.[0];
  };
  // What a person supplied names the ids of the layout, in copies too: that is said, and stands in no copy's way.
  mkdirSync(file('files/loader/entries'), { recursive: true });
  const good = `title Good\nlinux /Image\noptions root=PARTUUID=${place(layout).placed[1]!.entry!.id}\n`;
  writeFileSync(file('files/loader/entries/good.conf'), good);
  const supplied = await loess(['build', file('gauge.json'), '--into', file('s.img'), '--copy', '1', ...from]);
  expect(supplied).toMatchObject({
    exit: EXIT.done,
    error: expect.stringContaining('those that Loess writes') as string,
  });
  rmSync(file('files/loader'), { recursive: true });
  const [first, third] = [await textOf('0'), await textOf('3')];
  const idsOf = (copy: number) => place(copyOf(layout, copy)).placed[1]!.entry!.id;
  expect(first).toContain(idsOf(0));
  expect(third).toContain(idsOf(3));
});

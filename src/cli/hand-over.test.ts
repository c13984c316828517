/** `hand-over` at the terminal: the table of a machine of two media, one that is checked, one that is added to. */
import { readFileSync, writeFileSync } from 'node:fs';
import { OFFICE_DISK, SHARE_STICK } from '@tests/machine-media';
import { OFFICE_TABLE } from '@tests/mount-mistakes';
import { folderOfEachTest, loess } from '@tests/terminal';
import { writeLayout } from '@/core/layout/validate';
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

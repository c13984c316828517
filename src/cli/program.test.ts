import { createHash } from 'node:crypto';
import fs, { existsSync, mkdirSync, readdirSync, readFileSync, truncateSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fatPart, layoutOn, part } from '@tests/samples';
import { folderOfEachTest, loess, risky, sound, stopped } from '@tests/terminal';
import { treeText } from '@/core/filesystems/tree-text';
import { writeLayout } from '@/core/layout/validate';
import { SHELLS } from './completion';
import { ENDINGS, EXIT } from './exit';

const { now, file, document } = folderOfEachTest();

test('check tells findings and ends by the worst that stands', async () => {
  expect(await loess(['check', document(sound())])).toMatchObject({ exit: EXIT.done, out: 'Nothing was found.\n' });
  const stop = await loess(['check', document(stopped())]);
  expect(stop.exit).toBe(EXIT.stop);
  expect(stop.out).toContain('remedy: Let boot take the rest');
  const risk = await loess(['check', document(risky()), '--json']);
  expect(risk.exit).toBe(EXIT.risk);
  expect(risk.json().findings).toMatchObject([{ rule: 'boot/no-code-in-sector-0', severity: 'risk' }]);
});

test('an accepted risk does not stand any more', async () => {
  const { json } = await loess(['check', document(risky()), '--json']);
  const [{ rule, sentence }] = json().findings as [{ rule: string; sentence: string }];
  const accepted = [{ rule, sentence, reason: 'the loader comes later' }];
  const after = await loess(['check', document({ ...risky(), accepted })]);
  expect(after).toMatchObject({ exit: EXIT.done });
  expect(after.out).toContain('reason: the loader comes later');
  const built = await loess(['build', document({ ...risky(), accepted }), '--into', file('a.img'), '--json']);
  expect(built.json().accepted).toEqual(accepted);
});

test('place says every first and last sector, for people and for machines', async () => {
  const { out } = await loess(['place', document(sound())]);
  expect(out).toMatch(/1 {2}boot +2,048 +83,967 +81,920 +40 MiB ≈ 41\.94 MB/);
  const { json } = await loess(['place', '-', '--json'], writeLayout(sound()));
  expect(json()).toMatchObject({
    sectors: 131_072,
    placed: [
      { id: 'boot', start: 2048, sectors: 81_920, entry: { number: 1, type: '0B' } },
      { id: 'log', start: 83_968 },
    ],
  });
});

test('build makes the image, the same bytes on every run, and never over a file that is there', async () => {
  const name = document(sound());
  const sha = (image: string) => createHash('sha256').update(readFileSync(image)).digest('hex');
  expect(await loess(['build', name, '--into', file('a.img')])).toMatchObject({ exit: EXIT.done });
  await loess(['build', name, '--into', file('b.img')]);
  expect(sha(file('a.img'))).toBe(sha(file('b.img')));
  const again = await loess(['build', name, '--into', file('a.img')]);
  expect(again).toMatchObject({ exit: EXIT.file });
  expect(again.error).toContain('--replace');
  expect(await loess(['build', name, '--into', file('a.img'), '--replace'])).toMatchObject({ exit: EXIT.done });
  expect(await loess(['build', name, '--into', now(), '--replace'])).toMatchObject({ exit: EXIT.file });
  expect(await loess(['build', name, '--into', file('none/x.img')])).toMatchObject({ exit: EXIT.file });
});

test('nothing is built while a stop or an open risk stands, or when it is interrupted', async () => {
  expect(await loess(['build', document(stopped()), '--into', file('x.img')])).toMatchObject({ exit: EXIT.stop });
  const risk = await loess(['build', document(risky()), '--into', file('x.img'), '--json']);
  expect(risk.exit).toBe(EXIT.risk);
  expect(JSON.parse(risk.error)).toMatchObject({ answer: 'error', code: 'layout-has-risks', exit: EXIT.risk });
  const abort = new AbortController();
  abort.abort();
  const cut = await loess(['build', document(sound()), '--into', file('x.img')], '', abort.signal);
  expect(cut).toMatchObject({ exit: EXIT.interrupted });
  expect(readdirSync(now())).toEqual(['layout.json']);
});

test('survey reads an image and never changes it', async () => {
  await loess(['build', document(sound()), '--into', file('a.img')]);
  const before = readFileSync(file('a.img'));
  const { out, exit } = await loess(['survey', file('a.img')]);
  expect(exit).toBe(EXIT.done);
  expect(out).toMatch(/Partition 1 +2,048 +83,967 +81,920 +0B FAT32 CHS +FAT32, GAUGE/);
  const zero = await loess(['survey', file('a.img'), '--sector', '0']);
  expect(zero.out).toMatch(/440 +signature +1,835,102,834 \(6D617272h\)/);
  const field = await loess(['survey', file('a.img'), '--sector', '2_048', '--json']);
  expect(field.json()).toMatchObject({ what: 'Partition 1: boot sector' });
  expect(await loess(['survey', file('a.img'), '--sector', '131072'])).toMatchObject({ exit: EXIT.usage });
  expect(readFileSync(file('a.img')).equals(before)).toBe(true);
  truncateSync(file('a.img'), 2_000_000);
  expect((await loess(['survey', file('a.img')])).exit).toBe(EXIT.stop);
  // Nothing of what the entries name is left: it may be a table, and it may be boot code.
  truncateSync(file('a.img'), 1_000_000);
  expect((await loess(['survey', file('a.img'), '--json'])).json()).toMatchObject({
    findings: [{ rule: 'found-table/not-whole-sectors' }, { rule: 'found-table/no-entry-on-the-medium' }],
  });
  truncateSync(file('a.img'), 0);
  expect((await loess(['survey', file('a.img'), '--json'])).json()).toMatchObject({
    findings: [{ rule: 'found-table/shorter-than-a-sector' }],
  });
});

test('an image of 4096-byte sectors is read as such without being told', async () => {
  const medium = { kind: 'image', capacity: { exact: '64 MiB' }, logicalSector: 4096, physicalSector: 4096 } as const;
  const layout = layoutOn('64 MiB', [part('a', 'rest')], {
    medium,
    table: { kind: 'gpt', diskId: '6d617272-616d-4c0a-8d05-7469646573aa' },
  });
  await loess(['build', document(layout), '--into', file('a.img')]);
  const { json } = await loess(['survey', file('a.img'), '--json']);
  expect(json()).toMatchObject({ survey: { sectorSize: 4096, table: 'gpt' }, findings: [] });
  const whole = layoutOn('64 MiB', [fatPart('a', 'rest', { variant: undefined })], { medium, table: { kind: 'none' } });
  await loess(['build', document(whole), '--into', file('b.img')]);
  const found = await loess(['survey', file('b.img'), '--json']);
  expect(found.json()).toMatchObject({ survey: { sectorSize: 4096, table: 'none' }, findings: [] });
  // An MBR does not say it: only what is inside does.
  const slots = [part('a', '8 MiB'), fatPart('b', 'rest', { variant: undefined })];
  await loess(['build', document(layoutOn('64 MiB', slots, { medium })), '--into', file('c.img')]);
  const mbr = await loess(['survey', file('c.img'), '--json']);
  expect(mbr.json()).toMatchObject({ survey: { sectorSize: 4096, table: 'mbr' }, findings: [] });
  expect((await loess(['survey', file('c.img'), '--sector-size', '512', '--json'])).json()).toMatchObject({
    survey: { sectorSize: 512 },
  });
});

test('a folder that is missing is told as such', async () => {
  const into = file('no/such/place/a.img');
  const { exit, error } = await loess(['build', document(sound()), '--into', into]);
  expect(exit).toBe(EXIT.file);
  expect(error).toBe(`“${into}”: there is no folder “${file('no/such/place')}”; make it first.\n`);
});

test('nothing that a terminal would obey comes out of a name', async () => {
  const name = 'Tide 31m red \u202e';
  const layout = layoutOn('64 MiB', [part('a', '100 MiB', { name })]);
  for (const command of ['check', 'place'])
    for (const more of [[], ['--json']]) {
      const { out } = await loess([command, document(layout), ...more]);
      expect(out).toContain('31m red');
      expect(out).not.toMatch(/[\u0000-\u0009\u000b-\u001f\u007f-\u009f\u202a-\u202e]/);
    }
});

test('stored content with a flipped byte is refused, and named', async () => {
  const bytes = Buffer.alloc(3_000_000, 7);
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  const store = file('contents');
  mkdirSync(path.join(store, sha256.slice(0, 2)), { recursive: true });
  const stored = path.join(store, sha256.slice(0, 2), sha256);
  writeFileSync(stored, bytes);
  const content = { kind: 'file', sha256, name: 'tide.bin', size: bytes.length } as const;
  const layout = document(layoutOn('64 MiB', [part('a', 'rest', { name: 'Archive', content })]));
  const build = (into: string) => loess(['build', layout, '--into', file(into), '--contents', store]);
  expect((await build('a.img')).exit).toBe(EXIT.done);
  bytes[2_999_999] = 6;
  writeFileSync(stored, bytes);
  const { exit, error } = await build('b.img');
  expect(exit).toBe(EXIT.file);
  expect(error).toBe(
    'The bytes that are stored of the file for Archive are not those that were supplied: their sum is another one.\n',
  );
  expect(existsSync(file('b.img'))).toBe(false);
  truncateSync(stored, 100);
  expect(await build('c.img')).toMatchObject({ exit: EXIT.stop });
});

test('what reads back differently is no fault of the layout, and has a number of its own', async () => {
  const layout = document(sound());
  const read = jest.spyOn(fs, 'readSync').mockImplementation((_, into) => (into as Buffer).fill(7).length);
  try {
    const { exit, error } = await loess(['build', layout, '--into', file('a.img')]);
    expect([exit, error]).toEqual([EXIT.readBack, expect.stringMatching(/reads back differently[^]*not at fault/)]);
  } finally {
    read.mockRestore();
  }
  expect(readdirSync(now())).toEqual(['layout.json']);
});

test('of a copy it is told what stays the same in all of them', async () => {
  const tree = Buffer.from(treeText([{ kind: 'folder', path: 'etc' }]));
  const files = createHash('sha256').update(tree).digest('hex');
  const store = file('contents');
  mkdirSync(path.join(store, files.slice(0, 2)), { recursive: true });
  writeFileSync(path.join(store, files.slice(0, 2), files), tree);
  const layout = document(layoutOn('64 MiB', [fatPart('b', 'rest', { files }, { name: 'Boot' })]));
  const args = ['build', layout, '--contents', store, '--into'];
  expect((await loess([...args, file('a.img')])).error).toBe('');
  expect((await loess([...args, file('b.img'), '--copy', '7'])).error).toMatch(
    /^Files of Boot that name ids .* name those of the layout itself, not of the copy\.\n$/,
  );
});

test('what cannot be used is named: documents, files, calls', async () => {
  writeFileSync(file('bad.json'), '{"format":"loess-layout"}');
  const bad = await loess(['check', file('bad.json')]);
  expect(bad.exit).toBe(EXIT.document);
  expect(bad.error).toContain('line 1, column 1: name is missing');
  writeFileSync(file('odd.json'), `// for the pier\n${writeLayout(sound())}`);
  const odd = await loess(['check', file('odd.json')]);
  expect(odd).toMatchObject({ exit: EXIT.done, out: 'Nothing was found.\n' });
  expect(odd.error).toBe(`“${file('odd.json')}”: It has 1 comment. It is read all the same.\n`);
  expect((await loess(['check', file('odd.json'), '--json'])).error).toBe('');
  expect(await loess(['check', file('none.json')])).toMatchObject({ exit: EXIT.file });
  expect(await loess(['check', now()])).toMatchObject({ exit: EXIT.file });
  expect(await loess(['survey', file('none.img')])).toMatchObject({ exit: EXIT.file });
  expect(await loess(['check'])).toMatchObject({ exit: EXIT.usage });
  expect(await loess(['weigh'])).toMatchObject({ exit: EXIT.usage });
  expect(await loess(['survey', 'x', '--sector-size', '513'])).toMatchObject({ exit: EXIT.usage });
  expect(await loess(['survey', 'x', '--sector', '-4'])).toMatchObject({ exit: EXIT.usage });
});

test('the schema is the published one', async () => {
  const { out } = await loess(['schema']);
  expect((await loess(['schema', '--answers'])).out).toBe(readFileSync('public/answers-1.schema.json', 'utf8'));
  expect(out).toBe(readFileSync('public/layout-2.schema.json', 'utf8'));
  expect(await loess(['schema', '--into', file('s.json')])).toMatchObject({ exit: EXIT.done, out: '' });
  expect(await loess(['schema', '--into', file('s.json')])).toMatchObject({ exit: EXIT.file });
});

test('help teaches: every command, an example of each, every number', async () => {
  const { out, exit } = await loess(['--help']);
  expect(exit).toBe(EXIT.done);
  for (const command of [
    'check',
    'fill-in',
    'series',
    'place',
    'build',
    'survey',
    'check-data',
    'back-up',
    'restore',
    'clean',
    'schema',
  ])
    expect(out).toContain(`\n  ${command} `);
  const page = readFileSync('docs/terminal.md', 'utf8');
  for (const [name, number] of Object.entries(EXIT)) {
    const ending = ENDINGS[name as keyof typeof EXIT];
    expect(out).toContain(`\n  ${String(number).padEnd(3)}  ${ending}\n`);
    expect(page).toContain(`\n| ${number} | ${ending} |\n`);
  }
  expect((await loess(['build', '--help'])).out).toContain('--replace');
  expect((await loess([])).exit).toBe(EXIT.done);
});

test('help tells of one command, and which one there is not', async () => {
  const cut = await loess(['cut', '--help']);
  expect(cut).toMatchObject({ exit: EXIT.done, out: expect.stringContaining('Usage: loess cut [options] <image>') });
  expect(await loess(['help', 'cut'])).toMatchObject({ exit: EXIT.done, out: cut.out });
  expect(await loess(['help'])).toMatchObject({ exit: EXIT.done, out: (await loess(['--help'])).out });
  const ofHelp = "value 'lst' is invalid for argument 'command'. Allowed choices are new, check, ";
  for (const [called, says] of [
    [['lst'], "Unknown command 'lst'"],
    [['lst', 'card.img', '--json'], "Unknown command 'lst'"],
    [['help', 'lst'], ofHelp],
  ] as const)
    expect(await loess(called)).toMatchObject({ exit: EXIT.usage, out: '', error: expect.stringContaining(says) });
});

test('completion is for three shells', async () => {
  for (const shell of SHELLS)
    for (const word of ['check', 'survey', 'sector-size', 'replace'])
      expect((await loess(['completion', shell])).out).toContain(word);
  expect(await loess(['completion', 'csh'])).toMatchObject({ exit: EXIT.usage });
});

test('place lists logical partitions with their container', async () => {
  const { exit, out } = await loess(['place', 'demo/chart-plotter.json']);
  expect(exit).toBe(EXIT.done);
  expect(out).toMatch(/^ +5 +Charts +27,487,278 /m);
  expect(out).toMatch(/^ +4 +container of logical partitions +27,487,215 +75,778,604 .* 0F extended, LBA +-$/m);
});

import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { folderOfEachTest, loess } from '@tests/terminal';
import { STARTS } from '@/core/advice/starts';
import { readLayout } from '@/core/layout/validate';
import { EXIT } from './exit';

const { file } = folderOfEachTest();
afterEach(() => delete process.env.SOURCE_DATE_EPOCH);

const layoutIn = (text: string) => {
  const read = readLayout(text);
  if (!read.ok) throw new Error(JSON.stringify(read.error));
  return read.value;
};

test.each(STARTS.map(({ key }) => key))('%s: a document without a stop, and why it is as it is', async (start) => {
  const { out, error, exit } = await loess(['new', '--start', start, '--name', 'Pier']);
  expect(exit).toBe(EXIT.done);
  expect(layoutIn(out)).toMatchObject({ name: 'Pier' });
  expect(error).toMatch(/^Table: /m);
  expect([EXIT.done, EXIT.risk]).toContain((await loess(['check', '-'], out)).exit);
});

test('a medium at hand says its size', async () => {
  writeFileSync(file('card.img'), Buffer.alloc(3 * 2 ** 20));
  const made = await loess(['new', '--for', file('card.img')]);
  expect(made.json()).toMatchObject({ medium: { kind: 'image', capacity: { exact: '3 MiB' } } });
  const card = await loess(['new', '--start', 'board-card', '--for', file('card.img'), '--medium', 'card']);
  expect(card.json()).toMatchObject({ medium: { kind: 'card', capacity: { exact: '3 MiB' } } });
  expect(await loess(['new', '--for', file('card.img'), '--sold-as', '8 GB'])).toMatchObject({ exit: EXIT.usage });
  expect(await loess(['new', '--for', file('none.img')])).toMatchObject({ exit: EXIT.file });
  writeFileSync(file('empty.img'), '');
  expect((await loess(['new', '--for', file('empty.img')])).error).toContain('has no bytes');
});

test('ids are new each time, the date is what SOURCE_DATE_EPOCH says', async () => {
  process.env.SOURCE_DATE_EPOCH = '1772366400';
  const [one, two] = [await loess(['new']), await loess(['new'])].map(({ out }) => layoutIn(out));
  expect(one!.date).toBe('2026-03-01T12:00:00');
  expect(one!.table).not.toEqual(two!.table);
  expect(one!.slots).toEqual([]);
});

test('answers say what is to be served', async () => {
  const { out } = await loess(
    ['new', '--boots', 'uefi', '--use', 'server', '--medium', 'solid-state', '--sold-as', '1000 GB'].concat([
      '--sectors',
      '4096',
      '--memory',
      '32 GiB',
      '--loader-from',
      'installer',
    ]),
  );
  const { medium, boots, table, machine, slots } = layoutIn(out);
  expect(medium).toMatchObject({ kind: 'solid-state', capacity: { nominal: '1000 GB' }, logicalSector: 4096 });
  expect(boots).toEqual(['uefi']);
  expect(table.kind).toBe('gpt');
  expect(machine).toMatchObject({ memory: '32 GiB' });
  const bios = await loess(['new', '--boots', 'bios', '--loader-from', 'installer']);
  expect(layoutIn(bios.out).machine).toMatchObject({ loaderFrom: 'installer' });
  expect(slots.some((slot) => slot.kind === 'partition' && slot.role === 'esp')).toBe(true);
});

test('slots come from lines, and go back to them', async () => {
  const lines = 'Boot: 64 MiB, boot, FAT32, label "GAUGE", /boot, active\nTide log: rest, FAT32, grow\n';
  const { out, exit } = await loess(['new', '--exactly', '1 GiB', '--lines', '-'], lines);
  expect(exit).toBe(EXIT.done);
  const { out: back } = await loess(['lines', '-'], out);
  expect(back).toBe(lines);
  const again = await loess(['new', '--exactly', '1 GiB', '--lines', '-'], back);
  expect(layoutIn(again.out).slots.map(({ name }) => name)).toEqual(['Boot', 'Tide log']);
  const wrong = await loess(['new', '--lines', '-'], 'Boot: 64 MiB\n\nLog: banana\n');
  expect(wrong).toMatchObject({ exit: EXIT.document, out: '' });
  expect(wrong.error).toMatch(/ {2}line 3, column 6: “banana”/);
  const many = await loess(['new', '--lines', '-'], 'A: 1 MiB\n'.repeat(257));
  expect(many).toMatchObject({ exit: EXIT.document, error: expect.stringContaining('256') as string });
});

test('a file that is there is not written over', async () => {
  expect(await loess(['new', '--into', file('a.json')])).toMatchObject({ exit: EXIT.done, out: '' });
  const before = readFileSync(file('a.json'), 'utf8');
  expect(await loess(['new', '--into', file('a.json')])).toMatchObject({ exit: EXIT.file });
  expect(readFileSync(file('a.json'), 'utf8')).toBe(before);
  expect(await loess(['new', '--into', file('none/a.json')])).toMatchObject({ exit: EXIT.file });
  writeFileSync(file('lines'), 'x');
  expect(await loess(['lines', file('none.json')])).toMatchObject({ exit: EXIT.file });
});

test.each([
  [['--start', 'rocket'], /start/],
  [['--sold-as', 'banana'], /--sold-as “banana”/],
  [['--memory', '16'], /--memory “16”/],
  [['--sold-as', '8 GB', '--exactly', '8 GB'], /not both/],
  [['--boots', 'toast'], /boots/],
  [['--name', 'x'.repeat(500)], /make no valid layout/],
])('%j is a wrong call', async (args, says) => {
  const { exit, error, out } = await loess(['new', ...args, '--into', file('made.json')]);
  expect([exit, out]).toEqual([EXIT.usage, '']);
  expect(error).toMatch(says);
  expect(existsSync(file('made.json'))).toBe(false);
});

/** Boot entries as text: both forms and a command line alone, each value with its place; and any text within bounds. */
import fc from 'fast-check';
import { readBootText, wordsIn } from './boot-text';

const texts = (saids: readonly { text: string }[]) => saids.map(({ text }) => text);

test('an entry of the specification, whatever is between its words', () => {
  const text =
    '# A way\r\ntitle   Harbour  office\r\n\r\nlinux\t/a b\ninitrd /one\ninitrd /two\noptions root=LABEL="a b" ro\noptions quiet\n';
  const { entries, unknown } = readBootText(text, 'boot entry');
  expect(unknown).toEqual([]);
  expect(entries).toHaveLength(1);
  const [entry] = entries;
  expect(entry).toMatchObject({ name: 'Harbour  office', line: 2 });
  expect(entry!.kernels).toEqual([{ text: '/a b', line: 4, column: 7 }]);
  expect(texts(entry!.ramDisks)).toEqual(['/one', '/two']);
  expect(entry!.words).toEqual([
    { text: 'root=LABEL="a b"', line: 7, column: 9 },
    { text: 'ro', line: 7, column: 26 },
    { text: 'quiet', line: 8, column: 9 },
  ]);
});

test('the file of boards: any case, several entries, folders of device trees', () => {
  const text = [
    'default a',
    'MENU TITLE Gauges',
    'Label a',
    '  linux ../Image',
    '  FDTDIR ../dtb',
    'LABEL b',
    '  KERNEL /Image',
    '  fdt /a.dtb',
    '  append root=/dev/mmcblk0p2',
    '  inittrd /x',
  ].join('\n');
  const { entries, unknown } = readBootText(text, 'board entries');
  expect(entries.map(({ name, line }) => [name, line])).toEqual([
    ['a', 3],
    ['b', 6],
  ]);
  expect(entries[0]!.deviceTreeFolders).toEqual([{ text: '../dtb', line: 5, column: 10 }]);
  expect(texts(entries[1]!.kernels)).toEqual(['/Image']);
  expect(texts(entries[1]!.deviceTrees)).toEqual(['/a.dtb']);
  expect(unknown).toEqual([{ text: 'inittrd', line: 10, column: 3, nearest: 'initrd' }]);
});

test('keys of the specification mind case, and names of objects are no keys', () => {
  const { unknown } = readBootText('Linux /a\nconstructor /b\n__proto__ /c\n', 'boot entry');
  expect(unknown.map(({ text, nearest }) => [text, nearest])).toEqual([
    ['Linux', 'linux'],
    ['constructor', undefined],
    ['__proto__', undefined],
  ]);
});

test('a command line alone is its first line', () => {
  expect(texts(readBootText('root=PARTUUID=a ro\nroot=b', 'command line').entries[0]!.words)).toEqual([
    'root=PARTUUID=a',
    'ro',
  ]);
  expect(readBootText(' \n', 'command line').entries).toEqual([]);
});

test('any text is read, and every value stands where it says', () => {
  const piece = fc.constantFrom(
    'linux',
    'options',
    'LABEL',
    ' ',
    '\t',
    '\n',
    '\r\n',
    '"',
    '=',
    'root=UUID=',
    '\0',
    'ü',
    '#',
  );
  fc.assert(
    fc.property(
      fc.array(fc.oneof(piece, fc.string({ maxLength: 6 })), { maxLength: 60 }).map((parts) => parts.join('')),
      fc.constantFrom('boot entry', 'board entries', 'command line'),
      (text, form) => {
        const lines = text.split(/\r?\n/);
        const { entries, unknown } = readBootText(text, form);
        const all = [
          ...unknown,
          ...entries.flatMap((one) => [...one.kernels, ...one.ramDisks, ...one.deviceTrees, ...one.words]),
        ];
        for (const { text: said, line, column } of all)
          expect(lines[line - 1]!.slice(column - 1, column - 1 + said.length)).toBe(said);
      },
    ),
    { numRuns: 3000 },
  );
});

test('words of a megabyte of quotes are found', () => {
  expect(wordsIn('"a '.repeat(350_000), 1, 1).length).toBeGreaterThan(1);
});

import { fatPart, layoutOn, part } from '@tests/samples';
import { writeLayout } from './validate';
import { readDocument } from './written';

const GAUGE = layoutOn('64 MiB', [part('a', '10 MiB'), fatPart('b', 'rest')]);
const TEXT = writeLayout(GAUGE);

/** The errors of a text; none where it was read. */
const errorsOf = (text: string) => {
  const read = readDocument(text);
  return read.ok ? [] : read.error;
};
const changed = (from: string | RegExp, to: string) => {
  expect(TEXT).toMatch(from);
  return TEXT.replace(from, to);
};

test('comments, commas at ends and a byte order mark are read, and told', () => {
  const text = `\ufeff// what it is for\n${changed(/"rest"/, '"rest" /* all */')}`.replace(/\n\}\n$/, ',\n}\n');
  const read = readDocument(text);
  expect(read).toEqual({
    ok: true,
    value: {
      layout: GAUGE,
      isOlder: false,
      remarks: ['It begins with a byte order mark.', 'It has 2 comments.', 'It has a comma behind a last entry.'],
    },
  });
  expect(readDocument(TEXT)).toEqual({ ok: true, value: { layout: GAUGE, isOlder: false, remarks: [] } });
});

test('errors stand where they are in the text, also behind what is unusual', () => {
  const line = TEXT.split('\n').findIndex((one) => one.includes('"10 MiB"')) + 1;
  const wrong = changed('"10 MiB"', '"ten"');
  expect(errorsOf(wrong)).toEqual([
    { path: 'slots[0].size', message: expect.stringContaining('number') as string, line, column: 7 },
  ]);
  expect(errorsOf(`\ufeff/* one */ // two\n${wrong}`)).toMatchObject([{ line: line + 1, column: 7 }]);
  // What is missing is told at what it is missing from.
  expect(errorsOf(changed(/ *"size": "10 MiB",?\n/, ''))).toMatchObject([{ path: 'slots[0].size', column: 5 }]);
});

test.each([
  ['a brace', '{', 'is not JSON: a closing brace } is missing'],
  ['nothing', '', 'is empty'],
  ['a comment', '// nothing', 'is empty'],
  ['no comma', '{"a": 1 "b": 2}', 'is not JSON: a comma is missing'],
  ['half a word', '{"a": tru}', 'is not JSON: a word that is none of JSON'],
  ['two', '{} {}', 'is not JSON: something follows the document'],
  ['a name twice', '{"name": "a", "name": "b"}', 'is said twice'],
  ['many brackets', `${'['.repeat(500_000)}`, 'is nested more than 64 levels deep'],
  ['many braces', `${'{"a":'.repeat(150_000)}1`, 'is nested more than 64 levels deep'],
])('%s', (_, text, message) => {
  expect(errorsOf(text)[0]).toMatchObject({ message });
});

test.each([
  [['"kind": "fat"', '"kind": "fet"'], 'slots[1].content.kind', /^must be "fat", .* or "left"; “fat” is near$/],
  [
    ['"kind": "partition"', '"kind": "partiton"'],
    'slots[0].kind',
    'must be "partition", "raw" or "free"; “partition” is near',
  ],
  [['"logicalSector": 512', '"logicalSector": 1024'], 'medium.logicalSector', 'must be 512 or 4096'],
  [
    ['"logicalSector": 512', '"logicalSector": "512"'],
    'medium.logicalSector',
    'must be 512 or 4096; 512 without quotes is meant',
  ],
  [['"size": "10 MiB"', '"sise": "10 MiB"'], 'slots[0].sise', 'is not a field here; “size” is near'],
  [['"role": "data"', '"role": "dta"'], 'slots[0].role', /^must be "boot", .* or "swap"; “data” is near$/],
  [['"variant": 32', '"variant": 64'], 'slots[1].content.variant', 'must be 12, 16 or 32'],
  [['"kind": "mbr",', ''], 'table.kind', 'is missing; it is "mbr", "gpt" or "none"'],
] as const)('%j: every alternative, and the nearest word', ([from, to], path, message) => {
  expect(errorsOf(changed(from, to))).toContainEqual(
    expect.objectContaining({
      path,
      message: expect.stringMatching(typeof message === 'string' ? literal(message) : message) as string,
    }),
  );
});

const literal = (text: string) => new RegExp(`^${text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')}$`);

test('ids in any case, with 0x or braces, and the address of the schema', () => {
  const read = readDocument(
    changed('{\n', '{\n"$schema": "./layout.schema.json",\n')
      .replace('"6d617272"', '"0x6D617272"')
      .replace(
        '"role": "data"',
        '"role": "data", "type": "0x8e", "partitionId": "{6D617272-616D-4C0A-8D05-7469646573AA}"',
      ),
  );
  expect(read).toMatchObject({
    ok: true,
    value: {
      layout: {
        $schema: './layout.schema.json',
        table: { signature: '6d617272' },
        slots: [{ type: '8E', partitionId: '6d617272-616d-4c0a-8d05-7469646573aa' }, {}],
      },
    },
  });
});

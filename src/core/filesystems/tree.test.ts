import { readFileSync } from 'node:fs';
import { Shelf } from '@tests/filled';
import { storableName, nameTrouble } from './names';
import { copiedOf, pathTrouble, rootOf, storedOf, type Tree, treeSums, pathsOf } from './tree';
import { isRealTime, readTree, treeAsWritten, treeText, writtenTree } from './tree-text';
import {
  insideOf,
  plainOf,
  withAttributes,
  withEntries,
  within,
  withMoved,
  withNames,
  withOwned,
  withoutPath,
  withRenamed,
} from './tree-edits';

const shelf = new Shelf();
const tree = [
  shelf.file('EFI/BOOT/BOOTX64.EFI', 10),
  { kind: 'folder', path: 'logs' } as const,
  shelf.file('STATION.CFG', 5, { time: '2026-03-01T12:00:00', attributes: ['hidden', 'read only'] }),
];
const paths = (one: readonly { path: string }[]) => one.map(({ path }) => path);

test('the text of a tree comes back as the tree, and is the same for the same tree', () => {
  const text = treeText(tree);
  const read = readTree(text);
  expect(read.ok && read.value.map(({ path, kind }) => [kind, path])).toEqual(
    tree.map(({ kind, path }) => [kind, path]),
  );
  expect(read.ok && treeText(read.value)).toBe(text);
  expect(text).toContain('"attributes":["read only","hidden"]');
});

test.each([
  ['nothing', '', 'is not the text of a tree'],
  ['another document', '{"format":"loess-layout"}', 'is not the text of a tree'],
  [
    'a path that leaves',
    '{"format":"loess-tree","entries":[{"kind":"folder","path":"a/../.."}]}',
    '“a/../..” leaves the folder that it is in',
  ],
  [
    'a size below zero',
    `{"format":"loess-tree","entries":[{"kind":"file","path":"a","size":-1,"sha256":"${'0'.repeat(64)}"}]}`,
    '“a” has no size',
  ],
  [
    'a name that is no hash',
    '{"format":"loess-tree","entries":[{"kind":"file","path":"a","size":1,"sha256":"../../etc"}]}',
    '“a” has no SHA-256',
  ],
  [
    'a path twice',
    '{"format":"loess-tree","entries":[{"kind":"folder","path":"a"},{"kind":"folder","path":"a"}]}',
    '“a” stands in it twice',
  ],
  ['null', '{"format":"loess-tree","entries":[null]}', '“undefined” is no entry'],
])('a text with %s is refused', (_, text, why) => {
  expect(readTree(text)).toEqual({ ok: false, error: why });
});

test.each([
  ['/etc/passwd', 'begins at the root of a system'],
  ['a/../b', 'leaves the folder that it is in'],
  ['a//b', 'has a name that is empty or “.”'],
  ['./a', 'has a name that is empty or “.”'],
  ['a\0b', 'has a zero character in it'],
  ['x/'.repeat(64) + 'x', 'lies more than 64 folders deep'],
  ['x'.repeat(4097), 'is longer than 4096 characters'],
  ['EFI/BOOT/..hidden', undefined],
])('the path %j: %s', (path, trouble) => {
  expect(pathTrouble(path)).toBe(trouble);
});

test('paths make the folders that they name, in the order of the tree', () => {
  const root = rootOf(tree);
  expect(root.children.map(({ name, kind }) => [kind, name])).toEqual([
    ['folder', 'EFI'],
    ['folder', 'logs'],
    ['file', 'STATION.CFG'],
  ]);
  expect(treeSums(tree)).toEqual({ files: 2, folders: 3, others: 0, bytes: 15 });
});

describe('files in archives', () => {
  const SUM = '1'.repeat(64);
  const text = (archives: unknown, file: object) =>
    JSON.stringify({
      format: 'loess-tree',
      archives,
      entries: [{ kind: 'file', path: 'a', size: 10, sha256: SUM, ...file }],
    });
  const one = { sha256: SUM, size: 100 };

  test('the text of a tree stands in the docs as it is read and written', () => {
    const [, written] = /^```json\n([^]*?)^```$/m.exec(readFileSync('docs/contents.md', 'utf8'))!;
    const read = readTree(written!);
    expect(read.ok && treeText(read.value)).toBe(written);
    expect(read.ok && read.value[1]).toMatchObject({ within: { archive: { size: 20_480 }, at: 1024 } });
  });

  test.each([
    ['an archive that is not there', [one], { in: 1, at: 0 }, 'lies in an archive that the tree does not name'],
    ['a place without an archive', [one], { at: 0 }, 'lies in an archive that the tree does not name'],
    ['no archives', undefined, { in: 0, at: 0 }, 'lies in an archive that the tree does not name'],
    ['an archive of another name', [one], { in: 'length', at: 0 }, 'lies in an archive that the tree does not name'],
    ['a place beyond', [one], { in: 0, at: 91 }, 'lies beyond the end of its archive'],
    ['no place', [one], { in: 0 }, 'lies beyond the end of its archive'],
    ['a place below zero', [one], { in: 0, at: -1 }, 'lies beyond the end of its archive'],
    [
      'a length that is too large to add',
      [one],
      { in: 0, at: 5, size: 2 ** 53 - 1 },
      'lies beyond the end of its archive',
    ],
  ])('%s', (_, archives, file, why) => {
    expect(readTree(text(archives, file))).toEqual({ ok: false, error: `“a” ${why}` });
  });

  test.each([[5], [[null]], [[{ sha256: 'x', size: 1 }]], [[{ ...one, given: 'x' }]], [[{ sha256: SUM, size: -1 }]]])(
    'archives that are none: %j',
    (archives) => {
      expect(readTree(text(archives, {}))).toEqual({ ok: false, error: 'is not the text of a tree' });
    },
  );

  test('what is stored of a tree is told once, with the first file that needs it', () => {
    const archive = { sha256: SUM, size: 100 };
    const file = (path: string, within?: { archive: typeof archive; at: number }) =>
      ({ kind: 'file', path, size: 1, sha256: '2'.repeat(64), ...(within && { within }) }) as const;
    const tree = [file('a', { archive, at: 3 }), file('b', { archive: { ...archive }, at: 4 }), file('c'), file('d')];
    expect(storedOf(tree)).toEqual([
      { sha256: SUM, size: 100, path: 'a', isArchive: true },
      { sha256: '2'.repeat(64), size: 1, path: 'c', isArchive: false },
    ]);
    expect(copiedOf(tree[1]!)).toEqual({ from: SUM, at: 4, length: 1 });
    expect(writtenTree(tree).archives).toEqual([archive]);
    expect(treeAsWritten(writtenTree(tree))).toEqual(tree);
  });
});

test('entries are added behind, or in the place of one with their path', () => {
  const more = withEntries(tree, [shelf.file('STATION.CFG', 9), shelf.file('new', 1)]);
  expect(paths(more)).toEqual(['EFI/BOOT/BOOTX64.EFI', 'logs', 'STATION.CFG', 'new']);
  expect(more[2]).toMatchObject({ size: 9 });
  // A file in the place of a folder takes all that was in it, and the other way round.
  expect(paths(withEntries(tree, [shelf.file('EFI', 1)]))).toEqual(['logs', 'STATION.CFG', 'EFI']);
  expect(paths(withEntries(tree, [shelf.file('STATION.CFG/x', 1)]))).toEqual([
    'EFI/BOOT/BOOTX64.EFI',
    'logs',
    'STATION.CFG/x',
  ]);
});

test('entries are taken away, renamed and moved with all that is in them', () => {
  expect(paths(withoutPath(tree, 'EFI'))).toEqual(['logs', 'STATION.CFG']);
  expect(paths(withoutPath(tree, 'EF'))).toEqual(paths(tree));
  expect(paths(withRenamed(tree, 'EFI', 'OLD/EFI'))[0]).toBe('OLD/EFI/BOOT/BOOTX64.EFI');
  expect(paths(withNames(tree, ['EFI/BOOT', 'EFI', 'logs'], ['START', 'FIRM', 'old']))).toEqual([
    'FIRM/START/BOOTX64.EFI',
    'old',
    'STATION.CFG',
  ]);
  expect(paths(withNames(tree, ['EFI/BOOT', 'STATION.CFG']))).toEqual(['logs']);
  expect([...pathsOf(tree)]).toEqual(['EFI', 'EFI/BOOT', 'EFI/BOOT/BOOTX64.EFI', 'logs', 'STATION.CFG']);
  expect(paths(withMoved(tree, 'STATION.CFG', 'EFI'))).toEqual(['STATION.CFG', 'EFI/BOOT/BOOTX64.EFI', 'logs']);
  expect(paths(withMoved(tree, 'EFI', undefined))).toEqual(['logs', 'STATION.CFG', 'EFI/BOOT/BOOTX64.EFI']);
  expect(withAttributes(tree, 'logs', ['system'])[1]).toEqual({ kind: 'folder', path: 'logs', attributes: ['system'] });
});

test.each(['a:b', 'end. ', ' begin', '\u0001', 'x'.repeat(300), '...', '\ud800', 'a\uffff'])(
  '%j has trouble, and a storable name has none',
  (name) => {
    expect(nameTrouble(name)).toBeDefined();
    expect(nameTrouble(storableName(name))).toBeUndefined();
  },
);

test.each([
  ['2026-02-28T23:59:59', true],
  ['2024-02-29T00:00:00', true],
  ['2026-02-29T00:00:00', false],
  ['2020-99-99T12:00:00', false],
  ['2026-03-01T24:00:00', false],
  ['2026-03-01T12:60:00', false],
])('the time %s is one that the calendar has: %s', (time, isReal) => {
  expect(isRealTime(time)).toBe(isReal);
});

describe('what Linux keeps', () => {
  const SUM = 'c'.repeat(64);
  const linux: Tree = [
    {
      kind: 'file',
      path: 'bin/su',
      size: 5,
      sha256: SUM,
      mode: 0o4755,
      user: 1,
      group: 2,
      extended: { 'user.b': '', 'user.a': 'AAAA' },
    },
    { kind: 'second name', path: 'bin/sudo', of: 'bin/su' },
    { kind: 'second name', path: 'bin/third', of: 'bin/su' },
    { kind: 'link', path: 'sh', target: 'bin/su', time: '2026-01-02T03:04:05.000000001' },
    { kind: 'device', path: 'dev/null', device: 'character', major: 1, minor: 3 },
    { kind: 'pipe', path: 'pipe', mode: 0 },
    {
      kind: 'file',
      path: 'holes',
      size: 100,
      sha256: SUM,
      pieces: [
        [10, 0, 5],
        [50, 5, 5],
      ],
    },
  ];

  test('comes back from the text of the tree', () => {
    const read = readTree(treeText(linux));
    expect(read.ok && treeText(read.value)).toBe(treeText(linux));
    expect(read).toMatchObject({
      ok: true,
      value: [{ mode: 0o4755, extended: { 'user.a': 'AAAA' } }, ...linux.slice(1)],
    });
  });

  test.each<[string, object]>([
    ['is a second name of “nobody”, which is not there', { kind: 'second name', path: 'x', of: 'nobody' }],
    ['has no valid mode', { kind: 'folder', path: 'x', mode: 0o10000 }],
    ['has no valid owner', { kind: 'folder', path: 'x', user: -1 }],
    ['is a link to nowhere', { kind: 'link', path: 'x', target: '' }],
    ['is a device with no numbers', { kind: 'device', path: 'x', device: 'block', major: 5000, minor: 0 }],
    [
      'has holes that overlap',
      {
        kind: 'file',
        path: 'x',
        size: 9,
        sha256: SUM,
        pieces: [
          [0, 0, 5],
          [4, 5, 2],
        ],
      },
    ],
    ['has extended attributes that cannot be read', { kind: 'folder', path: 'x', extended: { other: 'AAAA' } }],
  ])('what cannot be is told: %s', (says, entry) => {
    const text = `{"format":"loess-tree","entries":[${JSON.stringify(entry)}]}`;
    expect(readTree(text)).toMatchObject({ ok: false, error: expect.stringContaining(says) as string });
  });

  test('second names follow what they name, and the first of them becomes it when that goes', () => {
    expect(withRenamed(linux, 'bin', 'usr/bin').filter(({ kind }) => kind === 'second name')).toMatchObject([
      { path: 'usr/bin/sudo', of: 'usr/bin/su' },
      { path: 'usr/bin/third', of: 'usr/bin/su' },
    ]);
    expect(withoutPath(linux, 'bin/su')).toMatchObject([
      { kind: 'file', path: 'bin/sudo', mode: 0o4755 },
      { kind: 'second name', path: 'bin/third', of: 'bin/sudo' },
      ...linux.slice(3),
    ]);
    const replaced = withEntries(linux, [{ kind: 'file', path: 'bin/su', size: 1, sha256: 'd'.repeat(64) }]);
    expect(replaced.slice(0, 3)).toMatchObject([
      { size: 1 },
      { kind: 'file', path: 'bin/sudo', size: 5 },
      { of: 'bin/sudo' },
    ]);
    expect(withMoved(linux, 'bin/su', undefined).filter(({ kind }) => kind === 'second name')).toHaveLength(2);
  });

  test('owners and modes go to one entry, or to all below; files keep whether they can be run', () => {
    const one = withOwned(linux, 'bin', { user: 7 }, false);
    expect(one.at(-1)).toEqual({ kind: 'folder', path: 'bin', user: 7 });
    const all = withOwned(linux, 'bin', { mode: 0o750, group: 9 }, true);
    expect(all[0]).toMatchObject({ mode: 0o750, group: 9, user: 1 });
    const plain = withOwned([{ kind: 'file', path: 'etc/x', size: 0, sha256: SUM }], 'etc', { mode: 0o755 }, true);
    expect(plain[0]).toMatchObject({ mode: 0o644 });
  });

  test('a folder of it stands alone, and in another one', () => {
    expect(within(insideOf(linux, 'bin'), 'sbin')).toMatchObject([
      { path: 'sbin/su' },
      { path: 'sbin/sudo', of: 'sbin/su' },
      { path: 'sbin/third', of: 'sbin/su' },
    ]);
    const { tree, special } = plainOf(linux);
    expect(tree.map(({ path, mode }) => [path, mode])).toEqual([
      ['bin/su', undefined],
      ['holes', undefined],
    ]);
    expect(special).toHaveLength(5);
  });
});

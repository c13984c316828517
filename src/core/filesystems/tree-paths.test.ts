/** Paths of a tree as readers find them, and files that are put into a tree. */
import type { Tree, TreeFile } from './tree';
import { rootOf } from './tree';
import { withMade } from './made-files';
import { atPath } from './tree-paths';

const file = (path: string): TreeFile => ({ kind: 'file', path, size: 1, sha256: '1'.repeat(64) });
const made = (path: string): TreeFile => ({ ...file(path), made: Uint8Array.of(7) });

const TREE: Tree = [
  file('boot/vmlinuz-6'),
  { kind: 'link', path: 'vmlinuz', target: 'boot/vmlinuz-6' },
  { kind: 'link', path: 'bin', target: '/usr/bin' },
  { kind: 'folder', path: 'usr/bin' },
  file('usr/bin/sh'),
  { kind: 'link', path: 'usr/up', target: '../boot' },
  { kind: 'link', path: 'round', target: 'around' },
  { kind: 'link', path: 'around', target: 'round' },
  { kind: 'second name', path: 'usr/kernel', of: 'boot/vmlinuz-6' },
  { kind: 'link', path: 'out', target: '../../../boot' },
];

test.each([
  ['/vmlinuz', 'boot/vmlinuz-6'],
  ['bin/sh', 'usr/bin/sh'],
  ['/usr/up/vmlinuz-6', 'boot/vmlinuz-6'],
  ['usr/../usr/./kernel', 'usr/kernel'],
  ['/out/vmlinuz-6', 'boot/vmlinuz-6'],
])('%s is found', (path, entry) => {
  expect(atPath(TREE, path, true)).toMatchObject({ kind: 'entry', entry: { path: entry } });
});

test.each(['/round', '/vmlinuz/more', '/VMLINUZ', '/none', 'bin/none'])('%s is nothing', (path) => {
  expect(atPath(TREE, path, true)).toBeUndefined();
});

test('folders are found, said or only named, and without regard to case where readers have none', () => {
  expect(atPath(TREE, '/bin', true)).toEqual({ kind: 'folder' });
  expect(atPath(TREE, '/', true)).toEqual({ kind: 'folder' });
  expect(atPath(TREE, '/BOOT/VMLINUZ-6', false)).toMatchObject({ kind: 'entry' });
});

test('what is made goes where the tree has its folders, in the place of what has its name', () => {
  const tree: Tree = [file('LOADER/entries/A.CONF'), file('LOADER/other'), { kind: 'folder', path: 'Extlinux' }];
  const files = [made('loader/entries/a.conf'), made('loader/entries/b.conf'), made('extlinux/extlinux.conf')];
  const { tree: after, replaced, blocked } = withMade(tree, files, false);
  expect(blocked).toEqual([]);
  expect(replaced).toEqual(['LOADER/entries/A.CONF']);
  expect(after.map(({ path }) => path)).toEqual([
    'LOADER/entries/A.CONF',
    'LOADER/other',
    'Extlinux',
    'LOADER/entries/b.conf',
    'Extlinux/extlinux.conf',
  ]);
  expect(rootOf(after).children.map(({ name }) => name)).toEqual(['LOADER', 'Extlinux']);
  expect(withMade(tree, files, false)).toBe(withMade(tree, files, false));
  // Where case counts they are others.
  expect(withMade(tree, files, true).replaced).toEqual([]);
});

test('nothing goes behind a link or a file, or in the place of a folder', () => {
  const tree: Tree = [{ kind: 'link', path: 'etc', target: 'usr/etc' }, file('loader'), file('a/b/c')];
  const { tree: after, blocked } = withMade(tree, [made('etc/fstab'), made('loader/x'), made('a/b')], true);
  expect(blocked.map(({ path, by }) => [path, by.kind])).toEqual([
    ['etc/fstab', 'link'],
    ['loader/x', 'file'],
    ['a/b', 'folder'],
  ]);
  expect(after).toEqual(tree);
});

test('a link of that name gives way, and second names of what gives way are those of what is made', () => {
  const tree: Tree = [file('etc/real'), { kind: 'second name', path: 'etc/fstab', of: 'etc/real' }];
  expect(withMade(tree, [made('etc/fstab')], true).tree).toEqual([file('etc/real'), made('etc/fstab')]);
  const named: Tree = [file('etc/fstab'), { kind: 'second name', path: 'etc/other', of: 'etc/fstab' }];
  expect(withMade(named, [made('etc/fstab')], true).tree).toEqual([made('etc/fstab'), named[1]]);
});

/** What archives and folders tell of a Linux system: owners, modes, links, devices, attributes, holes, times, and names of any bytes. */
import { execFileSync } from 'node:child_process';
import {
  chmodSync,
  closeSync,
  ftruncateSync,
  linkSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  rmSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { inPieces, tarOf } from '@tests/archives';
import { extOverNoise } from '@tests/ext';
import { meantLines, readLines } from '@tests/ext-read';
import { Shelf } from '@tests/filled';
import type { Tree, TreeFile } from '@/core/filesystems/tree';
import { copiedOf, ENTRY_LIMIT, storedOf } from '@/core/filesystems/tree';
import { memoryBlocks } from '@/core/bytes/blocks';
import { checkExt } from '@/core/filesystems/ext/check/check';
import { MIB } from '@/core/quantity/units';
import { accessListOf } from './access-lists';
import { type Keeper, unpackFile } from './archives';
import { readFolder } from './folder-tree';
import { Gathering, Sums, type UnpackOptions } from './gathering';

let folder = '';
beforeEach(() => (folder = mkdtempSync(path.join(tmpdir(), 'loess-linux-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

/** Keeps contents in memory. */
class Memory implements Keeper {
  readonly shelf = new Shelf();

  async add(body: AsyncIterable<Uint8Array>) {
    const parts: Uint8Array[] = [];
    const sums = new Sums();
    for await (const chunk of body) {
      sums.add(chunk);
      parts.push(Uint8Array.from(chunk));
    }
    this.shelf.add(Buffer.concat(parts));
    return sums.kept;
  }
}

const ALL: UnpackOptions = { leaveOut: false, keepsAll: true };

async function unpacked(bytes: Uint8Array, options: UnpackOptions = ALL) {
  const file = path.join(folder, 'archive');
  writeFileSync(file, bytes);
  const memory = new Memory();
  const { entries, leftOut } = await unpackFile(file, bytes.length, memory, options);
  return { memory, entries, leftOut };
}

/** An ext volume of a tree, as the checker reads it. */
async function inVolume(tree: Tree, { shelf }: Memory) {
  const bytes = extOverNoise({ version: 'ext4', bytes: 16 * MIB }, tree, shelf);
  const found = await checkExt(memoryBlocks(bytes), 0, bytes.length);
  expect(found.faults).toEqual([]);
  return { bytes, lines: readLines(found, bytes) };
}

const SYSTEM: Parameters<typeof tarOf>[0] = [
  { name: './', type: 'directory' },
  { name: './etc/', type: 'directory', mode: 0o755, uid: 0, gid: 0 },
  { name: './etc/shadow', content: 'secret', mode: 0o640, gid: 42, pax: { mtime: '1767323045.123456789' } },
  { name: './bin/su', content: 'su', mode: 0o4755 },
  { name: './bin/sudo', type: 'link', linkname: './bin/su' },
  { name: './bin/sh', type: 'symlink', linkname: 'su' },
  { name: './dev/null', type: 'character-device', mode: 0o666, devmajor: 1, devminor: 3 },
  { name: './dev/sda', type: 'block-device', mode: 0o660, gid: 6, devmajor: 8, devminor: 0 },
  { name: './run/pipe', type: 'fifo', mode: 0o600 },
  { name: './home/', type: 'directory', mode: 0o2750, uid: 1000, gid: 1000 },
  {
    name: './home/notes',
    content: 'notes',
    uid: 70_000,
    gid: 70_001,
    pax: {
      'SCHILY.xattr.user.note': 'from the coast',
      'SCHILY.acl.access': 'user::rw-,user:1000:r--,group::r--,mask::r--,other::---',
    },
  },
];

describe('a tar of a system', () => {
  test('all of it is kept, and nothing that is usual is said', async () => {
    const { entries, leftOut } = await unpacked(await tarOf(SYSTEM));
    expect(leftOut).toEqual([]);
    expect(entries).toMatchObject([
      { kind: 'folder', path: 'etc' },
      { path: 'etc/shadow', mode: 0o640, group: 42, time: '2026-01-02T03:04:05.123456789' },
      { path: 'bin/su', mode: 0o4755 },
      { kind: 'second name', path: 'bin/sudo', of: 'bin/su' },
      { kind: 'link', path: 'bin/sh', target: 'su' },
      { kind: 'device', path: 'dev/null', device: 'character', major: 1, minor: 3, mode: 0o666 },
      { kind: 'device', path: 'dev/sda', device: 'block', major: 8, minor: 0, group: 6, mode: 0o660 },
      { kind: 'pipe', path: 'run/pipe', mode: 0o600 },
      { kind: 'folder', path: 'home', mode: 0o2750, user: 1000, group: 1000 },
      {
        path: 'home/notes',
        user: 70_000,
        group: 70_001,
        extended: { 'user.note': Buffer.from('from the coast').toString('base64') },
      },
    ]);
    expect(entries[0]).not.toHaveProperty('mode');
    expect(entries[9]!.extended).toHaveProperty(['system.posix_acl_access']);
  });

  test('it is in the volume as the tar has it', async () => {
    const { entries, memory } = await unpacked(await tarOf(SYSTEM));
    const { lines } = await inVolume(entries, memory);
    expect(lines).toEqual(meantLines(entries, memory.shelf));
  });

  test('for FAT it is refused where it has links, and what is not kept is told where it has none', async () => {
    await expect(unpacked(await tarOf(SYSTEM), { leaveOut: false })).rejects.toMatchObject({
      code: 'archive-cannot-be-stored',
    });
    const plain = SYSTEM.filter(({ type }) => type === undefined || type === 'directory');
    const { entries, leftOut } = await unpacked(await tarOf(plain), { leaveOut: false });
    expect(entries.every((one) => one.mode === undefined && one.user === undefined && one.extended === undefined)).toBe(
      true,
    );
    expect(leftOut.map(({ why, isFact }) => [why, isFact])).toEqual([
      ['has an owner of its own, which is not kept; 2 others likewise', true],
      ['has a mode of its own, which is not kept; 2 others likewise', true],
      ['has attributes, which are not kept', true],
    ]);
  });
});

describe('files with holes, in every form', () => {
  const FORMS = [
    ['--format=gnu'],
    ['--format=pax', '--sparse-version=0.0'],
    ['--format=pax', '--sparse-version=0.1'],
    ['--format=pax', '--sparse-version=1.0'],
  ];

  test.each(FORMS.map((form) => [form.join(' '), form] as const))('%s', async (_, form) => {
    const file = path.join(folder, 'holes');
    const out = openSync(file, 'w');
    // More pieces than a header of the oldest form holds.
    for (let i = 0; i < 40; i++) writeSync(out, Buffer.from(`piece ${i}`), 0, undefined, i * 1_000_000);
    ftruncateSync(out, 50_000_000);
    closeSync(out);
    writeFileSync(path.join(folder, 'after'), 'after');
    const tar = execFileSync('tar', ['--create', '--sparse', ...form, '--directory', folder, 'holes', 'after'], {
      maxBuffer: 64 * MIB,
    });
    expect(tar.length).toBeLessThan(2 * MIB);
    const { entries, memory } = await unpacked(tar);
    const [holes, after] = entries as [TreeFile, TreeFile];
    expect([holes.path, holes.size, after.path]).toEqual(['holes', 50_000_000, 'after']);
    expect(holes.pieces!.length).toBeGreaterThanOrEqual(40);
    const { from, at } = copiedOf(holes);
    const archive = Buffer.from(memory.shelf.contents.get(from)!);
    for (const [where, offset] of holes.pieces!) {
      const start = at + offset;
      if (where % 1_000_000 === 0 && where < 40_000_000)
        expect(archive.toString('latin1', start, start + 8)).toContain('piece');
    }
    const { lines } = await inVolume(entries, memory);
    expect(lines).toEqual(meantLines(entries, memory.shelf));
  });
});

describe('bad tars', () => {
  const refused = (members: typeof SYSTEM) => tarOf(members).then((tar) => unpacked(tar));

  test.each<[string, typeof SYSTEM, RegExp]>([
    ['a name that leaves', [{ name: '../x', content: 'x' }], /leaves the folder/],
    ['an absolute name', [{ name: '/etc/x', content: 'x' }], /begins at the root/],
    ['a hard link to what is not there', [{ name: 'a', type: 'link', linkname: 'b' }], /“b”, which is not there/],
    [
      'a hard link to a folder',
      [
        { name: 'd/', type: 'directory' },
        { name: 'a', type: 'link', linkname: 'd' },
      ],
      /which is a folder/,
    ],
    [
      'two entries of one name',
      [
        { name: 'a', content: '1' },
        { name: 'a', content: '2' },
      ],
      /stands in it twice/,
    ],
    [
      'a file below a link',
      [
        { name: 'l', type: 'symlink', linkname: '/etc' },
        { name: 'l/passwd', content: 'x' },
      ],
      /lies in “l”, which is a link/,
    ],
    [
      'a device without numbers',
      [{ name: 'd', type: 'block-device', devmajor: 5000, devminor: 1 }],
      /numbers that Linux does not have/,
    ],
  ])('%s', async (_, members, message) => {
    await expect(refused(members)).rejects.toThrow(message);
  });

  test('links may lead anywhere, and go round: nobody follows them', async () => {
    const { entries } = await refused([
      { name: 'a', type: 'symlink', linkname: 'b' },
      { name: 'b', type: 'symlink', linkname: 'a' },
      { name: 'out', type: 'symlink', linkname: '../../../etc/passwd' },
    ]);
    expect(entries.map((one) => one.kind)).toEqual(['link', 'link', 'link']);
  });

  test('a later entry of a name that had a second name leaves that its content', async () => {
    const tar = await tarOf([
      { name: 'a', content: 'first' },
      { name: 'b', type: 'link', linkname: 'a' },
      { name: 'c', type: 'link', linkname: 'b' },
      { name: 'a', content: 'second' },
    ]);
    const { entries } = await unpacked(tar, { ...ALL, leaveOut: true });
    expect(entries).toMatchObject([
      { path: 'a', size: 6 },
      { kind: 'file', path: 'b', size: 5 },
      { kind: 'second name', path: 'c', of: 'b' },
    ]);
  });

  test('names follow their content wherever it goes on', async () => {
    const tar = await tarOf([
      { name: 'a', content: 'first' },
      { name: 'b', type: 'link', linkname: 'a' },
      { name: 'c', type: 'link', linkname: 'b' },
      { name: 'd', type: 'link', linkname: 'a' },
      { name: 'a', content: 'second' },
      { name: 'b', content: 'a third' },
      { name: 'e', type: 'link', linkname: 'd' },
      { name: 'd', type: 'link', linkname: 'a' },
    ]);
    const { entries } = await unpacked(tar, { ...ALL, leaveOut: true });
    expect(entries).toMatchObject([
      { path: 'a', size: 6 },
      { path: 'b', size: 7 },
      { path: 'c', size: 5 },
      { kind: 'second name', path: 'd', of: 'a' },
      { kind: 'second name', path: 'e', of: 'c' },
    ]);
  });

  test('names of any bytes are kept to the byte', async () => {
    const name = Buffer.from('a\xff\xfeb\xc3', 'latin1');
    const tar = await tarOf([{ name: 'a~~b~', content: 'x' }]);
    name.copy(tar, 0);
    const sum = tar.subarray(0, 512).reduce((all, byte, i) => all + (i >= 148 && i < 156 ? 0x20 : byte), 0);
    tar.write(`${sum.toString(8).padStart(6, '0')}\0 `, 148, 'latin1');
    const { entries, memory } = await unpacked(tar);
    const { bytes } = await inVolume(entries, memory);
    expect(Buffer.from(bytes).includes(name)).toBe(true);
  });

  test('tens of thousands of devices are taken in', async () => {
    const tar = await tarOf([{ name: 'dev/00000', type: 'character-device', devmajor: 1, devminor: 3 }]);
    const one = tar.subarray(0, 512);
    // The sum of a header counts its own field as blanks.
    const plain = one.fill(0x20, 148, 156).reduce((all, byte) => all + byte, 0);
    const heads = Array.from({ length: 20_000 }, (_, i) => {
      const head = Buffer.from(one);
      const digits = head.write(String(i).padStart(5, '0'), 4, 'latin1');
      const sum = plain + head.subarray(4, 4 + digits).reduce((all, digit) => all + digit - 0x30, 0);
      head.write(`${sum.toString(8).padStart(6, '0')}\0 `, 148, 'latin1');
      return head;
    });
    const { entries } = await unpacked(Buffer.concat(heads));
    expect(entries.length).toBe(20_000);
    expect(entries.at(-1)).toMatchObject({ path: 'dev/19999', device: 'character', major: 1, minor: 3 });
  });

  test('names beyond the limit are refused', () => {
    const gathering = new Gathering(ALL);
    for (let i = 1; i < ENTRY_LIMIT; i++) gathering.leave('link', 'leads away');
    gathering.folder({ path: gathering.path('last', true)!, time: undefined, mode: undefined });
    expect(() => gathering.path('one more', true)).toThrow('There are more than 1000000 entries. Divide it.');
  });
});

describe('folders', () => {
  function fill(): void {
    mkdirSync(path.join(folder, 'in/bin'), { recursive: true });
    const at = (name: string) => path.join(folder, 'in', name);
    writeFileSync(at('bin/tool'), 'tool');
    chmodSync(at('bin/tool'), 0o755);
    linkSync(at('bin/tool'), at('bin/second'));
    symlinkSync('tool', at('bin/link'));
    writeFileSync(at('plain'), 'plain');
    chmodSync(at('plain'), 0o644);
    chmodSync(at('bin'), 0o755);
    for (const name of ['bin/tool', 'plain', 'bin']) utimesSync(at(name), 1_700_000_000, 1_700_000_000);
    execFileSync('mkfifo', ['--mode=600', at('pipe')]);
  }

  test('links, second names, modes and pipes', async () => {
    fill();
    const { entries } = await readFolder(path.join(folder, 'in'), new Memory(), { ...ALL, timeless: true });
    expect(entries.map(({ path: at, kind, mode }) => [at, kind, mode])).toEqual([
      ['bin', 'folder', undefined],
      ['bin/link', 'link', undefined],
      ['bin/second', 'file', 0o755],
      ['bin/tool', 'second name', undefined],
      ['pipe', 'pipe', 0o600],
      ['plain', 'file', undefined],
    ]);
  });

  test('a folder, and a tar and a zip of it, give the same volume where they hold the same facts', async () => {
    fill();
    rmSync(path.join(folder, 'in/pipe'));
    rmSync(path.join(folder, 'in/bin/second'));
    const inside = path.join(folder, 'in');
    const options = { ...ALL, timeless: true };
    const memory = new Memory();
    const ofFolder = (await readFolder(inside, memory, options)).entries;
    const tar = execFileSync('tar', [
      '--create',
      '--sort=name',
      '--owner=0',
      '--group=0',
      '--directory',
      inside,
      'bin',
      'plain',
    ]);
    const ofTar = await unpacked(tar, options);
    const volumes = [await inVolume(ofFolder, memory), await inVolume(ofTar.entries, ofTar.memory)];
    expect(Buffer.compare(volumes[0]!.bytes, volumes[1]!.bytes)).toBe(0);
    const { ZipFile } = await import('yazl');
    const { buffer } = await import('node:stream/consumers');
    const zip = new ZipFile();
    zip.addEmptyDirectory('bin/', { mode: 0o40755 });
    zip.addBuffer(Buffer.from('tool'), 'bin/link', { mode: 0o120777 });
    zip.addBuffer(Buffer.from('tool'), 'bin/tool', { mode: 0o100755 });
    zip.addBuffer(Buffer.from('plain'), 'plain', { mode: 0o100644 });
    zip.end();
    const ofZip = await unpacked(await buffer(zip.outputStream as NodeJS.ReadableStream), options);
    expect(Buffer.compare(volumes[0]!.bytes, (await inVolume(ofZip.entries, ofZip.memory)).bytes)).toBe(0);
  });

  test('holes are found where the system says that there are some', async () => {
    mkdirSync(path.join(folder, 'in'));
    const out = openSync(path.join(folder, 'in/holes'), 'w');
    writeSync(out, Buffer.from('end'), 0, undefined, 900_000);
    closeSync(out);
    const { entries } = await readFolder(path.join(folder, 'in'), new Memory(), ALL);
    const [file] = entries as [TreeFile];
    expect(file.pieces).toEqual([[897_024, 897_024, 2979]]);
    expect(storedOf(entries)[0]!.size).toBe(900_003);
  });
});

test.each([
  ['user::rw-,group::r--,other::r--', 3],
  ['user::rw-\nuser:1000:r--\ngroup::r--\nmask::r--\nother::---', 5],
  ['user::rwx,user:gauge:r-x:1000,group::r-x,mask::r-x,other::r-x', 5],
])('the access list %j has %d entries', (text, entries) => {
  expect(accessListOf(text)!.length).toBe(4 + 8 * entries);
});

test.each(['', 'user:rw-', 'user:somebody:rw-', 'mask:5:rw-', 'user::rwz', 'constructor::rw-'])(
  '%j is no access list',
  (text) => {
    expect(accessListOf(text)).toBeUndefined();
  },
);

test('pieces of any length give the same', async () => {
  const tar = await tarOf(SYSTEM);
  const whole = await unpacked(tar);
  const { unpackStream } = await import('./archives');
  await expect(unpackStream(inPieces(tar, 333), tar.length, new Memory())).rejects.toMatchObject({
    code: 'archive-cannot-be-stored',
  });
  expect(whole.entries.length).toBe(10);
});

import { createHash } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { inPieces, tarOf, zipOf } from '@tests/archives';
import { COMPRESSED_FILES, XZ_TAR, ZSTD_TAR } from '@tests/compressed';
import { copiedOf, filesOf, type Tree } from '@/core/filesystems/tree';
import { readTree, treeText } from '@/core/filesystems/tree-text';
import { type Keeper, unpackFile } from './archives';
import { Sums, type UnpackOptions } from './gathering';
import { type Member, TarReader } from './tar-reader';

let folder = '';
beforeEach(() => (folder = mkdtempSync(path.join(tmpdir(), 'loess-archives-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

/** Keeps contents in memory. */
class Memory implements Keeper {
  readonly kept = new Map<string, Buffer>();

  async add(body: AsyncIterable<Uint8Array>) {
    const parts: Uint8Array[] = [];
    const sums = new Sums();
    for await (const chunk of body) {
      sums.add(chunk);
      parts.push(Uint8Array.from(chunk));
    }
    const { kept } = sums;
    this.kept.set(kept.sha256, Buffer.concat(parts));
    return kept;
  }

  /** The files of a tree, read from where it says that they lie. */
  filesOf(tree: Tree): Record<string, string> {
    return Object.fromEntries(
      filesOf(tree).map((file) => {
        const { from, at, length } = copiedOf(file);
        return [file.path, this.kept.get(from)!.toString('utf8', at, at + length)];
      }),
    );
  }
}

const sumOf = (bytes: Uint8Array | string) => createHash('sha256').update(bytes).digest('hex');

async function unpacked(bytes: Uint8Array, options: Partial<UnpackOptions> = {}) {
  const file = path.join(folder, 'archive');
  writeFileSync(file, bytes);
  const memory = new Memory();
  const { entries, leftOut } = await unpackFile(file, bytes.length, memory, { leaveOut: false, ...options });
  return { memory, entries, leftOut, files: memory.filesOf(entries) };
}

const FILES = { 'EFI/BOOT/BOOTX64.EFI': 'loader', 'zulu.txt': 'z', empty: '', 'Ölstand.csv': 'ü'.repeat(600) };
const members = Object.entries(FILES).map(([name, content]) => ({ name, content }));

describe('an archive is kept in one piece, and its files are found in it', () => {
  test('a tar as it is, without a sum of something else', async () => {
    const tar = await tarOf(members);
    const { memory, entries, files } = await unpacked(tar);
    expect(files).toEqual(FILES);
    expect([...memory.kept.keys()]).toEqual([sumOf(tar)]);
    const { within, sha256 } = filesOf(entries)[0]!;
    expect(within!.archive).toEqual({ sha256: sumOf(tar), size: tar.length });
    expect(sha256).toBe(sumOf('loader'));
  });

  test('within gzip, with the sums of both', async () => {
    const tar = await tarOf(members);
    const given = gzipSync(tar);
    const { memory, entries, files } = await unpacked(given);
    expect(files).toEqual(FILES);
    expect([...memory.kept.keys()]).toEqual([sumOf(tar)]);
    expect(filesOf(entries)[0]!.within!.archive).toEqual({ sha256: sumOf(tar), size: tar.length, given: sumOf(given) });
  });

  test.each([
    ['xz', XZ_TAR],
    ['zstd', ZSTD_TAR],
  ])('within %s', async (_, given) => {
    const { entries, files } = await unpacked(given);
    expect(files).toEqual(COMPRESSED_FILES);
    expect(filesOf(entries)[0]!.within!.archive.given).toBe(sumOf(given));
  });

  test('a zip as its files unpack, one behind another', async () => {
    const zip = await zipOf(FILES);
    const { memory, files, entries } = await unpacked(zip);
    expect(files).toEqual(FILES);
    expect([...memory.kept.values()].map(String)).toEqual([Object.values(FILES).join('')]);
    expect(filesOf(entries)[0]!.within!.archive.given).toBe(sumOf(zip));
  });

  test('a file with holes lies in the archive without them', async () => {
    const pax = { 'GNU.sparse.major': '1', 'GNU.sparse.minor': '0', 'GNU.sparse.realsize': '3000' };
    const map = Buffer.alloc(512);
    map.write('1\n2990\n10\n');
    const tar = await tarOf([
      {
        name: 'holes.bin',
        pax: { ...pax, 'GNU.sparse.name': 'holes.bin' },
        content: Buffer.concat([map, Buffer.from('0123456789')]),
      },
      { name: 'after.txt', content: 'after' },
    ]);
    const { files, entries, memory } = await unpacked(tar);
    expect(files).toEqual({ 'holes.bin': '0123456789', 'after.txt': 'after' });
    expect(filesOf(entries)[0]).toMatchObject({ size: 3000, pieces: [[2990, 0, 10]], sha256: sumOf('0123456789') });
    expect(memory.kept.size).toBe(1);
  });

  test('the text of the tree names each archive once, and reads back as it was', async () => {
    const { entries } = await unpacked(await tarOf(members));
    const other = await unpacked(await zipOf({ more: 'more' }));
    const both = [...entries, ...other.entries];
    const text = treeText(both);
    expect(text.split('\n')[0]).toMatch(
      /^\{"format":"loess-tree","archives":\[\{.*\},\{.*"given":.*\}\],"entries":\[$/,
    );
    const read = readTree(text);
    expect(read.ok && read.value).toEqual(both);
    expect(treeText(read.ok ? read.value : [])).toBe(text);
  });
});

describe('what it says of files', () => {
  test('who may write it becomes read only; later times are held back, or left away', async () => {
    const mtime = new Date('2026-05-01T08:00:00Z');
    const tar = await tarOf([
      { name: 'a', mode: 0o444, mtime, content: 'a' },
      { name: 'b', mode: 0o755, mtime, content: 'b' },
    ]);
    const { entries } = await unpacked(tar, { latest: Date.parse('2026-04-01T00:00:00Z') / 1000 });
    expect(entries).toMatchObject([
      { path: 'a', attributes: ['read only'], time: '2026-04-01T00:00:00' },
      { path: 'b', time: '2026-04-01T00:00:00' },
    ]);
    expect(entries[1]!.attributes).toBeUndefined();
    expect((await unpacked(tar, { timeless: true })).entries.map((one) => one.time)).toEqual([undefined, undefined]);
  });
});

describe('what cannot be read is told as that', () => {
  const changed = (bytes: Buffer, at: number) => {
    const other = Buffer.from(bytes);
    other[at]! ^= 1;
    return other;
  };
  test.each([
    ['a flipped byte in zstd', () => changed(ZSTD_TAR, 60)],
    ['a flipped sum of zstd', () => changed(ZSTD_TAR, ZSTD_TAR.length - 1)],
    ['zstd that ends early', () => ZSTD_TAR.subarray(0, 100)],
    ['something behind zstd', () => Buffer.concat([ZSTD_TAR, Buffer.from('more')])],
    ['a flipped byte in xz', () => changed(XZ_TAR, 60)],
    ['xz that ends early', () => XZ_TAR.subarray(0, 150)],
  ])('%s', async (_, make) => {
    await expect(unpacked(make())).rejects.toMatchObject({ code: 'archive-damaged' });
  });

  test('names that are no UTF-8 are named, and left out on request', async () => {
    const tar = await tarOf([
      { name: 'a~~b', content: 'x' },
      { name: 'c', content: 'y' },
    ]);
    // The header again, with two bytes that begin no character, and its sum with them.
    tar[1] = 0xff;
    tar[2] = 0xfe;
    const sum = tar.subarray(0, 512).reduce((all, byte, i) => all + (i >= 148 && i < 156 ? 0x20 : byte), 0);
    tar.write(`${sum.toString(8).padStart(6, '0')}\0 `, 148, 'latin1');
    await expect(unpacked(tar)).rejects.toThrow(/has a name that is no UTF-8/);
    const { files, leftOut } = await unpacked(tar, { leaveOut: true });
    expect([files, leftOut.length]).toEqual([{ c: 'y' }, 1]);
  });

  test('what zstd passes over may come first', async () => {
    const skipped = Buffer.from('502a4d180400000061626364', 'hex');
    expect((await unpacked(Buffer.concat([skipped, ZSTD_TAR]))).files).toEqual(COMPRESSED_FILES);
  });
});

describe('the reader of tar', () => {
  /** Members of an archive that is read in pieces, with what their places hold. */
  async function read(tar: Buffer, size: number): Promise<[Member, string][]> {
    const found: [Member, string][] = [];
    const reader = new TarReader((member) => {
      let text = '';
      return {
        take: (bytes) => void (text += Buffer.from(bytes).toString('latin1')),
        end: () => void found.push([member, text]),
      };
    });
    for await (const piece of inPieces(tar, size)) await reader.take(piece);
    reader.end();
    return found;
  }

  const long = `${'folder-of-a-name/'.repeat(9)}file`;

  test.each([1, 7, 511, 512, 513, 100_000])('in pieces of %i bytes', async (size) => {
    const tar = await tarOf([
      { name: 'a', content: 'x'.repeat(512) },
      { name: long, content: 'long', pax: { comment: 'ü' } },
      { name: 'b/', type: 'directory' },
      { name: 'l', type: 'symlink', linkname: 'a' },
      { name: 'c', content: 'y'.repeat(1025) },
    ]);
    const found = await read(tar, size);
    expect(found.map(([{ name, kind }]) => [name, kind])).toEqual([
      ['a', 'file'],
      [long, 'file'],
      ['b/', 'folder'],
      ['l', 'link'],
      ['c', 'file'],
    ]);
    for (const [{ at, size: length }, text] of found) expect(tar.toString('latin1', at, at + length)).toBe(text);
  });

  test('large numbers, and names of older archives', async () => {
    const tar = await tarOf([{ name: 'a', content: 'abc' }]);
    // The length in the form of GNU archives: a set bit, then the number.
    tar.fill(0, 124, 136);
    tar[124] = 0x80;
    tar[135] = 3;
    let sum = 0;
    tar.fill(' ', 148, 156);
    for (let i = 0; i < 512; i++) sum += tar[i]!;
    tar.write(`${sum.toString(8).padStart(6, '0')}\0 `, 148, 'latin1');
    expect((await read(tar, 100))[0]).toMatchObject([{ name: 'a', size: 3 }, 'abc']);
  });

  test.each([
    ['in a file', 700, /ends in the middle/],
    ['in a header', 100, /ends in the middle/],
  ])('an end %s', async (_, length, message) => {
    const tar = await tarOf([{ name: 'a', content: 'x'.repeat(600) }]);
    await expect(read(tar.subarray(0, length), 64)).rejects.toThrow(message);
  });

  test('headers that are none, or say no length', async () => {
    const tar = await tarOf([{ name: 'a', content: 'x' }]);
    const spoilt = Buffer.from(tar);
    spoilt[0]! ^= 1;
    await expect(read(spoilt, 512)).rejects.toThrow(/another sum/);
    await expect(read(Buffer.alloc(1024, 7), 512)).rejects.toThrow(/another sum/);
    const pax = await tarOf([{ name: 'a', content: 'x', pax: { size: '-4' } }]);
    await expect(read(pax, 512)).rejects.toThrow(/no length/);
  });
});

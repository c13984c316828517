/** Trees of made-up files, volumes filled with them in memory, and trees read back from volumes. */
import { createHash } from 'node:crypto';
import fc from 'fast-check';
import { type BlockSource, memoryBlocks } from '@/core/bytes/blocks';
import { type Extent, lengthOf } from '@/core/bytes/extents';
import { nameKey, nameTrouble } from '@/core/filesystems/names';
import type { FileAttribute, Tree, TreeFile } from '@/core/filesystems/tree';
import { contentOf, walk, type Volume } from '@/core/filesystems/volume';

/** Content of a made-up file: follows from its name, so that it need not be kept. */
export function madeUp(size: number, seed: string): Uint8Array {
  const bytes = new Uint8Array(size);
  let state = [...seed].reduce((sum, c) => Math.imul(sum ^ c.charCodeAt(0), 0x01000193), 0x811c9dc5);
  for (let i = 0; i < size; i++) {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    bytes[i] = state >>> 24;
  }
  return bytes;
}

/** Contents by their SHA-256. */
export class Shelf {
  readonly contents = new Map<string, Uint8Array>();

  add(bytes: Uint8Array): string {
    const sha256 = createHash('sha256').update(bytes).digest('hex');
    this.contents.set(sha256, bytes);
    return sha256;
  }

  file(path: string, size: number, more: { time?: string; attributes?: readonly FileAttribute[] } = {}): TreeFile {
    return { kind: 'file', path, size, sha256: this.add(madeUp(size, path)), ...more };
  }
}

/** A medium of noise with extents written over it. */
export function overNoise(size: number, extents: readonly Extent[], shelf: Shelf, noise = 0xa5): Uint8Array {
  const bytes = new Uint8Array(size).fill(noise);
  let end = 0;
  for (const extent of extents) {
    if (extent.offset < end) throw new Error(`the range at ${extent.offset} overlaps the one before it`);
    end = extent.offset + lengthOf(extent);
    if (end > size) throw new Error(`the range at ${extent.offset} leaves the medium`);
    if ('bytes' in extent) bytes.set(extent.bytes, extent.offset);
    else if ('zeros' in extent) bytes.fill(0, extent.offset, end);
    else {
      const { from, at, length } = extent.copied;
      bytes.set(shelf.contents.get(from)!.subarray(at, at + length), extent.offset);
    }
  }
  return bytes;
}

/** A volume read back as a tree, with the content of its files hashed. */
export async function treeOf(volume: Volume, source: BlockSource): Promise<{ tree: Tree; troubles: string[] }> {
  const troubles: string[] = [];
  const tree: Tree[number][] = [];
  for await (const { path, entry } of walk(volume, (at, what) => troubles.push(`${at}: ${what}`))) {
    const facts = {
      path,
      ...(entry.time !== undefined && { time: entry.time }),
      ...(entry.attributes.length > 0 && { attributes: entry.attributes }),
    };
    if (entry.folder) {
      tree.push({ kind: 'folder', ...facts });
      continue;
    }
    const hash = createHash('sha256');
    for await (const bytes of contentOf(volume, source, entry)) hash.update(bytes);
    tree.push({ kind: 'file', ...facts, size: entry.size, sha256: hash.digest('hex') });
  }
  return { tree, troubles };
}

/** Bytes as a source. */
/** Bytes that a map of a volume says are in use. */
export async function usedIn(volume: Volume, cells: number): Promise<number> {
  const map = await volume.map!(cells);
  return map.cells.reduce((sum, { used }) => sum + used, 0);
}

export const inMemory = (bytes: Uint8Array): BlockSource => memoryBlocks(bytes);

const NAMES = fc
  .oneof(
    fc.constantFrom(
      'BUOY07.CSV',
      'station.cfg',
      'Readme',
      'Gauge readings of the Marram Coast.csv',
      'a.b.c',
      '.profile',
    ),
    fc.string({ unit: fc.constantFrom(...'abcABC019 ._-~+,;=[]üßñЖ水'), minLength: 1, maxLength: 30 }),
    fc.string({ unit: 'grapheme', minLength: 1, maxLength: 40 }),
  )
  .filter((name) => nameTrouble(name) === undefined && !name.includes('/') && name !== '.' && name !== '..');

const ATTRIBUTES = fc.subarray<FileAttribute>(['read only', 'hidden', 'system', 'archive']);
const TIMES = fc
  .date({ min: new Date('1980-01-01T00:00:00Z'), max: new Date('2107-12-31T23:59:58Z'), noInvalidDate: true })
  .map((date) => `${new Date(Math.floor(date.getTime() / 2000) * 2000).toISOString().slice(0, 19)}`);

/** Any tree of names that can be stored, with folders within folders; the files' contents are on the shelf. */
export function anyTree(shelf: Shelf, mostBytes = 20_000): fc.Arbitrary<Tree> {
  const file = fc.record({
    at: fc.array(fc.nat(5), { maxLength: 3 }),
    name: NAMES,
    size: fc.oneof(fc.constant(0), fc.constantFrom(1, 511, 512, 513, 4096), fc.nat(mostBytes)),
    time: TIMES,
    attributes: ATTRIBUTES,
  });
  const folders = fc.uniqueArray(NAMES, { minLength: 6, maxLength: 6, selector: nameKey });
  return fc.tuple(folders, fc.array(file, { maxLength: 40 })).map(([names, files]) => {
    const seen = new Set<string>(names.map((name) => nameKey(name)));
    const tree: Tree[number][] = [];
    const made = new Set<string>();
    for (const { at, name, size, ...facts } of files) {
      const parts = at.map((i) => names[i]!);
      parts.forEach((_, i) => {
        const folder = parts.slice(0, i + 1).join('/');
        if (!made.has(folder)) tree.push({ kind: 'folder', path: folder, time: '2026-03-01T12:00:00' });
        made.add(folder);
      });
      const path = [...parts, name].join('/');
      if (seen.has(nameKey(path))) continue;
      seen.add(nameKey(path));
      if (parts.length > 0 && names.some((one) => nameKey(one) === nameKey(name))) continue;
      const { attributes, time } = facts;
      tree.push(shelf.file(path, size, { time, ...(attributes.length > 0 && { attributes }) }));
    }
    return tree;
  });
}

/** A tree as it can be compared: ordered by path. */
export function byPath(tree: Tree): Tree {
  return [...tree].sort((a, b) => (a.path < b.path ? -1 : 1));
}

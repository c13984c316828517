/** What the checker read of an ext volume, beside what a tree says. */
import { bytesOfText, textOfBytes } from '@/core/bytes/utf8';
import type { CheckedEntry, CheckedExt } from '@/core/filesystems/ext/check/check';
import { instantOf } from '@/core/filesystems/ext/inode';
import { modeOf, type Tree, type TreeEntry } from '@/core/filesystems/tree';
import { DATE, wholeContent } from './ext';
import type { Shelf } from './filled';
import { createHash } from 'node:crypto';
import { TYPES } from './words-by-the-book';

const sha = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex').slice(0, 16);

/** Content of a file in a volume that lies in memory. */
function contentOf({ inode }: CheckedEntry, volume: Uint8Array, block: number): Uint8Array {
  const out = new Uint8Array(inode.size);
  for (const { logical, physical, count } of inode.runs) {
    const from = physical * block;
    const part = volume.subarray(from, from + Math.min(count * block, inode.size - logical * block));
    out.set(part, logical * block);
  }
  return out;
}

/** A line for each entry that was read, ascending. */
export function readLines({ entries, volume }: CheckedExt, bytes: Uint8Array): string[] {
  return entries
    .map((entry) => {
      const { path, inode, attributes, target } = entry;
      const { kind, mode, user, group, links, seconds, nanoseconds, size } = inode;
      const map = new DataView(inode.map.buffer, inode.map.byteOffset, 60);
      const numbers = map.getUint32(0, true);
      const large = map.getUint32(4, true);
      const device =
        numbers !== 0
          ? [numbers >> 8, numbers & 0xff]
          : [(large >> 8) & 0xfff, (large & 0xff) | ((large >>> 12) & 0xfff00)];
      const more =
        TYPES[kind] === 'file'
          ? `${size} ${sha(contentOf(entry, bytes, volume!.block))}`
          : TYPES[kind] === 'link'
            ? textOfBytes(target!)
            : TYPES[kind] === 'character' || TYPES[kind] === 'block'
              ? device.join()
              : '';
      const named = attributes.map(({ name, value }) => `${name}=${Buffer.from(value).toString('base64')}`).sort();
      return `${path} ${TYPES[kind]} ${mode.toString(8)} ${user}:${group} ${links} ${seconds}.${nanoseconds} ${more} ${named.join()}`;
    })
    .sort();
}

/** The lines that a tree should give: of its entries, of folders that only stand in paths, and of lost+found. */
export function meantLines(tree: Tree, shelf: Shelf): string[] {
  const byPath = new Map(tree.map((one) => [one.path, one]));
  const names = new Map<string, number>();
  for (const one of tree) if (one.kind === 'second name') names.set(one.of, (names.get(one.of) ?? 1) + 1);
  const folders = new Set(['', 'lost+found']);
  for (const { path, kind } of tree) {
    for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1)) folders.add(path.slice(0, at));
    if (kind === 'folder') folders.add(path);
  }
  const below = new Map<string, number>();
  for (const path of folders)
    if (path !== '') {
      const above = path.slice(0, Math.max(0, path.lastIndexOf('/')));
      below.set(above, (below.get(above) ?? 0) + 1);
    }
  const line = (path: string, entry: TreeEntry | undefined): string => {
    const { seconds, nanoseconds } = instantOf(entry?.time ?? DATE);
    const isLost = path === 'lost+found' && entry?.mode === undefined;
    const links = folders.has(path) ? 2 + (below.get(path) ?? 0) : (names.get(entry!.path) ?? 1);
    const kind = entry?.kind === 'device' ? entry.device : (entry?.kind ?? 'folder');
    const more =
      entry?.kind === 'file'
        ? `${entry.size} ${sha(wholeContent(entry, shelf))}`
        : entry?.kind === 'link'
          ? textOfBytes(bytesOfText(entry.target))
          : entry?.kind === 'device'
            ? `${entry.major},${entry.minor}`
            : '';
    const named = Object.entries(entry?.extended ?? {}).map(([name, value]) => `${name}=${stored(name, value)}`);
    const mode = (isLost ? 0o700 : modeOf(entry)).toString(8);
    return `${path} ${kind} ${mode} ${entry?.user ?? 0}:${entry?.group ?? 0} ${links} ${seconds}.${nanoseconds} ${more} ${named.sort().join()}`;
  };
  const leaves = tree.filter(({ kind }) => kind !== 'folder');
  return [
    ...[...folders].map((path) => line(path, byPath.get(path))),
    ...leaves.map((one) => line(one.path, one.kind === 'second name' ? byPath.get(one.of) : one)),
  ].sort();
}

/** An attribute as it is stored: an access list is stored shorter than it is handed on. */
function stored(name: string, value: string): string {
  if (!name.startsWith('system.posix_acl_')) return value;
  const list = Buffer.from(value, 'base64');
  const parts = [Buffer.from([1, 0, 0, 0])];
  for (let at = 4; at < list.length; at += 8)
    parts.push(list.subarray(at, at + ([2, 8].includes(list.readUInt16LE(at)) ? 8 : 4)));
  return Buffer.concat(parts).toString('base64');
}

/** Ext volumes for the machine tests: laid over noise, and what a kernel must say of them. */
import { closeSync, ftruncateSync, openSync, writeSync } from 'node:fs';
import { crc32 } from 'node:zlib';
import { DATE, type MadeExt, wholeContent } from '@tests/ext';
import type { Shelf } from '@tests/filled';
import { noise } from '@tests/samples';
import { bytesOfText } from '@/core/bytes/utf8';
import { instantOf } from '@/core/filesystems/ext/inode';
import { type ExtNode, typeOf } from '@/core/filesystems/ext/nodes';
import type { NamedRange } from '@/core/filesystems/kind';
import { modeOf, type Tree } from '@/core/filesystems/tree';
import { MIB } from '@/core/quantity/units';

/** Most bytes that are filled with noise before a volume is laid over them. */
const NOISY = 96 * MIB;

/** Writes a volume into a file of `device` bytes; zeros are written where noise was. */
export function layExt(file: string, device: number, ranges: readonly NamedRange[], shelf: Shelf): void {
  const out = openSync(file, 'wx');
  const isNoisy = device <= NOISY;
  if (isNoisy) {
    const old = noise(MIB, 77);
    for (let at = 0; at < device; at += MIB) writeSync(out, old, 0, Math.min(MIB, device - at), at);
  }
  ftruncateSync(out, device);
  for (const { extent } of ranges) {
    if ('bytes' in extent) writeSync(out, extent.bytes, 0, extent.bytes.length, extent.offset);
    else if ('copied' in extent) {
      const { from, at, length } = extent.copied;
      writeSync(out, shelf.contents.get(from)!, at, length, extent.offset);
    } else if (isNoisy)
      for (let done = 0; done < extent.zeros; done += MIB) {
        const some = Math.min(MIB, extent.zeros - done);
        writeSync(out, new Uint8Array(some), 0, some, extent.offset + done);
      }
  }
  closeSync(out);
}

/** Bytes as `ext-look.c` says them. */
export function shown(bytes: Uint8Array): string {
  return [...bytes]
    .map((c) =>
      c <= 0x20 || c >= 0x7f || c === 0x5c ? `\\x${c.toString(16).padStart(2, '0')}` : String.fromCharCode(c),
    )
    .join('');
}

/** A line that the guest says of an entry: with all times, and without those of folders. */
interface Line {
  readonly still: string;
  readonly whole: string;
}

/** The line of an entry. */
function lineOf(node: ExtNode, path: string, block: number, shelf: Shelf): Line {
  const { entry, links, ranges } = node;
  const isRoot = path === '';
  const mode = node.inode === 11 && entry?.mode === undefined ? 0o700 : modeOf(entry);
  const { seconds, nanoseconds } = instantOf(entry?.time ?? DATE);
  const owner = isRoot ? '0:0' : `${entry?.user ?? 0}:${entry?.group ?? 0}`;
  const bits = (typeOf(entry).mode | mode).toString(8);
  let line = `${shown(bytesOfText(path))} ${bits} ${owner} ${links}`;
  if (entry?.kind === 'link') line += ` -> ${shown(bytesOfText(entry.target))}`;
  if (entry?.kind === 'device') line += ` ${entry.major},${entry.minor}`;
  if (entry?.kind === 'file') {
    const sum = crc32(wholeContent(entry, shelf)).toString(16).padStart(8, '0');
    const data = ranges.map(({ logical, count }) => {
      const from = logical * block;
      return `${from}+${Math.min(entry.size, from + count * block) - from} `;
    });
    line += ` ${entry.size} ${sum} [${data.join('')}]`;
  }
  for (const [name, value] of Object.entries(entry?.extended ?? {}).sort(([a], [b]) => (a < b ? -1 : 1)))
    line += ` ${name}:${Buffer.from(value, 'base64').toString('hex')}`;
  const time = ` ${seconds}.${String(nanoseconds).padStart(9, '0')}`;
  return { still: node.directory ? line : line + time, whole: line + time };
}

/** Every line that the guest says of a tree. */
export function linesOf({ plan, geometry }: MadeExt, tree: Tree, shelf: Shelf): Line[] {
  const byPath = new Map(plan.nodes.nodes.map((node) => [node.path, node]));
  const seconds = tree.flatMap((one) => (one.kind === 'second name' ? [[one.path, byPath.get(one.of)!] as const] : []));
  return [...byPath, ...seconds].map(([path, node]) => lineOf(node, path, geometry.block, shelf));
}

/** What the guest makes of those lines. */
export function digestOf(lines: readonly Line[]): { entries: string; sum: string; still: string } {
  const sumOf = (all: readonly string[]) =>
    all.reduce((sum, line) => sum + BigInt(crc32(Buffer.from(line, 'latin1'))), 0n).toString(16);
  return {
    entries: String(lines.length),
    sum: sumOf(lines.map(({ whole }) => whole)),
    still: sumOf(lines.map(({ still }) => still)),
  };
}

/** What the kernel must say of the room of a volume. */
export function roomOfExt({ geometry, plan }: MadeExt) {
  const { blocks, copies, groups, tableBlocks, descriptorBlocks, spareDescriptorBlocks, firstBlock, journalBlocks } =
    geometry;
  const overhead =
    firstBlock + copies * (1 + descriptorBlocks + spareDescriptorBlocks) + groups * (2 + tableBlocks) + journalBlocks;
  // With extents the kernel keeps some blocks for itself.
  const own = geometry.features.has('extents') ? Math.min(Math.floor(blocks / 50), 4096) : 0;
  const free = plan.free.left;
  return {
    blocks: String(blocks - overhead),
    free: String(free),
    available: String(Math.max(0, free - geometry.reservedBlocks - own)),
    inodes: String(groups * geometry.inodesPerGroup),
    bsize: String(geometry.block),
  };
}

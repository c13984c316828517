/** What a kernel says of every name in an ext volume, beside what our checker reads of it. */
import { open } from 'node:fs/promises';
import { crc32 } from 'node:zlib';
import type { BlockSource } from '@/core/bytes/blocks';
import { bytesOfText, textOfBytes } from '@/core/bytes/utf8';
import type { CheckedEntry } from '@/core/filesystems/ext/check/check';
import type { Fault } from '@/core/filesystems/ext/check/faults';
import { isInline } from '@/core/filesystems/ext/check/inodes';
import { accessList } from '@/core/filesystems/ext/read/attributes';
import { deviceOf } from '@/core/filesystems/ext/read/browse';
import type { Replay } from '@/core/filesystems/ext/replay/replay';
import { fileSource } from '@/files/file-source';
import { shown } from './ext';
import type { SeenPartition } from './guest';

const hex = (sum: number) => sum.toString(16).padStart(8, '0');

/** Bytes that lie in the inode itself. */
function inlineBytes({ map, rest, size }: CheckedEntry['inode']): Uint8Array {
  return Buffer.concat([map, rest ?? new Uint8Array()]).subarray(0, size);
}

async function crcOf(view: BlockSource, block: number, { inode }: CheckedEntry): Promise<string> {
  if (isInline(inode)) return hex(crc32(inlineBytes(inode)));
  let sum = 0;
  let at = 0;
  const zeros = async (until: number) => {
    for (; at < until; at += Math.min(until - at, 65_536))
      sum = crc32(new Uint8Array(Math.min(until - at, 65_536)), sum);
  };
  for (const { logical, physical, count, isUnwritten } of inode.runs) {
    const from = Math.min(inode.size, logical * block);
    const end = Math.min(inode.size, (logical + count) * block);
    if (isUnwritten || end <= from) continue;
    await zeros(from);
    sum = crc32(await view.read(physical * block, end - from), sum);
    at = end;
  }
  await zeros(inode.size);
  return hex(sum);
}

/** Where a file has data, as a kernel tells it: what was never written is a hole. */
function dataOf({ inode }: CheckedEntry, block: number): string {
  if (isInline(inode)) return inode.size > 0 ? `0+${inode.size} ` : '';
  const data: { from: number; end: number }[] = [];
  for (const { logical, count, isUnwritten } of inode.runs) {
    const from = logical * block;
    const end = Math.min(inode.size, (logical + count) * block);
    const last = data[data.length - 1];
    if (isUnwritten || from >= end) continue;
    if (last?.end === from) last.end = end;
    else data.push({ from, end });
  }
  return data.map(({ from, end }) => `${from}+${end - from} `).join('');
}

/** What `ext-look.c` says of an entry, without and with its time. */
async function lineOf(view: BlockSource, block: number, entry: CheckedEntry): Promise<readonly [string, string]> {
  const { path: at, inode, target, attributes } = entry;
  const { kind, mode, user, group, links, size, seconds, nanoseconds } = inode;
  let line = `${shown(bytesOfText(at))} ${(kind | mode).toString(8)} ${user}:${group} ${links}`;
  if (target) line += ` -> ${shown(bytesOfText(textOfBytes(target)))}`;
  if (kind === 0x8000) line += ` ${size} ${await crcOf(view, block, entry)} [${dataOf(entry, block)}]`;
  if (kind === 0x2000 || kind === 0x6000) {
    const { major, minor } = deviceOf(new DataView(inode.map.buffer, inode.map.byteOffset, 60));
    line += ` ${major},${minor}`;
  }
  for (const { name, value } of [...attributes].sort((a, b) => (a.name < b.name ? -1 : 1))) {
    // Kernels hand access lists on in a form of their own.
    const told = name.startsWith('system.posix_acl_') ? accessList(value) : value;
    line += ` ${name}:${Buffer.from(told ?? value).toString('hex')}`;
  }
  return [line, `${line} ${seconds}.${String(nanoseconds).padStart(9, '0')}`];
}

/** What a kernel says of an inode whose checksum is wrong. */
const BAD_SUM = '!74';

/**
 * Files of which a kernel in the middle of a write may leave the bytes without the checksum that belongs to them: data that lies
 * in the inode is put there before the rest of it. Such a kernel refuses them afterwards, and the checker names them.
 */
export function unsealedIn(faults: readonly Fault[]): ReadonlySet<string> | undefined {
  const isOnlyThat = faults.length > 0 && faults.every(({ code, files }) => code === 'inode/checksum' && files);
  return isOnlyThat ? new Set(faults.flatMap(({ files = [] }) => files)) : undefined;
}

/** Compares every name with what a kernel says of it; files that were made shorter have the time of that, `unsealed` ones are refused. */
export async function entriesAmiss(
  view: BlockSource,
  block: number,
  entries: readonly CheckedEntry[],
  seen: SeenPartition,
  { shortened }: Pick<Replay, 'shortened'>,
  unsealed: ReadonlySet<string> = new Set(),
): Promise<string[]> {
  const amiss: string[] = [];
  const said = new Set(seen.entries);
  const untimed = new Map(seen.entries.map((line) => [line.slice(0, line.lastIndexOf(' ')), line]));
  let late = 0;
  // What lies in a folder that is refused is not seen.
  const there = entries.filter(({ path }) => ![...unsealed].some((one) => path.startsWith(`${one}/`)));
  if (there.length !== seen.entries.length) amiss.push(`${there.length} entries, the kernel ${seen.entries.length}`);
  for (const entry of there) {
    if (unsealed.has(entry.path) && said.has(`${shown(bytesOfText(entry.path))} ${BAD_SUM}`)) continue;
    const [still, line] = await lineOf(view, block, entry);
    if (said.has(line)) continue;
    if (untimed.has(still) && (late += entry.inode.links) <= shortened) continue;
    const own = seen.entries.find((one) => one.startsWith(`${still.split(' ')[0]} `));
    amiss.push(`“${line}”, the kernel “${own ?? 'nothing'}”`);
  }
  return amiss.slice(0, 4);
}

/** Opens a file of so many bytes as a source, for as long as the work takes. */
export async function withSource<T>(file: string, size: number, work: (source: BlockSource) => Promise<T>): Promise<T> {
  const handle = await open(file, 'r');
  try {
    return await work(fileSource(handle, size));
  } finally {
    await handle.close();
  }
}

/** Repacked volumes for tests: written over noise, so that what a format leaves out is seen; and every fact of what is in them. */
import { createHash } from 'node:crypto';
import type { BlockSource } from '@/core/bytes/blocks';
import { checkExt } from '@/core/filesystems/ext/check/check';
import { type Numbering, repackable, type Repacked, repacked } from '@/core/filesystems/ext/repack/repack';
import { inMemory } from './filled';

/** The bytes of a volume in another length, on a ground of noise. */
export async function repackedOver(
  source: BlockSource,
  bytes: number,
  numbering: Numbering = 'renumbered',
  noise = 0x5a,
): Promise<Uint8Array> {
  const volume = await repackable(source, 0);
  if (!volume.ok) throw new Error(volume.error);
  const made = await repacked(volume.value, bytes, numbering);
  if (!made.ok) throw new Error(made.error);
  return laidOver(source, made.value, bytes, noise);
}

/** The bytes of a volume that is made, on a ground of noise. */
export async function laidOver(
  source: BlockSource,
  made: Repacked,
  bytes = made.bytes,
  noise = 0x5a,
): Promise<Uint8Array> {
  const out = new Uint8Array(bytes).fill(noise);
  const covered = new Uint8Array(Math.ceil(bytes / 512));
  for await (const { what, extent } of made.ranges()) {
    const data =
      'bytes' in extent
        ? extent.bytes
        : 'zeros' in extent
          ? new Uint8Array(extent.zeros)
          : 'moved' in extent
            ? await source.read(extent.moved.at, extent.moved.length)
            : undefined;
    if (!data) throw new Error('stored content in a repacked volume');
    // No two ranges overlap.
    for (let at = Math.floor(extent.offset / 512); at < (extent.offset + data.length) / 512; at++) {
      if (covered[at] === 1 && extent.offset >= 4096) throw new Error(`${what} covers sector ${at} twice`);
      covered[at] = 1;
    }
    out.set(data, extent.offset);
  }
  return out;
}

const hex = (bytes: Uint8Array) => Buffer.from(bytes).toString('hex');

/** Fields of an inode that say where something lies, or are sums of it. */
const PLACES = [
  [0x1c, 4],
  [0x28, 60],
  [0x68, 4],
  [0x74, 4],
  [0x7c, 2],
  [0x82, 2],
] as const;

/**
 * Every fact of a volume, a line for each name: all bytes of its inode but places and sums, its attributes, where it leads, and what
 * is in it. Throws where the checker finds a fault.
 */
export async function factsOf(bytes: Uint8Array, borne: readonly string[] = []): Promise<string[]> {
  const { faults: all, entries, volume } = await checkExt(inMemory(bytes), 0, bytes.length);
  const faults = all.filter(({ code }) => !borne.includes(code));
  if (faults.length > 0 || !volume) throw new Error(JSON.stringify(faults.slice(0, 5)));
  const lines: string[] = [];
  for (const { path, inode, attributes, target } of entries) {
    const facts = new Uint8Array(inode.bytes);
    for (const [at, length] of PLACES) if (at < facts.length) facts.fill(0, at, at + length);
    const sum = createHash('sha256');
    const runs: string[] = [];
    for (const { logical, physical, count, isUnwritten } of inode.runs) {
      if (runs.length === 0 || !runs.at(-1)!.endsWith(`-${logical}${isUnwritten}`)) runs.push(`${logical}`);
      runs[runs.length - 1] = `${runs.at(-1)!.split('-')[0]}-${logical + count}${isUnwritten}`;
      if (inode.kind === 0x8000 && !isUnwritten)
        sum.update(bytes.subarray(physical * volume.block, (physical + count) * volume.block));
    }
    lines.push(
      [
        path,
        hex(facts),
        attributes.map((one) => JSON.stringify({ ...one, value: undefined }) + hex(one.value)).join(' '),
        target ? hex(target) : '',
        runs.join(' '),
        sum.digest('hex'),
      ].join('|'),
    );
  }
  return lines.sort();
}

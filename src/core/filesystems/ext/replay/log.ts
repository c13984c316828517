/**
 * The log of a journal ("Journal (jbd2)"): which blocks of the volume its committed transactions hold. It is read as a
 * kernel recovers it: first to where it ends, then for what was revoked, then for what is to be replayed.
 */
import { crc32HighFirst } from '../../../bytes/crc32';
import { crc32c, crc32cOfNumber } from '../../../bytes/crc32c';
import { decode, type Values } from '../../../bytes/record';
import { grouped } from '../../../quantity/units';
import { BrokenChain } from '../../volume';
import { JOURNAL_MAGIC, JOURNAL_SUPERBLOCK as SECOND_FORM } from '../numbers';
import type { ExtInode, Inodes } from '../read/inodes';
import { BLOCK_HEAD, COMMIT, JOURNAL_SUPERBLOCK, REVOKED_AT, REVOKED_LENGTH_AT } from './records';
import type { Patch } from './view';

/** The journal cannot be replayed, and why: a kernel would not mount the volume either. */
export class JournalBroken extends Error {}

const [FIRST_FORM, DESCRIPTOR, COMMITTED, REVOCATIONS] = [3, 1, 2, 5];
const SUMS_OF_OLD = 0x1;
const FEATURE = { revoke: 0x1, long: 0x2, asyncCommit: 0x4, sums2: 0x8, sums3: 0x10, fast: 0x20 } as const;
const ALL_FEATURES = Object.values(FEATURE).reduce((sum, bit) => sum | bit, 0);
/** Flags of a tag. */
const TAG = { escaped: 1, sameUuid: 2, last: 8 } as const;
const UUID_BYTES = 16;
/** Bytes of the checksum at the end of descriptors and revocations. */
const TAIL = 4;
const CRC32C_KIND = 4;
/** Blocks for fast commits where the journal does not say how many, and the least that a log has. */
const [FAST_BLOCKS, LEAST_LOG] = [256, 1024];
/** Tag of the head of fast commits, lowest byte first. */
const FAST_HEAD = 9;
/** Pieces of a journal, and blocks in it, beyond which it is not read. */
const [MOST_RUNS, MOST_BLOCKS] = [100_000, 4_000_000];
/** Blocks of the log that are read at once. */
const AHEAD = 32;

export type JournalSuperblock = Values<typeof JOURNAL_SUPERBLOCK>;

/** What the log of a journal holds. */
export interface Log {
  readonly superblock: JournalSuperblock;
  /** Block of the volume in which the journal begins. */
  readonly at: number;
  /** Blocks of the volume, each with where its last content lies. */
  readonly patches: Map<number, Patch>;
  /** Committed transactions, and the number of the one that would follow. */
  readonly transactions: number;
  readonly next: number;
  /** There are commits of the fast kind behind them. */
  readonly hasFast: boolean;
}

/** A block that a descriptor names: where it belongs, and what its tag says. */
interface Tag {
  readonly block: number;
  readonly flags: number;
  readonly sum: number;
}

/** True where a number of a transaction is not before another: they count on from their highest to zero. */
const isFrom = (a: number, b: number) => ((a - b) | 0) >= 0;
const isAfter = (a: number, b: number) => ((a - b) | 0) > 0;

/** Reads blocks of the journal's file by their number in it. */
class JournalFile {
  private readonly runs: { logical: number; count: number; at: number }[] = [];
  private window: { first: number; bytes: Uint8Array } | undefined;

  private constructor(private readonly inodes: Inodes) {}

  static async open(inodes: Inodes, inode: ExtInode): Promise<JournalFile> {
    const file = new JournalFile(inodes);
    for await (const { logical, count, at } of inodes.runs(inode)) {
      const last = file.runs[file.runs.length - 1];
      if (last && logical < last.logical + last.count) throw new JournalBroken('its blocks are not in order');
      if (at === undefined) continue;
      if (last && last.logical + last.count === logical && last.at + last.count === at) last.count += count;
      else file.runs.push({ logical, count, at });
      if (file.runs.length > MOST_RUNS) throw new JournalBroken('it lies in too many pieces');
    }
    return file;
  }

  /** Where a block of it lies in the volume, and how many follow it there. */
  private place(number: number): { at: number; following: number } {
    let [low, high] = [0, this.runs.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.runs[middle]!.logical <= number) low = middle + 1;
      else high = middle;
    }
    const run = this.runs[low - 1];
    const into = run ? number - run.logical : 0;
    if (!run || into >= run.count) throw new JournalBroken(`its block ${grouped(number)} is not there`);
    return { at: run.at + into, following: run.count - into };
  }

  placeOf(number: number): number {
    return this.place(number).at;
  }

  async block(number: number): Promise<Uint8Array> {
    const size = this.inodes.head.block;
    const { window } = this;
    if (window && number >= window.first && (number - window.first + 1) * size <= window.bytes.length)
      return window.bytes.subarray((number - window.first) * size, (number - window.first + 1) * size);
    const { at, following } = this.place(number);
    const bytes = new Uint8Array(await this.inodes.read(at * size, Math.min(following, AHEAD) * size));
    this.window = { first: number, bytes };
    return bytes.subarray(0, size);
  }
}

class LogReader {
  private readonly tagBytes: number;
  private readonly end: number;
  private readonly seed: number;
  private readonly isSummed: boolean;
  private readonly isSummed3: boolean;
  private readonly isLong: boolean;
  readonly revoked = new Map<number, number>();
  readonly patches = new Map<number, Patch>();

  constructor(
    private readonly file: JournalFile,
    private readonly superblock: JournalSuperblock,
    private readonly blocks: number,
  ) {
    const has = (bit: number) => (superblock.incompatible & bit) !== 0;
    this.isSummed3 = has(FEATURE.sums3);
    this.isSummed = this.isSummed3 || has(FEATURE.sums2);
    this.isLong = has(FEATURE.long);
    this.tagBytes = this.isSummed3 ? 16 : 8 + (has(FEATURE.sums2) ? 2 : 0) + (this.isLong ? 4 : 0);
    this.seed = crc32c(superblock.uuid);
    this.end = this.fast?.log ?? superblock.blocks;
  }

  /** Where the log ends that is followed by blocks for fast commits. */
  private get fast(): { log: number } | undefined {
    const { incompatible, blocks, fastBlocks } = this.superblock;
    if ((incompatible & FEATURE.fast) === 0) return undefined;
    const count = fastBlocks === 0 ? FAST_BLOCKS : fastBlocks;
    return blocks - count >= LEAST_LOG ? { log: blocks - count } : undefined;
  }

  private after(block: number, count = 1): number {
    const next = block + count;
    return next >= this.end ? next - (this.end - this.superblock.first) : next;
  }

  private tailIsRight(bytes: Uint8Array): boolean {
    if (!this.isSummed) return true;
    const zeroed = new Uint8Array(bytes);
    zeroed.fill(0, bytes.length - TAIL);
    return crc32c(zeroed, this.seed) === viewOf(bytes).getUint32(bytes.length - TAIL);
  }

  /** A commit as it is now, or as kernels of a while summed it, with nothing behind its fields. */
  private commitIsRight(bytes: Uint8Array): boolean {
    if (!this.isSummed) return true;
    const { sum: at } = COMMIT.fields;
    const found = viewOf(bytes).getUint32(at.offset);
    const zeroed = new Uint8Array(bytes);
    zeroed.fill(0, at.offset, at.offset + 4);
    if (crc32c(zeroed, this.seed) === found) return true;
    zeroed.fill(0, COMMIT.length);
    return crc32c(zeroed, this.seed) === found;
  }

  private tags(bytes: Uint8Array): Tag[] {
    const view = viewOf(bytes);
    const end = bytes.length - (this.isSummed ? TAIL : 0);
    const found: Tag[] = [];
    for (let at = BLOCK_HEAD.length; at + this.tagBytes <= end;) {
      const flags = view.getUint16(at + 6);
      const high = !this.isLong ? 0 : view.getUint32(at + 8);
      const sum = this.isSummed3 ? view.getUint32(at + 12) : view.getUint16(at + 4);
      found.push({ block: view.getUint32(at) + high * 2 ** 32, flags, sum });
      if ((flags & TAG.last) !== 0) break;
      at += this.tagBytes + ((flags & TAG.sameUuid) !== 0 ? 0 : UUID_BYTES);
    }
    return found;
  }

  /** Blocks of kinds that have a meaning, in the order of the log, up to where it does not go on; `next` is the block behind each. */
  private async *heads(until?: number): AsyncGenerator<{ bytes: Uint8Array; kind: number; id: number; next: number }> {
    let [at, id] = [this.superblock.start, this.superblock.sequence];
    for (let left = this.end - this.superblock.first; left > 0;) {
      if (until !== undefined && isFrom(id, until)) return;
      const bytes = await this.file.block(at);
      const { magic, kind, sequence } = decode(BLOCK_HEAD, bytes);
      if (magic !== JOURNAL_MAGIC || sequence !== id) return;
      const next = this.after(at);
      if (kind === DESCRIPTOR) {
        const tags = this.tags(bytes).length;
        yield { bytes, kind, id, next };
        at = this.after(next, tags);
        left -= 1 + tags;
      } else if (kind === COMMITTED || kind === REVOCATIONS) {
        yield { bytes, kind, id, next };
        at = next;
        left -= 1;
        if (kind === COMMITTED) id = (id + 1) >>> 0;
      } else return;
    }
  }

  /** The transaction that would follow the last whole one. */
  async findEnd(): Promise<number> {
    const isSummedOfOld = (this.superblock.compatible & SUMS_OF_OLD) !== 0;
    let end = this.superblock.sequence;
    let [isDoubtful, lastTime] = [false, 0n];
    let sum = 0xffffffff;
    for await (const { bytes, kind, id, next } of this.heads()) {
      if (kind === DESCRIPTOR && isSummedOfOld) {
        sum = crc32HighFirst(bytes, sum);
        let at = next;
        for (let left = this.tags(bytes).length; left > 0; left--) {
          sum = crc32HighFirst(await this.file.block(at), sum);
          at = this.after(at);
        }
      }
      if (kind !== COMMITTED) {
        // A block of an earlier round of the log may look like one of this: when its end was written tells.
        if (!this.tailIsRight(bytes)) isDoubtful = true;
        continue;
      }
      const commit = decode(COMMIT, bytes);
      if (isDoubtful) {
        if (commit.seconds >= lastTime)
          throw new JournalBroken(`the checksum of a block of transaction ${id} is wrong`);
        return end;
      }
      const isRightOfOld = commit.sumKind === 1 && commit.sumBytes === 4 && commit.sum === sum;
      const isUnsummed = commit.sumKind === 0 && commit.sumBytes === 0 && commit.sum === 0;
      if (isSummedOfOld && !isRightOfOld && !isUnsummed) return end;
      if (!this.commitIsRight(bytes)) return end;
      sum = 0xffffffff;
      lastTime = commit.seconds;
      end = (id + 1) >>> 0;
    }
    return end;
  }

  async findRevoked(end: number): Promise<void> {
    const width = this.isLong ? 8 : 4;
    for await (const { bytes, kind, id } of this.heads(end)) {
      if (kind !== REVOCATIONS) continue;
      if (!this.tailIsRight(bytes))
        throw new JournalBroken(`the checksum of revocations of transaction ${id} is wrong`);
      const view = viewOf(bytes);
      const length = view.getUint32(REVOKED_LENGTH_AT);
      if (length > bytes.length - (this.isSummed ? TAIL : 0))
        throw new JournalBroken(`revocations of transaction ${id} are longer than their block`);
      for (let at = REVOKED_AT; at + width <= length; at += width) {
        const block = this.isLong ? Number(view.getBigUint64(at)) : view.getUint32(at);
        const known = this.revoked.get(block);
        if (known === undefined || isAfter(id, known)) this.revoked.set(block, id);
      }
    }
  }

  async gather(end: number): Promise<void> {
    for await (const { bytes, kind, id, next } of this.heads(end)) {
      if (kind !== DESCRIPTOR) continue;
      if (!this.tailIsRight(bytes)) throw new JournalBroken(`the checksum of a block of transaction ${id} is wrong`);
      const seed = crc32cOfNumber(swapped(id), this.seed);
      let at = next;
      for (const { block, flags, sum } of this.tags(bytes)) {
        const revoked = this.revoked.get(block);
        if (revoked === undefined || !isFrom(revoked, id)) {
          if (this.isSummed) {
            const found = crc32c(await this.file.block(at), seed);
            if ((this.isSummed3 ? found : found & 0xffff) !== sum)
              throw new JournalBroken(`the checksum of block ${grouped(block)} in transaction ${id} is wrong`);
          }
          if (block >= this.blocks)
            throw new JournalBroken(`transaction ${id} has a block ${grouped(block)}, which the volume does not have`);
          this.patches.set(block, { from: this.file.placeOf(at), isEscaped: (flags & TAG.escaped) !== 0 });
        }
        at = this.after(at);
      }
    }
  }

  /** True where there are fast commits that go on from a transaction. */
  async hasFast(next: number): Promise<boolean> {
    const { fast } = this;
    if (!fast) return false;
    for (const block of [fast.log, fast.log + 1]) {
      const view = viewOf(await this.file.block(block));
      if (view.getUint16(0, true) === FAST_HEAD && view.getUint32(8, true) === next) return true;
    }
    return false;
  }
}

function viewOf(bytes: Uint8Array): DataView {
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
}

/** A number whose bytes are in the other order: sums take that of a transaction as it stands in the journal. */
function swapped(value: number): number {
  const view = new DataView(new ArrayBuffer(4));
  view.setUint32(0, value);
  return view.getUint32(0, true);
}

function refuse(superblock: JournalSuperblock, bytes: Uint8Array, block: number): void {
  const { magic, kind, incompatible, first, blocks, start, checksumType, checksum } = superblock;
  if (magic !== JOURNAL_MAGIC || (kind !== FIRST_FORM && kind !== SECOND_FORM))
    throw new JournalBroken('its first block is not that of a journal');
  if (superblock.block !== block) throw new JournalBroken(`its blocks are of ${grouped(superblock.block)} bytes`);
  if (first < 1 || first >= blocks || blocks > MOST_BLOCKS || start >= blocks || (start !== 0 && start < first))
    throw new JournalBroken('its superblock contradicts itself');
  if (kind === FIRST_FORM) return;
  const unknown = incompatible & ~ALL_FEATURES;
  if (unknown !== 0)
    throw new JournalBroken(`it has features that are not known (${(unknown >>> 0).toString(16).toUpperCase()}h)`);
  if ((incompatible & (FEATURE.sums2 | FEATURE.sums3)) === 0) return;
  if (checksumType !== CRC32C_KIND) throw new JournalBroken('its checksums are of a kind that is not known');
  if (journalSum(bytes) !== checksum) throw new JournalBroken('the checksum of its superblock is wrong');
}

/** The checksum that a superblock of a journal should have. */
export function journalSum(bytes: Uint8Array): number {
  const zeroed = new Uint8Array(bytes.subarray(0, JOURNAL_SUPERBLOCK.length));
  const { offset } = JOURNAL_SUPERBLOCK.fields.checksum;
  zeroed.fill(0, offset, offset + 4);
  return crc32c(zeroed);
}

/** Reads the log of a journal. Throws a JournalBroken where it cannot be replayed. */
export async function readLog(inodes: Inodes, inode: ExtInode): Promise<Log> {
  try {
    const file = await JournalFile.open(inodes, inode);
    const bytes = new Uint8Array((await file.block(0)).subarray(0, JOURNAL_SUPERBLOCK.length));
    const found = decode(JOURNAL_SUPERBLOCK, bytes);
    refuse(found, bytes, inodes.head.block);
    // Of the first form what stands behind its fields means nothing.
    const superblock = found.kind === FIRST_FORM ? { ...found, compatible: 0, incompatible: 0 } : found;
    const reader = new LogReader(file, superblock, inodes.head.blocks);
    const { sequence, start } = superblock;
    const next = start === 0 ? sequence : await reader.findEnd();
    if (next !== sequence) {
      await reader.findRevoked(next);
      await reader.gather(next);
    }
    const { patches } = reader;
    const hasFast = start !== 0 && (await reader.hasFast(next));
    return { superblock, at: file.placeOf(0), patches, transactions: (next - sequence) >>> 0, next, hasFast };
  } catch (error) {
    if (error instanceof BrokenChain) throw new JournalBroken(error.message);
    throw error;
  }
}

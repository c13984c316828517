/**
 * Writes extents into a new file, in batches of blocks. A little is written here, between other
 * work; much is written by two threads, because copying in memory is what it costs, and the
 * server stays free. What was written is flushed as the work goes on, so that the last sync has
 * little left to wait for.
 */
import { MIB } from '@/core/quantity/units';
import type { FileHandle } from 'node:fs/promises';
import { setImmediate as otherWork } from 'node:timers/promises';
import { crcJoined } from '@/core/bytes/crc32';
import { type Copied, type Coverage, type Extent, lengthOf } from '@/core/bytes/extents';
import {
  type Block,
  BlockWriter,
  type WriteResult,
  type SumOfPart,
  type Trouble,
  type WriteWorkerData,
} from './block-writer';
import { startThread, workerFile } from './thread';

/** Bytes of a block: several of them stay in the cache of a processor. */
const BLOCK = 128 * 1024;
/** Bytes of a batch, at most: less than a millisecond's work here, some ten in a thread, because threads that take turns at writing wait for each other. */
const BATCH_HERE = BLOCK;
const BATCH_THREAD = 64 * BLOCK;
/** Runs of zeros of a page and more are left as holes of the new file. */
const SMALL_ZEROS = 4096;
/** Bytes after which the disk is asked to begin writing. */
const FLUSH_AFTER = 256 * MIB;
/** Stored content from which on threads are worth their start: bytes of it, or pieces. */
const MANY_BYTES = 32 * MIB;
const MANY_PIECES = 2000;
const THREADS = 2;
/** Batches that a thread has at once, so that it need not wait for the next. */
const AT_ONCE = 2;
/** What such a thread makes and lets go of at once is little: more room for that would only lie there. */
const LITTLE_MEMORY = { maxYoungGenerationSizeMb: 4 };

export interface WriteOptions {
  readonly handle: FileHandle;
  /** Bytes of a block, where the rate is held down and steps shall be small. */
  readonly step?: number | undefined;
  /** Where stored content lies. */
  readonly fileOf: (sha256: string) => string;
  /** Learns of every range that was written. */
  readonly written: Coverage;
  readonly onWritten: (bytes: number) => void;
  /** Called before each batch; throws to stop. */
  readonly checkpoint: () => Promise<void> | void;
  /** Makes the error for what went wrong with stored content, or a block that reads back differently. */
  readonly failed: (trouble: Exclude<Trouble, { kind: 'system' }>) => Error;
}

/** Extents (ascending, without overlap) as blocks of neighbouring bytes. */
function* blocksOf(
  extents: Iterable<Extent>,
  most: number,
  fileOf: WriteOptions['fileOf'],
  sums: Sums,
): Generator<Block> {
  let open: Block | undefined;
  // Of many files in one archive it is asked once.
  let stored = { from: '', file: '' };
  const placeOf = (from: string) => {
    if (stored.from !== from) stored = { from, file: fileOf(from) };
    return stored.file;
  };
  const startsAnew = (offset: number) => !open || open.offset + open.length !== offset || open.length >= most;
  for (const extent of extents) {
    const length = lengthOf(extent);
    if ('zeros' in extent && (length >= SMALL_ZEROS || !open || open.offset + open.length !== extent.offset)) continue;
    const file = 'copied' in extent ? placeOf(extent.copied.from) : '';
    // Where the sum is known, it is compared: at once where all of it lies in one block, else when all parts are there.
    const sum = 'copied' in extent ? extent.copied.crc32 : undefined;
    let copy: number | undefined;
    for (let done = 0; done < length;) {
      const offset = extent.offset + done;
      if (startsAnew(offset)) {
        if (open) yield open;
        open = { offset, length: 0, segments: [] };
      }
      const block: Block = open!;
      const run = Math.min(most - block.length, length - done);
      const at = block.length;
      // A copy of its own: a thread would otherwise be sent all that lies around it.
      if ('bytes' in extent) block.segments.push({ at, bytes: extent.bytes.slice(done, done + run) });
      else if ('zeros' in extent) block.segments.push({ at, zeros: run });
      else {
        const segment = { at, length: run, file, from: extent.copied.at + done };
        if (sum === undefined) block.segments.push(segment);
        else if (run === length) block.segments.push({ ...segment, copy: 0, crc32: sum });
        else block.segments.push({ ...segment, copy: (copy ??= sums.begin(file, extent.copied)) });
      }
      block.length += run;
      done += run;
    }
  }
  if (open) yield open;
}

/** Sums of copies that lie in several blocks: gathered part by part, from whoever wrote them, and compared. */
class Sums {
  private readonly copies = new Map<number, { file: string; copied: Copied; parts: SumOfPart[]; bytes: number }>();
  private count = 0;

  begin(file: string, copied: Copied): number {
    this.copies.set(++this.count, { file, copied, parts: [], bytes: 0 });
    return this.count;
  }

  /** Takes sums in; tells a copy that is whole now and has another sum than it should. */
  add(parts: readonly SumOfPart[]): Trouble | undefined {
    for (const part of parts) {
      const known = this.copies.get(part.copy)!;
      known.parts.push(part);
      known.bytes += part.length;
      if (known.bytes < known.copied.length) continue;
      this.copies.delete(part.copy);
      const inOrder = known.parts.sort((a, b) => a.from - b.from);
      const sum = inOrder.reduce((crc, one) => crcJoined(crc, one.crc32, one.length), 0);
      if (sum !== known.copied.crc32) return { kind: 'changed', file: known.file, at: known.copied.at };
    }
    return undefined;
  }
}

/** Extents all at once, or in lots as they are made. */
export type Lots = readonly Extent[] | AsyncIterable<readonly Extent[]>;

const isInLots = (extents: Lots): extents is AsyncIterable<readonly Extent[]> => Symbol.asyncIterator in extents;

/** Blocks in batches of about so many bytes. */
function* batchesOf(blocks: Iterable<Block>, most: number): Generator<Block[]> {
  let [batch, bytes]: [Block[], number] = [[], 0];
  for (const block of blocks) {
    batch.push(block);
    bytes += block.length;
    if (bytes < most) continue;
    yield batch;
    [batch, bytes] = [[], 0];
  }
  if (batch.length > 0) yield batch;
}

/** Asks the disk, from time to time, to write what it was given, and remembers what went wrong with that. */
class BackgroundFlush {
  private running: Promise<void> | undefined;
  private bytes = 0;
  private failure: { readonly error: unknown } | undefined;

  constructor(private readonly handle: FileHandle) {}

  add(bytes: number): void {
    if (this.failure) throw this.failure.error;
    this.bytes += bytes;
    if (this.bytes < FLUSH_AFTER || this.running) return;
    this.bytes = 0;
    this.running = this.handle
      .datasync()
      .catch((error: unknown) => {
        this.failure = { error };
      })
      .finally(() => (this.running = undefined));
  }

  /** Waits for the last one, and tells what went wrong: the system says so once, and no later sync says it again. */
  async end(): Promise<void> {
    await this.running;
    if (this.failure) throw this.failure.error;
  }
}

/** Writes batches of blocks, here or in a thread; what went wrong is a part of the result. */
interface Writer {
  readonly write: (batch: readonly Block[]) => Promise<WriteResult>;
  readonly close: () => Promise<unknown>;
}

function localWriter(descriptor: number): Writer {
  const blocks = new BlockWriter(descriptor, BLOCK);
  return {
    write: async (batch) => {
      const result = blocks.write(batch);
      await otherWork();
      return result;
    },
    close: () => Promise.resolve(blocks.close()),
  };
}

function threadWriter(descriptor: number, turn: SharedArrayBuffer): Writer {
  const data: WriteWorkerData = { descriptor, most: BLOCK, turn };
  const { ask, close } = startThread<readonly Block[], WriteResult>(
    workerFile('write-worker'),
    data,
    'The thread that writes has ended.',
    LITTLE_MEMORY,
  );
  return { write: ask, close };
}

/** Whether there is so much stored content that threads are worth it: of what comes in lots there is. */
function isMuch(extents: Lots): boolean {
  if (isInLots(extents)) return true;
  let [bytes, pieces] = [0, 0];
  for (const extent of extents) {
    if (!('copied' in extent)) continue;
    bytes += extent.copied.length;
    pieces += 1;
  }
  return bytes >= MANY_BYTES || pieces >= MANY_PIECES;
}

/**
 * Writes all extents (ascending, or so in each lot) and compares each byte that was written with what was meant. Returns how
 * many those were.
 */
export async function writeExtents(extents: Lots, options: WriteOptions): Promise<number> {
  const { handle, written, checkpoint, onWritten, fileOf, failed, step } = options;
  const isThreaded = step === undefined && isMuch(extents);
  const turn = new SharedArrayBuffer(4);
  const writers = isThreaded
    ? Array.from({ length: THREADS }, () => threadWriter(handle.fd, turn))
    : [localWriter(handle.fd)];
  const sums = new Sums();
  const batchBytes = isThreaded ? BATCH_THREAD : Math.min(step ?? BATCH_HERE, BATCH_HERE);
  const batches = (async function* () {
    for await (const lot of isInLots(extents) ? extents : [extents])
      yield* batchesOf(blocksOf(lot, Math.min(step ?? BLOCK, BLOCK), fileOf, sums), batchBytes);
  })();
  const flush = new BackgroundFlush(handle);
  let total = 0;
  let hasFailed = false;
  const work = async (writer: Writer) => {
    try {
      for (;;) {
        await checkpoint();
        if (hasFailed) return;
        const next = await batches.next();
        if (next.done) return;
        const batch = next.value;
        for (const { offset, length } of batch) written.add(offset, length);
        const result = await writer.write(batch);
        const trouble = result.trouble ?? sums.add(result.sums);
        if (trouble?.kind === 'system') throw Object.assign(new Error(trouble.message), { code: trouble.code });
        if (trouble) throw failed(trouble);
        const bytes = batch.reduce((sum, { length }) => sum + length, 0);
        total += bytes;
        onWritten(bytes);
        flush.add(bytes);
      }
    } catch (error) {
      hasFailed = true;
      throw error;
    }
  };
  // The file is let go of only when nobody writes any more.
  const rounds = Array.from({ length: isThreaded ? AT_ONCE : 1 }, () => writers);
  const outcomes = await Promise.allSettled(rounds.flat().map(work));
  await Promise.all(writers.map((writer) => writer.close()));
  const flushed = await Promise.allSettled([flush.end()]);
  const rejected = [...outcomes, ...flushed].find((one) => one.status === 'rejected');
  if (rejected) throw rejected.reason;
  return total;
}

/**
 * Pouring ranges into a new file, in small steps: a step fills a block from stored contents,
 * writes it, reads it back and compares it, all while it is in the processor's cache. A step is
 * made without waiting, because that costs half as much as waiting for each of its parts; it
 * takes about a millisecond, and other work of the server comes between. Where the disk holds a
 * step up, the next ones are made by waiting. What was written is handed to the disk as the work
 * goes on, so that the last sync has little left to wait for.
 */
import { readSync, writeSync } from 'node:fs';
import type { FileHandle } from 'node:fs/promises';
import { setImmediate as otherWork } from 'node:timers/promises';
import { type Copied, type Coverage, type Extent, lengthOf } from '@/core/bytes/extents';

/** Bytes of a block. */
const BLOCK = 512 * 1024;
/** Runs of zeros of a page and more are left as holes of the new file. */
const SMALL_ZEROS = 4096;
/** Bytes after which the disk is asked to begin writing. */
const HAND_OVER = 256 * 1024 * 1024;
/** A step that takes longer, in milliseconds, was held up; so many after it are made by waiting. */
const HELD_UP = 25;
const WAITING_STEPS = 16;

export interface Pouring {
  readonly handle: FileHandle;
  /** Bytes of a block, where steps shall be smaller than usual. */
  readonly step?: number | undefined;
  /** Fills a buffer with stored content. */
  readonly read: (wanted: Copied, into: Uint8Array) => void;
  /** Learns of every range that was written. */
  readonly written: Coverage;
  readonly onWritten: (bytes: number) => void;
  /** Called before each block; throws to stop. */
  readonly checkpoint: () => Promise<void> | void;
  /** Makes the error for a block that reads back differently. */
  readonly differs: (offset: number) => Error;
}

/** A part of a block: where in the block, and what. */
type Segment =
  | { readonly at: number; readonly bytes: Uint8Array }
  | { readonly at: number; readonly zeros: number }
  | { readonly at: number; readonly copied: Copied };

interface Block {
  readonly offset: number;
  length: number;
  readonly segments: Segment[];
}

/** Extents (ascending, without overlap) as blocks of neighbouring bytes. */
function* blocksOf(extents: Iterable<Extent>, most: number): Generator<Block> {
  let open: Block | undefined;
  const startsAnew = (offset: number) => !open || open.offset + open.length !== offset || open.length >= most;
  for (const extent of extents) {
    const length = lengthOf(extent);
    if ('zeros' in extent && (length >= SMALL_ZEROS || !open || open.offset + open.length !== extent.offset)) continue;
    for (let done = 0; done < length;) {
      const offset = extent.offset + done;
      if (startsAnew(offset)) {
        if (open) yield open;
        open = { offset, length: 0, segments: [] };
      }
      const block: Block = open!;
      const run = Math.min(most - block.length, length - done);
      const at = block.length;
      if ('bytes' in extent) block.segments.push({ at, bytes: extent.bytes.subarray(done, done + run) });
      else if ('zeros' in extent) block.segments.push({ at, zeros: run });
      else block.segments.push({ at, copied: { from: extent.copied.from, at: extent.copied.at + done, length: run } });
      block.length += run;
      done += run;
    }
  }
  if (open) yield open;
}

function fill(block: Block, into: Uint8Array, read: Pouring['read']): void {
  for (const segment of block.segments) {
    if ('bytes' in segment) into.set(segment.bytes, segment.at);
    else if ('zeros' in segment) into.fill(0, segment.at, segment.at + segment.zeros);
    else read(segment.copied, into.subarray(segment.at, segment.at + segment.copied.length));
  }
}

/** Asks the disk, from time to time, to write what it was given, and remembers what went wrong with that. */
class HandingOver {
  private running: Promise<void> | undefined;
  private bytes = 0;
  private failure: { readonly error: unknown } | undefined;

  constructor(private readonly handle: FileHandle) {}

  add(bytes: number): void {
    if (this.failure) throw this.failure.error;
    this.bytes += bytes;
    if (this.bytes < HAND_OVER || this.running) return;
    this.bytes = 0;
    this.running = this.handle
      .datasync()
      .catch((error: unknown) => {
        this.failure = { error };
      })
      .finally(() => (this.running = undefined));
  }

  async end(): Promise<void> {
    await this.running;
  }
}

/** Writes all extents and compares each byte that was written with what was meant. Returns how many those were. */
export async function pourInto(extents: Iterable<Extent>, pouring: Pouring): Promise<number> {
  const { handle, written, checkpoint, onWritten, read, differs, step = BLOCK } = pouring;
  const out = Buffer.allocUnsafeSlow(BLOCK);
  const back = Buffer.allocUnsafeSlow(BLOCK);
  const handing = new HandingOver(handle);
  let [total, waiting] = [0, 0];
  try {
    for (const block of blocksOf(extents, Math.min(step, BLOCK))) {
      await checkpoint();
      const { offset, length } = block;
      const begun = performance.now();
      fill(block, out, read);
      written.add(offset, length);
      const isWaiting = waiting > 0;
      const wrote = isWaiting
        ? (await handle.write(out, 0, length, offset)).bytesWritten
        : writeSync(handle.fd, out, 0, length, offset);
      if (wrote !== length) throw new Error(`${wrote} of ${length} bytes written`);
      const found = isWaiting
        ? (await handle.read(back, 0, length, offset)).bytesRead
        : readSync(handle.fd, back, 0, length, offset);
      if (found !== length || out.compare(back, 0, length, 0, length) !== 0) throw differs(offset);
      if (isWaiting) waiting -= 1;
      else if (performance.now() - begun > HELD_UP) waiting = WAITING_STEPS;
      total += length;
      onWritten(length);
      handing.add(length);
      await otherWork();
    }
  } finally {
    await handing.end();
  }
  return total;
}

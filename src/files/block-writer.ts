/**
 * Writing blocks: each is filled, written, read back and compared, all while it is in the
 * processor's cache, and without waiting, which costs half as much as waiting for each part.
 */
import { closeSync, openSync, readSync, writeSync } from 'node:fs';
import { crc32 } from 'node:zlib';

/** A part of a block: where in the block, and what; `file` is read from its byte `from`. */
export type Segment =
  | { readonly at: number; readonly bytes: Uint8Array }
  | { readonly at: number; readonly zeros: number }
  | {
      readonly at: number;
      readonly length: number;
      readonly file: string;
      readonly from: number;
      /** Which copy it is a part of, where the CRC-32 of that is known; and that, where this is all of it. */
      readonly copy?: number;
      readonly crc32?: number;
    };

/** The CRC-32 of a part of a copy, in the order in which the parts lie in it. */
export interface SumOfPart {
  readonly copy: number;
  readonly from: number;
  readonly length: number;
  readonly crc32: number;
}

/** Neighbouring bytes that are written at once, at a byte of the image. */
export interface Block {
  readonly offset: number;
  length: number;
  readonly segments: Segment[];
}

/** Why writing stopped. It is plain data, because it may come from another thread. */
export type Trouble =
  | { readonly kind: 'differs'; readonly offset: number }
  | { readonly kind: 'gone'; readonly file: string }
  | {
      readonly kind: 'short';
      readonly file: string;
      readonly at: number;
      readonly wanted: number;
      readonly end: number;
    }
  /** Its bytes, from `at` on, have another sum than what was stored. */
  | { readonly kind: 'changed'; readonly file: string; readonly at: number }
  | { readonly kind: 'system'; readonly message: string; readonly code: string | undefined };

/** What came of some blocks: what went wrong, and the sums of parts of copies that others have to join. */
export interface WriteResult {
  readonly trouble: Trouble | undefined;
  readonly sums: readonly SumOfPart[];
}

/** What a thread that writes needs to know: the open file, and the most bytes of a block. */
export interface WriteWorkerData {
  readonly descriptor: number;
  readonly most: number;
  /** Four bytes that all who write into the file share. */
  readonly turn: SharedArrayBuffer;
}

/** States of a turn: the last one asks whoever ends it to wake another. */
const [FREE, TAKEN, WAITED_FOR] = [0, 1, 2];
/** Looks at a turn before one sleeps: about as long as a block takes to be written, because waking takes as long. */
const LOOKS = 6000;
/** Milliseconds that one waits for a turn. */
const LONGEST = 2000;

/**
 * Whose turn it is to write: the system lets one at a time write into a file, and keeps the others busy with waiting, each on a
 * processor of its own. Here they sleep.
 */
export class Turn {
  private readonly state: Int32Array;

  /** `longest`: milliseconds after which a holder that has not ended its turn is taken to be gone. */
  constructor(
    shared: SharedArrayBuffer,
    private readonly longest = LONGEST,
  ) {
    this.state = new Int32Array(shared);
  }

  /** Takes it where nobody has it. */
  tryTake(): boolean {
    return Atomics.compareExchange(this.state, 0, FREE, TAKEN) === FREE;
  }

  /** Waits for the turn. False if its holder seems to be gone: the turn is taken all the same, the system keeps writes in order. */
  take(): boolean {
    for (let i = 0; i < LOOKS; i++) if (Atomics.load(this.state, 0) === FREE && this.tryTake()) return true;
    while (Atomics.exchange(this.state, 0, WAITED_FOR) !== FREE)
      if (Atomics.wait(this.state, 0, WAITED_FOR, this.longest) === 'timed-out') return false;
    return true;
  }

  end(): void {
    if (Atomics.exchange(this.state, 0, FREE) === WAITED_FOR) Atomics.notify(this.state, 0, 1);
  }
}

/** Reads a range, or as much of it as there is; returns how much that was. */
function readWhole(descriptor: number, into: Buffer, at: number, length: number, from: number): number {
  let done = 0;
  while (done < length) {
    const read = readSync(descriptor, into, at + done, length - done, from + done);
    if (read === 0) break;
    done += read;
  }
  return done;
}

/** Writes blocks of at most `most` bytes into the open file `target`. */
export class BlockWriter {
  /** What is written, and what was written before it and is to be compared yet, in turn. */
  private out: Buffer;
  private before: Buffer;
  private readonly back: Buffer;
  private written: { readonly offset: number; readonly length: number } | undefined;
  /** The file that was read last stays open: large ones are read block by block. */
  private source: { readonly file: string; readonly descriptor: number } | undefined;

  /** `turn`: of those who write into the file at once. */
  constructor(
    private readonly target: number,
    most: number,
    private readonly turn?: Turn,
  ) {
    this.out = Buffer.allocUnsafeSlow(most);
    this.before = Buffer.allocUnsafeSlow(most);
    this.back = Buffer.allocUnsafeSlow(most);
  }

  /** Writes blocks, in order, until one fails. */
  write(blocks: readonly Block[]): WriteResult {
    const sums: SumOfPart[] = [];
    try {
      for (const block of blocks) {
        const trouble = this.writeBlock(block, sums);
        if (trouble) return { trouble, sums };
      }
      return { trouble: this.compare(), sums };
    } catch (error) {
      const { message, code } = error as NodeJS.ErrnoException;
      return { trouble: { kind: 'system', message, code }, sums };
    }
  }

  /** Closes what reading left open. */
  close(): void {
    if (this.source) closeSync(this.source.descriptor);
    this.source = undefined;
  }

  private opened(file: string): number {
    if (this.source?.file === file) return this.source.descriptor;
    this.close();
    // The place of a stored file; the web framework's build shall not look for it.
    this.source = { file, descriptor: openSync(/* turbopackIgnore: true */ file, 'r') };
    return this.source.descriptor;
  }

  private writeBlock(block: Block, sums: SumOfPart[]): Trouble | undefined {
    const trouble = this.fill(block, sums);
    if (trouble) return trouble;
    const { offset, length } = block;
    if (this.turn && !this.turn.tryTake()) {
      // While another one writes.
      const differing = this.compare();
      if (differing) return differing;
      this.turn.take();
    }
    try {
      this.writeOut(offset, length);
    } finally {
      this.turn?.end();
    }
    const differing = this.compare();
    [this.out, this.before] = [this.before, this.out];
    this.written = { offset, length };
    return differing;
  }

  /** Reads back what was written last, where it was not yet, and compares it. */
  private compare(): Trouble | undefined {
    if (!this.written) return undefined;
    const { offset, length } = this.written;
    this.written = undefined;
    const found = readWhole(this.target, this.back, 0, length, offset);
    const isEqual = found === length && this.before.compare(this.back, 0, length, 0, length) === 0;
    return isEqual ? undefined : { kind: 'differs', offset };
  }

  private writeOut(offset: number, length: number): void {
    for (let done = 0; done < length;) {
      const taken = writeSync(this.target, this.out, done, length - done, offset + done);
      if (taken === 0) throw Object.assign(new Error('The system took no more bytes.'), { code: 'ENOSPC' });
      done += taken;
    }
  }

  private fill(block: Block, sums: SumOfPart[]): Trouble | undefined {
    for (const segment of block.segments) {
      if ('bytes' in segment) this.out.set(segment.bytes, segment.at);
      else if ('zeros' in segment) this.out.fill(0, segment.at, segment.at + segment.zeros);
      else {
        const trouble = this.copy(segment, sums);
        if (trouble) return trouble;
      }
    }
    return undefined;
  }

  private copy(segment: Extract<Segment, { file: string }>, sums: SumOfPart[]): Trouble | undefined {
    const { at, length, file, from, copy, crc32: meant } = segment;
    let descriptor: number;
    try {
      descriptor = this.opened(file);
    } catch (error) {
      if ((error as { code?: string }).code === 'ENOENT') return { kind: 'gone', file };
      throw error;
    }
    const read = readWhole(descriptor, this.out, at, length, from);
    if (read < length) return { kind: 'short', file, at: from, wanted: from + length, end: from + read };
    if (copy === undefined) return undefined;
    const crc = crc32(this.out.subarray(at, at + length));
    if (meant === undefined) sums.push({ copy, from, length, crc32: crc });
    else if (meant !== crc) return { kind: 'changed', file, at: from };
    return undefined;
  }
}

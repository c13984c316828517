/**
 * Pouring blocks: each is filled, written, read back and compared, all while it is in the
 * processor's cache, and without waiting, which costs half as much as waiting for each part.
 */
import type * as FileSystem from 'node:fs';

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

/** Why pouring stopped. It is plain data, because it may come from another thread. */
export type Trouble =
  | { readonly kind: 'differs'; readonly offset: number }
  | { readonly kind: 'gone'; readonly file: string }
  | { readonly kind: 'short'; readonly file: string; readonly wanted: number; readonly end: number }
  /** Its bytes have another sum than what was stored. */
  | { readonly kind: 'changed'; readonly file: string }
  | { readonly kind: 'system'; readonly message: string; readonly code: string | undefined };

/** What came of some blocks: what went wrong, and the sums of parts of copies that others have to join. */
export interface Poured {
  readonly trouble: Trouble | undefined;
  readonly sums: readonly SumOfPart[];
}

export interface Pourer {
  /** Pours blocks, in order, until one fails. */
  readonly pour: (blocks: readonly Block[]) => Poured;
  /** Closes what reading left open. */
  readonly end: () => void;
}

/**
 * Makes a pourer for the open file `target` and blocks of at most `most` bytes. The text of
 * this function is also the program of a thread: it uses its parameters and nothing else.
 */
export function makePourer(
  fs: typeof FileSystem,
  crc32: (bytes: Uint8Array) => number,
  target: number,
  most: number,
): Pourer {
  const out = Buffer.allocUnsafeSlow(most);
  const back = Buffer.allocUnsafeSlow(most);
  // The file that was read last stays open: large ones are read block by block.
  let open: { file: string; descriptor: number } | undefined;
  const close = () => {
    if (open) fs.closeSync(open.descriptor);
    open = undefined;
  };
  const opened = (file: string): number => {
    if (open?.file === file) return open.descriptor;
    close();
    // The place of a stored file; the web framework's build shall not look for it.
    open = { file, descriptor: fs.openSync(/* turbopackIgnore: true */ file, 'r') };
    return open.descriptor;
  };
  const readWhole = (descriptor: number, into: Buffer, at: number, length: number, from: number): number => {
    let done = 0;
    while (done < length) {
      const read = fs.readSync(descriptor, into, at + done, length - done, from + done);
      if (read === 0) break;
      done += read;
    }
    return done;
  };
  const fill = (block: Block, sums: SumOfPart[]): Trouble | undefined => {
    for (const segment of block.segments) {
      if ('bytes' in segment) out.set(segment.bytes, segment.at);
      else if ('zeros' in segment) out.fill(0, segment.at, segment.at + segment.zeros);
      else {
        const { at, length, file, from } = segment;
        let descriptor: number;
        try {
          descriptor = opened(file);
        } catch (error) {
          if ((error as { code?: string }).code === 'ENOENT') return { kind: 'gone', file };
          throw error;
        }
        const read = readWhole(descriptor, out, at, length, from);
        if (read < length) return { kind: 'short', file, wanted: from + length, end: from + read };
        if (segment.copy === undefined) continue;
        const crc = crc32(out.subarray(at, at + length));
        if (segment.crc32 === undefined) sums.push({ copy: segment.copy, from, length, crc32: crc });
        else if (segment.crc32 !== crc) return { kind: 'changed', file };
      }
    }
    return undefined;
  };
  const pourOne = (block: Block, sums: SumOfPart[]): Trouble | undefined => {
    const trouble = fill(block, sums);
    if (trouble) return trouble;
    const { offset, length } = block;
    for (let done = 0; done < length;) done += fs.writeSync(target, out, done, length - done, offset + done);
    const found = readWhole(target, back, 0, length, offset);
    if (found !== length || out.compare(back, 0, length, 0, length) !== 0) return { kind: 'differs', offset };
    return undefined;
  };
  return {
    pour: (blocks) => {
      const sums: SumOfPart[] = [];
      try {
        for (const block of blocks) {
          const trouble = pourOne(block, sums);
          if (trouble) return { trouble, sums };
        }
        return { trouble: undefined, sums };
      } catch (error) {
        const { message, code } = error as NodeJS.ErrnoException;
        return { trouble: { kind: 'system', message, code }, sums };
      }
    },
    end: close,
  };
}

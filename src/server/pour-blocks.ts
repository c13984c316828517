/**
 * Pouring blocks: each is filled, written, read back and compared, all while it is in the
 * processor's cache, and without waiting, which costs half as much as waiting for each part.
 */
import type * as FileSystem from 'node:fs';

/** A part of a block: where in the block, and what; `file` is read from its byte `from`. */
export type Segment =
  | { readonly at: number; readonly bytes: Uint8Array }
  | { readonly at: number; readonly zeros: number }
  | { readonly at: number; readonly length: number; readonly file: string; readonly from: number };

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
  | { readonly kind: 'system'; readonly message: string; readonly code: string | undefined };

export interface Pourer {
  /** Pours blocks, in order, until one fails. */
  readonly pour: (blocks: readonly Block[]) => Trouble | undefined;
  /** Closes what reading left open. */
  readonly end: () => void;
}

/**
 * Makes a pourer for the open file `target` and blocks of at most `most` bytes. The text of
 * this function is also the program of a thread: it uses its parameters and nothing else.
 */
export function makePourer(fs: typeof FileSystem, target: number, most: number): Pourer {
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
  const fill = (block: Block): Trouble | undefined => {
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
      }
    }
    return undefined;
  };
  const pourOne = (block: Block): Trouble | undefined => {
    const trouble = fill(block);
    if (trouble) return trouble;
    const { offset, length } = block;
    for (let done = 0; done < length;) done += fs.writeSync(target, out, done, length - done, offset + done);
    const found = readWhole(target, back, 0, length, offset);
    if (found !== length || out.compare(back, 0, length, 0, length) !== 0) return { kind: 'differs', offset };
    return undefined;
  };
  return {
    pour: (blocks) => {
      try {
        for (const block of blocks) {
          const trouble = pourOne(block);
          if (trouble) return trouble;
        }
        return undefined;
      } catch (error) {
        const { message, code } = error as NodeJS.ErrnoException;
        return { kind: 'system', message, code };
      }
    },
    end: close,
  };
}

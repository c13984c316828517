/** Where bytes come from and go to. The core reads and writes through these and nothing else. */
import { MIB } from '../quantity/units';
import { type Copied, type Extent, lengthOf } from './extents';

/** Random-access bytes of known length, read by ranges. */
export interface BlockSource {
  readonly size: number;
  /**
   * Reads exactly `length` bytes at `offset`; rejects if the range leaves the source. Who reads
   * many windows may lend a buffer `into`, of which a part may come back.
   */
  read(offset: number, length: number, into?: Uint8Array): Promise<Uint8Array>;
  /** True when the range is known to hold only zeros, so that it need not be read. */
  isHole?(offset: number, length: number): boolean;
}

/** A source turned out to be shorter than it said: it shrank while it was read. */
export class SourceShrank extends Error {}

/** Takes written ranges. `blank` says that everything not written yet is known to be zero. */
export interface BlockSink {
  readonly blank: boolean;
  write(offset: number, bytes: Uint8Array): Promise<void>;
}

/** Bytes in memory as source and sink, for tests and for small things. */
export function memoryBlocks(bytes: Uint8Array, blank = false): BlockSource & BlockSink {
  return {
    size: bytes.length,
    blank,
    read: (offset, length) =>
      offset + length > bytes.length
        ? Promise.reject(new RangeError(`range ${offset}+${length} leaves ${bytes.length} bytes`))
        : Promise.resolve(bytes.slice(offset, offset + length)),
    write: (offset, data) => {
      bytes.set(data, offset);
      return Promise.resolve();
    },
  };
}

/** Largest run of zeros that is written at once. */
const ZERO_RUN = MIB;

/** What `writeAll` reports while it works, in bytes given to the sink. */
export interface WriteAllOptions {
  readonly onWritten?: (bytes: number) => void;
  /** Called between writes; throws to stop. */
  readonly checkpoint?: () => Promise<void> | void;
  /** Reads stored content, for extents that copy some. */
  readonly stored?: (wanted: Copied) => Promise<Uint8Array>;
}

async function pieceOf(extent: Extent, at: number, length: number, zeros: Uint8Array, { stored }: WriteAllOptions) {
  if ('bytes' in extent) return extent.bytes.subarray(at, at + length);
  if ('zeros' in extent) return zeros.subarray(0, length);
  if (!stored) throw new Error('Stored content is to be copied, and nobody reads it.');
  return stored({ from: extent.copied.from, at: extent.copied.at + at, length });
}

/** Writes extents in their order. A blank sink is spared the zero fills; any other gets every byte. */
export async function writeAll(
  extents: Iterable<Extent>,
  sink: BlockSink,
  options: WriteAllOptions = {},
): Promise<void> {
  const zeros = new Uint8Array(sink.blank ? 0 : ZERO_RUN);
  for (const extent of extents) {
    if ('zeros' in extent && sink.blank) continue;
    const length = lengthOf(extent);
    for (let done = 0; done < length; done += ZERO_RUN) {
      await options.checkpoint?.();
      const run = Math.min(ZERO_RUN, length - done);
      const bytes = await pieceOf(extent, done, run, zeros, options);
      await sink.write(extent.offset + done, bytes);
      options.onWritten?.(run);
    }
  }
}

/** A medium that a build would make, as a source: nothing is written, and what no range defines is zeros. */
import type { BlockSource } from '../bytes/blocks';
import { type Copied, endOf, type Extent } from '../bytes/extents';
import type { DefinedRange } from './contents';

/** Reads stored content: `length` bytes of what is named `from`, beginning at its byte `at`. */
export type ReadStored = (wanted: Copied) => Promise<Uint8Array>;

/** Where no content is stored. */
export const nothingStored: ReadStored = ({ from }) => Promise.reject(new Error(`nobody knows the content ${from}`));

/** Reads what composed ranges (ascending, without overlap) say, on a medium of `size` bytes. */
export function composedSource(
  ranges: readonly DefinedRange[],
  size: number,
  readStored: ReadStored = nothingStored,
): BlockSource {
  const literal = ranges.flatMap(({ extent }) => ('zeros' in extent ? [] : [extent]));
  const within = (offset: number, length: number): Extent[] => {
    let [low, high] = [0, literal.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (endOf(literal[middle]!) > offset) high = middle;
      else low = middle + 1;
    }
    let end = low;
    while (end < literal.length && literal[end]!.offset < offset + length) end += 1;
    return literal.slice(low, end);
  };
  return {
    size,
    isHole: (offset, length) => within(offset, length).length === 0,
    read: async (offset, length) => {
      if (offset + length > size) throw new RangeError(`range ${offset}+${length} leaves ${size} bytes`);
      const out = new Uint8Array(length);
      for (const extent of within(offset, length)) {
        const from = Math.max(0, offset - extent.offset);
        const end = Math.min(endOf(extent), offset + length) - extent.offset;
        const at = Math.max(0, extent.offset - offset);
        if ('bytes' in extent) out.set(extent.bytes.subarray(from, end), at);
        else if ('copied' in extent) {
          const { copied } = extent;
          out.set(await readStored({ from: copied.from, at: copied.at + from, length: end - from }), at);
        }
      }
      return out;
    },
  };
}

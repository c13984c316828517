/** A medium that a build would make, as a source: nothing is written, and what no range defines is zeros. */
import type { BlockSource } from '../bytes/blocks';
import { endOf } from '../bytes/extents';
import type { DefinedRange } from './compose';

/** Reads what composed ranges (ascending, without overlap) say, on a medium of `size` bytes. */
export function composedSource(ranges: readonly DefinedRange[], size: number): BlockSource {
  const literal = ranges.flatMap(({ extent }) => ('bytes' in extent ? [extent] : []));
  const within = (offset: number, length: number) =>
    literal.filter((extent) => extent.offset < offset + length && endOf(extent) > offset);
  return {
    size,
    isHole: (offset, length) => within(offset, length).length === 0,
    read: (offset, length) => {
      if (offset + length > size)
        return Promise.reject(new RangeError(`range ${offset}+${length} leaves ${size} bytes`));
      const out = new Uint8Array(length);
      for (const extent of within(offset, length)) {
        const from = Math.max(0, offset - extent.offset);
        const piece = extent.bytes.subarray(from, offset + length - extent.offset);
        out.set(piece, Math.max(0, extent.offset - offset));
      }
      return Promise.resolve(out);
    },
  };
}

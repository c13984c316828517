/**
 * A build laid over old bytes, without a byte of it kept: what no range defines is noise that
 * follows from the offset, or marks of an earlier use at every place where readers look for them.
 */
import { KIB } from '@/core/quantity/units';
import type { BlockSource } from '@/core/bytes/blocks';
import { type Copied, endOf, type Extent } from '@/core/bytes/extents';

export type Background = 'noise' | 'old marks';

// Looked up once: within a test runner every look at a global costs.
const { imul } = Math;

function fillNoise(out: Uint8Array, offset: number): void {
  const low = offset % 2 ** 32;
  const high = Math.floor(offset / 2 ** 32);
  for (let i = 0; i < out.length; i++) out[i] = imul((low + i) ^ (high * 0x85eb), 0x9e3779b1) >>> 24;
}

/** Marks that would be believed at the start of a stretch, by their place in it. */
const MARKS: readonly (readonly [at: number, mark: readonly number[] | string])[] = [
  [0, 'XFSB'],
  [3, 'NTFS    '],
  [510, [0x55, 0xaa]],
  [446, [0x80, 1, 1, 0, 0x83, 0xfe, 0xff, 0xff, 1, 0, 0, 0, 0xff, 0xff, 0, 0]],
  [512, 'EFI PART'],
  [1024, [1, 0, 0, 0]],
  [1080, [0x53, 0xef]],
  [4086, 'SWAPSPACE2'],
  [4096, 'EFI PART'],
  [32_768, '\u0001CD001'],
  [65_600, '_BHRfS_M'],
];

function putMarks(out: Uint8Array, offset: number): void {
  for (let start = Math.floor(offset / KIB / 128) * 128 * KIB; start < offset + out.length; start += 128 * KIB)
    for (const [at, mark] of MARKS)
      for (let i = 0; i < mark.length; i++) {
        const place = start + at + i - offset;
        const code = typeof mark === 'string' ? mark.charCodeAt(i) : mark[i]!;
        if (place >= 0 && place < out.length) out[place] = code;
      }
}

/**
 * The medium after `extents` (ascending, without overlap; a RangeError otherwise) were written
 * over old bytes. Nothing is kept, so that a medium of any size costs what is read of it.
 */
export function overOldBytes(
  size: number,
  extents: readonly Extent[],
  readStored: (wanted: Copied) => Promise<Uint8Array>,
  background: Background = 'noise',
): BlockSource {
  let cursor = 0;
  for (const extent of extents) {
    if (extent.offset < cursor) throw new RangeError(`a range at ${extent.offset} overlaps the one before it`);
    cursor = endOf(extent);
    if (cursor > size) throw new RangeError(`a range at ${extent.offset} leaves the medium of ${size} bytes`);
  }
  const firstAt = (offset: number): number => {
    let [low, high] = [0, extents.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (endOf(extents[middle]!) > offset) high = middle;
      else low = middle + 1;
    }
    return low;
  };
  return {
    size,
    isHole: (offset, length) => {
      let at = offset;
      for (let i = firstAt(offset); at < offset + length; i++) {
        const extent = extents[i];
        if (!extent || !('zeros' in extent) || extent.offset > at) return false;
        at = endOf(extent);
      }
      return true;
    },
    read: async (offset, length) => {
      if (offset < 0 || offset + length > size) throw new RangeError(`${offset}+${length} leaves ${size} bytes`);
      const out = new Uint8Array(length);
      let done = 0;
      const old = (until: number) => {
        if (until <= done) return;
        const part = out.subarray(done, until);
        fillNoise(part, offset + done);
        if (background === 'old marks') putMarks(part, offset + done);
        done = until;
      };
      for (let i = firstAt(offset); i < extents.length && extents[i]!.offset < offset + length; i++) {
        const extent = extents[i]!;
        old(Math.max(0, extent.offset - offset));
        const from = Math.max(0, offset - extent.offset);
        const end = Math.min(endOf(extent), offset + length) - extent.offset;
        if ('bytes' in extent) out.set(extent.bytes.subarray(from, end), done);
        else if ('copied' in extent)
          out.set(
            await readStored({ from: extent.copied.from, at: extent.copied.at + from, length: end - from }),
            done,
          );
        done += end - from;
      }
      old(length);
      return out;
    },
  };
}

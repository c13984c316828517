/** Reading FATs: free entries counted in the first, every copy compared with it. */
import { MIB } from '../../quantity/units';
import type { BlockSource } from '../../bytes/blocks';
import { ENTRY_MASK } from './records';
import type { FatShape } from './header';
import { fatBytes } from './variants';

/** Bytes of a FAT that are read at a time. */
const WINDOW = MIB;
/** Bytes that are read at each end of a FAT which is too large to be read in full. */
const GLIMPSE = 64 * 1024;

/** What the FATs of a volume say. */
interface FatsFound {
  /** FAT[0]. */
  readonly first: number;
  /** Free clusters of the first FAT; undefined where it was not read in full. */
  readonly free: number | undefined;
  readonly agree: boolean;
  /** FAT[1] says that the volume was unmounted, and that there were no read errors. */
  readonly clean: boolean;
}

/** One entry of a FAT from its bytes, of which the first `bytes.length` are there. */
export function entryOf(variant: 12 | 16 | 32, bytes: Uint8Array, index: number): number {
  if (variant === 12) {
    const at = index + (index >> 1);
    const pair = bytes[at]! | (bytes[at + 1]! << 8);
    return index % 2 === 0 ? pair & 0xfff : pair >> 4;
  }
  if (variant === 16) return bytes[2 * index]! | (bytes[2 * index + 1]! << 8);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  return view.getUint32(4 * index, true) & ENTRY_MASK;
}

/**
 * The words of some bytes. FATs are little-endian, and so is every machine that this runs on.
 * Signed, because engines compute much faster with those; only their bits are looked at.
 */
function words(bytes: Uint8Array): Int32Array {
  const aligned = bytes.byteOffset % 4 === 0 ? bytes : bytes.slice();
  return new Int32Array(aligned.buffer, aligned.byteOffset, Math.floor(aligned.length / 4));
}

function agree(a: Uint8Array, b: Uint8Array): boolean {
  const [x, y] = [words(a), words(b)];
  let differing = 0;
  for (let i = 0; i < x.length; i++) differing |= x[i]! ^ y[i]!;
  return differing === 0;
}

/** Free entries among those from `from` on and before `end`, both counted from the start of the window. */
function countFree(variant: 12 | 16 | 32, window: Uint8Array, from: number, end: number): number {
  let free = 0;
  if (variant === 32) {
    const entries = words(window);
    for (let i = from; i < end; i++) if ((entries[i]! & ENTRY_MASK) === 0) free += 1;
  } else for (let i = from; i < end; i++) if (entryOf(variant, window, i) === 0) free += 1;
  return free;
}

/** Ranges of a FAT to read: the whole in windows, or both ends. */
function windowsOf(length: number, isWhole: boolean): { at: number; length: number }[] {
  if (!isWhole)
    return [
      { at: 0, length: GLIMPSE },
      { at: length - GLIMPSE, length: GLIMPSE },
    ];
  return Array.from({ length: Math.ceil(length / WINDOW) }, (_, i) => ({
    at: i * WINDOW,
    length: Math.min(WINDOW, length - i * WINDOW),
  }));
}

/** Reads the FATs of a volume at `base`; nothing at or behind `end` is read. */
export async function readFats(
  source: BlockSource,
  base: number,
  shape: FatShape,
  end: number,
  budget: number,
): Promise<FatsFound> {
  const { width: variant, sectorSize, fats, clusters } = shape;
  const copies = Array.from({ length: fats }, (_, i) => base + (shape.reserved + i * shape.fatSectors) * sectorSize);
  const wholeLength = shape.fatSectors * sectorSize;
  const last = copies[copies.length - 1]!;
  if (last + wholeLength > end) return { first: 0, free: undefined, agree: false, clean: false };
  const isWhole = fats * wholeLength <= budget || wholeLength <= 2 * GLIMPSE;
  const entries = Math.min(clusters + 2, Math.floor((wholeLength * 8) / variant));
  const perWindow = variant === 12 ? Infinity : (WINDOW * 8) / variant;
  const lent = copies.map(() => new Uint8Array(Math.min(WINDOW, wholeLength)));
  let free = 0;
  let [first, second] = [0, 0];
  let same = true;
  for (const { at, length } of windowsOf(wholeLength, isWhole)) {
    const from = at === 0 ? 0 : (at * 8) / variant;
    const until =
      variant === 12 && at > 0 ? 0 : Math.min(entries - from, perWindow, Math.floor((length * 8) / variant));
    if (at > 0 && copies.every((start) => source.isHole?.(start + at, length))) {
      free += Math.max(0, until);
      continue;
    }
    const read = await Promise.all(copies.map((start, i) => source.read(start + at, length, lent[i])));
    if (at === 0) [first, second] = [entryOf(variant, read[0]!, 0), entryOf(variant, read[0]!, 1)];
    if (read[1]) same &&= agree(read[0]!, read[1]);
    if (isWhole) free += countFree(variant, read[0]!, at === 0 ? 2 : 0, until);
  }
  // The two top bits of FAT[1]: clean, and no errors. FAT12 has none.
  const marks = variant === 16 ? 0xc000 : 0x0c000000;
  const clean = variant === 12 || (second & marks) === marks;
  const isCounted = isWhole && entries === clusters + 2 && fatBytes(variant, entries) <= wholeLength;
  return { first, free: isCounted ? free : undefined, agree: same, clean };
}

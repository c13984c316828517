/**
 * Directories of a repacked volume: each keeps its blocks, its order and its tree of hashes as they are; only the numbers of
 * inodes in it change, and with them its checksums ("Directory Entries", "Hash Tree Directories").
 */
import { crc32c } from '../../../bytes/crc32c';
import { INODE_FLAG, TAIL_BYTES, TAIL_TYPE } from '../numbers';
import { recordLength } from '../read/names';

/** The new number of an inode; undefined where it does not go along, and its name goes. */
export type NumberOf = (inode: number) => number | undefined;

const ENTRY_HEAD = 8;
/** Where the root of a tree has its counts, and an inner node; bytes of a pointer. */
const [ROOT_COUNTS, NODE_COUNTS, POINTER] = [0x20, 8, 8];
/** Bytes of the field for a checksum behind the pointers: four of nothing, four of sum. */
const INDEX_TAIL = 8;

/** Puts the new numbers into the entries of some bytes; names of what does not go along are joined to the entry before them. */
export function renumber(bytes: Uint8Array, block: number, numberOf: NumberOf): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  let before = -1;
  for (let at = 0; at + ENTRY_HEAD <= bytes.length;) {
    const length = recordLength(view.getUint16(at + 4, true), block);
    if (length < ENTRY_HEAD || at + length > bytes.length) return;
    const inode = view.getUint32(at, true);
    const next = inode === 0 ? 0 : numberOf(inode);
    if (next !== undefined) {
      view.setUint32(at, next, true);
      before = at;
    } else if (before < 0) {
      view.setUint32(at, 0, true);
      bytes.fill(0, at + 6, at + length);
      before = at;
    } else {
      const joined = recordLength(view.getUint16(before + 4, true), block) + length;
      view.setUint16(before + 4, storedLength(joined, block), true);
      bytes.fill(0, at, at + length);
    }
    at += length;
  }
}

/** The length of an entry as it is stored: in blocks of 64 KiB it may be longer than its field counts. */
function storedLength(length: number, block: number): number {
  if (length < 65_536) return length;
  return block === 65_536 && length === 65_536 ? 65_535 : (length & 65_532) | ((length >> 16) & 3);
}

/** Where an inner block of a tree of hashes has its counts; undefined for a block of entries. */
function countsAt(bytes: Uint8Array, isRoot: boolean, isHashed: boolean): number | undefined {
  if (!isHashed) return undefined;
  if (isRoot) return ROOT_COUNTS;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const isWhole = view.getUint32(0, true) === 0 && recordLength(view.getUint16(4, true), bytes.length) === bytes.length;
  return isWhole ? NODE_COUNTS : undefined;
}

/** Puts the checksum of a block of a directory in, which begins with this seed. */
function sealFolderBlock(bytes: Uint8Array, isRoot: boolean, isHashed: boolean, seed: number): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const counts = countsAt(bytes, isRoot, isHashed);
  if (counts === undefined) {
    const tail = bytes.length - TAIL_BYTES;
    // A block without one is older than the checksums.
    if (view.getUint16(tail + 4, true) !== TAIL_BYTES || bytes[tail + 7] !== TAIL_TYPE) return;
    view.setUint32(bytes.length - 4, crc32c(bytes.subarray(0, tail), seed), true);
    return;
  }
  const [limit, count] = [view.getUint16(counts, true), view.getUint16(counts + 2, true)];
  const tail = counts + POINTER * limit;
  if (tail + INDEX_TAIL > bytes.length || count > limit) return;
  let sum = crc32c(bytes.subarray(0, counts + POINTER * count), seed);
  sum = crc32c(bytes.subarray(tail, tail + 4), sum);
  view.setUint32(tail + 4, crc32c(new Uint8Array(4), sum), true);
}

/** A block of a directory with the new numbers, sealed where the volume has checksums; `logical` is its place in it. */
export function folderBlock(
  bytes: Uint8Array,
  logical: number,
  flags: number,
  numberOf: NumberOf,
  seed: number | undefined,
): Uint8Array {
  const own = new Uint8Array(bytes);
  const isHashed = (flags & INODE_FLAG.hashed) !== 0;
  renumber(own, own.length, numberOf);
  if (seed !== undefined) sealFolderBlock(own, logical === 0, isHashed, seed);
  return own;
}

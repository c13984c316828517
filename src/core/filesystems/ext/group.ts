/** A group descriptor as it is read, the halves of its numbers joined ("Block Group Descriptors"). */
import { decode } from '../../bytes/record';
import { LONG_GROUP, SHORT_GROUP } from './records';

/** A group, the halves of its numbers joined. */
export interface Group {
  readonly blockBitmap: number;
  readonly inodeBitmap: number;
  readonly inodeTable: number;
  readonly freeBlocks: number;
  readonly freeInodes: number;
  readonly folders: number;
  readonly flags: number;
  readonly blockSum: number;
  readonly inodeSum: number;
  readonly unused: number;
  readonly bytes: Uint8Array;
}

const joined = (low: number, high: number) => low + high * 2 ** 32;

/** The descriptor in its bytes: 32 of them, or 64 and more with upper halves. */
export function groupIn(bytes: Uint8Array): Group {
  if (bytes.length < 64) {
    const short = decode(SHORT_GROUP, bytes);
    return { ...short, bytes };
  }
  const long = decode(LONG_GROUP, bytes);
  return {
    blockBitmap: joined(long.blockBitmap, long.blockBitmapHigh),
    inodeBitmap: joined(long.inodeBitmap, long.inodeBitmapHigh),
    inodeTable: joined(long.inodeTable, long.inodeTableHigh),
    freeBlocks: long.freeBlocks + long.freeBlocksHigh * 0x10000,
    freeInodes: long.freeInodes + long.freeInodesHigh * 0x10000,
    folders: long.folders + long.foldersHigh * 0x10000,
    flags: long.flags,
    blockSum: long.blockSum + long.blockSumHigh * 0x10000,
    inodeSum: long.inodeSum + long.inodeSumHigh * 0x10000,
    unused: long.unused + long.unusedHigh * 0x10000,
    bytes,
  };
}

/**
 * File systems whose start is lost, by the copy that they keep of it: the boot sector of a FAT32 in sector 6 ("Boot Sector and
 * BPB Structure", BPB_BkBootSec), the superblock of an ext in its group 1 ("Super Block").
 */
import type { BlockSource } from '../bytes/blocks';
import { decode } from '../bytes/record';
import { SUPERBLOCK } from './ext/records';
import { shapeOf } from './fat/header';

/** A copy of a start that is lost: what it is of, and the byte of the partition at which it stands. */
export interface LostHead {
  readonly what: 'FAT32' | 'ext';
  readonly at: number;
  /** Bytes of the copy. */
  readonly length: number;
}

const FAT_COPY = 6;
const EXT_MAGIC = 0xef53;

async function lostFat(source: BlockSource, base: number, available: number): Promise<LostHead | undefined> {
  for (const size of [512, 4096]) {
    const at = FAT_COPY * size;
    if (at + size > available) continue;
    const shape = shapeOf(await source.read(base + at, size));
    const isIts = shape?.width === 32 && shape.sectorSize === size && shape.backupSector === FAT_COPY;
    if (isIts && shape.totalSectors * size <= available) return { what: 'FAT32', at, length: size };
  }
  return undefined;
}

async function lostExt(source: BlockSource, base: number, available: number): Promise<LostHead | undefined> {
  for (const logBlock of [0, 1, 2]) {
    const block = 1024 << logBlock;
    // A group has as many blocks as a block has bits; with blocks of 1 KiB the first one begins at block 1.
    const at = 8 * block * block + (logBlock === 0 ? block : 0);
    if (at + SUPERBLOCK.length > available) continue;
    const found = decode(SUPERBLOCK, await source.read(base + at, SUPERBLOCK.length));
    const isIts = found.magic === EXT_MAGIC && found.group === 1 && found.logBlock === logBlock;
    if (isIts && found.blocksLow * block <= available) return { what: 'ext', at, length: SUPERBLOCK.length };
  }
  return undefined;
}

/** The copy of a start in a partition in which nothing was recognised; undefined where there is none. */
export async function lostHead(source: BlockSource, base: number, available: number): Promise<LostHead | undefined> {
  return (await lostFat(source, base, available)) ?? lostExt(source, base, available);
}

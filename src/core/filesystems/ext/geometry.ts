/**
 * Geometry of an ext volume: how many blocks, groups and inodes, and where nobody says, by which rule
 * (the kernel's documentation, "Layout" and "Super Block").
 */
import { alignDown, alignUp, lcm } from '../../quantity/integers';
import { fail, ok, type Result } from '../../quantity/result';
import { GIB, KIB, MIB } from '../../quantity/units';
import type { Feature, Features } from './features';
import { copyGroups, type GroupForm, hasCopy } from './groups';
import { journalMapOf } from './journal';
import { INODE } from './numbers';

const TIB = 1024 * GIB;

/** Blocks that can be asked for, in bytes, smallest first. */
export const EXT_BLOCKS = [KIB, 2 * KIB, 4 * KIB, 8 * KIB, 16 * KIB, 32 * KIB] as const;
/** A volume below this has blocks of 1 KiB, where nobody says. */
const SMALL = 16 * MIB;
/** A volume below this has no journal, where nobody says. */
const UNJOURNALED = 8 * MIB;
/** Fewest blocks of a journal, and most bytes of one that nobody asked for. */
export const LEAST_JOURNAL = 1024;
const MOST_JOURNAL = 128 * MIB;
const JOURNAL_SHARE = 64;
/** A journal may take this part of the volume. */
const JOURNAL_PART = 2;
/** To grow, one transaction holds every spare block and some more; it has a quarter of the journal, less its own. */
const TRANSACTION_PART = 6;
const GROWING_BLOCKS = 16;
/** More than this part of the volume is not given to a journal only for growing. */
const GROWING_PART = 16;
/** Per cent that are reserved on a system. */
const SYSTEM_RESERVE = 5;
/** A volume can grow to so many times its size, but not beyond so many bytes. */
const GROWTH = 1024;
const MOST_GROWTH = 16 * TIB;
/** Groups whose bitmaps and inode tables lie together. */
const FLEX = 16;
/** Bytes of lost+found: so many files can be put there without asking for room. */
const LOST_AND_FOUND = 16 * KIB;
/** Inodes beyond those of the tree, where nobody says how many. */
const SPARE_INODES = 1.25;
/** Blocks have numbers of 32 bits, unless they have 48; so have inodes. */
const MOST_SHORT = 2 ** 32 - 1;
/** A volume with fewer free blocks than this is none. */
const LEAST_FREE = 8;

export interface ExtQuestion {
  readonly sectorSize: 512 | 4096;
  /** Bytes of the partition. */
  readonly bytes: number;
  /** Bytes of a page of the machine: no block may be larger. */
  readonly pageSize: number;
  readonly features: Features;
  readonly isTiny: boolean;
  /** A system shall start from it: some of it is reserved for its administrator. */
  readonly isSystem: boolean;
  readonly block?: number | undefined;
  readonly perInode?: number | undefined;
  readonly inodeSize?: 128 | 256 | undefined;
  /** Bytes. */
  readonly journal?: number | 'none' | undefined;
  /** Per cent. */
  readonly reserved?: number | undefined;
  /** Bytes. */
  readonly growTo?: number | 'none' | undefined;
  /** Inodes that files and folders take. */
  readonly entries: number;
}

export interface ExtGeometry extends GroupForm {
  readonly sectorSize: 512 | 4096;
  /** Bytes of a block; `clusterBytes` is the same under the name that all kinds have. */
  readonly block: number;
  readonly clusterBytes: number;
  /** Blocks that files and folders can have: those of lost+found and of the root directory are among them. */
  readonly clusters: number;
  readonly inodesPerGroup: number;
  readonly inodeSize: 128 | 256;
  readonly descriptorBytes: 32 | 64;
  /** Groups with a copy of the superblock, the first among them. */
  readonly copies: number;
  /** Blocks of the journal, and those of its map; 0 without one. */
  readonly journalBlocks: number;
  readonly journalMapBlocks: number;
  /** Blocks that only the administrator may take. */
  readonly reservedBlocks: number;
  readonly lostAndFoundBlocks: number;
  readonly features: Features;
  /** Blocks that it can have when it grew as far as it can while it is mounted. */
  readonly growsTo: number;
  /** Bytes behind the last block. */
  readonly tail: number;
}

export interface ExtRefusal {
  readonly reason:
    | 'block larger than the page'
    | 'block smaller than the sector'
    | 'block size'
    | 'too small'
    | 'too many blocks'
    | 'journal too small'
    | 'journal too large'
    | 'too few inodes'
    | 'inode ratio';
  readonly block: number;
  /** The least that could be, in bytes, or as many inodes or blocks, as the reason says. */
  readonly least: number;
}

/** The block where nobody asks for one. */
function usualBlock({ bytes, sectorSize, isTiny }: ExtQuestion): number {
  return Math.max(sectorSize, bytes < SMALL || isTiny ? KIB : 4 * KIB);
}

/** Bytes of the volume for one inode, where nobody says. */
export function usualPerInode(bytes: number): number {
  if (bytes < 512 * MIB) return 4 * KIB;
  return bytes > TIB ? 64 * KIB : 16 * KIB;
}

/** Most that a count of 16 bits holds, in whole bytes of a bitmap. */
const SHORT_COUNT = 65_528;

/** Blocks of a journal, where nobody says; it shall be able to grow by so many spare blocks of descriptors. */
function usualJournal(bytes: number, block: number, spare: number): number {
  if (bytes < UNJOURNALED) return 0;
  const growing = TRANSACTION_PART * (spare + GROWING_BLOCKS);
  const blocks = Math.max(
    LEAST_JOURNAL,
    Math.floor(Math.min(MOST_JOURNAL, bytes / JOURNAL_SHARE) / block),
    growing * block <= bytes / GROWING_PART ? growing : 0,
  );
  return blocks * block > bytes / JOURNAL_PART ? 0 : blocks;
}

/**
 * Blocks, or inodes, of a group: as many as one block has bits, and where descriptors are short no more than
 * their counts of 16 bits hold.
 */
export function mostPerGroup(block: number, isLong: boolean): number {
  return isLong ? 8 * block : Math.min(8 * block, SHORT_COUNT);
}

/** Computes the geometry, or says why there is none. */
export function extGeometry(q: ExtQuestion): Result<ExtGeometry, ExtRefusal> {
  const block = q.block ?? usualBlock(q);
  const refuse = (reason: ExtRefusal['reason'], least: number) => fail({ reason, block, least });
  if (!(EXT_BLOCKS as readonly number[]).includes(block)) return refuse('block size', q.sectorSize);
  if (block > q.pageSize) return refuse('block larger than the page', q.pageSize);
  if (block < q.sectorSize) return refuse('block smaller than the sector', q.sectorSize);
  const isLong = q.features.has('64bit');
  const wanted = Math.floor(q.bytes / block);
  if (!isLong && wanted > MOST_SHORT) return refuse('too many blocks', block * 2);
  const blocksPerGroup = mostPerGroup(block, isLong);
  const firstBlock = block === KIB ? 1 : 0;
  const descriptorBytes = isLong ? 64 : 32;
  const inodeSize = q.inodeSize ?? 256;
  const perInode = q.perInode ?? usualPerInode(q.bytes);
  if (perInode < KIB || perInode > 64 * MIB) return refuse('inode ratio', KIB);

  /** Blocks of descriptors beside those that there are that growing as far as asked takes. */
  const wantedSpare = (blocks: number, descriptorBlocks: number): number => {
    if (!q.features.has('resize_inode') || q.growTo === 'none' || blocks > MOST_SHORT) return 0;
    const aim = Math.min(MOST_SHORT, Math.floor((q.growTo ?? Math.min(MOST_GROWTH, blocks * block * GROWTH)) / block));
    const groups = Math.ceil((aim - firstBlock) / blocksPerGroup);
    const needed = Math.ceil(groups / (block / descriptorBytes)) - descriptorBlocks;
    return Math.max(0, Math.min(needed, block / 4));
  };

  let journalBlocks = 0;
  if (q.features.has('has_journal')) {
    const { journal } = q;
    journalBlocks =
      journal === 'none'
        ? 0
        : journal === undefined
          ? usualJournal(q.bytes, block, wantedSpare(wanted, 1))
          : Math.floor(journal / block);
    if (typeof journal === 'number' && journalBlocks < LEAST_JOURNAL)
      return refuse('journal too small', LEAST_JOURNAL * block);
    if (typeof journal === 'number' && journalBlocks > wanted / JOURNAL_PART)
      return refuse('journal too large', journalBlocks * block * JOURNAL_PART);
  }

  /** Blocks kept for descriptors: no more than one transaction of the journal can hold. */
  const spare = (blocks: number, descriptorBlocks: number): number => {
    const most = journalBlocks === 0 ? Infinity : Math.floor(journalBlocks / TRANSACTION_PART) - GROWING_BLOCKS;
    return Math.min(wantedSpare(blocks, descriptorBlocks), most);
  };

  const flex = q.features.has('flex_bg') ? FLEX : 1;
  /** True for a group whose tables lie in itself. */
  const isAlone = (group: number) => group % flex === 0;
  /** What so many groups have, with so many blocks in all. */
  const withGroups = (groups: number, blocks: number) => {
    const least = (q.entries + INODE.first) * (q.perInode === undefined ? SPARE_INODES : 0);
    const inodes = Math.min(MOST_SHORT, Math.max(Math.ceil((blocks * block) / perInode), least));
    const step = lcm(8, block / inodeSize);
    // Rounded up in every group they may be more than there are numbers for.
    const numbered = alignDown(Math.floor(MOST_SHORT / groups), step);
    const each = Math.max(2 * 8, alignUp(Math.ceil(inodes / groups), step));
    const inodesPerGroup = Math.min(alignDown(blocksPerGroup, step), numbered, each);
    const tableBlocks = (inodesPerGroup * inodeSize) / block;
    const perBlock = block / descriptorBytes;
    const descriptorBlocks = Math.ceil(groups / perBlock);
    const spareDescriptorBlocks = spare(blocks, descriptorBlocks);
    const ahead = 1 + descriptorBlocks + spareDescriptorBlocks;
    return { inodesPerGroup, tableBlocks, descriptorBlocks, spareDescriptorBlocks, ahead };
  };
  const fixedOf = (groups: number, { ahead, tableBlocks }: ReturnType<typeof withGroups>) =>
    firstBlock + copyGroups(groups).length * ahead + groups * (2 + tableBlocks);
  let groups = Math.max(1, Math.ceil((wanted - firstBlock) / blocksPerGroup));
  let blocks = wanted;
  let laid = withGroups(groups, blocks);
  if (groups > 1) {
    // A last group that takes more than it gives is left out.
    const whole = firstBlock + (groups - 1) * blocksPerGroup;
    const fewer = withGroups(groups - 1, whole);
    const own = (hasCopy(groups - 1) ? laid.ahead : 0) + (isAlone(groups - 1) ? 2 + laid.tableBlocks : 0);
    const gain = wanted - fixedOf(groups, laid) - (whole - fixedOf(groups - 1, fewer));
    if (wanted - whole <= own || gain <= 0) {
      groups -= 1;
      blocks = whole;
      laid = fewer;
    }
  }
  const { inodesPerGroup, tableBlocks, descriptorBlocks, spareDescriptorBlocks, ahead } = laid;
  if (ahead + 2 + tableBlocks + LEAST_FREE > blocksPerGroup && groups > 1) return refuse('too many blocks', block * 2);
  const fixed = fixedOf(groups, laid) + (spareDescriptorBlocks > 0 ? 1 : 0);
  const features = new Set<Feature>(q.features);
  if (journalBlocks === 0) features.delete('has_journal');
  if (spareDescriptorBlocks === 0) features.delete('resize_inode');
  const form = {
    groups,
    flex,
    firstBlock,
    blocksPerGroup,
    blocks,
    tableBlocks,
    descriptorBlocks,
    spareDescriptorBlocks,
  };
  const lostAndFoundBlocks = q.isTiny ? 1 : Math.max(1, LOST_AND_FOUND / block);
  // The map of the journal depends on where it lies, which can be asked only where it has room.
  let clusters = blocks - fixed - journalBlocks;
  let journalMapBlocks = 0;
  if (clusters > 0) {
    journalMapBlocks = journalMapOf({ ...form, features, block, journalBlocks });
    clusters -= journalMapBlocks;
  }
  if (clusters < lostAndFoundBlocks + LEAST_FREE)
    return refuse('too small', (wanted + lostAndFoundBlocks + LEAST_FREE - clusters) * block);
  const inodes = groups * inodesPerGroup;
  if (q.entries + INODE.first > inodes) return refuse('too few inodes', q.entries + INODE.first);
  // It grows as far as there is room for descriptors, and as there are numbers for the inodes of further groups.
  const described = (descriptorBlocks + spareDescriptorBlocks) * (block / descriptorBytes);
  const room = Math.min(described, Math.floor(MOST_SHORT / inodesPerGroup)) * blocksPerGroup + firstBlock;
  return ok({
    ...form,
    sectorSize: q.sectorSize,
    block,
    clusterBytes: block,
    clusters,
    inodesPerGroup,
    inodeSize,
    descriptorBytes,
    copies: copyGroups(groups).length,
    journalBlocks,
    journalMapBlocks,
    reservedBlocks: Math.floor((blocks * (q.reserved ?? (q.isSystem ? SYSTEM_RESERVE : 0))) / 100),
    lostAndFoundBlocks,
    features,
    growsTo: Math.max(blocks, Math.min(room, blocks > MOST_SHORT ? blocks : MOST_SHORT)),
    tail: q.bytes - blocks * block,
  });
}

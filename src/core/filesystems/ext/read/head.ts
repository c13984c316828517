/**
 * What a superblock says about where everything lies, as kernels of twenty years wrote it (the kernel's documentation, "Super
 * Block", "Block Group Descriptors", "Meta Block Groups"). What cannot be read is said by name, and never guessed.
 */
import type { BlockSource } from '../../../bytes/blocks';
import { decode } from '../../../bytes/record';
import { FEATURE_BITS, type FeatureFields, hasFeature } from '../feature-bits';
import { copyGroups, type GroupForm } from '../groups';
import { EXT_MAGIC, SHORT_INODE_BYTES, SUPERBLOCK_AT } from '../numbers';
import { type Superblock, SUPERBLOCK } from '../records';

/** Features that must be known to read a volume, and are known and not read, in words. */
const NOT_READ = {
  compression: 'it is compressed',
  journal_dev: 'it is only a journal',
  dirdata: 'it has data in its directory entries',
} as const;

/** Bits of those that are read. */
export const ALL_READ = Object.entries(FEATURE_BITS.incompatible).reduce(
  (sum, [name, bit]) => (name in NOT_READ ? sum : sum | bit),
  0,
);
const HALF = 0x1_0000_0000;

/** Where the structures of a volume lie. */
export interface ExtHead {
  readonly superblock: Superblock;
  readonly block: number;
  readonly blocks: number;
  readonly groups: number;
  readonly inodeBytes: number;
  readonly descriptorBytes: number;
  readonly isLong: boolean;
  readonly hasTypes: boolean;
  /** First group whose descriptors lie with it and its neighbours. */
  readonly firstMetaGroup: number;
}

export type ExtHeadFound = { readonly head: ExtHead } | { readonly refused: string };

const isPowerOfTwo = (n: number) => n > 0 && (n & (n - 1)) === 0;

/** What keeps a volume from being read; undefined where nothing does. */
function refusal(superblock: Superblock): string | undefined {
  for (const name of ['compression', 'journal_dev', 'dirdata'] as const)
    if (hasFeature(superblock, name)) return NOT_READ[name];
  const unknown = superblock.incompatible & ~ALL_READ;
  return unknown === 0
    ? undefined
    : `it has features that are not known (${(unknown >>> 0).toString(16).toUpperCase()}h)`;
}

/** The head of the volume that begins `base` bytes into the source; undefined where there is no ext. */
export async function readExtHead(source: BlockSource, base: number): Promise<ExtHeadFound | undefined> {
  if (base + SUPERBLOCK_AT + SUPERBLOCK.length > source.size) return undefined;
  return headOf(decode(SUPERBLOCK, await source.read(base + SUPERBLOCK_AT, SUPERBLOCK.length)));
}

/** What a superblock says; undefined where it is none of ext. */
export function headOf(superblock: Superblock): ExtHeadFound | undefined {
  if (superblock.magic !== EXT_MAGIC || superblock.logBlock > 6) return undefined;
  const refused = refusal(superblock);
  if (refused !== undefined) return { refused };
  const block = 1024 * 2 ** superblock.logBlock;
  const isLong = hasFeature(superblock, '64bit');
  const blocks = superblock.blocksLow + (isLong ? superblock.blocksHigh * HALF : 0);
  const inodeBytes = superblock.revision === 0 ? SHORT_INODE_BYTES : superblock.inodeSize;
  const descriptorBytes = isLong && superblock.descriptorSize >= 64 ? superblock.descriptorSize : 32;
  const { blocksPerGroup, inodesPerGroup, firstDataBlock } = superblock;
  const isSound =
    blocksPerGroup > 0 &&
    inodesPerGroup > 0 &&
    inodesPerGroup <= 8 * block &&
    isPowerOfTwo(inodeBytes) &&
    inodeBytes >= SHORT_INODE_BYTES &&
    inodeBytes <= block &&
    isPowerOfTwo(descriptorBytes) &&
    descriptorBytes <= block &&
    firstDataBlock <= 1 &&
    Number.isSafeInteger(blocks * block) &&
    blocks > firstDataBlock;
  if (!isSound) return { refused: 'its superblock contradicts itself' };
  const groups = Math.ceil((blocks - firstDataBlock) / blocksPerGroup);
  return {
    head: {
      ...{ superblock, block, blocks, groups, inodeBytes, descriptorBytes, isLong },
      hasTypes: hasFeature(superblock, 'filetype'),
      firstMetaGroup: hasFeature(superblock, 'meta_bg') ? superblock.firstMetaGroup : Infinity,
    },
  };
}

/** Features that only ext4 has. */
const EXT4_ONLY = ['extents', '64bit', 'flex_bg', 'huge_file', 'gdt_csum', 'dir_nlink', 'extra_isize'] as const;

/** What systems call it, by its features; the journal makes an ext2 an ext3. */
export function extName(superblock: FeatureFields): 'ext2' | 'ext3' | 'ext4' {
  if (EXT4_ONLY.some((name) => hasFeature(superblock, name))) return 'ext4';
  return hasFeature(superblock, 'has_journal') ? 'ext3' : 'ext2';
}

/** True where the journal says something that was not written in its place yet. */
export const hasJournalToReplay = ({ superblock }: ExtHead): boolean => hasFeature(superblock, 'needs_recovery');

function isPowerOf(base: number, value: number): boolean {
  let power = 1;
  while (power < value) power *= base;
  return power === value;
}

/** True for a group that begins with a copy of the superblock. */
export function hasCopy({ superblock }: ExtHead, group: number): boolean {
  if (group === 0) return true;
  if (hasFeature(superblock, 'sparse_super2')) {
    const view = new DataView(superblock.backupGroups.buffer, superblock.backupGroups.byteOffset, 8);
    return view.getUint32(0, true) === group || view.getUint32(4, true) === group;
  }
  if (!hasFeature(superblock, 'sparse_super') || group === 1) return true;
  return [3, 5, 7].some((base) => isPowerOf(base, group));
}

/** Which groups have a copy of the superblock: all, those that it names (0 for none), or those by the powers. */
export function copyRuleOf(superblock: Superblock): GroupForm['copyRule'] {
  if (hasFeature(superblock, 'sparse_super2')) {
    const { backupGroups } = superblock;
    const view = new DataView(backupGroups.buffer, backupGroups.byteOffset, 8);
    return [view.getUint32(0, true), view.getUint32(4, true)];
  }
  return hasFeature(superblock, 'sparse_super') ? undefined : 'all';
}

/** Groups that begin with a copy of the superblock, ascending, the first among them; no group without one is looked at. */
export function* copiesOf({ superblock, groups }: ExtHead): Generator<number> {
  const rule = copyRuleOf(superblock);
  if (rule !== 'all') yield* copyGroups(groups, rule);
  else for (let group = 0; group < groups; group++) yield group;
}

/** Inodes that a volume uses for itself: of its journal, its quotas, and what is to be deleted; 0 and none where it has no such thing. */
export interface OwnInodes {
  readonly journal: number;
  readonly orphans: number;
  readonly quotas: readonly number[];
}

/**
 * What its superblock says of them, where its features say that it means anything: a number that is left over from a feature
 * that was taken away leads to an ordinary file by now.
 */
export function ownInodes({ superblock }: ExtHead): OwnInodes {
  const { journalInode, orphanFile, userQuota, groupQuota, projectQuota } = superblock;
  const quotas = [userQuota, groupQuota, projectQuota].filter((one) => one !== 0);
  return {
    journal: hasFeature(superblock, 'has_journal') ? journalInode : 0,
    orphans: hasFeature(superblock, 'orphan_file') ? orphanFile : 0,
    quotas: hasFeature(superblock, 'quota') ? quotas : [],
  };
}

/** Byte of the volume at which the descriptor of a group lies. */
export function descriptorAt(head: ExtHead, group: number): number {
  const { superblock, block, descriptorBytes, firstMetaGroup } = head;
  const { firstDataBlock, blocksPerGroup } = superblock;
  const each = block / descriptorBytes;
  const part = Math.floor(group / each);
  if (part < firstMetaGroup) return (firstDataBlock + 1 + part) * block + (group % each) * descriptorBytes;
  const first = part * each;
  const start = firstDataBlock + first * blocksPerGroup + (hasCopy(head, first) ? 1 : 0);
  // Where blocks are 1 KiB the first group begins behind the sectors for a loader.
  return start * block + (group % each) * descriptorBytes;
}

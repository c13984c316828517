/**
 * The form of a volume of another length: groups, inodes of a group and features stay as they are, so that it is the same
 * volume to whoever knows it; where the structures lie follows from them (groups.ts).
 */
import { checksumsOf } from '../checksums';
import type { DescribedForm } from '../descriptors';
import { hasFeature } from '../feature-bits';
import { GroupsMisfit, placeGroups } from '../groups';
import { copyRuleOf, type ExtHead } from '../read/head';

/** A form with all that it takes to write its structures. */
export interface PackedForm extends DescribedForm {
  readonly inodeBytes: number;
  /** Blocks that nothing of the structures takes. */
  readonly room: number;
  /** Block behind the last of the structures. */
  readonly structuresEnd: number;
}

/** Blocks and inodes that have numbers of 32 bits. */
const MOST_SHORT = 2 ** 32 - 1;
/** Groups that are worked with. */
export const MOST_GROUPS = 2 ** 20;

export const hasSpare = ({ superblock }: ExtHead): boolean => hasFeature(superblock, 'resize_inode');

/** Groups that have a copy of the superblock, in a volume of so many: of two that are named the second is the last. */
function copyRule({ superblock }: ExtHead, groups: number): DescribedForm['copyRule'] {
  const rule = copyRuleOf(superblock);
  if (rule === undefined || rule === 'all') return rule;
  const [first = 0, second = 0] = rule;
  return [...(first > 0 && groups > 1 ? [1] : []), ...(second > 0 && groups > 2 ? [groups - 1] : [])];
}

/** Groups of a volume of so many blocks. */
export function groupsOf({ superblock: { firstDataBlock, blocksPerGroup } }: ExtHead, blocks: number): number {
  return Math.max(1, Math.ceil((blocks - firstDataBlock) / blocksPerGroup));
}

/** Block behind the last that so many groups can have. */
export function endOfGroups({ superblock: { firstDataBlock, blocksPerGroup } }: ExtHead, groups: number): number {
  return firstDataBlock + groups * blocksPerGroup;
}

/** The form with so many blocks; undefined where its structures have no room, or its numbers no bits. */
export function formOf(head: ExtHead, blocks: number): PackedForm | undefined {
  const { superblock, block, descriptorBytes, inodeBytes, firstMetaGroup } = head;
  const { inodesPerGroup, blocksPerGroup, firstDataBlock: firstBlock } = superblock;
  const groups = groupsOf(head, blocks);
  // A volume does not come to have more blocks than 32 bits count, unless it has them already.
  if (groups > MOST_GROUPS || groups * inodesPerGroup > MOST_SHORT || blocks > Math.max(MOST_SHORT, head.blocks))
    return undefined;
  const descriptorBlocks = Math.ceil((groups * descriptorBytes) / block);
  const flex = hasFeature(superblock, 'flex_bg') ? 2 ** Math.min(superblock.logFlex, 31) : 1;
  const rule = copyRule(head, groups);
  const bare = {
    ...{ block, blocks, groups, flex, firstBlock, blocksPerGroup, descriptorBlocks, inodesPerGroup },
    ...{ descriptorBytes, inodeBytes, features: checksumsOf(superblock).features },
    tableBlocks: (inodesPerGroup * inodeBytes) / block,
    spareDescriptorBlocks: hasSpare(head) ? superblock.reservedTable : 0,
    ...(rule !== undefined && { copyRule: rule }),
    ...(hasFeature(superblock, 'meta_bg') && {
      meta: { first: Math.min(firstMetaGroup, descriptorBlocks), each: block / descriptorBytes },
    }),
  };
  if (!Number.isSafeInteger(bare.tableBlocks)) return undefined;
  try {
    const { taken } = placeGroups(bare);
    const used = taken.reduce((sum, { start, end }) => sum + end - start, 0);
    const structuresEnd = taken.at(-1)?.end ?? 0;
    const form = { ...bare, room: blocks - used, structuresEnd };
    return structuresEnd > blocks ? undefined : form;
  } catch (error) {
    if (error instanceof GroupsMisfit) return undefined;
    throw error;
  }
}

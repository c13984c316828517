/** What can be checked of an ext volume without its files: its superblocks, its groups, and its bitmaps against their counts. */
import type { BlockSource } from '../../../bytes/blocks';
import { GROUP_FLAG } from '../numbers';
import { type Fault, Faults } from './faults';
import type { Group } from '../group';
import { type CheckedVolume, readGroups, readSuperblock } from './volume';

/** Bits that are not set among the first `count` of a bitmap. */
function freeIn(bits: Uint8Array, count: number): number {
  let free = 0;
  for (let at = 0; at < count; at += 8) {
    let byte = bits[at >> 3]!;
    if (count - at < 8) byte |= 0xff << (count - at);
    for (let unset = ~byte & 0xff; unset !== 0; unset &= unset - 1) free += 1;
  }
  return free;
}

/** One bitmap: its checksum, and how many it says are free. */
async function checkBitmap(
  volume: CheckedVolume,
  faults: Faults,
  group: number,
  bitmap: { readonly kind: 'block' | 'inode'; readonly at: number; readonly sum: number; readonly count: number },
): Promise<number> {
  const { kind, at, sum: said, count } = bitmap;
  const { blocksPerGroup, inodesPerGroup } = volume.superblock;
  const bits = await volume.blockAt(at);
  if (volume.isSummed) {
    const sum = volume.sum([bits.subarray(0, (kind === 'block' ? blocksPerGroup : inodesPerGroup) / 8)]);
    faults.same(`bitmap/${kind} checksum`, `group ${group}`, said, volume.descriptorBytes >= 64 ? sum : sum & 0xffff);
  }
  return freeIn(bits, count);
}

async function checkGroup(volume: CheckedVolume, faults: Faults, g: number, group: Group): Promise<void> {
  const where = `group ${g}`;
  const { superblock } = volume;
  const table = (superblock.inodesPerGroup * volume.inodeSize) / volume.block;
  const places = [
    ['group/block bitmap', group.blockBitmap, 1],
    ['group/inode bitmap', group.inodeBitmap, 1],
    ['group/inode table', group.inodeTable, table],
  ] as const;
  let isSound = true;
  for (const [code, at, count] of places) {
    if (volume.isInside(at) && at + count <= volume.blocks) continue;
    faults.add(code, where, `block ${at}`);
    isSound = false;
  }
  if (!isSound) return;
  const blocks = Math.min(superblock.blocksPerGroup, volume.blocks - volume.groupStart(g));
  // What is not written yet says nothing; how many blocks are free then depends on what lies in the group.
  if ((group.flags & GROUP_FLAG.blocksUnset) === 0) {
    const one = { kind: 'block', at: group.blockBitmap, sum: group.blockSum, count: blocks } as const;
    faults.same('group/free blocks', where, group.freeBlocks, await checkBitmap(volume, faults, g, one));
  }
  const inodes = superblock.inodesPerGroup;
  if ((group.flags & GROUP_FLAG.inodesUnset) !== 0) faults.same('group/free inodes', where, group.freeInodes, inodes);
  else {
    const one = { kind: 'inode', at: group.inodeBitmap, sum: group.inodeSum, count: inodes } as const;
    faults.same('group/free inodes', where, group.freeInodes, await checkBitmap(volume, faults, g, one));
  }
}

/** Checks what says which blocks and inodes are in use, in the volume at a byte of the source; nothing is read of its files. */
export async function checkAllocation(source: BlockSource, base: number, available: number): Promise<readonly Fault[]> {
  const faults = new Faults();
  const volume = await readSuperblock(source, base, available, faults);
  if (!volume) return faults.all;
  const groups = await readGroups(volume, faults);
  for (const [g, group] of groups.entries()) await checkGroup(volume, faults, g, group);
  const sum = (of: (group: Group) => number) => groups.reduce((all, group) => all + of(group), 0);
  const { freeBlocksLow, freeBlocksHigh, freeInodes } = volume.superblock;
  const said = freeBlocksLow + (volume.isLong ? freeBlocksHigh * 2 ** 32 : 0);
  faults.same(
    'superblock/free blocks',
    'the superblock',
    said,
    sum(({ freeBlocks }) => freeBlocks),
  );
  faults.same(
    'superblock/free inodes',
    'the superblock',
    freeInodes,
    sum((group) => group.freeInodes),
  );
  return faults.all;
}

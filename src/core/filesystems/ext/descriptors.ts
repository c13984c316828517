/** Bitmaps of the groups, and the descriptors that count and check them (the kernel's documentation, "Block Group Descriptors"). */
import { high32, low32 } from '../../quantity/integers';
import { without } from '../../bytes/extents';
import { encode } from '../../bytes/record';
import type { Checksums } from './checksums';
import type { ExtGeometry } from './geometry';
import { type GroupForm, placeGroups, type Run, runOfGroup } from './groups';
import type { ExtPlan } from './plan';
import { GROUP_FLAG, INODE } from './numbers';
import { LONG_GROUP, SHORT_GROUP } from './records';

/** What a descriptor says of its group. */
export interface GroupFacts {
  /** The block bitmap; empty where it is all zeros. */
  readonly blocks: Uint8Array;
  /** The inode bitmap; empty where the kernel works it out for itself. */
  readonly inodes: Uint8Array;
  readonly freeBlocks: number;
  readonly freeInodes: number;
  readonly folders: number;
  readonly flags: number;
  readonly unused: number;
}

/** Sets the bits from `from` on, up to `to` exclusive. */
function setBits(bits: Uint8Array, from: number, to: number): void {
  let at = from;
  while (at < to && at % 8 !== 0) bits[at >> 3] = bits[at >> 3]! | (1 << (at++ & 7));
  const whole = to - ((to - at) % 8);
  bits.fill(0xff, at >> 3, whole >> 3);
  at = Math.max(at, whole);
  while (at < to) bits[at >> 3] = bits[at >> 3]! | (1 << (at++ & 7));
}

const NOTHING = new Uint8Array(0);

/** Last inode that is in use; all before it are. */
export function lastInode({ placed }: Pick<ExtPlan, 'placed'>): number {
  return placed.reduce<number>((most, { node }) => Math.max(most, node.inode), INODE.first);
}

/** What is in use of a volume. */
export interface Usage {
  /** Blocks that are free, ascending. */
  readonly free: readonly Run[];
  /** Directories of each group. */
  readonly folders: Uint32Array;
  /** Inodes of a group in use: its bitmap, how many, and the number within the group behind the last of them. */
  readonly inodesOf: (group: number) => {
    readonly bits: Uint8Array | undefined;
    readonly count: number;
    readonly end: number;
  };
}

/** What a plan of files uses: its inodes follow each other. */
export function usageOf({ groups, inodesPerGroup }: ExtGeometry, plan: ExtPlan): Usage {
  const last = lastInode(plan);
  const folders = new Uint32Array(groups);
  for (const { node } of plan.placed)
    if (node.directory) {
      const group = Math.floor((node.inode - 1) / inodesPerGroup);
      folders[group] = folders[group]! + 1;
    }
  return {
    free: plan.free.rest,
    folders,
    inodesOf(group) {
      const count = Math.min(inodesPerGroup, Math.max(0, last - group * inodesPerGroup));
      return { bits: undefined, count, end: count };
    },
  };
}

/** What it takes to say what descriptors say. */
export interface DescribedForm extends GroupForm {
  readonly block: number;
  readonly inodesPerGroup: number;
  readonly descriptorBytes: number;
  readonly features: { has(feature: 'metadata_csum' | 'gdt_csum'): boolean };
}

/** What the descriptors of all groups say. `leavesTables`: inode tables behind those in use are left to the kernel. */
export function groupFacts(form: DescribedForm, usage: Usage, leavesTables: boolean): GroupFacts[] {
  const { block, blocks, groups, inodesPerGroup, features } = form;
  const isChecked = features.has('metadata_csum') || features.has('gdt_csum');
  const taken = without({ start: 0, end: blocks }, usage.free);
  const allFree = new Uint8Array(block);
  setBits(allFree, inodesPerGroup, 8 * block);
  // Bits behind the last block that a group can have are set in all of them.
  let empty: Uint8Array<ArrayBuffer> = NOTHING;
  if (form.blocksPerGroup < 8 * block) {
    empty = new Uint8Array(block);
    setBits(empty, form.blocksPerGroup, 8 * block);
  }
  const ownOf = (bits: Uint8Array<ArrayBuffer>): Uint8Array<ArrayBuffer> =>
    bits !== empty ? bits : empty === NOTHING ? new Uint8Array(block) : empty.slice();
  let next = 0;
  return Array.from({ length: groups }, (_, group): GroupFacts => {
    const { start, end } = runOfGroup(form, group);
    let bits = empty;
    let free = end - start;
    while (next < taken.length && taken[next]!.end <= start) next += 1;
    for (let i = next; i < taken.length && taken[i]!.start < end; i++) {
      bits = ownOf(bits);
      const [from, to] = [Math.max(taken[i]!.start, start), Math.min(taken[i]!.end, end)];
      setBits(bits, from - start, to - start);
      free -= to - from;
    }
    // Bits behind the last block of the volume are set.
    if (end - start < form.blocksPerGroup) {
      bits = ownOf(bits);
      setBits(bits, end - start, 8 * block);
    }
    const own = usage.inodesOf(group);
    const used = own.count;
    let inodes = allFree;
    if (used === 0 && isChecked) inodes = NOTHING;
    else if (used > 0) {
      inodes = allFree.slice();
      if (own.bits) inodes.set(own.bits.subarray(0, inodesPerGroup / 8));
      else setBits(inodes, 0, used);
    }
    // Only a group whose inodes are not set may leave its bitmap unwritten.
    const unset = used === 0 && isChecked ? GROUP_FLAG.inodesUnset : 0;
    return {
      blocks: bits,
      inodes,
      freeBlocks: free,
      freeInodes: inodesPerGroup - used,
      folders: usage.folders[group]!,
      flags: isChecked ? unset + (leavesTables ? 0 : GROUP_FLAG.tableZeroed) : 0,
      unused: isChecked ? inodesPerGroup - own.end : 0,
    };
  });
}

/** All descriptors, one behind another, in whole blocks. */
export function descriptorTable(form: DescribedForm, facts: readonly GroupFacts[], sums: Checksums): Uint8Array {
  const { block, inodesPerGroup, descriptorBytes, descriptorBlocks, blocksPerGroup } = form;
  const places = placeGroups(form);
  const out = new Uint8Array(descriptorBlocks * block);
  const sumOfZeros = sums.isOn ? sums.of(new Uint8Array(blocksPerGroup / 8)) : 0;
  facts.forEach(({ blocks, inodes, freeBlocks, freeInodes, folders, flags, unused }, group) => {
    const blockSum = !sums.isOn ? 0 : blocks.length === 0 ? sumOfZeros : sums.of(blocks);
    const inodeSum = sums.isOn && inodes.length > 0 ? sums.of(inodes.subarray(0, inodesPerGroup / 8)) : 0;
    const [blockBitmap, inodeBitmap, inodeTable] = [
      places.blockBitmap[group]!,
      places.inodeBitmap[group]!,
      places.inodeTable[group]!,
    ];
    const long = {
      blockBitmap: low32(blockBitmap),
      inodeBitmap: low32(inodeBitmap),
      inodeTable: low32(inodeTable),
      freeBlocks: freeBlocks & 0xffff,
      freeInodes: freeInodes & 0xffff,
      folders: folders & 0xffff,
      flags,
      exclude: 0,
      blockSum: blockSum & 0xffff,
      inodeSum: inodeSum & 0xffff,
      unused: unused & 0xffff,
      checksum: 0,
      blockBitmapHigh: high32(blockBitmap),
      inodeBitmapHigh: high32(inodeBitmap),
      inodeTableHigh: high32(inodeTable),
      freeBlocksHigh: freeBlocks >>> 16,
      freeInodesHigh: freeInodes >>> 16,
      foldersHigh: folders >>> 16,
      unusedHigh: unused >>> 16,
      excludeHigh: 0,
      blockSumHigh: blockSum >>> 16,
      inodeSumHigh: inodeSum >>> 16,
    };
    // What a short descriptor has no field for is zero there.
    const bytes = new Uint8Array(descriptorBytes);
    bytes.set(encode(descriptorBytes < 64 ? SHORT_GROUP : LONG_GROUP, long));
    const at = SHORT_GROUP.fields.checksum.offset;
    new DataView(bytes.buffer).setUint16(at, sums.ofDescriptor(group, bytes, at), true);
    out.set(bytes, group * descriptorBytes);
  });
  return out;
}

/** What is in use, of groups that something is taken out of: their bitmaps, counts and checksums. */
import { BrokenChain } from '../../volume';
import { type Checksums, checksumsOf } from '../checksums';
import { groupIn } from '../group';
import { LONG_GROUP, SHORT_GROUP } from '../records';
import { descriptorAt } from '../read/head';
import type { Inodes } from '../read/inodes';
import type { PatchedView } from './view';

/** A group whose bitmaps are changed. */
interface Open {
  readonly group: number;
  /** Byte of the volume at which its descriptor lies. */
  readonly at: number;
  readonly descriptor: Uint8Array;
  readonly blocks: { readonly at: number; readonly bits: Uint8Array };
  readonly inodes: { readonly at: number; readonly bits: Uint8Array };
  freeBlocks: number;
  freeInodes: number;
  folders: number;
}

/** Counts and checksums of a descriptor: its lower halves, and its upper ones where it has them. */
const SHORT = SHORT_GROUP.fields;
const LONG = LONG_GROUP.fields;

const isSet = (bits: Uint8Array, at: number) => (bits[at >> 3]! & (1 << (at & 7))) !== 0;

export class Accounts {
  private readonly open = new Map<number, Promise<Open>>();
  private readonly sums: Checksums;

  /** `view` takes what is changed; `inodes` read it. */
  constructor(
    private readonly inodes: Inodes,
    private readonly view: PatchedView,
  ) {
    this.sums = checksumsOf(inodes.head.superblock);
  }

  private async read(group: number): Promise<Open> {
    const { inodes } = this;
    const { head } = inodes;
    const { descriptorBytes, block } = head;
    const at = descriptorAt(head, group);
    const descriptor = new Uint8Array(await inodes.read(at, descriptorBytes));
    const { blockBitmap, inodeBitmap, freeBlocks, freeInodes, folders } = groupIn(descriptor);
    const bitmap = async (number: number) => {
      if (number < 1 || number >= head.blocks) throw new BrokenChain(`a bitmap of group ${group} is not in the volume`);
      return { at: number, bits: new Uint8Array(await inodes.read(number * block, block)) };
    };
    return {
      ...{ group, at, descriptor },
      blocks: await bitmap(blockBitmap),
      inodes: await bitmap(inodeBitmap),
      ...{ freeBlocks, freeInodes, folders },
    };
  }

  private of(group: number): Promise<Open> {
    let found = this.open.get(group);
    if (!found) this.open.set(group, (found = this.read(group)));
    return found;
  }

  /** True where the bitmap says that an inode is in use. */
  async isInUse(inode: number): Promise<boolean> {
    const { inodesPerGroup } = this.inodes.head.superblock;
    const { inodes } = await this.of(Math.floor((inode - 1) / inodesPerGroup));
    return isSet(inodes.bits, (inode - 1) % inodesPerGroup);
  }

  async freeBlocks(start: number, count: number): Promise<void> {
    const { firstDataBlock, blocksPerGroup } = this.inodes.head.superblock;
    for (let left = count, block = start; left > 0;) {
      const group = Math.floor((block - firstDataBlock) / blocksPerGroup);
      const own = await this.of(group);
      const first = block - firstDataBlock - group * blocksPerGroup;
      const here = Math.min(left, blocksPerGroup - first);
      for (let at = first; at < first + here; at++) {
        if (!isSet(own.blocks.bits, at)) continue;
        own.blocks.bits[at >> 3]! &= ~(1 << (at & 7));
        own.freeBlocks += 1;
      }
      block += here;
      left -= here;
    }
  }

  async freeInode(inode: number, isFolder: boolean): Promise<void> {
    const { inodesPerGroup } = this.inodes.head.superblock;
    const own = await this.of(Math.floor((inode - 1) / inodesPerGroup));
    const at = (inode - 1) % inodesPerGroup;
    own.inodes.bits[at >> 3]! &= ~(1 << (at & 7));
    own.freeInodes += 1;
    if (isFolder) own.folders = Math.max(0, own.folders - 1);
  }

  /** Lays down all that was changed, with checksums. */
  async close(): Promise<void> {
    const { inodesPerGroup, blocksPerGroup } = this.inodes.head.superblock;
    for (const pending of this.open.values()) {
      const { group, at, descriptor, blocks, inodes, ...counts } = await pending;
      this.view.set(blocks.at, blocks.bits);
      this.view.set(inodes.at, inodes.bits);
      const view = new DataView(descriptor.buffer, descriptor.byteOffset, descriptor.length);
      const halves = (low: keyof typeof SHORT, high: keyof typeof LONG, value: number) => {
        view.setUint16(SHORT[low].offset, value & 0xffff, true);
        if (descriptor.length >= 64) view.setUint16(LONG[high].offset, value >>> 16, true);
      };
      halves('freeBlocks', 'freeBlocksHigh', counts.freeBlocks);
      halves('freeInodes', 'freeInodesHigh', counts.freeInodes);
      halves('folders', 'foldersHigh', counts.folders);
      if (this.sums.isOn) {
        halves('blockSum', 'blockSumHigh', this.sums.of(blocks.bits.subarray(0, blocksPerGroup / 8)));
        halves('inodeSum', 'inodeSumHigh', this.sums.of(inodes.bits.subarray(0, inodesPerGroup / 8)));
      }
      view.setUint16(SHORT.checksum.offset, 0, true);
      view.setUint16(SHORT.checksum.offset, this.sums.ofDescriptor(group, descriptor, SHORT.checksum.offset), true);
      await this.view.put(at, descriptor);
    }
  }
}

/**
 * The structures of the groups as they are written, whoever made what lies between them: superblocks with the descriptors
 * behind them, bitmaps, inode tables, and what is kept for more descriptors.
 */
import type { Extent } from '../../bytes/extents';
import type { NamedRange } from '../kind';
import type { GroupFacts } from './descriptors';
import { type GroupForm, placeGroups, runOfGroup } from './groups';
import { SUPERBLOCK_AT } from './numbers';

/** Ranges as they come up, in blocks; zeros that touch are one. */
export class Ranges {
  readonly all: NamedRange[] = [];

  constructor(private readonly block: number) {}

  add(what: string, extent: Extent, file?: string): void {
    const last = this.all[this.all.length - 1];
    if ('zeros' in extent && extent.zeros === 0) return;
    if (last && 'zeros' in extent && 'zeros' in last.extent && last.what === what && last.file === file)
      if (last.extent.offset + last.extent.zeros === extent.offset) {
        this.all[this.all.length - 1] = {
          ...last,
          extent: { offset: last.extent.offset, zeros: last.extent.zeros + extent.zeros },
        };
        return;
      }
    this.all.push({ what, ...(file !== undefined && { file }), extent });
  }

  bytes(what: string, at: number, bytes: Uint8Array, file?: string): void {
    this.add(what, { offset: at * this.block, bytes }, file);
  }

  zeros(what: string, at: number, count: number, file?: string): void {
    this.add(what, { offset: at * this.block, zeros: count * this.block }, file);
  }
}

/** What it takes to write the structures. */
export interface WrittenForm extends GroupForm {
  /** Bytes of a block. */
  readonly block: number;
}

/** Of the inode that keeps spare blocks: its map, its length in bytes, and the sectors of 512 bytes that it takes. */
export interface WrittenSpare {
  readonly map: Uint8Array;
  readonly size: number;
  readonly sectors: number;
}

const DIRECT_TWO = 13;

/** The spare blocks for descriptors, which the block `resize` leads to: each is a table of its own copies. */
export function writeSpare(ranges: Ranges, form: WrittenForm, resize: number): WrittenSpare {
  const { block, descriptorBlocks, spareDescriptorBlocks: spare } = form;
  const copies = placeGroups(form).heads.filter(({ group, spare: kept }) => group > 0 && kept > 0);
  const width = block / 4;
  const table = new Uint8Array(block);
  const view = new DataView(table.buffer);
  const first = runOfGroup(form, 0).start + 1 + descriptorBlocks;
  for (let i = 0; i < spare; i++) {
    const at = first + i;
    view.setUint32(4 * ((descriptorBlocks + i) % width), at, true);
    const own = new Uint8Array(block);
    copies.forEach(({ group }, n) => {
      const copy = runOfGroup(form, group).start + 1 + descriptorBlocks + i;
      new DataView(own.buffer).setUint32(4 * n, copy, true);
    });
    ranges.bytes('room for group descriptors', at, own);
  }
  ranges.bytes('room for group descriptors', resize, table);
  const map = new Uint8Array(60);
  new DataView(map.buffer).setUint32(4 * DIRECT_TWO, resize, true);
  const sectors = ((1 + spare * (1 + copies.length)) * block) / 512;
  return { map, size: (12 + width + width ** 2) * block, sectors };
}

/** Copies of the superblock, descriptors behind each or with their groups, and what is kept for more. */
export function addCopies(
  ranges: Ranges,
  form: WrittenForm,
  table: Uint8Array,
  superblockOf: (group: number) => Uint8Array,
): void {
  const { block } = form;
  for (const { group, copy, table: described, spare, meta, part } of placeGroups(form).heads) {
    const { start } = runOfGroup(form, group);
    let next = start;
    if (copy > 0) {
      const what = group === 0 ? 'superblock' : 'superblock copy';
      // The first one always stands at byte 1,024.
      const [at, ahead] = group === 0 ? [SUPERBLOCK_AT, start * block] : [start * block, start * block];
      if (group === 0) ranges.add('boot area', { offset: 0, zeros: SUPERBLOCK_AT });
      const bytes = superblockOf(group);
      ranges.add(what, { offset: at, bytes });
      ranges.add(what, { offset: at + bytes.length, zeros: ahead + block - at - bytes.length });
      next += 1;
    }
    const what = group === 0 ? 'group descriptors' : 'group descriptors copy';
    if (described > 0) ranges.bytes(what, next, table.subarray(0, described * block));
    next += described;
    if (group > 0) ranges.zeros('room for group descriptors', next, spare);
    next += spare;
    if (meta > 0) ranges.bytes('group descriptors', next, table.subarray(part * block, (part + 1) * block));
  }
}

/** The inode table of a group: what is in use of it, in whole blocks, and behind that zeros. */
export function addTable(
  ranges: Ranges,
  form: WrittenForm,
  group: number,
  bytes: Uint8Array,
  leftToKernel: boolean,
): void {
  const { block, tableBlocks } = form;
  const start = placeGroups(form).inodeTable[group]!;
  const used = bytes.length / block;
  if (used > 0) ranges.bytes('inode table', start, bytes);
  if (!leftToKernel) ranges.zeros('inode table, unused part', start + used, tableBlocks - used);
}

/** Bitmaps of all groups; those that hold nothing are zeros. */
export function addBitmaps(ranges: Ranges, form: WrittenForm, facts: readonly GroupFacts[]): void {
  const { blockBitmap, inodeBitmap } = placeGroups(form);
  const put = (what: string, at: number, bitmap: Uint8Array) =>
    bitmap.length === 0 ? ranges.zeros(what, at, 1) : ranges.bytes(what, at, bitmap);
  facts.forEach(({ blocks }, group) => put('block bitmap', blockBitmap[group]!, blocks));
  facts.forEach(({ inodes }, group) => put('inode bitmap', inodeBitmap[group]!, inodes));
}

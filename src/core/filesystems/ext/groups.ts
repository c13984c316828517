/**
 * Where the structures of the groups lie (the kernel's documentation, "Layout" and "Flexible Block
 * Groups"): copies of the superblock with all group descriptors at the beginning of some groups; bitmaps
 * and inode tables at the beginning of each, or those of sixteen groups together.
 */
import type { Span } from '../../bytes/extents';

/** Blocks from `start` on, up to `end` exclusive. */
export type Run = Span;

/** True for a group with a copy of the superblock: 0, 1, and the powers of 3, 5 and 7. */
export function hasCopy(group: number): boolean {
  if (group <= 1) return true;
  return [3, 5, 7].some((base) => {
    let power = base;
    while (power < group) power *= base;
    return power === group;
  });
}

/** Groups with a copy, ascending, below `groups`; by the powers, where no other rule holds. */
export function copyGroups(groups: number, rule?: GroupForm['copyRule']): number[] {
  if (rule === 'all') return Array.from({ length: groups }, (_, group) => group);
  if (rule) return [...new Set([0, ...rule])].filter((group) => group < groups).sort((a, b) => a - b);
  const found = [0, 1].filter((group) => group < groups);
  for (const base of [3, 5, 7]) for (let power = base; power < groups; power *= base) found.push(power);
  return found.sort((a, b) => a - b);
}

/** What it takes to say where the structures of the groups lie. */
export interface GroupForm {
  readonly groups: number;
  /** Groups that lie together; 1 where each has its own tables. */
  readonly flex: number;
  /** Block of the first group: 1 with blocks of 1 KiB. */
  readonly firstBlock: number;
  readonly blocksPerGroup: number;
  readonly blocks: number;
  /** Blocks of the inode table of a group. */
  readonly tableBlocks: number;
  /** Blocks of all group descriptors, and those kept behind them for more. */
  readonly descriptorBlocks: number;
  readonly spareDescriptorBlocks: number;
  /** Groups that have a copy of the superblock beside the first, where that is not by the powers: all, or these. */
  readonly copyRule?: 'all' | readonly number[];
  /** Descriptors from this block of them on lie with the groups that they describe, so many groups for each block. */
  readonly meta?: { readonly first: number; readonly each: number };
}

/** What lies at the beginning of a group, in blocks, in this order. */
export interface GroupHead {
  readonly group: number;
  /** 1 where there is a copy of the superblock. */
  readonly copy: number;
  /** Group descriptors of the whole volume behind it, and what is kept for more of them. */
  readonly table: number;
  readonly spare: number;
  /** 1 where the descriptors of this group and its neighbours follow, and which block of all descriptors that is. */
  readonly meta: number;
  readonly part: number;
}

/** What lies at the beginning of the groups that begin with something, ascending ("Meta Block Groups"). */
function headsOf(form: GroupForm): GroupHead[] {
  const { groups, descriptorBlocks, spareDescriptorBlocks, copyRule, meta } = form;
  const copies = copyGroups(groups, copyRule);
  if (!meta)
    return copies.map((group) => ({
      ...{ group, copy: 1, table: descriptorBlocks, spare: spareDescriptorBlocks, meta: 0, part: 0 },
    }));
  const { first, each } = meta;
  const withCopy = new Set(copies);
  const all = new Set(copies);
  for (let part = first; part * each < groups; part++)
    for (const group of [part * each, part * each + 1, part * each + each - 1]) if (group < groups) all.add(group);
  return [...all]
    .sort((a, b) => a - b)
    .map((group) => {
      const part = Math.floor(group / each);
      const isMeta = part >= first;
      const isCopy = withCopy.has(group);
      return {
        group,
        copy: isCopy ? 1 : 0,
        table: isCopy && !isMeta ? Math.min(descriptorBlocks, first) : 0,
        spare: isCopy && !isMeta ? spareDescriptorBlocks : 0,
        meta: isMeta && (group % each <= 1 || group % each === each - 1) ? 1 : 0,
        part,
      };
    });
}

/** The structures of some groups have no room in them. */
export class GroupsMisfit extends Error {}

/** Where the structures of every group lie, in blocks. */
export interface Groups {
  readonly heads: readonly GroupHead[];
  readonly blockBitmap: Float64Array;
  readonly inodeBitmap: Float64Array;
  readonly inodeTable: Float64Array;
  /** Everything that structures take, ascending, merged where it touches. */
  readonly taken: readonly Run[];
}

/** First block of a group, and the one behind its last. */
export function runOfGroup({ firstBlock, blocksPerGroup, blocks }: GroupForm, group: number): Run {
  const start = firstBlock + group * blocksPerGroup;
  return { start, end: Math.min(blocks, start + blocksPerGroup) };
}

/** Blocks that the head of a group takes. */
const headBlocks = ({ copy, table, spare, meta }: GroupHead): number => copy + table + spare + meta;

/** The structures of the groups that lie together from one on, in blocks. */
export interface FlexGroup {
  readonly first: number;
  readonly blockBitmaps: readonly number[];
  readonly inodeBitmaps: readonly number[];
  readonly inodeTables: readonly number[];
  /** All that structures take in them, ascending, merged where it touches. */
  readonly taken: readonly Run[];
  /** Block behind the last of them. */
  readonly end: number;
}

/** Places the structures of one lot of groups behind the other. Throws a GroupsMisfit where they leave it. */
export function* flexGroups(form: GroupForm): Generator<FlexGroup> {
  const { groups, flex, tableBlocks, firstBlock } = form;
  const heads = headsOf(form);
  let nextHead = 0;
  const headAt = () => (nextHead < heads.length ? runOfGroup(form, heads[nextHead]!.group).start : Infinity);
  for (let first = 0; first < groups; first += flex) {
    const count = Math.min(flex, groups - first);
    const { end } = runOfGroup(form, first + count - 1);
    const taken: { start: number; end: number }[] =
      first === 0 && firstBlock > 0 ? [{ start: 0, end: firstBlock }] : [];
    const take = (start: number, length: number) => {
      const last = taken[taken.length - 1];
      if (last?.end === start) last.end = start + length;
      else taken.push({ start, end: start + length });
    };
    let at = runOfGroup(form, first).start;
    /** Takes the head of a group where it is; gives the block behind it. */
    const takeHead = (): number => {
      const [start, length] = [headAt(), headBlocks(heads[nextHead]!)];
      take(start, length);
      nextHead += 1;
      return start + length;
    };
    /** The next `length` blocks in one piece; heads of groups on the way are taken where they are. */
    const run = (length: number): number => {
      while (at + length > headAt()) at = takeHead();
      const start = at;
      take(start, length);
      at += length;
      return start;
    };
    const each = (length: number) => Array.from({ length: count }, () => run(length));
    const [blockBitmaps, inodeBitmaps, inodeTables] = [each(1), each(1), each(tableBlocks)];
    let behind = at;
    while (headAt() < end) behind = takeHead();
    if (behind > end) throw new GroupsMisfit(`The structures of group ${first} leave it.`);
    yield { first, blockBitmaps, inodeBitmaps, inodeTables, taken, end };
  }
}

const KNOWN = new WeakMap<GroupForm, Groups>();

/** Places the structures of all groups. */
export function placeGroups(form: GroupForm): Groups {
  const known = KNOWN.get(form);
  if (known) return known;
  const placed = place(form);
  KNOWN.set(form, placed);
  return placed;
}

function place(form: GroupForm): Groups {
  const { groups } = form;
  const blockBitmap = new Float64Array(groups);
  const inodeBitmap = new Float64Array(groups);
  const inodeTable = new Float64Array(groups);
  const taken: { start: number; end: number }[] = [];
  for (const one of flexGroups(form)) {
    blockBitmap.set(one.blockBitmaps, one.first);
    inodeBitmap.set(one.inodeBitmaps, one.first);
    inodeTable.set(one.inodeTables, one.first);
    for (const run of one.taken) {
      const last = taken[taken.length - 1];
      if (last?.end === run.start) last.end = run.end;
      else taken.push({ ...run });
    }
  }
  return { heads: headsOf(form), blockBitmap, inodeBitmap, inodeTable, taken };
}

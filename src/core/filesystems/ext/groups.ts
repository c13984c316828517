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

/** Groups with a copy, ascending, below `groups`. */
export function copyGroups(groups: number): number[] {
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
}

/** Where the structures of every group lie, in blocks. */
export interface Groups {
  readonly copies: readonly number[];
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

/** Blocks that a copy of the superblock takes with the descriptors behind it, and those kept for more. */
function copyBlocks({ descriptorBlocks, spareDescriptorBlocks }: GroupForm): number {
  return 1 + descriptorBlocks + spareDescriptorBlocks;
}

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

/** Places the structures of one lot of groups behind the other. */
export function* flexGroups(form: GroupForm): Generator<FlexGroup> {
  const { groups, flex, tableBlocks, firstBlock } = form;
  const copies = copyGroups(groups);
  const ahead = copyBlocks(form);
  let nextCopy = 0;
  const copyAt = () => (nextCopy < copies.length ? runOfGroup(form, copies[nextCopy]!).start : Infinity);
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
    /** The next `length` blocks in one piece; copies on the way are taken where they are. */
    const run = (length: number): number => {
      while (at + length > copyAt()) {
        const copy = copyAt();
        take(copy, ahead);
        nextCopy += 1;
        at = copy + ahead;
      }
      const start = at;
      take(start, length);
      at += length;
      return start;
    };
    const each = (length: number) => Array.from({ length: count }, () => run(length));
    const [blockBitmaps, inodeBitmaps, inodeTables] = [each(1), each(1), each(tableBlocks)];
    if (at > end) throw new Error(`The structures of group ${first} leave it.`);
    while (copyAt() < end) {
      take(copyAt(), ahead);
      nextCopy += 1;
    }
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
  return { copies: copyGroups(groups), blockBitmap, inodeBitmap, inodeTable, taken };
}

/**
 * Where the structures of the groups lie (the kernel's documentation, "Layout" and "Flexible Block
 * Groups"): copies of the superblock with all group descriptors at the beginning of some groups; bitmaps
 * and inode tables at the beginning of each, or those of sixteen groups together.
 */
import { type Span, without } from '../../bytes/extents';
import { copyGroups, type ExtGeometry } from './geometry';

/** Blocks from `start` on, up to `end` exclusive. */
export type Run = Span;

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
export function runOfGroup({ firstBlock, blocksPerGroup, blocks }: ExtGeometry, group: number): Run {
  const start = firstBlock + group * blocksPerGroup;
  return { start, end: Math.min(blocks, start + blocksPerGroup) };
}

/** Blocks that a copy of the superblock takes with the descriptors behind it, and those kept for more. */
function copyBlocks({ descriptorBlocks, spareDescriptorBlocks }: ExtGeometry): number {
  return 1 + descriptorBlocks + spareDescriptorBlocks;
}

const KNOWN = new WeakMap<ExtGeometry, Groups>();

/** Places the structures of all groups. */
export function placeGroups(geometry: ExtGeometry): Groups {
  const known = KNOWN.get(geometry);
  if (known) return known;
  const placed = place(geometry);
  KNOWN.set(geometry, placed);
  return placed;
}

function place(geometry: ExtGeometry): Groups {
  const { groups, flex, tableBlocks, firstBlock } = geometry;
  const copies = copyGroups(groups);
  const ahead = copyBlocks(geometry);
  const blockBitmap = new Float64Array(groups);
  const inodeBitmap = new Float64Array(groups);
  const inodeTable = new Float64Array(groups);
  const taken: { start: number; end: number }[] = firstBlock > 0 ? [{ start: 0, end: firstBlock }] : [];
  const take = (start: number, count: number) => {
    const last = taken[taken.length - 1];
    if (last?.end === start) last.end = start + count;
    else taken.push({ start, end: start + count });
  };
  let nextCopy = 0;
  const copyAt = () => (nextCopy < copies.length ? runOfGroup(geometry, copies[nextCopy]!).start : Infinity);
  for (let first = 0; first < groups; first += flex) {
    const count = Math.min(flex, groups - first);
    const { end } = runOfGroup(geometry, first + count - 1);
    let at = runOfGroup(geometry, first).start;
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
    for (let i = 0; i < count; i++) blockBitmap[first + i] = run(1);
    for (let i = 0; i < count; i++) inodeBitmap[first + i] = run(1);
    for (let i = 0; i < count; i++) inodeTable[first + i] = run(tableBlocks);
    if (at > end) throw new Error(`The structures of group ${first} leave it.`);
    while (copyAt() < end) {
      take(copyAt(), ahead);
      nextCopy += 1;
    }
  }
  return { copies, blockBitmap, inodeBitmap, inodeTable, taken };
}

/** Blocks that nothing takes yet, given out from the front. */
export class FreeBlocks {
  private readonly runs: { start: number; end: number }[];
  private first = 0;
  /** Blocks that are left. */
  left: number;

  constructor(taken: readonly Run[], blocks: number) {
    this.runs = without({ start: 0, end: blocks }, taken).map((run) => ({ ...run }));
    this.left = this.runs.reduce((sum, { start, end }) => sum + end - start, 0);
  }

  /** So many blocks in as few pieces as there are: in one where there is one that is large enough. Undefined where so many are not left. */
  take(count: number): Run[] | undefined {
    if (count > this.left) return undefined;
    this.left -= count;
    const { runs } = this;
    while (this.first < runs.length && runs[this.first]!.start === runs[this.first]!.end) this.first += 1;
    for (let i = this.first; i < runs.length; i++) {
      const run = runs[i]!;
      if (run.end - run.start < count) continue;
      run.start += count;
      return [{ start: run.start - count, end: run.start }];
    }
    const parts: Run[] = [];
    let missing = count;
    for (let i = this.first; missing > 0; i++) {
      const run = runs[i]!;
      const some = Math.min(missing, run.end - run.start);
      if (some === 0) continue;
      parts.push({ start: run.start, end: run.start + some });
      run.start += some;
      missing -= some;
    }
    return parts;
  }

  /** What is still free, ascending. */
  get rest(): readonly Run[] {
    return this.runs.filter(({ start, end }) => end > start);
  }
}

/**
 * Where everything of a repacked volume lies, and how small it can be. Everything that goes along is laid one behind the
 * other, from the front on: how much that takes depends on nothing behind it, so that the least length is read off its end,
 * and one block less has no room. Where there is more room, each file lies in one piece as far as the groups allow.
 */
import { hasFeature } from '../feature-bits';
import { FreeBlocks, NOTHING, place, type Placed } from '../free-blocks';
import { placeGroups } from '../groups';
import { mapBlocksOf } from '../mapping';
import { INODE, INODE_FLAG } from '../numbers';
import { type ExtHead, ownInodes } from '../read/head';
import { endOfGroups, formOf, groupsOf, hasSpare, type PackedForm } from './form';
import type { Gathered, PackedInode } from './gather';

/** Files that are named by numbers of their own, or that keep those that they have. */
export type Numbering = 'renumbered' | 'kept';

/** Where everything lies. */
export interface Places {
  readonly form: PackedForm;
  /** Block that leads to the spare descriptors, and that of the signs of a mount; 0 where there is none. */
  readonly resize: number;
  readonly mmp: number;
  /** Beside each inode that goes along. */
  readonly placed: readonly Placed[];
  /** New blocks of attributes, by the old ones. */
  readonly attributes: ReadonlyMap<number, number>;
  readonly free: FreeBlocks;
}

const BY_EXTENTS: { readonly has: (feature: string) => boolean } = new Set(['extents']);
const BY_MAP: { readonly has: (feature: string) => boolean } = new Set<string>();
type MapFeatures = Parameters<typeof mapBlocksOf>[0];

/** How the blocks of an inode are found. */
export const featuresOf = ({ flags }: PackedInode): MapFeatures =>
  ((flags & INODE_FLAG.extents) !== 0 ? BY_EXTENTS : BY_MAP) as MapFeatures;

const hasMmp = ({ superblock }: ExtHead) => hasFeature(superblock, 'mmp') && superblock.mmpBlock > 0n;

/** Blocks of a file that lies in one piece, with those of its map. */
function blocksOf(inode: PackedInode, block: number): number {
  const { ranges } = inode;
  if (ranges.length === 0) return 0;
  let blocks = mapBlocksOf(featuresOf(inode), block, ranges);
  for (const { count } of ranges) blocks += count;
  return blocks;
}

const LEAST = new WeakMap<Gathered, number>();

/** Blocks that everything takes at least, with every file in one piece; counted once. */
function leastBlocks(gathered: Gathered): number {
  const known = LEAST.get(gathered);
  if (known !== undefined) return known;
  const { head, inodes } = gathered;
  let sum = (hasSpare(head) ? 1 : 0) + (hasMmp(head) ? 1 : 0);
  const attributes = new Set<number>();
  for (const inode of inodes) {
    sum += blocksOf(inode, head.block);
    if (inode.attributes > 0) attributes.add(inode.attributes);
  }
  LEAST.set(gathered, sum + attributes.size);
  return sum + attributes.size;
}

/** First number that is given out anew. */
export const firstFree = ({ superblock }: ExtHead): number =>
  superblock.revision === 0 ? INODE.first : superblock.firstInode;

/** The highest number that is in use. */
export function lastNumber({ head, inodes }: Gathered, numbering: Numbering): number {
  const first = firstFree(head);
  if (numbering === 'kept') return Math.max(first - 1, inodes.at(-1)?.number ?? 0);
  return first - 1 + inodes.filter(({ number }) => number >= first).length;
}

/** A file with more pieces than these in its inode costs a block more when a border divides it. */
const FEW_PIECES = 3;

/** The order in which everything is laid: the journal first; with `isTight` then what has many pieces, which a border costs the most. */
function orderOf({ head, inodes }: Gathered, isTight: boolean): number[] {
  const { journal } = ownInodes(head);
  const [ahead, many, few]: [number[], number[], number[]] = [[], [], []];
  inodes.forEach(({ number, ranges }, i) => {
    if (number === journal) ahead.push(i);
    else if (isTight && ranges.length > FEW_PIECES) many.push(i);
    else few.push(i);
  });
  many.sort((a, b) => inodes[b]!.ranges.length - inodes[a]!.ranges.length || a - b);
  return [...ahead, ...many, ...few];
}

/**
 * Lays everything into the free blocks of a form; undefined where they are too few. With `onlyEnd`, which is for what is tight,
 * the same blocks are taken, and where a file lies is not kept.
 */
function lay(
  form: PackedForm,
  gathered: Gathered,
  free: FreeBlocks,
  isTight: boolean,
  onlyEnd = false,
): Places | undefined {
  const { head, inodes } = gathered;
  const one = () => free.take(1)?.[0]?.start;
  const resize = hasSpare(head) ? one() : 0;
  const mmp = hasMmp(head) ? one() : 0;
  if (resize === undefined || mmp === undefined) return undefined;
  const placed = new Array<Placed>(inodes.length).fill(NOTHING);
  const attributes = new Map<number, number>();
  for (const i of orderOf(gathered, isTight)) {
    const inode = inodes[i]!;
    const isPassed = onlyEnd && free.pass(blocksOf(inode, form.block));
    const where = isPassed ? NOTHING : place({ features: featuresOf(inode), block: form.block }, free, inode.ranges);
    if (!where) return undefined;
    placed[i] = where;
    if (inode.attributes === 0 || attributes.has(inode.attributes)) continue;
    const own = one();
    if (own === undefined) return undefined;
    attributes.set(inode.attributes, own);
  }
  return { form, resize, mmp, placed, attributes, free };
}

/** Blocks that a volume of this form takes, everything laid one behind the other: it may be longer than the form. */
function tightEnd(form: PackedForm, gathered: Gathered): number {
  const free = new FreeBlocks(placeGroups(form).taken, Number.MAX_SAFE_INTEGER, true);
  if (!lay(form, gathered, free, true, true)) return Infinity;
  return Math.max(form.structuresEnd, free.rest[0]?.start ?? Infinity);
}

/** Blocks that a group gives at most to what is not structure. */
function mostOfGroup({ superblock: { inodesPerGroup, blocksPerGroup }, inodeBytes, block }: ExtHead): number {
  return Math.max(1, blocksPerGroup - 2 - (inodesPerGroup * inodeBytes) / block);
}

/** Groups below which no volume has room for all of it. */
function fewestGroups(gathered: Gathered, least: number, numbering: Numbering): number {
  const { head } = gathered;
  const numbered = Math.ceil(lastNumber(gathered, numbering) / head.superblock.inodesPerGroup);
  return Math.max(1, Math.ceil(least / mostOfGroup(head)), numbered);
}

/** Groups whose structures are placed, in all, before it is said that there is no length. */
const MOST_WORK = 2 ** 24;

/** The fewest blocks with which repacking succeeds; undefined where there is no such number. */
export function leastOf(gathered: Gathered, numbering: Numbering): number | undefined {
  const { head } = gathered;
  const least = leastBlocks(gathered);
  let groups = fewestGroups(gathered, least, numbering);
  for (let work = 0; work < MOST_WORK; work += groups) {
    const most = endOfGroups(head, groups);
    const form = formOf(head, most);
    if (form && form.room >= least) {
      const end = Math.max(tightEnd(form, gathered), endOfGroups(head, groups - 1) + 1);
      if (end <= most) return end;
    }
    // No group gives more than its blocks without its own structures.
    groups += form ? Math.max(1, Math.floor((least - form.room) / mostOfGroup(head))) : 1;
  }
  return undefined;
}

/** Where everything lies in a volume of so many blocks, or of fewer; undefined where it has no room. */
export function placesIn(gathered: Gathered, blocks: number, numbering: Numbering): Places | undefined {
  const { head } = gathered;
  const needed = leastBlocks(gathered);
  const fewest = fewestGroups(gathered, needed, numbering);
  const groups = groupsOf(head, blocks);
  const holds = (form: PackedForm | undefined): form is PackedForm =>
    form !== undefined && form.groups >= fewest && form.room >= needed && tightEnd(form, gathered) <= form.blocks;
  const whole = formOf(head, blocks);
  const below = groups > 1 ? formOf(head, endOfGroups(head, groups - 1)) : undefined;
  // A last group that takes more than it gives is left out, where the rest has room enough.
  const inOrder = whole && below && whole.room <= below.room ? [below, whole] : [whole, below];
  for (const form of inOrder) if (holds(form)) return roomy(form, gathered);
  const least = leastOf(gathered, numbering);
  const last = least !== undefined && least <= blocks ? formOf(head, least) : undefined;
  return last && roomy(last, gathered);
}

/** Every file in one piece where that can be; one behind the other where that takes too much. */
function roomy(form: PackedForm, gathered: Gathered): Places | undefined {
  const { taken } = placeGroups(form);
  return (
    lay(form, gathered, new FreeBlocks(taken, form.blocks), false) ??
    lay(form, gathered, new FreeBlocks(taken, form.blocks, true), true)
  );
}

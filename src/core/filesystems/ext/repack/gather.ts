/**
 * What a volume holds that goes along when it is repacked: its inodes in use, where the bytes of each lie now, and how many
 * blocks their maps take. Reads bitmaps, the used part of the inode tables, and maps; no directories and no files.
 */
import { BrokenChain } from '../../volume';
import { hasFeature } from '../feature-bits';
import type { Group } from '../group';
import type { Piece, Range } from '../mapping';
import { FILE_TYPE, GROUP_FLAG, INODE, INODE_FLAG } from '../numbers';
import type { ExtHead } from '../read/head';
import { type ExtInode, type Inodes, type Run } from '../read/inodes';

/** An inode that goes along. */
export interface PackedInode {
  readonly number: number;
  readonly bytes: Uint8Array;
  readonly kind: number;
  readonly flags: number;
  readonly size: number;
  /** Its map leads to blocks, or could: it is no short link, device, or file in its inode. */
  readonly isMapped: boolean;
  /** Where its blocks lie now, ascending within it. */
  readonly pieces: readonly Piece[];
  /** The same, whatever lies where: neighbours within it are one. */
  readonly ranges: readonly Range[];
  /** Blocks of its map now. */
  readonly mapBlocks: number;
  /** Block of its attributes now, or 0; several inodes may have the same one. */
  readonly attributes: number;
}

/** All that goes along, ascending by number. */
export interface Gathered {
  readonly head: ExtHead;
  readonly inodes: readonly PackedInode[];
}

/** Called now and then, with how far it is; throws to stop. */
export type Checkpoint = (done: number, total: number) => Promise<void> | void;

/** A volume with more inodes in use than these is not repacked. */
const MOST_INODES = 2 ** 23;
/** Nodes of a map that are read for one file. */
const MOST_NODES = 65_536;
/** Bytes of an inode table that are read at once. */
const WINDOW = 2 ** 20;
const NOTHING: readonly Piece[] = [];

/** Pieces as ranges of the file: what follows each other within it is one, wherever it lies. */
function rangesOf(pieces: readonly Piece[]): readonly Range[] {
  const follows = (a: Range, b: Range) => a.logical + a.count === b.logical && a.isUnwritten === b.isUnwritten;
  if (pieces.every((piece, i) => i === 0 || !follows(pieces[i - 1]!, piece))) return pieces;
  const ranges: Range[] = [];
  for (const { logical, count, isUnwritten } of pieces) {
    const last = ranges.at(-1);
    const range: Range = { logical, count, ...(isUnwritten && { isUnwritten }) };
    if (last && follows(last, range)) ranges[ranges.length - 1] = { ...last, count: last.count + count };
    else ranges.push(range);
  }
  return ranges;
}

/** True for an inode whose map leads to blocks. */
function hasMap({ kind, flags, size, map }: ExtInode): boolean {
  if ((flags & INODE_FLAG.inline) !== 0) return false;
  if (kind === FILE_TYPE.file.mode || kind === FILE_TYPE.folder.mode) return true;
  // A short target of a link stands in its map, and no blocks but those of attributes are its own.
  return kind === FILE_TYPE.link.mode && (size >= map.byteLength || (flags & INODE_FLAG.extents) !== 0);
}

/** Gathers the runs of a file into pieces. Throws a BrokenChain where they are not in order. */
class Pieces {
  readonly all: Piece[] = [];
  private end = 0;
  private left: number;

  /** `most`: blocks that a file can have at most. */
  constructor(most: number) {
    this.left = most;
  }

  add({ logical, count, at, kept }: Run): void {
    const physical = at ?? kept;
    if (physical === undefined) return;
    if ((this.left -= count) < 0) throw new BrokenChain('a file has more blocks than the volume');
    if (logical < this.end) throw new BrokenChain('the blocks of a file are not in order');
    this.end = logical + count;
    const last = this.all.at(-1);
    const isUnwritten = at === undefined;
    const isNext =
      last !== undefined &&
      last.logical + last.count === logical &&
      last.physical + last.count === physical &&
      (last.isUnwritten === true) === isUnwritten;
    if (isNext) this.all[this.all.length - 1] = { ...last, count: last.count + count };
    else this.all.push({ logical, physical, count, ...(isUnwritten && { isUnwritten }) });
  }
}

/** An inode with what its map leads to; without pieces as far as its bytes tell. */
function packed(inode: ExtInode, pieces?: Pieces, mapBlocks = 0): PackedInode {
  const { number, bytes, kind, flags, size, attributes } = inode;
  const all = pieces?.all ?? NOTHING;
  const isMapped = pieces !== undefined;
  return { number, bytes, kind, flags, size, attributes, isMapped, pieces: all, ranges: rangesOf(all), mapBlocks };
}

/** An inode whose bytes tell the places of all of its blocks; undefined where a map is to be read. Throws a BrokenChain where they lie outside. */
function simpleInode(inodes: Inodes, inode: ExtInode): PackedInode | undefined {
  const { number } = inode;
  if (inode.attributes >= inodes.head.blocks)
    throw new BrokenChain('the attributes of a file lie outside of the volume');
  if (number === INODE.resize || number === INODE.bad || !hasMap(inode)) return packed(inode);
  const runs = inodes.runsInside(inode);
  if (!runs) return undefined;
  const pieces = new Pieces(inodes.head.blocks);
  for (const run of runs) pieces.add(run);
  return packed(inode, pieces);
}

/** An inode with the places of its blocks. Throws a BrokenChain where its map does not hold together. */
export async function packedInode(inodes: Inodes, inode: ExtInode): Promise<PackedInode> {
  const simple = simpleInode(inodes, inode);
  if (simple) return simple;
  const pieces = new Pieces(inodes.head.blocks);
  const nodes = { left: MOST_NODES };
  for await (const run of inodes.runs(inode, nodes)) pieces.add(run);
  return packed(inode, pieces, MOST_NODES - nodes.left);
}

/** The bits of a group's inodes that are in use; undefined where none is. */
async function usedIn(inodes: Inodes, group: Group): Promise<Uint8Array | undefined> {
  const { head } = inodes;
  const isChecked = hasFeature(head.superblock, 'gdt_csum') || hasFeature(head.superblock, 'metadata_csum');
  if (isChecked && (group.flags & GROUP_FLAG.inodesUnset) !== 0) return undefined;
  if (group.inodeBitmap < 1 || group.inodeBitmap >= head.blocks)
    throw new BrokenChain('an inode bitmap lies outside of the volume');
  const bits = await inodes.read(group.inodeBitmap * head.block, head.block);
  return bits.every((byte) => byte === 0) ? undefined : new Uint8Array(bits);
}

/** How many bits are set from one up to another one. */
function usedBetween(bits: Uint8Array, from: number, to: number): number {
  let used = 0;
  for (let i = from; i < to; i++) if ((bits[i >> 3]! & (1 << (i & 7))) !== 0) used += 1;
  return used;
}

/** Reserved inodes that have a meaning go along where they hold something; all others where a bitmap says that they are in use. */
const isEmpty = ({ kind, links }: ExtInode) => kind === 0 && links === 0;

/**
 * All inodes in use. Throws a BrokenChain where the structures do not hold together; with `skipsBroken` not for those of a file,
 * which is missing then.
 */
export async function gather(inodes: Inodes, checkpoint?: Checkpoint, skipsBroken = false): Promise<Gathered> {
  const { head } = inodes;
  const { inodesPerGroup } = head.superblock;
  const all: PackedInode[] = [];
  let g = -1;
  for await (const group of inodes.groups()) {
    g += 1;
    await checkpoint?.(g, head.groups);
    const bits = await usedIn(inodes, group);
    if (!bits) continue;
    const table = group.inodeTable * head.block;
    const most = Math.max(1, Math.floor(WINDOW / head.inodeBytes));
    let [first, window, isDense] = [0, new Uint8Array(0), false];
    let last = inodesPerGroup - 1;
    while (last >= 0 && (bits[last >> 3]! & (1 << (last & 7))) === 0) last -= 1;
    for (let i = 0; i <= last; i++) {
      if ((bits[i >> 3]! & (1 << (i & 7))) === 0) continue;
      if (i >= first + window.length / head.inodeBytes) {
        const count = Math.min(most, last + 1 - i);
        window = new Uint8Array(await inodes.read(table + i * head.inodeBytes, count * head.inodeBytes));
        first = i;
        isDense = 4 * usedBetween(bits, i, i + count) >= count;
        await checkpoint?.(g, head.groups);
      }
      const from = (i - first) * head.inodeBytes;
      const bytes = window.subarray(from, from + head.inodeBytes);
      const inode = inodes.inodeIn(bytes, g * inodesPerGroup + i + 1, table + i * head.inodeBytes);
      if (isEmpty(inode)) continue;
      // Where few are in use, what lies between them is let go of.
      const own = isDense ? inode : { ...inode, bytes: bytes.slice() };
      try {
        all.push(simpleInode(inodes, own) ?? (await packedInode(inodes, own)));
      } catch (error) {
        if (!skipsBroken || !(error instanceof BrokenChain)) throw error;
      }
      if (all.length > MOST_INODES) throw new BrokenChain('it has more files than are repacked here');
    }
  }
  return { head, inodes: all };
}

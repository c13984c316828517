/**
 * How the blocks of a file are found: by extents, or by a block map of up to three levels (the kernel's
 * documentation, "The Contents of inode.i_block").
 */
import { high32, low32 } from '../../quantity/integers';
import type { Features } from './features';
import { EXTENT_BYTES, EXTENT_LIMIT, EXTENT_MAGIC } from './numbers';

/** Blocks of the volume in one piece that are blocks of a file in one piece. */
export interface Piece {
  /** Block of the file. */
  readonly logical: number;
  /** Block of the volume. */
  readonly physical: number;
  readonly count: number;
  /** Blocks that it has, and in which nothing was written: they read as zeros, whatever they hold. */
  readonly isUnwritten?: true;
}

/** Blocks of a file that hold something, in one piece, ascending; between them are holes. */
export interface Range {
  readonly logical: number;
  readonly count: number;
  readonly isUnwritten?: true;
}

/** Most blocks of an extent: one that was not written says so by a length above this. */
const longest = ({ isUnwritten }: Pick<Range, 'isUnwritten'>) => (isUnwritten ? EXTENT_LIMIT - 1 : EXTENT_LIMIT);

/** Pointers in an inode: to blocks, and to tables of one, two and three levels. */
const DIRECT = 12;

/** Entries of an extent node in a block, and in an inode. */
const extentsIn = (block: number): number => Math.floor((block - EXTENT_BYTES) / EXTENT_BYTES);
const EXTENTS_IN_INODE = 4;

/** Extents no longer than they may be. */
function extentsOf(pieces: readonly Piece[]): Piece[] {
  if (pieces.every((one) => one.count <= longest(one))) return [...pieces];
  const parts: Piece[] = [];
  for (const piece of pieces) {
    const { logical, physical, count } = piece;
    const most = longest(piece);
    for (let at = 0; at < count; at += most)
      parts.push({ ...piece, logical: logical + at, physical: physical + at, count: Math.min(most, count - at) });
  }
  return parts;
}

/** Blocks of the nodes of an extent tree with so many extents. */
function extentNodes(extents: number, block: number): number {
  let nodes = 0;
  for (let level = extents; level > EXTENTS_IN_INODE;) {
    level = Math.ceil(level / extentsIn(block));
    nodes += level;
  }
  return nodes;
}

/** Blocks of the tables of a block map that holds these ranges. */
function tablesFor(ranges: readonly Range[], block: number): number {
  const width = block / 4;
  let tables = 0;
  // Of every level: how many tables the ranges touch, where each range counts one that the range before touched already once.
  let first = DIRECT;
  for (let depth = 1, span = width; depth <= 3; depth++, span *= width) {
    const end = first + span;
    for (let level = 1, size = width; level <= depth; level++, size *= width) {
      let before = -1;
      for (const { logical, count } of ranges) {
        const from = Math.max(logical, first);
        const to = Math.min(logical + count, end);
        if (from >= to) continue;
        const low = Math.max(Math.floor((from - first) / size), before + 1);
        const high = Math.floor((to - 1 - first) / size);
        tables += Math.max(0, high - low + 1);
        before = Math.max(before, high);
      }
    }
    first = end;
  }
  return tables;
}

/** Most blocks of a file that a map can hold. */
export function mostBlocks(features: Features, block: number): number {
  const width = block / 4;
  return features.has('extents') ? 2 ** 32 - 1 : Math.min(2 ** 32 - 1, DIRECT + width + width ** 2 + width ** 3);
}

/** Blocks that the map of a file takes, whose ranges each lie in one piece. */
export function mapBlocksOf(features: Features, block: number, ranges: readonly Range[]): number {
  if (!features.has('extents')) return tablesFor(ranges, block);
  return extentNodes(
    ranges.reduce((sum, one) => sum + Math.ceil(one.count / longest(one)), 0),
    block,
  );
}

/** A block of a map, as it is written. */
export interface MapBlock {
  readonly at: number;
  readonly bytes: Uint8Array;
}

/** The 60 bytes of the inode, and the blocks that they lead to. */
export interface WrittenMap {
  readonly inInode: Uint8Array;
  readonly blocks: readonly MapBlock[];
}

function node(entries: readonly Piece[], depth: number, bytes: Uint8Array): Uint8Array {
  const view = new DataView(bytes.buffer);
  view.setUint16(0, EXTENT_MAGIC, true);
  view.setUint16(2, entries.length, true);
  view.setUint16(4, Math.floor((bytes.length - EXTENT_BYTES) / EXTENT_BYTES), true);
  view.setUint16(6, depth, true);
  entries.forEach(({ logical, physical, count, isUnwritten }, i) => {
    const at = EXTENT_BYTES * (i + 1);
    const [low, high] = [low32(physical), high32(physical)];
    view.setUint32(at, logical, true);
    if (depth > 0) {
      view.setUint32(at + 4, low, true);
      view.setUint16(at + 8, high, true);
    } else {
      view.setUint16(at + 4, isUnwritten ? EXTENT_LIMIT + count : count, true);
      view.setUint16(at + 6, high, true);
      view.setUint32(at + 8, low, true);
    }
  });
  return bytes;
}

/** An extent tree; its nodes lie in the blocks that `take` gives, and `sealed` puts their checksums in. */
export function writeExtents(
  pieces: readonly Piece[],
  block: number,
  take: () => number,
  sealed: (node: Uint8Array) => void,
): WrittenMap {
  let level = extentsOf(pieces);
  const blocks: MapBlock[] = [];
  let depth = 0;
  for (const most = extentsIn(block); level.length > EXTENTS_IN_INODE; depth++) {
    const above: Piece[] = [];
    for (let i = 0; i < level.length; i += most) {
      const entries = level.slice(i, i + most);
      const at = take();
      const bytes = node(entries, depth, new Uint8Array(block));
      sealed(bytes);
      blocks.push({ at, bytes });
      above.push({ logical: entries[0]!.logical, physical: at, count: 0 });
    }
    level = above;
  }
  return { inInode: node(level, depth, new Uint8Array(60)), blocks };
}

/** Where the checksum of an extent node stands in its block. */
export const extentTail = (block: number): number => EXTENT_BYTES * (1 + extentsIn(block));

/** A block map; its tables lie in the blocks that `take` gives. */
export function writeMap(pieces: readonly Piece[], block: number, take: () => number): WrittenMap {
  const width = block / 4;
  const inInode = new Uint8Array(60);
  const top = new DataView(inInode.buffer);
  const tables = new Map<string, { at: number; bytes: Uint8Array; view: DataView }>();
  /** The table of this place; where there is none yet it is made, and named in the one above it. */
  const table = (path: readonly number[]): DataView => {
    const key = path.join('/');
    const known = tables.get(key);
    if (known) return known.view;
    const above = path.length === 1 ? top : table(path.slice(0, -1));
    const bytes = new Uint8Array(block);
    const made = { at: take(), bytes, view: new DataView(bytes.buffer) };
    tables.set(key, made);
    above.setUint32(4 * path[path.length - 1]!, made.at, true);
    return made.view;
  };
  for (const { logical, physical, count } of pieces) {
    let i = 0;
    while (i < count) {
      let rest = logical + i;
      if (rest < DIRECT) {
        top.setUint32(4 * rest, physical + i, true);
        i += 1;
        continue;
      }
      rest -= DIRECT;
      const depth = rest < width ? 1 : rest < width + width ** 2 ? 2 : 3;
      if (depth > 1) rest -= width;
      if (depth > 2) rest -= width ** 2;
      const path = [DIRECT + depth - 1];
      for (let level = depth - 1; level > 0; level--) path.push(Math.floor(rest / width ** level) % width);
      const slot = rest % width;
      const view = table(path);
      const run = Math.min(count - i, width - slot);
      for (let k = 0; k < run; k++) view.setUint32(4 * (slot + k), physical + i + k, true);
      i += run;
    }
  }
  return { inInode, blocks: [...tables.values()].map(({ at, bytes }) => ({ at, bytes })) };
}

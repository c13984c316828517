/** Inodes as they are read: where each lies, what it says, and where its bytes lie ("Index Nodes", "The Contents of inode.i_block"). */
import type { BlockSource } from '../../../bytes/blocks';
import { type Field, numberIn } from '../../../bytes/record';
import { BrokenChain, type Piece } from '../../volume';
import { EXTENT_BYTES, EXTENT_LIMIT, EXTENT_MAGIC, FILE_TYPE, INODE_FLAG, SHORT_INODE_BYTES } from '../numbers';
import { dataPlace } from '../attribute-places';
import { hasFeature } from '../feature-bits';
import { type Group, groupIn } from '../group';
import { FURTHER_INODE, SHORT_INODE } from '../records';
import { descriptorAt, type ExtHead } from './head';

const HALF = 0x1_0000_0000;
/** Byte of an inode at which its map begins, and its length. */
const MAP_AT = SHORT_INODE.fields.map.offset;
const MAP_BYTES = 60;
/** Entries of a block map: so many name blocks themselves, the others blocks of further names. */
const DIRECT = 12;
/** Deepest tree of extents, and most of its nodes that are read for one file. */
const DEEPEST = 5;
const MOST_NODES = 65_536;
/** Bytes of inode tables that are read at once, and windows that are kept. */
const WINDOW = 16 * 1024;
const WINDOWS = 64;

export interface ExtInode {
  readonly number: number;
  /** Byte of the volume. */
  readonly at: number;
  readonly bytes: Uint8Array;
  /** The upper four bits of its mode. */
  readonly kind: number;
  readonly mode: number;
  readonly size: number;
  readonly flags: number;
  /** When its content was changed last, seconds since 1970. */
  readonly modified: number;
  readonly map: DataView;
  readonly user: number;
  readonly group: number;
  readonly links: number;
  /** Block of its attributes, or 0. */
  readonly attributes: number;
}

const said = (field: Field<'u16' | 'u32'>, view: DataView): number => numberIn(SHORT_INODE, field, view);

/** Reads inodes of one volume. */
export class Inodes {
  private readonly windows = new Map<number, Promise<Uint8Array>>();

  constructor(
    readonly source: BlockSource,
    private readonly base: number,
    readonly head: ExtHead,
  ) {}

  /** Bytes of the volume; throws a BrokenChain where they lie outside of the source. */
  async read(at: number, length: number): Promise<Uint8Array> {
    if (at < 0 || this.base + at + length > this.source.size)
      throw new BrokenChain('it lies behind the end of the medium');
    return this.source.read(this.base + at, length);
  }

  /** The same out of windows that are kept: inodes and descriptors lie close together. */
  private async near(at: number, length: number): Promise<Uint8Array> {
    const window = Math.floor(at / WINDOW) * WINDOW;
    let bytes = this.windows.get(window);
    if (!bytes) {
      const there = Math.max(0, Math.min(WINDOW, this.source.size - this.base - window));
      bytes = this.read(window, there).then((read) => new Uint8Array(read));
      this.windows.set(window, bytes);
      if (this.windows.size > WINDOWS) this.windows.delete(this.windows.keys().next().value!);
    }
    const found = (await bytes).subarray(at - window, at - window + length);
    if (found.length < length) throw new BrokenChain('it lies behind the end of the medium');
    return found;
  }

  /** All group descriptors in their order, read block by block. Throws a BrokenChain where one lies outside of the source. */
  async *groups(): AsyncGenerator<Group> {
    const { head } = this;
    const { groups, descriptorBytes, block } = head;
    const each = block / descriptorBytes;
    for (let first = 0; first < groups; first += each) {
      const count = Math.min(each, groups - first);
      const bytes = new Uint8Array(await this.read(descriptorAt(head, first), count * descriptorBytes));
      for (let i = 0; i < count; i++) yield groupIn(bytes.subarray(i * descriptorBytes, (i + 1) * descriptorBytes));
    }
  }

  private async tableOf(group: number): Promise<number> {
    const { head } = this;
    return groupIn(await this.near(descriptorAt(head, group), head.descriptorBytes)).inodeTable;
  }

  /** An inode by its number; throws a BrokenChain where there is none of it. */
  async at(number: number): Promise<ExtInode> {
    const { head } = this;
    const { inodesPerGroup, inodes } = head.superblock;
    if (number < 1 || number > inodes) throw new BrokenChain(`there is no inode ${number}`);
    const group = Math.floor((number - 1) / inodesPerGroup);
    if (group >= head.groups) throw new BrokenChain(`inode ${number} is of a group that the volume does not have`);
    const table = await this.tableOf(group);
    if (table < 1 || table >= head.blocks)
      throw new BrokenChain(`the table of inode ${number} lies outside of the volume`);
    const at = table * head.block + ((number - 1) % inodesPerGroup) * head.inodeBytes;
    return this.inodeIn(new Uint8Array(await this.near(at, head.inodeBytes)), number, at);
  }

  /** What an inode says in its bytes, which lie at a byte of the volume. */
  inodeIn(bytes: Uint8Array, number: number, at: number): ExtInode {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    const { fields } = SHORT_INODE;
    const mode = said(fields.mode, view);
    const kind = mode & 0xf000;
    // Of all but files the upper half was an access list once; only the feature of large directories makes it a length.
    const isLong = kind === FILE_TYPE.file.mode || hasFeature(this.head.superblock, 'largedir');
    return {
      number,
      at,
      bytes,
      flags: said(fields.flags, view),
      mode: mode & 0xfff,
      kind,
      size: said(fields.sizeLow, view) + (isLong ? said(fields.sizeHigh, view) * HALF : 0),
      modified: (said(fields.modified, view) | 0) + (modifiedExtra(view) & 3) * HALF,
      map: new DataView(bytes.buffer, bytes.byteOffset + MAP_AT, MAP_BYTES),
      links: said(fields.links, view),
      // Its upper half means something where blocks have long numbers.
      attributes: said(fields.attributesLow, view) + (this.head.isLong ? said(fields.attributesHigh, view) * HALF : 0),
      user: said(fields.userLow, view) + said(fields.userHigh, view) * 0x10000,
      group: said(fields.groupLow, view) + said(fields.groupHigh, view) * 0x10000,
    };
  }

  private isInside(block: number, count: number): boolean {
    return block > 0 && block + count <= this.head.blocks;
  }

  /**
   * Blocks of a file in the order of its bytes; `at` is undefined where nothing was written. `nodes` counts down the blocks
   * of its map.
   */
  async *runs(inode: ExtInode, nodes: NodesLeft = { left: MOST_NODES }): AsyncGenerator<Run> {
    if ((inode.flags & INODE_FLAG.extents) !== 0) {
      yield* this.extents(new Uint8Array(inode.map.buffer, inode.map.byteOffset, MAP_BYTES), DEEPEST, nodes);
    } else yield* this.mapped(inode, nodes);
  }

  /** The runs of a file whose extents all stand in its inode; undefined where its map has blocks of its own. */
  runsInside(inode: ExtInode): Run[] | undefined {
    if ((inode.flags & INODE_FLAG.extents) === 0) return undefined;
    const view = inode.map;
    return view.getUint16(6, true) === 0 ? this.leaf(view, this.entriesOf(view, DEEPEST)) : undefined;
  }

  /** Entries of a node of extents; throws a BrokenChain where it is none, or lies deeper than that. */
  private entriesOf(view: DataView, depth: number): number {
    const [entries, level] = [view.getUint16(2, true), view.getUint16(6, true)];
    if (view.getUint16(0, true) !== EXTENT_MAGIC) throw new BrokenChain('a node of its extents has no mark');
    if (level > depth || (entries + 1) * EXTENT_BYTES > view.byteLength)
      throw new BrokenChain('a node of its extents contradicts itself');
    return entries;
  }

  private leaf(view: DataView, entries: number): Run[] {
    const runs: Run[] = [];
    for (let at = EXTENT_BYTES; at <= entries * EXTENT_BYTES; at += EXTENT_BYTES) {
      const logical = view.getUint32(at, true);
      const length = view.getUint16(at + 4, true);
      const isWritten = length <= EXTENT_LIMIT;
      const count = isWritten ? length : length - EXTENT_LIMIT;
      const physical = view.getUint32(at + 8, true) + view.getUint16(at + 6, true) * HALF;
      if (count === 0 || !this.isInside(physical, count)) throw new BrokenChain('an extent lies outside of the volume');
      runs.push(isWritten ? { logical, count, at: physical } : { logical, count, at: undefined, kept: physical });
    }
    return runs;
  }

  private async *extents(node: Uint8Array, depth: number, nodes: NodesLeft): AsyncGenerator<Run> {
    const view = new DataView(node.buffer, node.byteOffset, node.length);
    const entries = this.entriesOf(view, depth);
    const level = view.getUint16(6, true);
    if (level === 0) return yield* this.leaf(view, entries);
    for (let i = 1; i <= entries; i++) {
      const at = i * EXTENT_BYTES;
      const below = view.getUint32(at + 4, true) + view.getUint16(at + 8, true) * HALF;
      if (!this.isInside(below, 1)) throw new BrokenChain('a node of its extents lies outside of the volume');
      if ((nodes.left -= 1) < 0) throw new BrokenChain('its extents have too many nodes');
      const bytes = new Uint8Array(await this.read(below * this.head.block, this.head.block));
      yield* this.extents(bytes, level - 1, nodes);
    }
  }

  private async *mapped({ map, size }: ExtInode, nodes: NodesLeft): AsyncGenerator<Run> {
    const { block } = this.head;
    const blocks = Math.ceil(size / block);
    let logical = 0;
    for (let i = 0; i < DIRECT && logical < blocks; i++) yield this.one(map.getUint32(4 * i, true), logical++);
    for (let level = 1; level <= 3 && logical < blocks; level++) {
      const from = map.getUint32(4 * (DIRECT + level - 1), true);
      yield* this.indirect(from, level, logical, blocks, nodes);
      logical += (block / 4) ** level;
    }
  }

  private one(block: number, logical: number): Run {
    if (block !== 0 && !this.isInside(block, 1)) throw new BrokenChain(`block ${block} is not in the volume`);
    return { logical, count: 1, at: block === 0 ? undefined : block };
  }

  /** Blocks that a block of numbers names, of which each may be one of numbers itself. */
  private async *indirect(
    from: number,
    level: number,
    first: number,
    blocks: number,
    nodes: { left: number },
  ): AsyncGenerator<Run> {
    const each = this.head.block / 4;
    if (from === 0) {
      yield { logical: first, count: Math.min(each ** level, blocks - first), at: undefined };
      return;
    }
    if (!this.isInside(from, 1)) throw new BrokenChain(`block ${from} is not in the volume`);
    if ((nodes.left -= 1) < 0) throw new BrokenChain('its block map has too many nodes');
    const bytes = new Uint8Array(await this.read(from * this.head.block, this.head.block));
    const view = new DataView(bytes.buffer);
    for (let i = 0; i < each; i++) {
      const logical = first + i * each ** (level - 1);
      if (logical >= blocks) return;
      const number = view.getUint32(4 * i, true);
      if (level === 1) yield this.one(number, logical);
      else yield* this.indirect(number, level - 1, logical, blocks, nodes);
    }
  }

  /** The bytes of a file as pieces of the volume, up to its size; what was never written comes as a hole. */
  async *pieces(inode: ExtInode): AsyncGenerator<Piece> {
    const { block } = this.head;
    const { size } = inode;
    if ((inode.flags & INODE_FLAG.inline) !== 0) return yield* this.inline(inode);
    let open: { at: number; length: number; hole?: true } | undefined;
    let end = 0;
    for await (const { logical, count, at } of this.runs(inode)) {
      const from = logical * block;
      if (from < end) throw new BrokenChain('its blocks are not in order');
      if (from >= size) break;
      const next: Piece[] = from > end ? [{ at: 0, length: from - end, hole: true }] : [];
      const length = Math.min(count * block, size - from);
      if (at !== undefined && this.base + at * block + length > this.source.size)
        throw new BrokenChain('it lies behind the end of the medium');
      next.push(at === undefined ? { at: 0, length, hole: true } : { at: this.base + at * block, length });
      end = from + length;
      for (const piece of next) {
        const isNext = open && (piece.hole ? open.hole === true : !open.hole && open.at + open.length === piece.at);
        if (open && isNext) open.length += piece.length;
        else {
          if (open) yield open;
          open = { ...piece };
        }
      }
    }
    if (open) yield open;
    if (end < size) yield { at: 0, length: size - end, hole: true };
  }

  /** Bytes that lie in the inode itself: in its map, and in an attribute behind it ("Inline Data"). */
  private *inline({ at, bytes, size }: ExtInode): Generator<Piece> {
    const first = Math.min(size, MAP_BYTES);
    if (first > 0) yield { at: this.base + at + MAP_AT, length: first };
    if (size <= MAP_BYTES) return;
    const value = dataPlace(bytes);
    if (!value || value.length < size - MAP_BYTES) throw new BrokenChain('the rest of its bytes is missing');
    yield { at: this.base + at + value.at, length: size - MAP_BYTES };
  }
}

/** Blocks of a file that follow each other. */
export interface Run {
  readonly logical: number;
  readonly count: number;
  readonly at: number | undefined;
  /** First of the blocks that it has and in which nothing was written. */
  readonly kept?: number;
}

/** Blocks of a map that may still be read. */
export interface NodesLeft {
  left: number;
}

/** What stands behind the first bytes of the time at which its content was changed; 0 where it has no room for that. */
function modifiedExtra(view: DataView): number {
  if (view.byteLength < FURTHER_INODE.length) return 0;
  const { extra, modifiedExtra: field } = FURTHER_INODE.fields;
  const isThere = SHORT_INODE_BYTES + numberIn(FURTHER_INODE, extra, view) >= field.offset + 4;
  return isThere ? numberIn(FURTHER_INODE, field, view) : 0;
}

/** Nanoseconds of the time at which its content was changed. */
export function nanosecondsOf({ bytes }: Pick<ExtInode, 'bytes'>): number {
  return modifiedExtra(new DataView(bytes.buffer, bytes.byteOffset, bytes.length)) >>> 2;
}

const WORDS: ReadonlyMap<number, string> = new Map([
  [FILE_TYPE.link.mode, 'link'],
  [FILE_TYPE.pipe.mode, 'pipe'],
  [FILE_TYPE.socket.mode, 'socket'],
  [FILE_TYPE.block.mode, 'block device'],
  [FILE_TYPE.character.mode, 'character device'],
]);

/** What an inode is, in words; undefined for files and folders. */
export function kindWord({ kind }: Pick<ExtInode, 'kind'>): string | undefined {
  if (kind === FILE_TYPE.file.mode || kind === FILE_TYPE.folder.mode) return undefined;
  return WORDS.get(kind) ?? 'something of no known kind';
}

/** Taking blocks away from the end of a file: its extents or its block map as they are afterwards, and what becomes free. */
import { crc32c } from '../../../bytes/crc32c';
import { decode } from '../../../bytes/record';
import { BrokenChain } from '../../volume';
import type { Checksums } from '../checksums';
import { EXTENT_BYTES, EXTENT_LIMIT, EXTENT_MAGIC, INODE_FLAG } from '../numbers';
import type { ExtInode, Inodes } from '../read/inodes';
import { SHORT_INODE } from '../records';

/** Blocks that a file does not have any more. */
export interface Freed {
  readonly start: number;
  readonly count: number;
}

/** What becomes of a file that loses blocks. */
export interface Shortened {
  /** Its map in the inode. */
  readonly map: Uint8Array;
  /** Nodes of its map that change, by their block. */
  readonly nodes: ReadonlyMap<number, Uint8Array>;
  readonly freed: readonly Freed[];
}

const MAP_BYTES = 60;
const DIRECT = 12;
const DEEPEST = 5;
/** Nodes of a map that are gone through, at most. */
const MOST_NODES = 65_536;
const HALF = 2 ** 32;

class Shortening {
  readonly nodes = new Map<number, Uint8Array>();
  readonly freed: Freed[] = [];
  private left = MOST_NODES;

  constructor(
    private readonly inodes: Inodes,
    private readonly sums: Checksums,
    private readonly inode: ExtInode,
    /** First block of the file that it loses. */
    private readonly from: number,
  ) {}

  private async node(block: number): Promise<Uint8Array> {
    const { head } = this.inodes;
    if (block < 1 || block >= head.blocks) throw new BrokenChain('a node of its map lies outside of the volume');
    if ((this.left -= 1) < 0) throw new BrokenChain('its map has too many nodes');
    return new Uint8Array(await this.inodes.read(block * head.block, head.block));
  }

  private free(start: number, count: number): void {
    if (start < 1 || start + count > this.inodes.head.blocks)
      throw new BrokenChain('it has blocks outside of the volume');
    this.freed.push({ start, count });
  }

  /** Shortens a node of extents in place; gives how many entries stay. */
  async extents(bytes: Uint8Array, deepest: number): Promise<number> {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    const [entries, level] = [view.getUint16(2, true), view.getUint16(6, true)];
    if (view.getUint16(0, true) !== EXTENT_MAGIC || level > deepest || (entries + 1) * EXTENT_BYTES > bytes.length)
      throw new BrokenChain('a node of its extents contradicts itself');
    let kept = 0;
    for (let i = 1; i <= entries; i++) {
      const at = i * EXTENT_BYTES;
      const logical = view.getUint32(at, true);
      if (level > 0) {
        const below = view.getUint32(at + 4, true) + view.getUint16(at + 8, true) * HALF;
        const next = i < entries ? view.getUint32(at + EXTENT_BYTES, true) : HALF;
        // Nothing in it lies behind the end.
        if (next <= this.from) {
          kept += 1;
          continue;
        }
        const child = await this.node(below);
        const before = new Uint8Array(child);
        const stay = await this.extents(child, level - 1);
        if (stay === 0) {
          this.free(below, 1);
          continue;
        }
        if (child.some((byte, n) => byte !== before[n])) {
          this.sum(child);
          this.nodes.set(below, child);
        }
        kept += 1;
        continue;
      }
      const stored = view.getUint16(at + 4, true);
      const isWritten = stored <= EXTENT_LIMIT;
      const count = isWritten ? stored : stored - EXTENT_LIMIT;
      const start = view.getUint32(at + 8, true) + view.getUint16(at + 6, true) * HALF;
      const stay = Math.max(0, Math.min(count, this.from - logical));
      if (stay < count) this.free(start + stay, count - stay);
      if (stay === 0) continue;
      kept += 1;
      view.setUint16(at + 4, isWritten ? stay : stay + EXTENT_LIMIT, true);
    }
    view.setUint16(2, kept, true);
    // Entries go from the end.
    bytes.fill(0, (kept + 1) * EXTENT_BYTES, (entries + 1) * EXTENT_BYTES);
    return kept;
  }

  private sum(bytes: Uint8Array): void {
    if (!this.sums.isOn) return;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    const tail = (view.getUint16(4, true) + 1) * EXTENT_BYTES;
    if (tail + 4 > bytes.length) throw new BrokenChain('a node of its extents contradicts itself');
    const { generation } = decode(SHORT_INODE, this.inode.bytes);
    view.setUint32(tail, crc32c(bytes.subarray(0, tail), this.sums.ofInode(this.inode.number, generation)), true);
  }

  /** Shortens what a number of a block map leads to; gives what stands there afterwards. */
  async mapped(number: number, level: number, first: number): Promise<number> {
    const each = this.inodes.head.block / 4;
    if (number === 0 || first + each ** level <= this.from) return number;
    if (level === 0) {
      this.free(number, 1);
      return 0;
    }
    const bytes = await this.node(number);
    const view = new DataView(bytes.buffer);
    let [stays, hasChanged] = [false, false];
    for (let i = 0; i < each; i++) {
      const found = view.getUint32(4 * i, true);
      const left = await this.mapped(found, level - 1, first + i * each ** (level - 1));
      if (left !== found) {
        view.setUint32(4 * i, left, true);
        hasChanged = true;
      }
      stays ||= left !== 0;
    }
    if (!stays) {
      this.free(number, 1);
      return 0;
    }
    if (hasChanged) this.nodes.set(number, bytes);
    return number;
  }

  async map(): Promise<Uint8Array> {
    const { map, flags } = this.inode;
    const bytes = new Uint8Array(new Uint8Array(map.buffer, map.byteOffset, MAP_BYTES));
    const view = new DataView(bytes.buffer);
    if ((flags & INODE_FLAG.extents) !== 0) {
      const kept = await this.extents(bytes, DEEPEST);
      // An empty root is of no depth.
      if (kept === 0) view.setUint16(6, 0, true);
      return bytes;
    }
    const each = this.inodes.head.block / 4;
    for (let i = 0; i < DIRECT; i++) view.setUint32(4 * i, await this.mapped(view.getUint32(4 * i, true), 0, i), true);
    for (let level = 1, first = DIRECT; level <= 3; first += each ** level, level++) {
      const at = 4 * (DIRECT + level - 1);
      view.setUint32(at, await this.mapped(view.getUint32(at, true), level, first), true);
    }
    return bytes;
  }
}

/** What becomes of a file that keeps its first `blocks` blocks. Throws a BrokenChain where its map cannot be followed. */
export async function shortened(inodes: Inodes, sums: Checksums, inode: ExtInode, blocks: number): Promise<Shortened> {
  const work = new Shortening(inodes, sums, inode, blocks);
  const map = await work.map();
  return { map, nodes: work.nodes, freed: work.freed };
}

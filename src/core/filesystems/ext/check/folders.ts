/** Directories as a check reads them: lists of names, and hash trees over them. */
import { bytesOfText, textOfBytes } from '../../../bytes/utf8';
import { hasFeature } from '../feature-bits';
import { halfMd4 } from '../hash';
import { INODE_FLAG, TAIL_TYPE } from '../numbers';
import type { Faults } from './faults';
import { recordLength } from '../read/names';
import { type FoundInode, isFolded, isInline } from './inodes';
import type { CheckedVolume } from './volume';

/** A name in a folder. */
export interface FoundName {
  readonly name: Uint8Array;
  readonly inode: number;
  readonly type: number;
  /** Block of the folder that it stands in. */
  readonly block: number;
}

/** An index of a hash tree: hashes from which on blocks hold names. */
interface Pointer {
  readonly hash: number;
  readonly block: number;
}

/** The hashes whose places are checked, and the last kind that there is. */
const HALF_MD4: readonly number[] = [1, 4];
const MOST_HASH = 6;
const ROOT_COUNTS = 0x20;
const NODE_COUNTS = 8;
const TAIL = 12;

export class FolderReader {
  constructor(
    private readonly volume: CheckedVolume,
    private readonly faults: Faults,
  ) {}

  /** The block of the volume in which a block of a folder lies. */
  private place({ runs }: FoundInode, block: number): number | undefined {
    const run = runs.find(({ logical, count }) => block >= logical && block < logical + count);
    return run && run.physical + block - run.logical;
  }

  /** All names of a folder, `.` and `..` among them. */
  async names(folder: FoundInode, where: string): Promise<FoundName[]> {
    const { block, superblock } = this.volume;
    const blocks = folder.size / block;
    const names: FoundName[] = [];
    if (isInline(folder)) return this.inlineNames(folder, where);
    const isHashed = (folder.flags & INODE_FLAG.hashed) !== 0 && hasFeature(superblock, 'dir_index');
    const index = isHashed ? await this.index(folder, where) : undefined;
    for (const { logical, physical, count } of folder.runs) {
      for (let i = 0; i < count; i++) {
        const isNode = index?.nodes.has(logical + i) === true;
        const bytes = await this.volume.blockAt(physical + i);
        if (!isNode) this.checkTail(folder, bytes, `${where}, block ${logical + i}`);
        this.list(bytes, logical + i, isNode, names, where);
      }
    }
    const mapped = folder.runs.reduce((sum, { count }) => sum + count, 0);
    if (mapped < blocks) this.faults.add('folder/hole', where, `${mapped} of ${blocks} blocks`);
    // Of other hashes, and of names that are the same whatever their case, only the order is looked at.
    if (index && HALF_MD4.includes(index.hash) && !isFolded(folder)) this.checkLeaves(names, index.leaves, where);
    return names;
  }

  /** Names of a folder that lies in its inode: its parent, then entries, as far as they lie in its map. */
  private inlineNames(folder: FoundInode, where: string): FoundName[] {
    const names: FoundName[] = [];
    const entry = (name: string, inode: number) => names.push({ name: bytesOfText(name), inode, type: 2, block: 0 });
    entry('.', folder.number);
    entry('..', new DataView(folder.map.buffer, folder.map.byteOffset).getUint32(0, true));
    this.list(folder.map.subarray(4), 0, true, names, where);
    if (folder.rest) this.list(folder.rest, 0, true, names, where);
    return names;
  }

  /** Reads the entries of one block. */
  private list(bytes: Uint8Array, block: number, isNode: boolean, names: FoundName[], where: string): void {
    const { isSummed } = this.volume;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    const end = isSummed && !isNode ? bytes.length - TAIL : bytes.length;
    for (let at = 0; at < end;) {
      const inode = view.getUint32(at, true);
      const length = recordLength(view.getUint16(at + 4, true), bytes.length);
      const nameLength = bytes[at + 6]!;
      if (length < 12 || length % 4 !== 0 || at + length > end || (inode !== 0 && 8 + nameLength > length)) {
        this.faults.add('folder/record', `${where}, block ${block}`, `an entry of ${length} bytes at ${at}`);
        return;
      }
      if (inode !== 0)
        names.push({ name: bytes.slice(at + 8, at + 8 + nameLength), inode, type: bytes[at + 7]!, block });
      at += length;
      if (isNode && bytes.length >= 1024) return this.rest(bytes, block, at, names);
    }
  }

  /** In a block of an index, `..` reaches over all of it; only the root has it. */
  private rest(bytes: Uint8Array, block: number, at: number, names: FoundName[]): void {
    if (block !== 0 || at >= bytes.length) return;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    const nameLength = bytes[at + 6]!;
    names.push({
      name: bytes.slice(at + 8, at + 8 + nameLength),
      inode: view.getUint32(at, true),
      type: bytes[at + 7]!,
      block,
    });
  }

  private checkTail({ number, generation }: FoundInode, bytes: Uint8Array, where: string): void {
    if (!this.volume.isSummed) return;
    const at = bytes.length - TAIL;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    if (view.getUint32(at, true) !== 0 || view.getUint16(at + 4, true) !== TAIL || bytes[at + 7] !== TAIL_TYPE) {
      this.faults.add('folder/tail', where, 'the entry with the checksum is missing');
      return;
    }
    const sum = this.volume.sum([bytes.subarray(0, at)], this.volume.seedOf(number, generation));
    this.faults.same('folder/checksum', where, view.getUint32(at + 8, true), sum);
  }

  /** The hash tree: the blocks that are nodes of it, and the leaves in the order of their hashes. */
  private async index(
    folder: FoundInode,
    where: string,
  ): Promise<{ nodes: Set<number>; leaves: Pointer[]; hash: number } | undefined> {
    const nodes = new Set([0]);
    const root = await this.nodeAt(folder, 0);
    if (!root) return undefined;
    const levels = root[0x1e]!;
    const most = this.volume.has('largedir') ? 3 : 2;
    if (root[0x1c]! > MOST_HASH || root[0x1d] !== 8 || levels > most || root[0x1f] !== 0) {
      this.faults.add('hash/root', where, `hash ${root[0x1c]}, ${root[0x1d]} bytes, ${levels} levels`);
      return undefined;
    }
    let pointers = this.pointers(folder, root, ROOT_COUNTS, where);
    for (let level = 0; level < levels; level++) {
      const below: Pointer[] = [];
      for (const { hash, block } of pointers) {
        const bytes = nodes.has(block) ? undefined : await this.nodeAt(folder, block);
        if (!bytes) {
          this.faults.add('hash/block', where, `block ${block}`);
          continue;
        }
        nodes.add(block);
        const own = this.pointers(folder, bytes, NODE_COUNTS, `${where}, block ${block}`);
        below.push(...own.map((one, i) => (i === 0 ? { ...one, hash } : one)));
      }
      pointers = below;
    }
    const seen = new Set(nodes);
    for (const [i, { hash, block }] of pointers.entries()) {
      if (seen.has(block) || this.place(folder, block) === undefined)
        this.faults.add('hash/block', where, `block ${block}`);
      seen.add(block);
      if (i > 0 && hash < pointers[i - 1]!.hash)
        this.faults.add('hash/order', where, `hash ${hash} behind ${pointers[i - 1]!.hash}`);
    }
    return { nodes, leaves: pointers, hash: root[0x1c]! };
  }

  private async nodeAt(folder: FoundInode, block: number): Promise<Uint8Array | undefined> {
    const place = this.place(folder, block);
    return place === undefined ? undefined : this.volume.blockAt(place);
  }

  private pointers({ number, generation }: FoundInode, bytes: Uint8Array, at: number, where: string): Pointer[] {
    const { isSummed } = this.volume;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    const [limit, count] = [view.getUint16(at, true), view.getUint16(at + 2, true)];
    const most = (bytes.length - at) / 8 - (isSummed ? 1 : 0);
    if (!this.faults.same('hash/limit', where, limit, most)) return [];
    if (count < 1 || count > limit) {
      this.faults.add('hash/count', where, `${count} of ${limit}`);
      return [];
    }
    if (isSummed) {
      const tail = at + 8 * limit;
      const parts = [bytes.subarray(0, at + 8 * count), bytes.subarray(tail, tail + 4), new Uint8Array(4)];
      this.faults.same(
        'hash/checksum',
        where,
        view.getUint32(tail + 4, true),
        this.volume.sum(parts, this.volume.seedOf(number, generation)),
      );
    }
    return Array.from({ length: count }, (_, i) => ({
      hash: i === 0 ? 0 : view.getUint32(at + 8 * i, true),
      block: view.getUint32(at + 8 * i + 4, true) & 0x0fffffff,
    }));
  }

  /** Every name stands in the leaf whose hashes it belongs to. */
  private checkLeaves(names: readonly FoundName[], leaves: readonly Pointer[], where: string): void {
    const { seed0, seed1, seed2, seed3, flags } = this.volume.superblock;
    const seed = [seed0, seed1, seed2, seed3];
    const place = new Map(leaves.map(({ block }, i) => [block, i]));
    for (const { name, block } of names) {
      if (block === 0) continue;
      const i = place.get(block);
      const { hash } = halfMd4(name, seed, (flags & 1) !== 0);
      const [from, next] = [
        i === undefined ? Infinity : leaves[i]!.hash,
        i === undefined ? undefined : leaves[i + 1]?.hash,
      ];
      // The lowest bit of a hash in the index says that the leaf before has names of this hash too.
      const isHere = hash >= (from & ~1) >>> 0 && (next === undefined || hash < next);
      if (i === undefined || !isHere)
        this.faults.add('hash/name elsewhere', where, `“${textOfBytes(name)}” in block ${block}`);
    }
  }
}

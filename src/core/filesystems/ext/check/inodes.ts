/** Inodes as a check reads them: what they say, where their blocks lie, and whether that can be. */
import { numberIn } from '../../../bytes/record';
import { hasFeature } from '../feature-bits';
import { EXTENT_MAGIC, FILE_TYPE, INODE, INODE_FLAG } from '../numbers';
import { LONG_INODE, SHORT_INODE } from '../records';
import type { Claims } from './claims';
import type { Faults } from './faults';
import type { Group } from '../group';
import type { CheckedVolume } from './volume';

/** A run of blocks of a file: unwritten ones read as zeros. */
export interface FoundRun {
  readonly logical: number;
  readonly physical: number;
  readonly count: number;
  readonly isUnwritten: boolean;
}

/** An inode, the halves of its numbers joined. */
export interface FoundInode {
  readonly number: number;
  readonly bytes: Uint8Array;
  readonly kind: number;
  readonly mode: number;
  readonly user: number;
  readonly group: number;
  readonly size: number;
  readonly links: number;
  readonly sectors: number;
  readonly flags: number;
  readonly map: Uint8Array;
  readonly generation: number;
  readonly attributes: number;
  readonly seconds: number;
  readonly nanoseconds: number;
  readonly extra: number;
  /** Filled in by the check: its blocks, ascending. */
  runs: readonly FoundRun[];
  /** Blocks that its map and its attributes take. */
  overhead: number;
  /** What of its data lies in the inode behind its map, where it lies there at all. */
  rest?: Uint8Array | undefined;
}

const KINDS: readonly number[] = Object.values(FILE_TYPE).map(({ mode }) => mode);
/** Flags that a check knows: those that people set, and those that kernels set for themselves. */
const KNOWN_FLAGS =
  0xff |
  0x100 |
  0x200 |
  0x400 |
  0x2000 |
  0x4000 |
  0x8000 |
  0x10000 |
  0x20000 |
  0x40_0000 |
  0x200_0000 |
  0x2000_0000 |
  INODE_FLAG.hashed |
  INODE_FLAG.huge |
  INODE_FLAG.extents;

/** Flags that mean something only where the file system has a feature. */
const FLAG_OF_FEATURE = [
  [INODE_FLAG.encrypted, 'encrypt'],
  [INODE_FLAG.sealed, 'verity'],
  [INODE_FLAG.value, 'ea_inode'],
  [INODE_FLAG.inline, 'inline_data'],
  [INODE_FLAG.folded, 'casefold'],
] as const;

/** The data of a file lies in its inode. */
export const isInline = ({ flags }: Pick<FoundInode, 'flags'>): boolean => (flags & INODE_FLAG.inline) !== 0;
/** Names of a folder, and targets of links, are encrypted. */
export const isEncrypted = ({ flags }: Pick<FoundInode, 'flags'>): boolean => (flags & INODE_FLAG.encrypted) !== 0;
/** Names of a folder are the same whatever their case. */
export const isFolded = ({ flags }: Pick<FoundInode, 'flags'>): boolean => (flags & INODE_FLAG.folded) !== 0;
/** It is the value of an attribute, and has no name. */
export const isValue = ({ flags }: Pick<FoundInode, 'flags'>): boolean => (flags & INODE_FLAG.value) !== 0;

function signed(seconds: number): number {
  return seconds >= 2 ** 31 ? seconds - 2 ** 32 : seconds;
}

const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.length);

/** Names of the fields of an inode that are numbers. */
type NumberOf<Shape extends { fields: object }> = Exclude<keyof Shape['fields'], 'map'>;

/** What the bytes of an inode say. */
function inodeIn(number: number, bytes: Uint8Array): FoundInode {
  const view = viewOf(bytes);
  const short = (name: NumberOf<typeof SHORT_INODE>) => numberIn(SHORT_INODE, SHORT_INODE.fields[name], view);
  const extra = bytes.length > 128 ? view.getUint16(128, true) : 0;
  const hasMore = extra >= 12 && bytes.length >= LONG_INODE.length;
  const more = hasMore ? numberIn(LONG_INODE, LONG_INODE.fields.modifiedExtra, view) : 0;
  const mode = short('mode');
  return {
    number,
    bytes,
    kind: mode & 0xf000,
    mode: mode & 0xfff,
    user: short('userLow') + short('userHigh') * 0x10000,
    group: short('groupLow') + short('groupHigh') * 0x10000,
    size: short('sizeLow') + short('sizeHigh') * 2 ** 32,
    links: short('links'),
    sectors: short('sectorsLow') + short('sectorsHigh') * 2 ** 32,
    flags: short('flags'),
    map: bytes.subarray(SHORT_INODE.fields.map.offset, SHORT_INODE.fields.map.offset + 60),
    generation: short('generation'),
    attributes: short('attributesLow') + short('attributesHigh') * 2 ** 32,
    seconds: signed(short('modified')) + (more & 3) * 2 ** 32,
    nanoseconds: more >>> 2,
    extra,
    runs: [],
    overhead: 0,
  };
}

/** Reads inodes, and claims their blocks. */
export class InodeReader {
  constructor(
    private readonly volume: CheckedVolume,
    private readonly groups: readonly Group[],
    private readonly claims: Claims,
    private readonly faults: Faults,
  ) {}

  async read(number: number): Promise<FoundInode> {
    const { superblock, inodeSize, block } = this.volume;
    const group = this.groups[Math.floor((number - 1) / superblock.inodesPerGroup)]!;
    const at = ((number - 1) % superblock.inodesPerGroup) * inodeSize;
    // What is kept of two hundred thousand inodes shares the windows that they were read in.
    return inodeIn(number, await this.volume.near(group.inodeTable * block + at, inodeSize));
  }

  /** Checks what an inode says of itself, and finds its blocks. */
  async look(inode: FoundInode): Promise<void> {
    const { faults, volume } = this;
    const where = `inode ${inode.number}`;
    this.checkSum(inode, where);
    if (!KINDS.includes(inode.kind)) faults.add('inode/kind', where, `${inode.kind.toString(16)}h`);
    const known = FLAG_OF_FEATURE.reduce(
      (all, [flag, feature]) => (volume.has(feature) ? all | flag : all),
      KNOWN_FLAGS,
    );
    if ((inode.flags & ~known) !== 0) faults.add('inode/flags', where, `${(inode.flags >>> 0).toString(16)}h`);
    if (numberIn(SHORT_INODE, SHORT_INODE.fields.deleted, viewOf(inode.bytes)) !== 0)
      faults.add('inode/deleted', where, 'it says when it was deleted');
    if (volume.inodeSize > 128 && (inode.extra % 4 !== 0 || inode.extra > volume.inodeSize - 128 || inode.extra < 4))
      faults.add('inode/extra fields', where, `${inode.extra} bytes`);
    if (hasMap(inode)) await this.findRuns(inode, where);
    const own = inode.attributes > 0 ? 1 : 0;
    const blocks = inode.runs.reduce((sum, one) => sum + one.count, 0) + inode.overhead + own;
    const unit = (inode.flags & INODE_FLAG.huge) !== 0 ? 1 : volume.block / 512;
    // Of the inode of spare descriptors that is known later.
    if (inode.number !== INODE.resize) faults.same('inode/sectors', where, inode.sectors, blocks * unit);
    this.checkSize(inode, where);
  }

  private checkSum(inode: FoundInode, where: string): void {
    if (!this.volume.isSummed) return;
    const { bytes, number, generation, extra } = inode;
    const zeroed = new Uint8Array(bytes);
    zeroed.fill(0, 0x7c, 0x7e);
    const isWhole = bytes.length > 128 && extra >= 4;
    if (isWhole) zeroed.fill(0, 0x82, 0x84);
    const sum = this.volume.sum([zeroed], this.volume.seedOf(number, generation));
    const view = new DataView(bytes.buffer, bytes.byteOffset);
    const found = view.getUint16(0x7c, true) + (isWhole ? view.getUint16(0x82, true) * 0x10000 : 0);
    this.faults.same('inode/checksum', where, found, isWhole ? sum : sum & 0xffff);
  }

  private checkSize({ kind, size, runs, number, flags }: FoundInode, where: string): void {
    const { block, superblock } = this.volume;
    const last = runs[runs.length - 1];
    const mapped = last ? (last.logical + last.count) * block : 0;
    // The inode of spare descriptors says the most that its map could hold; what seals a file lies behind its end.
    if (number === INODE.resize || (flags & (INODE_FLAG.inline | INODE_FLAG.sealed)) !== 0) return;
    if (kind === FILE_TYPE.folder.mode && (size % block !== 0 || size !== mapped))
      this.faults.add('inode/size', where, `${size} bytes in ${mapped}`);
    // Kernels may keep blocks ahead behind the end, unwritten.
    const written = runs.reduce(
      (end, one) => (one.isUnwritten ? end : Math.max(end, (one.logical + one.count) * block)),
      0,
    );
    if (kind === FILE_TYPE.file.mode && written >= size + block)
      this.faults.add('inode/size', where, `${size} bytes, and blocks up to ${written}`);
    if ((flags & INODE_FLAG.hashed) !== 0 && (kind !== FILE_TYPE.folder.mode || !hasFeature(superblock, 'dir_index')))
      this.faults.add('inode/flags', where, 'it is no folder with a hash tree');
  }

  private async findRuns(inode: FoundInode, where: string): Promise<void> {
    const runs: FoundRun[] = [];
    if ((inode.flags & INODE_FLAG.extents) !== 0) await this.extents(inode, inode.map, where, runs, undefined, 0);
    else await this.blockMap(inode, where, runs);
    // What lies outside is told below, and not read.
    const { volume } = this;
    inode.runs = runs.filter(
      ({ physical, count }) => volume.isInside(physical) && volume.isInside(physical + count - 1),
    );
    let end = 0;
    for (const { logical, count } of runs) {
      if (logical < end) this.faults.add('map/order', where, `block ${logical} comes behind block ${end - 1}`);
      end = Math.max(end, logical + count);
    }
    for (const { physical, count } of runs) this.claims.take(physical, count, where);
  }

  /** A node of an extent tree; `depth` is what the node above says that this one has. */
  private async extents(
    inode: FoundInode,
    bytes: Uint8Array,
    where: string,
    runs: FoundRun[],
    depth: number | undefined,
    above: number,
  ): Promise<void> {
    const { faults, volume } = this;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    if (view.getUint16(0, true) !== EXTENT_MAGIC) {
      faults.add('map/magic', where, 'a node of its extents has none');
      return;
    }
    const [entries, most, own] = [view.getUint16(2, true), view.getUint16(4, true), view.getUint16(6, true)];
    const room = Math.floor((bytes.length - 12) / 12);
    if (entries > most || most > room || (depth !== undefined && entries === 0)) {
      faults.add('map/entries', where, `${entries} of ${most} in a node with room for ${room}`);
      return;
    }
    if (own > 5 || (depth !== undefined && own !== depth)) {
      faults.add('map/depth', where, `${own}`);
      return;
    }
    if (depth !== undefined && volume.isSummed) {
      const tail = 12 + 12 * most;
      const sum = volume.sum([bytes.subarray(0, tail)], volume.seedOf(inode.number, inode.generation));
      faults.same('map/checksum', where, view.getUint32(tail, true), sum);
    }
    let end = above;
    for (let i = 0; i < entries; i++) {
      const at = 12 * (i + 1);
      const logical = view.getUint32(at, true);
      if (logical < end || (i === 0 && depth !== undefined && logical !== above))
        faults.add('map/order', where, `block ${logical} in a node from ${above} on`);
      end = Math.max(end, logical);
      if (own > 0) {
        const child = view.getUint32(at + 4, true) + view.getUint16(at + 8, true) * 2 ** 32;
        // A block that is claimed already is not followed: it may lead back here.
        if (!this.claims.take(child, 1, where)) continue;
        inode.overhead += 1;
        await this.extents(inode, await volume.blockAt(child), where, runs, own - 1, logical);
        continue;
      }
      const length = view.getUint16(at + 4, true);
      const isUnwritten = length > 32_768;
      const count = isUnwritten ? length - 32_768 : length;
      if (count === 0) faults.add('map/length', where, 'an extent of no blocks');
      else
        runs.push({
          logical,
          physical: view.getUint32(at + 8, true) + view.getUint16(at + 6, true) * 2 ** 32,
          count,
          isUnwritten,
        });
    }
  }

  private async blockMap(inode: FoundInode, where: string, runs: FoundRun[]): Promise<void> {
    const { block } = this.volume;
    const width = block / 4;
    const top = new DataView(inode.map.buffer, inode.map.byteOffset, 60);
    const add = (logical: number, physical: number) => {
      const last = runs[runs.length - 1];
      if (last && last.logical + last.count === logical && last.physical + last.count === physical)
        runs[runs.length - 1] = { ...last, count: last.count + 1 };
      else runs.push({ logical, physical, count: 1, isUnwritten: false });
    };
    const follow = async (pointer: number, depth: number, logical: number): Promise<void> => {
      if (pointer === 0) return;
      if (depth === 0) {
        add(logical, pointer);
        return;
      }
      if (!this.claims.take(pointer, 1, where)) return;
      inode.overhead += 1;
      const bytes = await this.volume.blockAt(pointer);
      const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
      for (let i = 0; i < width; i++)
        await follow(view.getUint32(4 * i, true), depth - 1, logical + i * width ** (depth - 1));
    };
    for (let i = 0; i < 12; i++) await follow(top.getUint32(4 * i, true), 0, i);
    for (let depth = 1, first = 12; depth <= 3; first += width ** depth, depth++)
      await follow(top.getUint32(4 * (11 + depth), true), depth, first);
  }
}

/** True for an inode whose 60 bytes say where blocks lie. */
function hasMap({ kind, size, flags, number }: FoundInode): boolean {
  // The inode of spare descriptors has a map of its own kind.
  if (number === INODE.resize || (flags & INODE_FLAG.inline) !== 0) return false;
  if (kind === FILE_TYPE.file.mode || kind === FILE_TYPE.folder.mode) return true;
  return kind === FILE_TYPE.link.mode && (size >= 60 || (flags & INODE_FLAG.extents) !== 0);
}

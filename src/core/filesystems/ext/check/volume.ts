/** Reading the superblock, the group descriptors and single blocks of an ext volume, for its check. */
import { mostPerGroup } from '../geometry';
import type { BlockSource } from '../../../bytes/blocks';
import { crc16, crc32c, crc32cOfNumber } from '../../../bytes/crc32c';
import { decode } from '../../../bytes/record';
import { EXT_MAGIC, GROUP_FLAG, SUPERBLOCK_AT } from '../numbers';
import { LONG_GROUP, SHORT_GROUP, type Superblock, SUPERBLOCK } from '../records';
import type { Faults } from './faults';

/** Features that a check knows, by their bits. */
const KNOWN = {
  compatible: 0x4 | 0x8 | 0x10 | 0x20,
  // 4h says that a journal is to be replayed: that is told by itself.
  incompatible: 0x2 | 0x4 | 0x40 | 0x80 | 0x200,
  readOnly: 0x1 | 0x2 | 0x8 | 0x10 | 0x20 | 0x40 | 0x400,
};

/** A group, the halves of its numbers joined. */
export interface Group {
  readonly blockBitmap: number;
  readonly inodeBitmap: number;
  readonly inodeTable: number;
  readonly freeBlocks: number;
  readonly freeInodes: number;
  readonly folders: number;
  readonly flags: number;
  readonly blockSum: number;
  readonly inodeSum: number;
  readonly unused: number;
  readonly bytes: Uint8Array;
}

const joined = (low: number, high: number) => low + high * 2 ** 32;

function isPowerOf(base: number, value: number): boolean {
  let power = 1;
  while (power < value) power *= base;
  return power === value;
}

/** What is read of a volume, and how its numbers hang together. */
export class CheckedVolume {
  readonly block: number;
  readonly blocks: number;
  readonly groups: number;
  readonly isSummed: boolean;
  readonly isLong: boolean;
  readonly seed: number;
  readonly inodeSize: number;
  readonly descriptorBytes: number;
  readonly descriptorBlocks: number;

  constructor(
    private readonly source: BlockSource,
    private readonly base: number,
    readonly superblock: Superblock,
  ) {
    this.block = 1024 * 2 ** superblock.logBlock;
    this.isLong = (superblock.incompatible & 0x80) !== 0;
    this.blocks = joined(superblock.blocksLow, this.isLong ? superblock.blocksHigh : 0);
    this.groups = Math.ceil((this.blocks - superblock.firstDataBlock) / superblock.blocksPerGroup);
    this.isSummed = (superblock.readOnly & 0x400) !== 0;
    this.seed = crc32c(superblock.uuid);
    this.inodeSize = superblock.inodeSize;
    this.descriptorBytes = this.isLong ? superblock.descriptorSize : 32;
    this.descriptorBlocks = Math.ceil((this.groups * this.descriptorBytes) / this.block);
  }

  has(field: 'compatible' | 'incompatible' | 'readOnly', bit: number): boolean {
    return (this.superblock[field] & bit) !== 0;
  }

  read(at: number, length: number): Promise<Uint8Array> {
    return this.source.read(this.base + at, length);
  }

  blockAt(block: number): Promise<Uint8Array> {
    return this.read(block * this.block, this.block);
  }

  /** True for a block of the volume. */
  isInside(block: number): boolean {
    return Number.isSafeInteger(block) && block >= this.superblock.firstDataBlock && block < this.blocks;
  }

  groupStart(group: number): number {
    return this.superblock.firstDataBlock + group * this.superblock.blocksPerGroup;
  }

  groupOf(block: number): number {
    return Math.floor((block - this.superblock.firstDataBlock) / this.superblock.blocksPerGroup);
  }

  /** Groups that begin with a copy of the superblock. */
  get copies(): number[] {
    const found: number[] = [];
    for (let group = 0; group < this.groups; group++)
      if (group < 2 || [3, 5, 7].some((base) => isPowerOf(base, group))) found.push(group);
    return found;
  }

  sum(parts: readonly Uint8Array[], seed = this.seed): number {
    return parts.reduce((sum, part) => crc32c(part, sum), seed);
  }

  seedOf(inode: number, generation: number): number {
    return crc32cOfNumber(generation, crc32cOfNumber(inode, this.seed));
  }

  /** The checksum that a descriptor should have; undefined where it has none. */
  descriptorSum(group: number, bytes: Uint8Array): number | undefined {
    if (this.isSummed) {
      // A copy, whatever kind of bytes it is.
      const zeroed = Uint8Array.from(bytes);
      zeroed.fill(0, 0x1e, 0x20);
      return crc32c(zeroed, crc32cOfNumber(group, this.seed)) & 0xffff;
    }
    if (!this.has('readOnly', 0x10)) return undefined;
    const number = new Uint8Array(4);
    new DataView(number.buffer).setUint32(0, group, true);
    return crc16(bytes.subarray(0, 0x1e), crc16(number, crc16(this.superblock.uuid)));
  }
}

/** Descriptors in their bytes, read from a table. */
function groupIn(bytes: Uint8Array): Group {
  if (bytes.length < 64) {
    const short = decode(SHORT_GROUP, bytes);
    return { ...short, bytes };
  }
  const long = decode(LONG_GROUP, bytes);
  return {
    blockBitmap: joined(long.blockBitmap, long.blockBitmapHigh),
    inodeBitmap: joined(long.inodeBitmap, long.inodeBitmapHigh),
    inodeTable: joined(long.inodeTable, long.inodeTableHigh),
    freeBlocks: long.freeBlocks + long.freeBlocksHigh * 0x10000,
    freeInodes: long.freeInodes + long.freeInodesHigh * 0x10000,
    folders: long.folders + long.foldersHigh * 0x10000,
    flags: long.flags,
    blockSum: long.blockSum + long.blockSumHigh * 0x10000,
    inodeSum: long.inodeSum + long.inodeSumHigh * 0x10000,
    unused: long.unused + long.unusedHigh * 0x10000,
    bytes,
  };
}

/** The checksum of a superblock in its bytes. */
function superblockSum(bytes: Uint8Array): number {
  return crc32c(bytes.subarray(0, SUPERBLOCK.fields.checksum.offset));
}

/** Reads the superblock; undefined where nothing can be read by it. */
export async function readSuperblock(
  source: BlockSource,
  base: number,
  available: number,
  faults: Faults,
): Promise<CheckedVolume | undefined> {
  const where = 'the superblock';
  if (available < SUPERBLOCK_AT + 1024) {
    faults.add('superblock/magic', where, 'there is no room for one');
    return undefined;
  }
  const bytes = await source.read(base + SUPERBLOCK_AT, 1024);
  const sb = decode(SUPERBLOCK, bytes);
  if (sb.magic !== EXT_MAGIC) {
    faults.add('superblock/magic', where, 'the magic is missing');
    return undefined;
  }
  if ((sb.readOnly & 0x400) !== 0) faults.same('superblock/checksum', where, sb.checksum, superblockSum(bytes));
  if (sb.logBlock > 6) {
    faults.add('superblock/block size', where, `blocks of 1 KiB shifted by ${sb.logBlock}`);
    return undefined;
  }
  const block = 1024 * 2 ** sb.logBlock;
  if (sb.revision !== 1 || sb.firstInode < 11) faults.add('superblock/revision', where, `revision ${sb.revision}`);
  const unknown = (['compatible', 'incompatible', 'readOnly'] as const).filter((one) => (sb[one] & ~KNOWN[one]) !== 0);
  if (unknown.length > 0) faults.add('superblock/features', where, `unknown ones among the ${unknown.join(', ')}`);
  if (unknown.includes('incompatible')) return undefined;
  if (sb.inodeSize < 128 || sb.inodeSize > block || (sb.inodeSize & (sb.inodeSize - 1)) !== 0) {
    faults.add('superblock/inode size', where, `${sb.inodeSize} bytes`);
    return undefined;
  }
  const isLong = (sb.incompatible & 0x80) !== 0;
  if (isLong && sb.descriptorSize !== 64) {
    faults.add('superblock/descriptor size', where, `${sb.descriptorSize} bytes`);
    return undefined;
  }
  if (!faults.same('superblock/first block', where, sb.firstDataBlock, block === 1024 ? 1 : 0)) return undefined;
  const isSound =
    sb.blocksPerGroup === mostPerGroup(block, isLong) &&
    sb.clustersPerGroup === sb.blocksPerGroup &&
    sb.logCluster === sb.logBlock &&
    sb.inodesPerGroup > 0 &&
    sb.inodesPerGroup <= sb.blocksPerGroup &&
    (sb.inodesPerGroup * sb.inodeSize) % block === 0;
  if (!isSound) {
    faults.add('superblock/groups', where, `${sb.blocksPerGroup} blocks and ${sb.inodesPerGroup} inodes of a group`);
    return undefined;
  }
  const volume = new CheckedVolume(source, base, sb);
  if (volume.blocks * block > available || volume.groups < 1) {
    faults.add('superblock/longer than its place', where, `${volume.blocks} blocks of ${block} bytes`);
    return undefined;
  }
  if (!faults.same('superblock/inodes', where, sb.inodes, volume.groups * sb.inodesPerGroup)) return undefined;
  if (sb.state !== 1 || (sb.incompatible & 4) !== 0) faults.add('superblock/state', where, `state ${sb.state}`);
  if (sb.lastOrphan !== 0) faults.add('superblock/orphans', where, `inode ${sb.lastOrphan} is to be deleted`);
  const reserved = sb.reservedLow + (isLong ? sb.reservedHigh * 2 ** 32 : 0);
  if (reserved > volume.blocks / 2) faults.add('superblock/reserved blocks', where, `${reserved}`);
  const hasIndex = (sb.compatible & 0x20) !== 0;
  if (hasIndex && (sb.hashVersion !== 1 || (sb.flags & 3) === 0 || (sb.flags & 3) === 3))
    faults.add('superblock/hash', where, `version ${sb.hashVersion}, flags ${sb.flags}`);
  const hasSpare = (sb.compatible & 0x10) !== 0;
  if (sb.reservedTable > block / 4 || (!hasSpare && sb.reservedTable > 0))
    faults.add('superblock/room for descriptors', where, `${sb.reservedTable} blocks`);
  return volume;
}

const ALL_FLAGS = GROUP_FLAG.inodesUnset | GROUP_FLAG.blocksUnset | GROUP_FLAG.tableZeroed;

/** Fields of a superblock that are the same in all copies. */
const STATIC = [
  'inodes',
  'blocksLow',
  'blocksHigh',
  'firstDataBlock',
  'logBlock',
  'blocksPerGroup',
  'inodesPerGroup',
  'inodeSize',
  'compatible',
  'incompatible',
  'readOnly',
  'reservedTable',
  'descriptorSize',
] as const;

/** A field as it is the same in all copies: that a journal is in use they say at the time they are written. */
function stable(sb: Superblock, name: (typeof STATIC)[number]): number {
  return name === 'incompatible' ? sb.incompatible & ~4 : sb[name];
}

/** Reads the descriptors, and compares the copies of them and of the superblock. */
export async function readGroups(volume: CheckedVolume, faults: Faults): Promise<Group[]> {
  const { block, groups, descriptorBytes, descriptorBlocks, superblock } = volume;
  const table = await volume.read((superblock.firstDataBlock + 1) * block, descriptorBlocks * block);
  const all = Array.from({ length: groups }, (_, i) =>
    groupIn(table.slice(i * descriptorBytes, (i + 1) * descriptorBytes)),
  );
  all.forEach((group, i) => {
    const meant = volume.descriptorSum(i, group.bytes);
    const found = decode(SHORT_GROUP, group.bytes).checksum;
    if (meant !== undefined) faults.same('group/checksum', `group ${i}`, found, meant);
    // That the table is zeroed kernels say everywhere, the rest only where descriptors have checksums.
    const known = meant === undefined ? GROUP_FLAG.tableZeroed : ALL_FLAGS;
    if ((group.flags & ~known) !== 0) faults.add('group/flags', `group ${i}`, `${group.flags}`);
  });
  for (const copy of volume.copies) {
    if (copy === 0) continue;
    const where = `the copy in group ${copy}`;
    const bytes = await volume.read(volume.groupStart(copy) * block, 1024);
    const sb = decode(SUPERBLOCK, bytes);
    const differing = STATIC.filter((name) => stable(sb, name) !== stable(superblock, name));
    const isOther =
      sb.magic !== EXT_MAGIC || sb.group !== (copy & 0xffff) || sb.uuid.some((byte, i) => byte !== superblock.uuid[i]);
    if (differing.length > 0 || isOther)
      faults.add('superblock/copy', where, `differs: ${differing.join(', ') || 'group, magic or UUID'}`);
    else if (volume.isSummed && sb.checksum !== superblockSum(bytes))
      faults.add('superblock/copy', where, 'its checksum is wrong');
    const other = await volume.read((volume.groupStart(copy) + 1) * block, descriptorBlocks * block);
    all.forEach((group, i) => {
      const own = groupIn(other.slice(i * descriptorBytes, (i + 1) * descriptorBytes));
      // Counts in copies are those of old.
      const isSame =
        own.blockBitmap === group.blockBitmap &&
        own.inodeBitmap === group.inodeBitmap &&
        own.inodeTable === group.inodeTable;
      const meant = volume.descriptorSum(i, own.bytes);
      const isSummed = meant === undefined || decode(SHORT_GROUP, own.bytes).checksum === meant;
      if (!isSame || !isSummed)
        faults.add('group/copy', `${where} of group ${i}`, isSame ? 'its checksum is wrong' : 'it says other places');
    });
  }
  return all;
}

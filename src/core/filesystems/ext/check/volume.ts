/** Reading the superblock, the group descriptors and single blocks of an ext volume, for its check. */
import type { BlockSource } from '../../../bytes/blocks';
import { crc16, crc32c, crc32cOfNumber } from '../../../bytes/crc32c';
import { decode } from '../../../bytes/record';
import {
  bitsOf,
  FEATURE_BITS,
  FEATURE_FIELDS,
  type FeatureField,
  type FeatureName,
  FEATURES,
  hasFeature,
} from '../feature-bits';
import { EXT_MAGIC, GROUP_FLAG, INODE, SHORT_INODE_BYTES, SUPERBLOCK_AT } from '../numbers';
import { ALL_READ, copiesOf, descriptorAt, type ExtHead, hasCopy, headOf } from '../read/head';
import { type Group, groupIn } from '../group';
import { SHORT_GROUP, type Superblock, SUPERBLOCK } from '../records';
import type { Faults } from './faults';

/** Features that are told, and that a check knows nothing of. */
const NOT_CHECKED = ['bigalloc', 'readonly'] as const;

/** Features that a check knows, by their bits. */
const KNOWN: Readonly<Record<FeatureField, number>> = {
  compatible: bitsOf('compatible', FEATURES),
  incompatible: ALL_READ,
  readOnly: bitsOf('readOnly', FEATURES) & ~bitsOf('readOnly', NOT_CHECKED),
};

/** The fields in which a superblock has features that are not known here. */
export function unknownFeatures(superblock: Superblock): FeatureField[] {
  return FEATURE_FIELDS.filter((one) => (superblock[one] & ~KNOWN[one]) !== 0);
}

/** Groups beyond which a volume is not checked. */
const MOST_GROUPS = 2 ** 20;
/** Bytes that are read at once, where what lies beside them is asked for next; and how many such windows are kept. */
const [WINDOW, WINDOWS] = [64 * 1024, 32];

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
  /** Blocks of descriptors, and how many of them lie behind each copy of the superblock. */
  readonly descriptorBlocks: number;
  readonly tableBlocks: number;
  private readonly windows = new Map<number, Promise<Uint8Array>>();

  constructor(
    private readonly source: BlockSource,
    private readonly base: number,
    readonly superblock: Superblock,
    readonly head: ExtHead,
  ) {
    this.block = head.block;
    this.isLong = head.isLong;
    this.blocks = head.blocks;
    this.groups = head.groups;
    this.isSummed = hasFeature(superblock, 'metadata_csum');
    const isStored = hasFeature(superblock, 'csum_seed');
    this.seed = isStored ? superblock.checksumSeed : crc32c(superblock.uuid);
    this.inodeSize = head.inodeBytes;
    this.descriptorBytes = head.descriptorBytes;
    this.descriptorBlocks = Math.ceil((this.groups * this.descriptorBytes) / this.block);
    this.tableBlocks = Math.min(this.descriptorBlocks, head.firstMetaGroup);
  }

  /** First inode that is not reserved. */
  get firstInode(): number {
    return this.superblock.revision === 0 ? INODE.first : this.superblock.firstInode;
  }

  has(feature: FeatureName): boolean {
    return hasFeature(this.superblock, feature);
  }

  read(at: number, length: number): Promise<Uint8Array> {
    return this.source.read(this.base + at, length);
  }

  /** The same out of windows that are kept, for what lies close together. */
  async near(at: number, length: number): Promise<Uint8Array> {
    const window = Math.floor(at / WINDOW) * WINDOW;
    let bytes = this.windows.get(window);
    if (!bytes) {
      bytes = this.read(window, Math.min(WINDOW, this.blocks * this.block - window)).then(
        (read) => new Uint8Array(read),
      );
      this.windows.set(window, bytes);
      if (this.windows.size > WINDOWS) this.windows.delete(this.windows.keys().next().value!);
    }
    // A part that goes over the end of a window is rare: inodes and descriptors are powers of two.
    const found = (await bytes).subarray(at - window, at - window + length);
    return found.length === length ? found : this.read(at, length);
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
    return [...copiesOf(this.head)];
  }

  /** Blocks of descriptors that lie with their groups: in the first two and the last of those that each is for. */
  get metaPlaces(): number[] {
    const each = this.block / this.descriptorBytes;
    const places: number[] = [];
    for (let part = this.tableBlocks; part < this.descriptorBlocks; part++)
      for (const group of [part * each, part * each + 1, part * each + each - 1])
        if (group < this.groups) places.push(this.groupStart(group) + (hasCopy(this.head, group) ? 1 : 0));
    return places;
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
      const zeroed = new Uint8Array(bytes);
      zeroed.fill(0, 0x1e, 0x20);
      return crc32c(zeroed, crc32cOfNumber(group, this.seed)) & 0xffff;
    }
    if (!this.has('gdt_csum')) return undefined;
    const number = new Uint8Array(4);
    new DataView(number.buffer).setUint32(0, group, true);
    return crc16(bytes.subarray(0, 0x1e), crc16(number, crc16(this.superblock.uuid)));
  }
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
  const room = Math.min(available, source.size - base);
  if (room < SUPERBLOCK_AT + 1024) {
    faults.add('superblock/magic', where, 'there is no room for one');
    return undefined;
  }
  const bytes = await source.read(base + SUPERBLOCK_AT, 1024);
  const sb = decode(SUPERBLOCK, bytes);
  if (sb.magic !== EXT_MAGIC) {
    faults.add('superblock/magic', where, 'the magic is missing');
    return undefined;
  }
  if (hasFeature(sb, 'metadata_csum')) faults.same('superblock/checksum', where, sb.checksum, superblockSum(bytes));
  if (sb.logBlock > 6) {
    faults.add('superblock/block size', where, `blocks of 1 KiB shifted by ${sb.logBlock}`);
    return undefined;
  }
  const block = 1024 * 2 ** sb.logBlock;
  // Without a revision there are no features, and inodes are of one size.
  const isOld = sb.revision === 0 && (sb.compatible | sb.incompatible | sb.readOnly) === 0;
  if (!isOld && (sb.revision !== 1 || sb.firstInode < INODE.first))
    faults.add('superblock/revision', where, `revision ${sb.revision}`);
  if (hasFeature(sb, 'bigalloc')) {
    faults.add('superblock/features', where, 'its blocks are counted in clusters, which is not checked');
    return undefined;
  }
  const unknown = unknownFeatures(sb);
  if (unknown.length > 0) faults.add('superblock/features', where, `unknown ones among the ${unknown.join(', ')}`);
  if (unknown.includes('incompatible')) return undefined;
  const inodeSize = isOld ? SHORT_INODE_BYTES : sb.inodeSize;
  if (inodeSize < 128 || inodeSize > block || (inodeSize & (inodeSize - 1)) !== 0) {
    faults.add('superblock/inode size', where, `${inodeSize} bytes`);
    return undefined;
  }
  const isLong = hasFeature(sb, '64bit');
  const size = sb.descriptorSize;
  if (isLong && (size < 64 || size > block || (size & (size - 1)) !== 0)) {
    faults.add('superblock/descriptor size', where, `${size} bytes`);
    return undefined;
  }
  if (!faults.same('superblock/first block', where, sb.firstDataBlock, block === 1024 ? 1 : 0)) return undefined;
  const isSound =
    sb.blocksPerGroup > 0 &&
    sb.blocksPerGroup <= 8 * block &&
    sb.blocksPerGroup % 8 === 0 &&
    sb.clustersPerGroup === sb.blocksPerGroup &&
    sb.logCluster === sb.logBlock &&
    sb.inodesPerGroup > 0 &&
    sb.inodesPerGroup <= 8 * block &&
    sb.inodesPerGroup % 8 === 0 &&
    (sb.inodesPerGroup * inodeSize) % block === 0;
  const found = isSound ? headOf(sb) : undefined;
  if (!found || 'refused' in found || found.head.groups > MOST_GROUPS) {
    faults.add('superblock/groups', where, `${sb.blocksPerGroup} blocks and ${sb.inodesPerGroup} inodes of a group`);
    return undefined;
  }
  const volume = new CheckedVolume(source, base, sb, found.head);
  if (volume.blocks * block > room || volume.groups < 1) {
    faults.add('superblock/longer than its place', where, `${volume.blocks} blocks of ${block} bytes`);
    return undefined;
  }
  if (!faults.same('superblock/inodes', where, sb.inodes, volume.groups * sb.inodesPerGroup)) return undefined;
  // What the last group has beside its structures is behind the end where there is no room for them.
  if ((volume.tableBlocks + 1) * block > volume.blocks * block) {
    faults.add('superblock/groups', where, `${volume.tableBlocks} blocks of descriptors`);
    return undefined;
  }
  if (sb.state !== 1 || hasFeature(sb, 'needs_recovery'))
    faults.add(
      'superblock/state',
      where,
      `state ${sb.state}${(sb.state & 2) !== 0 ? ', with errors that were met' : ''}`,
    );
  if (sb.lastOrphan !== 0) faults.add('superblock/orphans', where, `inode ${sb.lastOrphan} is to be deleted`);
  const reserved = sb.reservedLow + (isLong ? sb.reservedHigh * 2 ** 32 : 0);
  if (reserved > volume.blocks / 2) faults.add('superblock/reserved blocks', where, `${reserved}`);
  const hasIndex = hasFeature(sb, 'dir_index');
  if (hasIndex && (sb.hashVersion > MOST_HASH || (sb.flags & 3) === 3))
    faults.add('superblock/hash', where, `version ${sb.hashVersion}, flags ${sb.flags}`);
  const hasSpare = hasFeature(sb, 'resize_inode');
  if (sb.reservedTable > block / 4 || (!hasSpare && sb.reservedTable > 0))
    faults.add('superblock/room for descriptors', where, `${sb.reservedTable} blocks`);
  return volume;
}

/** The last kind of hash of directories that there is. */
const MOST_HASH = 6;

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
  return name === 'incompatible' ? sb.incompatible & ~FEATURE_BITS.incompatible.needs_recovery : sb[name];
}

/** Reads the descriptors, and compares the copies of them and of the superblock. */
export async function readGroups(volume: CheckedVolume, faults: Faults): Promise<Group[]> {
  const { block, groups, descriptorBytes, tableBlocks, superblock } = volume;
  const all: Group[] = [];
  for (let i = 0; i < groups; i++)
    all.push(groupIn(new Uint8Array(await volume.near(descriptorAt(volume.head, i), descriptorBytes))));
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
    // A last group may be hardly more than its superblock.
    const room = volume.blocks - volume.groupStart(copy) - 1;
    const other = await volume.read((volume.groupStart(copy) + 1) * block, Math.min(tableBlocks, room) * block);
    all.slice(0, Math.floor(other.length / descriptorBytes)).forEach((group, i) => {
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

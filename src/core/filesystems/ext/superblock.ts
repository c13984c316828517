/** The superblock of an ext volume, and that of its journal (the kernel's documentation, "Super Block" and "Journal"). */
import { high32, low32 } from '../../quantity/integers';
import { crc32c } from '../../bytes/crc32c';
import { encode } from '../../bytes/record';
import { lastInode } from './descriptors';
import { featureBits } from './features';
import type { ExtGeometry } from './geometry';
import { instantOf } from './inode';
import type { ExtPlan } from './plan';
import { EXT_MAGIC, EXTRA_BYTES, INODE, JOURNAL_MAGIC, JOURNAL_SUPERBLOCK } from './numbers';
import { SUPERBLOCK } from './records';

/** What stands in a volume besides its geometry and its files. */
export interface ExtIdentity {
  /** The 16 bytes in the order in which the text shows them. */
  readonly uuid: Uint8Array;
  /** At most 16 bytes. */
  readonly label: Uint8Array;
  /** When it is made, `YYYY-MM-DDTHH:MM:SS`; the time of everything that has none of its own. */
  readonly date: string;
  /** Files and folders keep their own times. */
  readonly keepsTimes: boolean;
  readonly rootUser: number;
  readonly rootGroup: number;
  /** Days after which a check is due; 0 for never. */
  readonly checkDays: number;
  /** Inode tables behind those in use are left to the kernel. */
  readonly leavesTables: boolean;
}

/** No check is due, however often it is mounted. */
const NEVER = 0xffff;
const DAY = 86_400;
/** Mounted with extended attributes of users, and access lists. */
const USUAL_OPTIONS = 0x0c;
const SIGNED_HASH = 1;
const HALF_MD4 = 1;
const CRC32C = 1;

/** The copy of a block map of the journal: its 60 bytes, and its length with the upper half first. */
function journalCopy(map: Uint8Array | undefined, size: number): Uint8Array {
  const out = new Uint8Array(68);
  if (!map) return out;
  out.set(map);
  const view = new DataView(out.buffer);
  view.setUint32(60, high32(size), true);
  view.setUint32(64, low32(size), true);
  return out;
}

/** The superblock as it stands at the beginning of a group. */
export function superblock(
  geometry: ExtGeometry,
  identity: ExtIdentity,
  plan: ExtPlan,
  journalMap: Uint8Array | undefined,
  group: number,
): Uint8Array {
  const { block, blocks, groups, inodesPerGroup, features, inodeSize } = geometry;
  const log = Math.log2(block / 1024);
  const seconds = Math.max(0, instantOf(identity.date).seconds);
  const [now, nowHigh] = [low32(seconds), high32(seconds) & 0xff];
  const label = new Uint8Array(16);
  label.set(identity.label);
  const extra = inodeSize > 128 ? EXTRA_BYTES : 0;
  const hasSums = features.has('metadata_csum');
  const bytes = encode(SUPERBLOCK, {
    inodes: groups * inodesPerGroup,
    blocksLow: low32(blocks),
    reservedLow: low32(geometry.reservedBlocks),
    freeBlocksLow: low32(plan.free.left),
    freeInodes: groups * inodesPerGroup - lastInode(plan),
    firstDataBlock: geometry.firstBlock,
    logBlock: log,
    logCluster: log,
    blocksPerGroup: geometry.blocksPerGroup,
    clustersPerGroup: geometry.blocksPerGroup,
    inodesPerGroup,
    mounted: 0,
    written: now,
    mounts: 0,
    mostMounts: NEVER,
    magic: EXT_MAGIC,
    state: 1,
    onError: 1,
    minorRevision: 0,
    checked: now,
    checkInterval: identity.checkDays * DAY,
    system: 0,
    revision: 1,
    reservedUser: 0,
    reservedGroup: 0,
    firstInode: INODE.first,
    inodeSize,
    // The field ends before the groups do.
    group: group & 0xffff,
    ...featureBits(features),
    uuid: identity.uuid,
    label,
    lastMountedAt: new Uint8Array(64),
    compression: 0,
    preallocated: 0,
    preallocatedFolders: 0,
    reservedTable: geometry.spareDescriptorBlocks,
    journalUuid: new Uint8Array(16),
    journalInode: journalMap ? INODE.journal : 0,
    journalDevice: 0,
    lastOrphan: 0,
    seed0: 0,
    seed1: 0,
    seed2: 0,
    seed3: 0,
    hashVersion: HALF_MD4,
    journalBackup: journalMap ? 1 : 0,
    descriptorSize: features.has('64bit') ? geometry.descriptorBytes : 0,
    mountOptions: USUAL_OPTIONS,
    firstMetaGroup: 0,
    made: now,
    journalCopy: journalCopy(journalMap, geometry.journalBlocks * block),
    blocksHigh: high32(blocks),
    reservedHigh: high32(geometry.reservedBlocks),
    freeBlocksHigh: high32(plan.free.left),
    leastExtra: extra,
    wantedExtra: extra,
    flags: SIGNED_HASH,
    stride: 0,
    mmpInterval: 0,
    mmpBlock: 0n,
    stripe: 0,
    logFlex: features.has('flex_bg') ? Math.log2(geometry.flex) : 0,
    checksumType: hasSums ? CRC32C : 0,
    kilobytesWritten: 0n,
    snapshots: new Uint8Array(20),
    errors: new Uint8Array(108),
    mountText: new Uint8Array(64),
    userQuota: 0,
    groupQuota: 0,
    overhead: 0,
    backupGroups: new Uint8Array(8),
    encryption: new Uint8Array(20),
    lostAndFound: 0,
    projectQuota: 0,
    checksumSeed: 0,
    writtenHigh: nowHigh,
    mountedHigh: 0,
    madeHigh: nowHigh,
    checkedHigh: nowHigh,
    firstErrorHigh: 0,
    lastErrorHigh: 0,
    encoding: 0,
    orphanFile: 0,
    checksum: 0,
  });
  const at = SUPERBLOCK.fields.checksum.offset;
  if (hasSums) new DataView(bytes.buffer).setUint32(at, crc32c(bytes.subarray(0, at)), true);
  return bytes;
}

/** The first block of a journal that is empty: it begins with block 1, and with transaction 1. */
export function journalHead(block: number, blocks: number): Uint8Array {
  const bytes = new Uint8Array(block);
  const view = new DataView(bytes.buffer);
  const words = [JOURNAL_MAGIC, JOURNAL_SUPERBLOCK, 0, block, blocks, 1, 1, 0, 0];
  words.forEach((word, i) => view.setUint32(4 * i, word));
  // One file system uses it.
  view.setUint32(0x40, 1);
  return bytes;
}

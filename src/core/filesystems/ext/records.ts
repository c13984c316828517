/**
 * Structures of ext file systems as they stand on the medium ("ext4 Data Structures and Algorithms" of
 * the kernel's documentation: Super Block, Block Group Descriptors, Index Nodes, Journal).
 */
import { field, record, type Values } from '../../bytes/record';
import { SHORT_INODE_BYTES, EXTRA_BYTES } from './numbers';

export const SUPERBLOCK = record('ext superblock', 1024, {
  inodes: field(0x00, 'u32', 'inodes'),
  blocksLow: field(0x04, 'u32', 'blocks, lower half'),
  reservedLow: field(0x08, 'u32', 'blocks kept for the administrator, lower half'),
  freeBlocksLow: field(0x0c, 'u32', 'free blocks, lower half'),
  freeInodes: field(0x10, 'u32', 'free inodes'),
  firstDataBlock: field(0x14, 'u32', 'block of the first group'),
  logBlock: field(0x18, 'u32', 'block: 1,024 bytes shifted by this'),
  logCluster: field(0x1c, 'u32', 'cluster: 1,024 bytes shifted by this'),
  blocksPerGroup: field(0x20, 'u32', 'blocks of a group'),
  clustersPerGroup: field(0x24, 'u32', 'clusters of a group'),
  inodesPerGroup: field(0x28, 'u32', 'inodes of a group'),
  mounted: field(0x2c, 'u32', 'mounted last, seconds since 1970'),
  written: field(0x30, 'u32', 'written last, seconds since 1970'),
  mounts: field(0x34, 'u16', 'mounts since the last check'),
  mostMounts: field(0x36, 'u16', 'mounts after which a check is due; 65,535 for never'),
  magic: field(0x38, 'u16', 'magic EF53h'),
  state: field(0x3a, 'u16', 'state: 1 unmounted cleanly, 2 with errors'),
  onError: field(0x3c, 'u16', 'on errors: 1 go on, 2 read only, 3 panic'),
  minorRevision: field(0x3e, 'u16', 'minor revision'),
  checked: field(0x40, 'u32', 'checked last, seconds since 1970'),
  checkInterval: field(0x44, 'u32', 'seconds after which a check is due; 0 for never'),
  system: field(0x48, 'u32', 'made on: 0 Linux'),
  revision: field(0x4c, 'u32', 'revision: 1 with inodes of any size'),
  reservedUser: field(0x50, 'u16', 'user of reserved blocks'),
  reservedGroup: field(0x52, 'u16', 'group of reserved blocks'),
  firstInode: field(0x54, 'u32', 'first inode that is not reserved'),
  inodeSize: field(0x58, 'u16', 'bytes of an inode'),
  group: field(0x5a, 'u16', 'group of this copy'),
  compatible: field(0x5c, 'u32', 'features that can be ignored'),
  incompatible: field(0x60, 'u32', 'features that must be known'),
  readOnly: field(0x64, 'u32', 'features that must be known to write'),
  uuid: field(0x68, { bytes: 16 }, 'UUID'),
  label: field(0x78, { bytes: 16 }, 'label'),
  lastMountedAt: field(0x88, { bytes: 64 }, 'mounted last at'),
  compression: field(0xc8, 'u32', 'compression: not used'),
  preallocated: field(0xcc, 'u8', 'blocks to take ahead for files'),
  preallocatedFolders: field(0xcd, 'u8', 'blocks to take ahead for directories'),
  reservedTable: field(0xce, 'u16', 'blocks kept for further group descriptors'),
  journalUuid: field(0xd0, { bytes: 16 }, 'UUID of a journal elsewhere'),
  journalInode: field(0xe0, 'u32', 'inode of the journal'),
  journalDevice: field(0xe4, 'u32', 'device of a journal elsewhere'),
  lastOrphan: field(0xe8, 'u32', 'first inode to delete'),
  seed0: field(0xec, 'u32', 'seed of the directory hash, word 0'),
  seed1: field(0xf0, 'u32', 'seed, word 1'),
  seed2: field(0xf4, 'u32', 'seed, word 2'),
  seed3: field(0xf8, 'u32', 'seed, word 3'),
  hashVersion: field(0xfc, 'u8', 'directory hash: 1 half MD4'),
  journalBackup: field(0xfd, 'u8', 'copy of the journal inode: 1 where there is one'),
  descriptorSize: field(0xfe, 'u16', 'bytes of a group descriptor'),
  mountOptions: field(0x100, 'u32', 'mount options'),
  firstMetaGroup: field(0x104, 'u32', 'first meta group'),
  made: field(0x108, 'u32', 'made, seconds since 1970'),
  journalCopy: field(0x10c, { bytes: 68 }, 'block map and size of the journal inode'),
  blocksHigh: field(0x150, 'u32', 'blocks, upper half'),
  reservedHigh: field(0x154, 'u32', 'reserved blocks, upper half'),
  freeBlocksHigh: field(0x158, 'u32', 'free blocks, upper half'),
  leastExtra: field(0x15c, 'u16', 'bytes that every inode has behind its first 128'),
  wantedExtra: field(0x15e, 'u16', 'bytes that new inodes shall have behind their first 128'),
  flags: field(0x160, 'u32', 'flags: 1 names are hashed with signed bytes, 2 with unsigned ones'),
  stride: field(0x164, 'u16', 'blocks to the next disk'),
  mmpInterval: field(0x166, 'u16', 'seconds between signs of a mount'),
  mmpBlock: field(0x168, 'u64', 'block of the signs of a mount'),
  stripe: field(0x170, 'u32', 'blocks of a stripe'),
  logFlex: field(0x174, 'u8', 'groups that lie together: 1 shifted by this'),
  checksumType: field(0x175, 'u8', 'checksums: 1 CRC-32C'),
  kilobytesWritten: field(0x178, 'u64', 'KiB written in its life'),
  snapshots: field(0x180, { bytes: 20 }, 'snapshots: not used'),
  errors: field(0x194, { bytes: 108 }, 'errors that were met'),
  mountText: field(0x200, { bytes: 64 }, 'mount options as text'),
  userQuota: field(0x240, 'u32', 'inode of the quota of users'),
  groupQuota: field(0x244, 'u32', 'inode of the quota of groups'),
  overhead: field(0x248, 'u32', 'blocks that structures take; 0 for not counted'),
  backupGroups: field(0x24c, { bytes: 8 }, 'groups with copies, where only two have one'),
  encryption: field(0x254, { bytes: 20 }, 'encryption'),
  lostAndFound: field(0x268, 'u32', 'inode of lost+found'),
  projectQuota: field(0x26c, 'u32', 'inode of the quota of projects'),
  checksumSeed: field(0x270, 'u32', 'seed of the checksums, where it is stored'),
  writtenHigh: field(0x274, 'u8', 'written last, upper byte'),
  mountedHigh: field(0x275, 'u8', 'mounted last, upper byte'),
  madeHigh: field(0x276, 'u8', 'made, upper byte'),
  checkedHigh: field(0x277, 'u8', 'checked last, upper byte'),
  firstErrorHigh: field(0x278, 'u8', 'first error, upper byte of its time'),
  lastErrorHigh: field(0x279, 'u8', 'last error, upper byte of its time'),
  encoding: field(0x27c, 'u32', 'encoding of names'),
  orphanFile: field(0x280, 'u32', 'inode of the orphan file'),
  checksum: field(0x3fc, 'u32', 'checksum of all before'),
});

export type Superblock = Values<typeof SUPERBLOCK>;

const SHORT_GROUP_FIELDS = {
  blockBitmap: field(0x00, 'u32', 'block of the block bitmap'),
  inodeBitmap: field(0x04, 'u32', 'block of the inode bitmap'),
  inodeTable: field(0x08, 'u32', 'first block of the inode table'),
  freeBlocks: field(0x0c, 'u16', 'free blocks'),
  freeInodes: field(0x0e, 'u16', 'free inodes'),
  folders: field(0x10, 'u16', 'directories'),
  flags: field(0x12, 'u16', 'flags'),
  exclude: field(0x14, 'u32', 'bitmap of snapshots: not used'),
  blockSum: field(0x18, 'u16', 'checksum of the block bitmap, lower half'),
  inodeSum: field(0x1a, 'u16', 'checksum of the inode bitmap, lower half'),
  unused: field(0x1c, 'u16', 'inodes at the end of the table that were never used'),
  checksum: field(0x1e, 'u16', 'checksum of this descriptor'),
} as const;

/** A group descriptor of 32 bytes. */
export const SHORT_GROUP = record('group descriptor', 32, SHORT_GROUP_FIELDS);

/** A group descriptor of 64 bytes: the second half has the upper halves of the first. */
export const LONG_GROUP = record('group descriptor', 64, {
  ...SHORT_GROUP_FIELDS,
  blockBitmapHigh: field(0x20, 'u32', 'block of the block bitmap, upper half'),
  inodeBitmapHigh: field(0x24, 'u32', 'block of the inode bitmap, upper half'),
  inodeTableHigh: field(0x28, 'u32', 'first block of the inode table, upper half'),
  freeBlocksHigh: field(0x2c, 'u16', 'free blocks, upper half'),
  freeInodesHigh: field(0x2e, 'u16', 'free inodes, upper half'),
  foldersHigh: field(0x30, 'u16', 'directories, upper half'),
  unusedHigh: field(0x32, 'u16', 'inodes never used, upper half'),
  excludeHigh: field(0x34, 'u32', 'bitmap of snapshots, upper half'),
  blockSumHigh: field(0x38, 'u16', 'checksum of the block bitmap, upper half'),
  inodeSumHigh: field(0x3a, 'u16', 'checksum of the inode bitmap, upper half'),
});

const SHORT_INODE_FIELDS = {
  mode: field(0x00, 'u16', 'kind and mode'),
  userLow: field(0x02, 'u16', 'owner, lower half'),
  sizeLow: field(0x04, 'u32', 'bytes, lower half'),
  accessed: field(0x08, 'u32', 'read last, seconds since 1970'),
  changed: field(0x0c, 'u32', 'inode changed last'),
  modified: field(0x10, 'u32', 'content changed last'),
  deleted: field(0x14, 'u32', 'deleted'),
  groupLow: field(0x18, 'u16', 'group, lower half'),
  links: field(0x1a, 'u16', 'names; 1 for a directory with more than can be counted'),
  sectorsLow: field(0x1c, 'u32', 'sectors of 512 bytes that it takes, lower half'),
  flags: field(0x20, 'u32', 'flags'),
  version: field(0x24, 'u32', 'version, lower half'),
  map: field(0x28, { bytes: 60 }, 'block map, extents, target of a link, or device'),
  generation: field(0x64, 'u32', 'generation'),
  attributesLow: field(0x68, 'u32', 'block of extended attributes, lower half'),
  sizeHigh: field(0x6c, 'u32', 'bytes, upper half'),
  fragment: field(0x70, 'u32', 'fragment: not used'),
  sectorsHigh: field(0x74, 'u16', 'sectors, upper half'),
  attributesHigh: field(0x76, 'u16', 'block of extended attributes, upper half'),
  userHigh: field(0x78, 'u16', 'owner, upper half'),
  groupHigh: field(0x7a, 'u16', 'group, upper half'),
  checksumLow: field(0x7c, 'u16', 'checksum, lower half'),
} as const;

/** An inode of 128 bytes. */
export const SHORT_INODE = record('inode', SHORT_INODE_BYTES, SHORT_INODE_FIELDS);

const FURTHER_INODE_FIELDS = {
  extra: field(0x80, 'u16', 'bytes of fields behind the first 128'),
  checksumHigh: field(0x82, 'u16', 'checksum, upper half'),
  changedExtra: field(0x84, 'u32', 'inode changed: nanoseconds, and two more bits of seconds'),
  modifiedExtra: field(0x88, 'u32', 'content changed: nanoseconds, and two more bits of seconds'),
  accessedExtra: field(0x8c, 'u32', 'read: nanoseconds, and two more bits of seconds'),
  created: field(0x90, 'u32', 'created, seconds since 1970'),
  createdExtra: field(0x94, 'u32', 'created: nanoseconds, and two more bits of seconds'),
  versionHigh: field(0x98, 'u32', 'version, upper half'),
  project: field(0x9c, 'u32', 'project'),
} as const;

/** What a larger inode has behind its first 128 bytes; places are from its start. */
export const FURTHER_INODE = record('inode', SHORT_INODE_BYTES + EXTRA_BYTES, FURTHER_INODE_FIELDS);

/** The part of a larger inode that has fields; extended attributes may follow. */
export const LONG_INODE = record('inode', SHORT_INODE_BYTES + EXTRA_BYTES, {
  ...SHORT_INODE_FIELDS,
  ...FURTHER_INODE_FIELDS,
});

/**
 * Records of a FAT volume, by the published FAT32 file system specification: "Boot Sector and
 * BPB" (a common part, and parts from offset 36 for FAT12 and FAT16 and for FAT32), "FAT32
 * FSInfo Sector Structure and Backup Boot Sector", "FAT Directory Structure". FAT12 and FAT16
 * are also ECMA-107.
 */
import { field, record } from '../../bytes/record';

/** The part that all variants share. */
const COMMON = {
  jump: field(0, { bytes: 3 }, 'jump to the boot code'),
  oem: field(3, { ascii: 8 }, 'name of the system that formatted'),
  bytesPerSector: field(11, 'u16', 'bytes per sector'),
  sectorsPerCluster: field(13, 'u8', 'sectors per cluster'),
  reserved: field(14, 'u16', 'reserved sectors, before the first FAT'),
  fats: field(16, 'u8', 'number of FATs'),
  rootEntries: field(17, 'u16', 'root directory entries; 0 on FAT32'),
  total16: field(19, 'u16', 'total sectors where 16 bits hold them, else 0'),
  media: field(21, 'u8', 'media byte'),
  fatSize16: field(22, 'u16', 'sectors per FAT; 0 on FAT32'),
  sectorsPerTrack: field(24, 'u16', 'sectors per track'),
  heads: field(26, 'u16', 'heads'),
  hidden: field(28, 'u32', 'sectors before the volume'),
  total32: field(32, 'u32', 'total sectors where 16 bits do not hold them'),
} as const;

/** Sector 0 of a FAT12 or FAT16 volume. */
export const SMALL_BOOT_SECTOR = record('FAT12 or FAT16 boot sector', 512, {
  ...COMMON,
  drive: field(36, 'u8', 'drive number'),
  extendedMark: field(38, 'u8', '29h: the next three fields are present'),
  volumeId: field(39, 'u32', 'volume id'),
  label: field(43, { bytes: 11 }, 'volume label'),
  typeText: field(54, { ascii: 8 }, 'decoration; decides nothing'),
  code: field(62, { bytes: 448 }, 'boot code'),
  mark: field(510, 'u16', 'AA55h'),
});

/** Sector 0 of a FAT32 volume. */
export const BOOT_SECTOR = record('FAT32 boot sector', 512, {
  ...COMMON,
  fatSize32: field(36, 'u32', 'sectors per FAT'),
  extFlags: field(40, 'u16', 'which FAT is live: 0 means all, mirrored'),
  version: field(42, 'u16', 'version: 0'),
  rootCluster: field(44, 'u32', 'first cluster of the root directory'),
  infoSector: field(48, 'u16', 'sector of the FSInfo structure'),
  backupSector: field(50, 'u16', 'sector of the boot sector copy'),
  drive: field(64, 'u8', 'drive number'),
  extendedMark: field(66, 'u8', '29h: the next three fields are present'),
  volumeId: field(67, 'u32', 'volume id'),
  label: field(71, { bytes: 11 }, 'volume label'),
  typeText: field(82, { ascii: 8 }, 'decoration; decides nothing'),
  code: field(90, { bytes: 420 }, 'boot code'),
  mark: field(510, 'u16', 'AA55h'),
});

/** The FSInfo structure. */
export const INFO_SECTOR = record('FSInfo', 512, {
  lead: field(0, 'u32', '41615252h'),
  structure: field(484, 'u32', '61417272h'),
  free: field(488, 'u32', 'free clusters; FFFFFFFFh unknown'),
  next: field(492, 'u32', 'where to look for the next free cluster'),
  trail: field(508, 'u32', 'AA550000h'),
});

export const INFO_LEAD = 0x41615252;
export const INFO_STRUCTURE = 0x61417272;
export const INFO_TRAIL = 0xaa550000;

/** A short directory entry. */
export const DIRECTORY_ENTRY = record('directory entry', 32, {
  name: field(0, { bytes: 11 }, 'name'),
  attributes: field(11, 'u8', 'attributes'),
  caseBits: field(12, 'u8', 'lower-case bits'),
  createdTenth: field(13, 'u8', 'creation, hundredths of a second'),
  createdTime: field(14, 'u16', 'creation time'),
  createdDate: field(16, 'u16', 'creation date'),
  accessedDate: field(18, 'u16', 'last access'),
  clusterHigh: field(20, 'u16', 'first cluster, upper half'),
  writtenTime: field(22, 'u16', 'write time'),
  writtenDate: field(24, 'u16', 'write date'),
  clusterLow: field(26, 'u16', 'first cluster, lower half'),
  size: field(28, 'u32', 'size in bytes'),
});

/** A piece of a long name: thirteen characters in three places. */
export const LONG_NAME_ENTRY = record('piece of a long name', 32, {
  order: field(0, 'u8', 'which piece; 40h is set in the last'),
  first: field(1, { utf16: 5 }, 'characters 1 to 5'),
  attributes: field(11, 'u8', 'attributes: 0Fh'),
  kind: field(12, 'u8', '0'),
  checksum: field(13, 'u8', 'checksum of the short name'),
  second: field(14, { utf16: 6 }, 'characters 6 to 11'),
  cluster: field(26, 'u16', '0'),
  third: field(28, { utf16: 2 }, 'characters 12 and 13'),
});

/** Attribute of the entry that holds the volume label. */
export const ATTRIBUTE_VOLUME = 0x08;
/** Attributes of a piece of a long name. */
export const ATTRIBUTE_LONG_NAME = 0x0f;

/** Entries of a FAT32 use 28 bits; the upper four are kept. */
export const ENTRY_MASK = 0x0fffffff;

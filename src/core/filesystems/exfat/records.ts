/**
 * Records of an exFAT volume, by the published exFAT file system specification: "Main and Backup
 * Boot Sector Sub-regions" (section 3.1), "Directory Entry Definitions" (section 7).
 */
import { field, record } from '../../bytes/record';

/** The first 512 bytes of sector 0. */
export const EXFAT_BOOT_SECTOR = record('exFAT boot sector', 512, {
  jump: field(0, { bytes: 3 }, 'EBh 76h 90h'),
  name: field(3, { ascii: 8 }, '"EXFAT   "'),
  mustBeZero: field(11, { bytes: 53 }, 'zeros where FAT has its fields'),
  partitionOffset: field(64, 'u64', 'sectors before the volume'),
  volumeLength: field(72, 'u64', 'sectors of the volume'),
  fatOffset: field(80, 'u32', 'sector of the FAT'),
  fatLength: field(84, 'u32', 'sectors of the FAT'),
  heapOffset: field(88, 'u32', 'sector of cluster 2'),
  clusterCount: field(92, 'u32', 'clusters'),
  rootCluster: field(96, 'u32', 'first cluster of the root directory'),
  serial: field(100, 'u32', 'volume serial number'),
  revision: field(104, 'u16', '0100h'),
  flags: field(106, 'u16', 'which FAT is live, dirty, failed; not in the checksum'),
  sectorShift: field(108, 'u8', 'bytes per sector as a power of two'),
  clusterShift: field(109, 'u8', 'sectors per cluster as a power of two'),
  fats: field(110, 'u8', 'number of FATs'),
  drive: field(111, 'u8', 'drive number'),
  percentInUse: field(112, 'u8', 'clusters in use, per cent; FFh unknown; not in the checksum'),
  code: field(120, { bytes: 390 }, 'boot code'),
  mark: field(510, 'u16', 'AA55h'),
});

/** Bytes of the boot sector that the checksum passes over: flags and per cent in use. */
export const NOT_SUMMED = [106, 107, 112];
/** Last four bytes of each extended boot sector. */
export const EXTENDED_MARK = 0xaa550000;
export const EXTENDED_SECTORS = 8;
export const EXFAT_ENTRY_LENGTH = 32;

/** Types of directory entries; the upper bit says that one is in use. */
export const TYPE = {
  bitmap: 0x81,
  upcase: 0x82,
  label: 0x83,
  file: 0x85,
  stream: 0xc0,
  name: 0xc1,
  noLabel: 0x03,
} as const;

export const BITMAP_ENTRY = record('allocation bitmap entry', EXFAT_ENTRY_LENGTH, {
  type: field(0, 'u8', '81h'),
  flags: field(1, 'u8', 'which bitmap'),
  cluster: field(20, 'u32', 'first cluster'),
  length: field(24, 'u64', 'bytes'),
});

export const UPCASE_ENTRY = record('up-case table entry', EXFAT_ENTRY_LENGTH, {
  type: field(0, 'u8', '82h'),
  checksum: field(4, 'u32', 'checksum of the table'),
  cluster: field(20, 'u32', 'first cluster'),
  length: field(24, 'u64', 'bytes'),
});

export const LABEL_ENTRY = record('volume label entry', EXFAT_ENTRY_LENGTH, {
  type: field(0, 'u8', '83h; 03h without a label'),
  count: field(1, 'u8', 'characters'),
  label: field(2, { utf16: 11 }, 'label'),
});

export const FILE_ENTRY = record('file entry', EXFAT_ENTRY_LENGTH, {
  type: field(0, 'u8', '85h'),
  secondaries: field(1, 'u8', 'entries that follow'),
  checksum: field(2, 'u16', 'checksum of the whole set'),
  attributes: field(4, 'u16', 'attributes'),
  created: field(8, 'u32', 'creation time'),
  modified: field(12, 'u32', 'time of the last change'),
  accessed: field(16, 'u32', 'time of the last access'),
  createdTenth: field(20, 'u8', 'hundredths'),
  modifiedTenth: field(21, 'u8', 'hundredths'),
  createdZone: field(22, 'u8', 'quarter hours from UTC; upper bit: valid'),
  modifiedZone: field(23, 'u8', 'quarter hours from UTC; upper bit: valid'),
  accessedZone: field(24, 'u8', 'quarter hours from UTC; upper bit: valid'),
});

export const STREAM_ENTRY = record('stream entry', EXFAT_ENTRY_LENGTH, {
  type: field(0, 'u8', 'C0h'),
  flags: field(1, 'u8', '01h can have clusters; 02h in one piece, no chain'),
  nameLength: field(3, 'u8', 'characters of the name'),
  nameHash: field(4, 'u16', 'hash of the name in upper case'),
  validLength: field(8, 'u64', 'bytes that were written'),
  cluster: field(20, 'u32', 'first cluster'),
  length: field(24, 'u64', 'bytes'),
});

export const NAME_ENTRY = record('name entry', EXFAT_ENTRY_LENGTH, {
  type: field(0, 'u8', 'C1h'),
  flags: field(1, 'u8', '0'),
  name: field(2, { utf16: 15 }, 'fifteen characters'),
});

export const HAS_CLUSTERS = 0x01;
export const IN_ONE_PIECE = 0x02;

/** The sum of section 3.4 and of the up-case table (7.2.2): turned right by one bit, plus the byte. */
export function sum32(bytes: Uint8Array, skipped: readonly number[] = [], start = 0): number {
  let sum = start;
  for (let i = 0; i < bytes.length; i++) {
    if (i < 128 && skipped.includes(i)) continue;
    sum = (((sum << 31) | (sum >>> 1)) + bytes[i]!) >>> 0;
  }
  return sum;
}

/** Puts the sum of a boot region into its last sector, over and over (section 3.4); `region` is the whole of it. */
export function sumRegion(region: Uint8Array, sectorSize: number): void {
  const at = region.length - sectorSize;
  const sum = sum32(region.subarray(0, at), NOT_SUMMED);
  const view = new DataView(region.buffer, region.byteOffset);
  for (let place = at; place < region.length; place += 4) view.setUint32(place, sum, true);
}

/** The same in 16 bits: of an entry set (6.3.3), which passes over its own place, and of a name (7.6.4). */
export function sum16(bytes: Uint8Array, skipped: readonly number[] = []): number {
  let sum = 0;
  for (let i = 0; i < bytes.length; i++) {
    if (i < 4 && skipped.includes(i)) continue;
    sum = (((sum << 15) | (sum >>> 1)) + bytes[i]!) & 0xffff;
  }
  return sum;
}

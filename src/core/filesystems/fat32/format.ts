/** Makes an empty FAT32 volume: every byte range that the format defines, zeros included. */
import { encode } from '../../bytes/record';
import { type Extent, shifted } from '../../bytes/extents';
import { NO_LABEL, storedLabel } from '../label';
import { type Fat32Geometry, sectorOfCluster } from './geometry';
import {
  ATTRIBUTE_VOLUME,
  BOOT_SECTOR,
  CLEAN_MARK,
  DIRECTORY_ENTRY,
  END_OF_CHAIN,
  INFO_LEAD,
  INFO_SECTOR,
  INFO_STRUCTURE,
  INFO_TRAIL,
  MEDIA_FIXED,
} from './records';

/** Cluster of the root directory. */
const ROOT_CLUSTER = 2;
/** Sector of the FSInfo structure; its copy lies as far behind the boot sector copy. */
export const INFO_AT = 1;
/** Sector of the boot sector copy. */
export const BACKUP_AT = 6;

/** What stands in a volume besides its geometry. */
export interface Fat32Identity {
  /** Unsigned 32-bit volume id. */
  readonly volumeId: number;
  /** Label as typed; empty for none. */
  readonly label: string;
  /** Time for the label entry, `YYYY-MM-DDTHH:MM:SS`, 1980 to 2107. */
  readonly date: string;
}

/** A range of the volume with a name for people. */
export interface NamedExtent {
  readonly what: string;
  readonly extent: Extent;
}

/** Asks the BIOS for the next device, then halts: int 18h, hlt, jump to the hlt. */
const NO_BOOT_CODE = Uint8Array.of(0xcd, 0x18, 0xf4, 0xeb, 0xfd);

/** A date as FAT stores it ("Date and Time Formats"): two-second steps from 1980. */
export function fatTime(date: string): { date: number; time: number } {
  const [year, month, day, hour, minute, second] = date.split(/[-T:]/).map(Number) as [
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  return {
    date: ((year - 1980) << 9) | (month << 5) | day,
    time: (hour << 11) | (minute << 5) | (second >> 1),
  };
}

function bootSector(geometry: Fat32Geometry, identity: Fat32Identity): Uint8Array {
  const code = new Uint8Array(420);
  code.set(NO_BOOT_CODE);
  return encode(BOOT_SECTOR, {
    jump: Uint8Array.of(0xeb, 0x58, 0x90),
    oem: 'LOESS   ',
    bytesPerSector: geometry.sectorSize,
    sectorsPerCluster: geometry.sectorsPerCluster,
    reserved: geometry.reserved,
    fats: 2,
    rootEntries: 0,
    total16: 0,
    media: MEDIA_FIXED,
    fatSize16: 0,
    sectorsPerTrack: 63,
    heads: 255,
    hidden: geometry.start,
    total32: geometry.totalSectors,
    fatSize32: geometry.fatSectors,
    extFlags: 0,
    version: 0,
    rootCluster: ROOT_CLUSTER,
    infoSector: INFO_AT,
    backupSector: BACKUP_AT,
    drive: 0x80,
    extendedMark: 0x29,
    volumeId: identity.volumeId,
    label: labelField(identity.label),
    typeText: 'FAT32   ',
    code,
    mark: 0xaa55,
  });
}

function labelField(label: string): Uint8Array {
  const { text, bytes } = storedLabel(label);
  return text === '' ? Uint8Array.from(NO_LABEL, (c) => c.charCodeAt(0)) : bytes;
}

function infoSector(geometry: Fat32Geometry): Uint8Array {
  return encode(INFO_SECTOR, {
    lead: INFO_LEAD,
    structure: INFO_STRUCTURE,
    free: geometry.clusters - 1,
    next: ROOT_CLUSTER,
    trail: INFO_TRAIL,
  });
}

/** FAT[0], FAT[1] and the root directory's chain of one cluster. */
function firstEntries(): Uint8Array {
  const entries = Uint32Array.of(0x0fffff00 | MEDIA_FIXED, CLEAN_MARK, END_OF_CHAIN);
  const out = new Uint8Array(12);
  entries.forEach((entry, i) => new DataView(out.buffer).setUint32(i * 4, entry, true));
  return out;
}

function labelEntry(identity: Fat32Identity): Uint8Array {
  const { date, time } = fatTime(identity.date);
  return encode(DIRECTORY_ENTRY, {
    name: storedLabel(identity.label).bytes,
    attributes: ATTRIBUTE_VOLUME,
    caseBits: 0,
    createdTenth: 0,
    createdTime: 0,
    createdDate: 0,
    accessedDate: 0,
    clusterHigh: 0,
    writtenTime: time,
    writtenDate: date,
    clusterLow: 0,
    size: 0,
  });
}

/** One structure of the volume: bytes at its front, zeros up to `length`. */
function structure(sectorSize: number, what: string, offset: number, length: number, front?: Uint8Array) {
  if (!front) return [{ what, extent: { offset, zeros: length } }];
  const bytes = new Uint8Array(Math.ceil(front.length / sectorSize) * sectorSize);
  bytes.set(front);
  const rest = length - bytes.length;
  const head: NamedExtent = { what, extent: { offset, bytes } };
  return rest > 0
    ? [head, { what: `${what}, unused part`, extent: { offset: offset + bytes.length, zeros: rest } }]
    : [head];
}

/**
 * All ranges that an empty FAT32 volume defines, ascending, in bytes from the start of the
 * medium: reserved sectors with both boot sectors and both FSInfo, two FATs, and the root
 * directory's cluster. What lies in free clusters is not defined by the format.
 */
export function formatFat32(geometry: Fat32Geometry, identity: Fat32Identity): NamedExtent[] {
  const { sectorSize: size, reserved, fatSectors } = geometry;
  const boot = bootSector(geometry, identity);
  const info = infoSector(geometry);
  const hasLabel = storedLabel(identity.label).text !== '';
  const at = (sector: number) => sector * size;
  const afterBackup = BACKUP_AT + INFO_AT + 1;
  const parts: NamedExtent[][] = [
    structure(size, 'boot sector', 0, at(1), boot),
    structure(size, 'FSInfo', at(INFO_AT), at(1), info),
    structure(size, 'reserved sectors', at(2), at(BACKUP_AT - 2)),
    structure(size, 'boot sector copy', at(BACKUP_AT), at(1), boot),
    structure(size, 'FSInfo copy', at(BACKUP_AT + INFO_AT), at(1), info),
    structure(size, 'reserved sectors', at(afterBackup), at(reserved - afterBackup)),
    structure(size, 'FAT 1', at(reserved), at(fatSectors), firstEntries()),
    structure(size, 'FAT 2', at(reserved + fatSectors), at(fatSectors), firstEntries()),
    structure(
      size,
      'root directory',
      at(sectorOfCluster(geometry, ROOT_CLUSTER)),
      geometry.clusterBytes,
      hasLabel ? labelEntry(identity) : undefined,
    ),
  ];
  return parts.flat().map(({ what, extent }) => ({ what, extent: shifted(extent, geometry.start * size) }));
}

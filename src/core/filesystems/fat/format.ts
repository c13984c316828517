/** Makes an empty FAT volume of any variant: every byte range that the format defines, zeros included. */
import { type Extent, shifted } from '../../bytes/extents';
import { encode } from '../../bytes/record';
import { NO_LABEL, storedLabel } from '../label';
import { type FatGeometry, sectorOfCluster } from './geometry';
import {
  ATTRIBUTE_VOLUME,
  BOOT_SECTOR,
  DIRECTORY_ENTRY,
  INFO_LEAD,
  INFO_SECTOR,
  INFO_STRUCTURE,
  INFO_TRAIL,
  SMALL_BOOT_SECTOR,
} from './records';

/** Cluster of the root directory. */
const ROOT_CLUSTER = 2;
/** Sector of the FSInfo structure; its copy lies as far behind the boot sector copy. */
const INFO_AT = 1;
/** Sector of the boot sector copy. */
const BACKUP_AT = 6;

/** What stands in a volume besides its geometry. */
export interface FatIdentity {
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

function codeOf(length: number): Uint8Array {
  const code = new Uint8Array(length);
  code.set(NO_BOOT_CODE);
  return code;
}

function bootSector(geometry: FatGeometry, identity: FatIdentity): Uint8Array {
  const { variant, headers, totalSectors } = geometry;
  const has16 = variant !== 32 && totalSectors < 0x10000;
  const common = {
    oem: 'LOESS   ',
    bytesPerSector: geometry.sectorSize,
    sectorsPerCluster: geometry.sectorsPerCluster,
    reserved: geometry.reserved,
    fats: 2,
    rootEntries: geometry.rootEntries,
    total16: has16 ? totalSectors : 0,
    media: headers.media,
    fatSize16: variant === 32 ? 0 : geometry.fatSectors,
    sectorsPerTrack: headers.sectorsPerTrack,
    heads: headers.heads,
    hidden: geometry.start,
    total32: has16 ? 0 : totalSectors,
    drive: headers.drive,
    extendedMark: 0x29,
    volumeId: identity.volumeId,
    label: labelField(identity.label),
    typeText: `FAT${variant}   `,
    mark: 0xaa55,
  };
  // The jump leads to the code: over the fields of the variant.
  if (variant !== 32) return encode(SMALL_BOOT_SECTOR, { ...common, jump: jumpTo(62), code: codeOf(448) });
  return encode(BOOT_SECTOR, {
    ...common,
    jump: jumpTo(90),
    fatSize32: geometry.fatSectors,
    extFlags: 0,
    version: 0,
    rootCluster: ROOT_CLUSTER,
    infoSector: INFO_AT,
    backupSector: BACKUP_AT,
    code: codeOf(420),
  });
}

/** A short jump from byte 0 and a no-operation, as readers expect them there. */
function jumpTo(offset: number): Uint8Array {
  return Uint8Array.of(0xeb, offset - 2, 0x90);
}

function labelField(label: string): Uint8Array {
  const { text, bytes } = storedLabel(label);
  return text === '' ? Uint8Array.from(NO_LABEL, (c) => c.charCodeAt(0)) : bytes;
}

function infoSector(geometry: FatGeometry): Uint8Array {
  return encode(INFO_SECTOR, {
    lead: INFO_LEAD,
    structure: INFO_STRUCTURE,
    free: geometry.clusters - 1,
    next: ROOT_CLUSTER,
    trail: INFO_TRAIL,
  });
}

/**
 * The first entries: FAT[0] has the media byte under set bits, FAT[1] all bits set (the end
 * mark, clean, no errors); on FAT32 a third one ends the root directory's chain.
 */
function firstEntries({ variant, headers: { media } }: FatGeometry): Uint8Array {
  if (variant === 12) return Uint8Array.of(media, 0xff, 0xff);
  if (variant === 16) return Uint8Array.of(media, 0xff, 0xff, 0xff);
  return Uint8Array.of(media, 0xff, 0xff, 0x0f, 0xff, 0xff, 0xff, 0x0f, 0xff, 0xff, 0xff, 0x0f);
}

function labelEntry(identity: FatIdentity): Uint8Array {
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

function reservedStructures(geometry: FatGeometry, identity: FatIdentity): NamedExtent[][] {
  const { sectorSize: size, reserved, variant } = geometry;
  const at = (sector: number) => sector * size;
  const boot = bootSector(geometry, identity);
  const zeros = (from: number, to: number) =>
    to > from ? structure(size, 'reserved sectors', at(from), at(to - from)) : [];
  if (variant !== 32) return [structure(size, 'boot sector', 0, at(1), boot), zeros(1, reserved)];
  const info = infoSector(geometry);
  return [
    structure(size, 'boot sector', 0, at(1), boot),
    structure(size, 'FSInfo', at(INFO_AT), at(1), info),
    zeros(2, BACKUP_AT),
    structure(size, 'boot sector copy', at(BACKUP_AT), at(1), boot),
    structure(size, 'FSInfo copy', at(BACKUP_AT + INFO_AT), at(1), info),
    zeros(BACKUP_AT + INFO_AT + 1, reserved),
  ];
}

/**
 * All ranges that an empty FAT volume defines, ascending, in bytes from the start of the
 * medium: reserved sectors (on FAT32 with both boot sectors and both FSInfo), two FATs, and the
 * root directory. What lies in free clusters is not defined by the format.
 */
export function formatFat(geometry: FatGeometry, identity: FatIdentity): NamedExtent[] {
  const { sectorSize: size, reserved, fatSectors, variant, rootSectors } = geometry;
  const at = (sector: number) => sector * size;
  const label = storedLabel(identity.label).text === '' ? undefined : labelEntry(identity);
  const [rootAt, rootLength] =
    variant === 32
      ? [at(sectorOfCluster(geometry, ROOT_CLUSTER)), geometry.clusterBytes]
      : [at(reserved + 2 * fatSectors), at(rootSectors)];
  const parts = [
    ...reservedStructures(geometry, identity),
    structure(size, 'FAT 1', at(reserved), at(fatSectors), firstEntries(geometry)),
    structure(size, 'FAT 2', at(reserved + fatSectors), at(fatSectors), firstEntries(geometry)),
    structure(size, 'root directory', rootAt, rootLength, label),
  ];
  return parts.flat().map(({ what, extent }) => ({ what, extent: shifted(extent, geometry.start * size) }));
}

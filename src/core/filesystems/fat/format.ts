/** Makes a FAT volume of any variant, empty or filled: every byte range that the format defines, zeros included. */
import { type Extent, shifted } from '../../bytes/extents';
import { encode } from '../../bytes/record';
import { NO_LABEL, storedLabel } from './label';
import { NO_LOADER } from './no-loader';
import type { Tree } from '../tree';
import { fillFat, FIRST_CLUSTER } from './fill';
import { type FatGeometry, hiddenSectors, sectorOfCluster } from './geometry';
import { BOOT_SECTOR, INFO_LEAD, INFO_SECTOR, INFO_STRUCTURE, INFO_TRAIL, SMALL_BOOT_SECTOR } from './records';
import { codeAt, codeRoom, type Variant } from './variants';

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
  /** Boot code that stands in the boot sector, at most `codeRoom` bytes, and the byte of the sector that it is entered at; where there is none, the volume does not boot. */
  readonly code?: { readonly bytes: Uint8Array; readonly entry: number } | undefined;
  /** Files keep their own times. */
  readonly keepsTimes?: boolean | undefined;
}

/** A range of the volume with a name for people. */
export interface NamedExtent {
  readonly what: string;
  /** Path of the file or folder that it belongs to. */
  readonly file?: string;
  readonly extent: Extent;
}

function codeOf(variant: Variant, supplied: Uint8Array | undefined): Uint8Array {
  const code = new Uint8Array(codeRoom(variant));
  code.set(supplied ?? NO_LOADER);
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
    hidden: hiddenSectors(geometry.start),
    total32: has16 ? 0 : totalSectors,
    drive: headers.drive,
    extendedMark: 0x29,
    volumeId: identity.volumeId,
    label: labelField(identity.label),
    typeText: `FAT${variant}   `,
    mark: 0xaa55,
  };
  // The jump leads to the code: over the fields of the variant.
  const { bytes, entry = codeAt(variant) } = identity.code ?? {};
  const placed = { ...common, jump: jumpTo(entry), code: codeOf(variant, bytes) };
  if (variant !== 32) return encode(SMALL_BOOT_SECTOR, placed);
  return encode(BOOT_SECTOR, {
    ...placed,
    fatSize32: geometry.fatSectors,
    extFlags: 0,
    version: 0,
    rootCluster: FIRST_CLUSTER,
    infoSector: INFO_AT,
    backupSector: BACKUP_AT,
  });
}

/** A jump from byte 0, as readers expect it there: short and with a no-operation, or a near one. */
function jumpTo(offset: number): Uint8Array {
  if (offset - 2 < 0x80) return Uint8Array.of(0xeb, offset - 2, 0x90);
  return Uint8Array.of(0xe9, (offset - 3) & 0xff, (offset - 3) >> 8);
}

function labelField(label: string): Uint8Array {
  const { text, bytes } = storedLabel(label);
  return text === '' ? Uint8Array.from(NO_LABEL, (c) => c.charCodeAt(0)) : bytes;
}

function infoSector(geometry: FatGeometry, used: number): Uint8Array {
  return encode(INFO_SECTOR, {
    lead: INFO_LEAD,
    structure: INFO_STRUCTURE,
    free: geometry.clusters - used,
    // The cluster taken last: readers look behind it.
    next: FIRST_CLUSTER + used - 1,
    trail: INFO_TRAIL,
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

function reservedStructures(geometry: FatGeometry, identity: FatIdentity, used: number): NamedExtent[][] {
  const { sectorSize: size, reserved, variant } = geometry;
  const at = (sector: number) => sector * size;
  const boot = bootSector(geometry, identity);
  const zeros = (from: number, to: number) =>
    to > from ? structure(size, 'reserved sectors', at(from), at(to - from)) : [];
  if (variant !== 32) return [structure(size, 'boot sector', 0, at(1), boot), zeros(1, reserved)];
  const info = infoSector(geometry, used);
  return [
    structure(size, 'boot sector', 0, at(1), boot),
    structure(size, 'FSInfo', at(INFO_AT), at(1), info),
    zeros(2, BACKUP_AT),
    structure(size, 'boot sector copy', at(BACKUP_AT), at(1), boot),
    structure(size, 'FSInfo copy', at(BACKUP_AT + INFO_AT), at(1), info),
    zeros(BACKUP_AT + INFO_AT + 1, reserved),
  ];
}

const NO_FILES: Tree = [];

/**
 * All ranges that a FAT volume defines, ascending, in bytes from the start of the medium: reserved
 * sectors (on FAT32 with both boot sectors and both FSInfo), two FATs, the root directory, and
 * the clusters of folders and files. What lies in free clusters is not defined by the format.
 * The tree must have no trouble, and room.
 */
export function formatFat(geometry: FatGeometry, identity: FatIdentity, tree: Tree = NO_FILES): NamedExtent[] {
  const { sectorSize: size, reserved, fatSectors, variant, rootSectors } = geometry;
  const at = (sector: number) => sector * size;
  const { label, date, keepsTimes = false } = identity;
  const filled = fillFat(geometry, tree, { label, date, keepsTimes });
  const rootLength = Math.max(1, Math.ceil(filled.root.length / geometry.clusterBytes)) * geometry.clusterBytes;
  const [rootAt, length] =
    variant === 32
      ? [at(sectorOfCluster(geometry, FIRST_CLUSTER)), rootLength]
      : [at(reserved + 2 * fatSectors), at(rootSectors)];
  const parts: NamedExtent[][] = [
    ...reservedStructures(geometry, identity, filled.used),
    structure(size, 'FAT 1', at(reserved), at(fatSectors), filled.fat),
    structure(size, 'FAT 2', at(reserved + fatSectors), at(fatSectors), filled.fat),
    structure(size, 'root directory', rootAt, length, filled.root.length > 0 ? filled.root : undefined),
    [...filled.ranges],
  ];
  return parts.flat().map((one) => ({ ...one, extent: shifted(one.extent, geometry.start * size) }));
}

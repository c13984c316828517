/**
 * Reads a FAT volume of any variant without knowing who made it: header, FSInfo, the FATs, and
 * the root directory. Figures that lead nowhere make it no FAT volume, or a trouble that is
 * told; they never make a read outside of the source. What is read is bounded.
 */
import type { BlockSource } from '../../bytes/blocks';
import { decode, type Values } from '../../bytes/record';
import { labelText, NO_LABEL } from './label';
import { BOOT_SECTOR, INFO_LEAD, INFO_SECTOR, INFO_STRUCTURE, INFO_TRAIL, SMALL_BOOT_SECTOR } from './records';
import { readFats } from './read-fats';
import { type RootFound, readRoot } from './read-root';
import { type FatShape, shapeOf } from './header';

/** What a volume says of itself, checked against its own figures. */
export interface FatFound {
  readonly shape: FatShape;
  /** Sectors before the volume, as its header says. */
  readonly hidden: number;
  readonly media: number;
  readonly volumeId: number;
  /** The eight letters that decide nothing. */
  readonly typeText: string;
  readonly labelInHeader: string;
  readonly root: RootFound;
  /** Free clusters as FSInfo tells them; undefined where there is none or its marks are wrong. */
  readonly freeTold: number | undefined;
  readonly infoSound: boolean;
  /** Free clusters as counted in the first FAT; undefined where it was too large to be read in full. */
  readonly freeCounted: number | undefined;
  readonly backupAgrees: boolean;
  readonly fatsAgree: boolean;
  /** The first FAT entry repeats the media byte. */
  readonly mediaRepeated: boolean;
  readonly cleanlyUnmounted: boolean;
  /** Bytes by which the volume says it is longer than the place it has. */
  readonly beyondPlace: number;
}

/** How much may be read: bytes of all FATs together. A larger volume is read at both ends of its FATs only. */
export interface FatReading {
  readonly budget: number;
}

function same(a: Uint8Array, b: Uint8Array): boolean {
  return a.length === b.length && a.every((byte, i) => byte === b[i]);
}

/** A sector of the reserved area; undefined where the header points outside of it. */
async function reservedSector(source: BlockSource, base: number, shape: FatShape, sector: number, end: number) {
  const at = base + sector * shape.sectorSize;
  if (sector === 0 || sector >= shape.reserved || at + 512 > end) return undefined;
  return source.read(at, 512);
}

async function readInfo(source: BlockSource, base: number, shape: FatShape, end: number) {
  const bytes = await reservedSector(source, base, shape, shape.infoSector, end);
  const info = bytes && decode(INFO_SECTOR, bytes);
  const sound = info?.lead === INFO_LEAD && info.structure === INFO_STRUCTURE && info.trail === INFO_TRAIL;
  return { sound: shape.rootCluster === 0 || sound, free: sound ? info.free : undefined };
}

/** Fields whose place differs between the variants. */
function identityOf(
  sector: Uint8Array,
  isLarge: boolean,
): Pick<Values<typeof BOOT_SECTOR>, 'volumeId' | 'label' | 'typeText'> {
  return isLarge ? decode(BOOT_SECTOR, sector) : decode(SMALL_BOOT_SECTOR, sector);
}

/**
 * Reads the volume that begins `base` bytes into the source and has `available` bytes of room.
 * Returns undefined when there is no FAT volume.
 */
export async function readFat(
  source: BlockSource,
  base: number,
  available: number,
  { budget }: FatReading = { budget: Infinity },
): Promise<FatFound | undefined> {
  if (available < 512 || base + 512 > source.size) return undefined;
  const first = await source.read(base, 512);
  const shape = shapeOf(first);
  if (!shape) return undefined;
  const header = decode(BOOT_SECTOR, first);
  const isLarge = header.fatSize16 === 0;
  const identity = identityOf(first, isLarge);
  const end = Math.min(source.size, base + available, base + shape.totalSectors * shape.sectorSize);
  const info = await readInfo(source, base, shape, end);
  const backup = isLarge ? await reservedSector(source, base, shape, shape.backupSector, end) : undefined;
  const fats = await readFats(source, base, shape, end, budget);
  const inHeader = labelText(identity.label);
  return {
    shape,
    hidden: header.hidden,
    media: header.media,
    volumeId: identity.volumeId,
    typeText: identity.typeText,
    labelInHeader: inHeader === NO_LABEL.trimEnd() ? '' : inHeader,
    root: await readRoot(source, base, shape, end),
    freeTold: info.free,
    infoSound: info.sound,
    freeCounted: fats.free,
    backupAgrees: backup === undefined ? !isLarge : same(first, backup),
    fatsAgree: fats.agree,
    mediaRepeated: (fats.first & 0xff) === header.media,
    cleanlyUnmounted: fats.clean,
    beyondPlace: Math.max(0, shape.totalSectors * shape.sectorSize - available),
  };
}

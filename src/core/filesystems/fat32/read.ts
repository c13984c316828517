/** Reads a FAT32 volume back: header, FSInfo, the FATs, and the label in both places. */
import type { BlockSource } from '../../bytes/blocks';
import { decode, type Values } from '../../bytes/record';
import { labelText, NO_LABEL } from '../label';
import { BACKUP_AT, INFO_AT } from './format';
import { LEAST_CLUSTERS, MOST_CLUSTERS } from './geometry';
import {
  ATTRIBUTE_LONG_NAME,
  ATTRIBUTE_VOLUME,
  BOOT_SECTOR,
  DIRECTORY_ENTRY,
  ENTRY_MASK,
  INFO_LEAD,
  INFO_SECTOR,
  INFO_STRUCTURE,
  INFO_TRAIL,
} from './records';

/** What a volume says of itself, checked against its own figures. */
export interface Fat32Found {
  readonly header: Values<typeof BOOT_SECTOR>;
  readonly clusters: number;
  readonly dataStart: number;
  readonly labelInHeader: string;
  readonly labelInRoot: string;
  /** Free clusters as FSInfo tells them; undefined when its marks are wrong. */
  readonly freeTold: number | undefined;
  /** Free clusters as counted in the first FAT. */
  readonly freeCounted: number;
  readonly backupAgrees: boolean;
  readonly fatsAgree: boolean;
  readonly cleanlyUnmounted: boolean;
}

/** Bytes of a FAT that are read at a time. */
const FAT_WINDOW = 1024 * 1024;

/** A FAT is too large to be one of ours or anyone's beyond this many bytes. */
const FAT_LIMIT = (MOST_CLUSTERS + 2) * 4 + FAT_WINDOW;

function plausible(header: Values<typeof BOOT_SECTOR>, available: number): boolean {
  const { bytesPerSector: size, sectorsPerCluster: spc } = header;
  const powerOfTwo = spc > 0 && (spc & (spc - 1)) === 0;
  const structures = header.reserved + header.fats * header.fatSize32;
  return (
    header.mark === 0xaa55 &&
    (size === 512 || size === 4096) &&
    powerOfTwo &&
    header.reserved > 0 &&
    (header.fats === 1 || header.fats === 2) &&
    header.fatSize16 === 0 &&
    header.rootEntries === 0 &&
    header.total32 * size <= available &&
    header.fatSize32 * size <= FAT_LIMIT &&
    structures < header.total32
  );
}

/**
 * The 32-bit numbers of some bytes, whose length is a multiple of four. Signed, because engines
 * compute much faster with those; only their bits are looked at.
 */
function numbers(bytes: Uint8Array): Int32Array {
  // FATs are little-endian, and so is every machine that this runs on.
  const aligned = bytes.byteOffset % 4 === 0 ? bytes : bytes.slice();
  return new Int32Array(aligned.buffer, aligned.byteOffset, aligned.length / 4);
}

function same(a: Uint8Array, b: Uint8Array): boolean {
  return a.length === b.length && a.every((byte, i) => byte === b[i]);
}

/** Free entries of a piece of a FAT from its entry `from` on and before `end`, and whether the copy is the same. */
function tally(window: Int32Array, copy: Int32Array, from: number, end: number): { free: number; agree: boolean } {
  let free = 0;
  let differing = 0;
  for (let i = 0; i < window.length; i++) differing |= window[i]! ^ copy[i]!;
  const last = Math.min(end, window.length);
  for (let i = Math.max(0, from); i < last; i++) if ((window[i]! & ENTRY_MASK) === 0) free += 1;
  return { free, agree: differing === 0 };
}

/** Counts free entries of the first FAT and compares every copy with it. */
async function readFats(source: BlockSource, base: number, header: Values<typeof BOOT_SECTOR>, clusters: number) {
  const size = header.bytesPerSector;
  const fatBytes = header.fatSize32 * size;
  const entries = Math.min(clusters + 2, fatBytes / 4);
  const copies = Array.from({ length: header.fats }, (_, i) => base + (header.reserved + i * header.fatSize32) * size);
  const lent = copies.map(() => new Uint8Array(Math.min(FAT_WINDOW, fatBytes)));
  let free = 0;
  let agree = true;
  let second = 0;
  for (let at = 0; at < fatBytes; at += FAT_WINDOW) {
    const length = Math.min(FAT_WINDOW, fatBytes - at);
    if (at > 0 && copies.every((start) => source.isHole?.(start + at, length))) {
      free += Math.max(0, Math.min(entries - at / 4, length / 4));
      continue;
    }
    const read = await Promise.all(copies.map((start, i) => source.read(start + at, length, lent[i])));
    const [window, copy] = read.map(numbers) as [Int32Array, Int32Array?];
    const first = at / 4;
    if (at === 0) second = window[1]!;
    const piece = tally(window, copy ?? window, 2 - first, entries - first);
    free += piece.free;
    agree &&= piece.agree;
  }
  return { free, agree, clean: (second & 0x0c000000) === 0x0c000000 };
}

/** The label entry of the first cluster of the root directory; empty when there is none. */
function rootLabel(cluster: Uint8Array): string {
  for (let at = 0; at + 32 <= cluster.length; at += 32) {
    const entry = decode(DIRECTORY_ENTRY, cluster.subarray(at));
    if (entry.name[0] === 0) break;
    const attributes = entry.attributes & 0x3f;
    if (attributes === ATTRIBUTE_LONG_NAME || entry.name[0] === 0xe5) continue;
    if ((attributes & ATTRIBUTE_VOLUME) !== 0) return labelText(entry.name);
  }
  return '';
}

/**
 * Reads the volume that begins `base` bytes into the source and may take `available` bytes.
 * Returns undefined when there is no FAT32 volume with figures that can be followed.
 */
export async function readFat32(source: BlockSource, base: number, available: number): Promise<Fat32Found | undefined> {
  if (available < 512 || base + available > source.size) return undefined;
  const first = await source.read(base, 512);
  const header = decode(BOOT_SECTOR, first);
  if (!plausible(header, available)) return undefined;
  const size = header.bytesPerSector;
  const dataStart = header.reserved + header.fats * header.fatSize32;
  const clusters = Math.floor((header.total32 - dataStart) / header.sectorsPerCluster);
  if (clusters < LEAST_CLUSTERS || clusters > MOST_CLUSTERS) return undefined;
  if (header.rootCluster < 2 || header.rootCluster >= clusters + 2) return undefined;

  const info = decode(INFO_SECTOR, await source.read(base + INFO_AT * size, 512));
  const infoSound = info.lead === INFO_LEAD && info.structure === INFO_STRUCTURE && info.trail === INFO_TRAIL;
  const backup = await source.read(base + BACKUP_AT * size, 512);
  const fats = await readFats(source, base, header, clusters);
  const rootAt = base + (dataStart + (header.rootCluster - 2) * header.sectorsPerCluster) * size;
  const root = await source.read(rootAt, header.sectorsPerCluster * size);
  const inHeader = labelText(header.label);
  return {
    header,
    clusters,
    dataStart,
    labelInHeader: inHeader === NO_LABEL.trimEnd() ? '' : inHeader,
    labelInRoot: rootLabel(root),
    freeTold: infoSound ? info.free : undefined,
    freeCounted: fats.free,
    backupAgrees: same(first, backup),
    fatsAgree: fats.agree,
    cleanlyUnmounted: fats.clean,
  };
}

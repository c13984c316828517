/**
 * The study of a FAT slot: every variant with every cluster size, and what each would mean for
 * the files that shall go into it.
 */
import { GIB } from '../../quantity/units';
import { isStoredLabel } from './label';
import type { Tree } from '../tree';
import { FAT_ENTRY_LENGTH } from './entries';
import { shapeOfTree } from './fill';
import type { FatGeometry, FatQuestion, FatRefusal } from './geometry';
import { fatGeometry, sectorOfCluster } from './geometry';
import { borderDistance, clusterSizes, type Variant, VARIANTS } from './variants';

/** How files of one size fill clusters: sizes in bytes with how many there are of each. */
export type Sizes = ReadonlyMap<number, number>;

/** What shall go into the volume, as far as its room depends on it. */
export interface Load {
  readonly files: Sizes;
  /** Lengths of the folders below the root, by their entries. */
  readonly folders: Sizes;
  /** Entries of the root directory, that of the label included. */
  readonly rootEntries: number;
}

/** Files of which no more is known than how large they are. */
export function loadOfSizes(files: Sizes): Load {
  return { files, folders: new Map(), rootEntries: 0 };
}

/** Files and folders of a tree, as they would lie in a volume with this label. */
export function loadOfTree(tree: Tree, label: string): Load {
  const { files, entries } = shapeOfTree(tree);
  return {
    files: countSizes(files.map((file) => file.size)),
    folders: countSizes(entries.slice(1).map((count) => count * FAT_ENTRY_LENGTH)),
    rootEntries: entries[0]! + (isStoredLabel(label) ? 1 : 0),
  };
}

/** One combination that is legal here. */
export interface StudyRow {
  readonly variant: Variant;
  readonly clusterBytes: number;
  readonly clusters: number;
  /** Bytes of one FAT, padding included. */
  readonly fatBytes: number;
  readonly usable: number;
  /** Sectors that the volume leaves unused. */
  readonly unused: number;
  /** Bytes lost in the last clusters of files; of files that do not fit too. */
  readonly slack: number;
  /** Bytes that files and folders take in whole clusters; of the root directory of FAT32 those behind its first one. */
  readonly taken: number;
  /** Bytes of that which folders take. */
  readonly inFolders: number;
  /** Entries that the fixed root directory of FAT12 and FAT16 lacks. */
  readonly rootShort: number;
  readonly fits: boolean;
  /** Clusters to the nearest border with another variant. */
  readonly margin: number;
  /** Byte of the medium on which cluster 2 lands. */
  readonly cluster2: number;
  readonly onUnit: boolean;
  /** Who can read it, and who cannot, as far as is known. */
  readonly readers: readonly ReaderReach[];
}

/** A combination that cannot be, with the reason. */
export interface StudyGap {
  readonly variant: Variant;
  readonly clusterBytes: number;
  readonly refusal: FatRefusal;
}

export interface Study {
  readonly rows: readonly StudyRow[];
  readonly gaps: readonly StudyGap[];
  /** What the rules choose where nobody asks. */
  readonly byRule: { readonly variant: Variant; readonly clusterBytes: number } | undefined;
}

/** A sort of reader and whether it copes; facts of the trade. */
export interface ReaderReach {
  readonly who: string;
  /** One word for it. */
  readonly short: string;
  readonly copes: 'yes' | 'mostly' | 'no';
}

const CARD_FAT16 = 2_000_000_000;
const CARD_FAT32 = 32 * GIB;

/** Who reads a volume: firmware, old systems, boot ROMs, cards' standard, appliances. */
export function readersOf(
  geometry: Pick<FatGeometry, 'variant' | 'clusterBytes' | 'sectorSize' | 'totalSectors'>,
): ReaderReach[] {
  const { variant, clusterBytes, sectorSize } = geometry;
  const bytes = geometry.totalSectors * sectorSize;
  const large = clusterBytes > 32 * 1024;
  const rom = variant === 12 || sectorSize !== 512 || large ? 'no' : 'yes';
  const old = variant === 32 ? 'no' : bytes <= 2 ** 31 && !large && sectorSize === 512 ? 'yes' : 'no';
  const byCard = variant === 32 ? bytes > CARD_FAT16 && bytes <= CARD_FAT32 : bytes <= CARD_FAT16;
  const appliance =
    variant === 32 && !large && sectorSize === 512 ? 'yes' : large || sectorSize !== 512 ? 'no' : 'mostly';
  return [
    { who: 'UEFI firmware', short: 'UEFI', copes: large ? 'mostly' : variant === 32 ? 'yes' : 'mostly' },
    { who: 'systems of the BIOS era', short: 'BIOS era', copes: old },
    { who: 'boot ROMs of small boards', short: 'ROMs', copes: rom },
    { who: 'readers that keep to the card standard', short: 'cards', copes: byCard && !large ? 'yes' : 'mostly' },
    { who: 'televisions, printers, instruments', short: 'devices', copes: appliance },
  ];
}

/** What files lose in their last clusters, and take in all. */
export function slackOf(sizes: Sizes, clusterBytes: number): { slack: number; taken: number } {
  return lossesOf(sizes, [clusterBytes])[0]!;
}

/** The same for several cluster sizes, in one walk: a list can have as many sizes as files. */
function lossesOf(sizes: Sizes, clusterSizes: readonly number[]): { slack: number; taken: number }[] {
  const clusters = new Float64Array(clusterSizes.length);
  let bytes = 0;
  sizes.forEach((count, size) => {
    bytes += size * count;
    for (let i = 0; i < clusters.length; i++) clusters[i]! += Math.ceil(size / clusterSizes[i]!) * count;
  });
  return clusterSizes.map((clusterBytes, i) => {
    const taken = clusters[i]! * clusterBytes;
    return { slack: taken - bytes, taken };
  });
}

/** Sizes of some files, counted. */
export function countSizes(sizes: Iterable<number>): Map<number, number> {
  const counted = new Map<number, number>();
  for (const size of sizes) counted.set(size, (counted.get(size) ?? 0) + 1);
  return counted;
}

/** Files as they are mixed in such places, where nobody has a list: sizes and their shares, made up. */
export const TYPICAL_MIXES = {
  'boot files': [300, 4_200, 80_000, 1_200_000, 12_000_000, 38_000_000],
  'readings of instruments': [180, 700, 1_900, 2_400, 5_100, 9_800, 16_000, 48_000],
  photographs: [90_000, 2_600_000, 3_400_000, 4_100_000, 6_200_000, 24_000_000],
  'documents and mail': [900, 3_100, 12_000, 26_000, 75_000, 210_000, 1_900_000],
} as const satisfies Readonly<Record<string, readonly number[]>>;
export type TypicalMix = keyof typeof TYPICAL_MIXES;

/** A typical mix that fills about `share` of `usable` bytes, each size as often as the others. */
export function typicalSizes(mix: TypicalMix, usable: number, share = 0.5): Sizes {
  const sizes = TYPICAL_MIXES[mix];
  const round = sizes.reduce<number>((sum, size) => sum + size, 0);
  const times = Math.max(1, Math.floor((usable * share) / round));
  return new Map(sizes.map((size) => [size, times]));
}

/** As in the size language: bare letters are binary, `kB`, `MB` and `GB` decimal. In lower case. */
const UNITS: ReadonlyMap<string, number> = new Map([
  ...['b', 'byte', 'bytes'].map((word) => [word, 1] as const),
  ...['k', 'm', 'g'].flatMap((letter, i) => [
    [letter, 1024 ** (i + 1)] as const,
    [`${letter}ib`, 1024 ** (i + 1)] as const,
    [`${letter}b`, 1000 ** (i + 1)] as const,
  ]),
]);
const LONGEST_UNIT = 5;

const isDigit = (code: number) => code >= 48 && code <= 57;
/** A comma or a low line, which groups digits. */
const groups = (code: number) => code === 44 || code === 95;
const isBlank = (code: number) => code === 32 || code === 9;
/** White space, or what is behind the text. */
const isGap = (code: number) => !(code > 32) || code === 0xa0;

/**
 * The size at the beginning of the line that begins with character `at`, in bytes; undefined where
 * there is none. Read by hand, because lists are long.
 */
function sizeAt(text: string, at: number): number | undefined {
  while (isBlank(text.charCodeAt(at))) at++;
  if (!isDigit(text.charCodeAt(at))) return undefined;
  let whole = 0;
  for (let code = text.charCodeAt(at); isDigit(code) || groups(code); code = text.charCodeAt(++at))
    if (isDigit(code)) whole = whole * 10 + (code - 48);
  let end = at;
  if (text[at] === '.' && isDigit(text.charCodeAt(at + 1)))
    do end++;
    while (isDigit(text.charCodeAt(end)));
  const number = end === at ? whole : whole + Number(`0${text.slice(at, end)}`);
  let word = end;
  while (isBlank(text.charCodeAt(word))) word++;
  let last = word;
  while (last - word <= LONGEST_UNIT && (text.charCodeAt(last) | 32) >= 97 && (text.charCodeAt(last) | 32) <= 122)
    last++;
  const isUnit = last - word <= LONGEST_UNIT && isGap(text.charCodeAt(last));
  const unit = isUnit ? UNITS.get(text.slice(word, last).toLowerCase()) : undefined;
  // A word that is no unit is a name, if it stands apart.
  if (unit === undefined && !isGap(text.charCodeAt(end))) return undefined;
  const size = Math.round(number * (unit ?? 1));
  return Number.isSafeInteger(size) ? size : undefined;
}

/** Sizes in a pasted text: the first number of each line, with a unit behind it; a name may follow. Lines without are counted. */
export function readSizes(text: string): { readonly sizes: Sizes; readonly files: number; readonly skipped: number } {
  const sizes = new Map<number, number>();
  let files = 0;
  let skipped = 0;
  for (let at = 0; at < text.length;) {
    const end = text.indexOf('\n', at);
    const next = end < 0 ? text.length : end;
    const size = sizeAt(text, at);
    if (size !== undefined) {
      files += 1;
      sizes.set(size, (sizes.get(size) ?? 0) + 1);
    } else if (text.slice(at, next).trim() !== '') skipped += 1;
    at = next + 1;
  }
  return { sizes, files, skipped };
}

/** What a load loses and takes in clusters of each size. */
function costsOf({ files, folders }: Load, sizes: readonly number[]): ReadonlyMap<number, Cost> {
  const inFolders = lossesOf(folders, sizes);
  const inFiles = lossesOf(files, sizes);
  return new Map(
    sizes.map((bytes, i) => [
      bytes,
      { slack: inFiles[i]!.slack, inFiles: inFiles[i]!.taken, below: inFolders[i]!.taken },
    ]),
  );
}

interface Cost {
  readonly slack: number;
  readonly inFiles: number;
  /** Bytes in folders below the root. */
  readonly below: number;
}

function rowOf(geometry: FatGeometry, cost: Cost, { rootEntries }: Load): StudyRow {
  const { variant, clusterBytes, clusters, sectorSize, start } = geometry;
  // The first cluster of the root directory of FAT32 does not count as usable.
  const inRoot = variant === 32 ? slackOf(new Map([[rootEntries * FAT_ENTRY_LENGTH, 1]]), clusterBytes).taken : 0;
  const inFolders = cost.below + Math.max(0, inRoot - clusterBytes);
  const taken = cost.inFiles + inFolders;
  const rootShort = variant === 32 ? 0 : Math.max(0, rootEntries - geometry.rootEntries);
  return {
    variant,
    clusterBytes,
    clusters,
    fatBytes: geometry.fatSectors * sectorSize,
    usable: geometry.bytesForFiles,
    unused: geometry.unused,
    slack: cost.slack,
    taken,
    inFolders,
    rootShort,
    fits: taken <= geometry.bytesForFiles && rootShort === 0,
    margin: borderDistance(variant, clusters),
    cluster2: (start + sectorOfCluster(geometry, 2)) * sectorSize,
    onUnit: geometry.onWantedUnit,
    readers: readersOf(geometry),
  };
}

/** Every variant × cluster size for a place. What the question says of variant and cluster does not count. */
export function studyFat({ variant: _, cluster: __, ...question }: FatQuestion, load: Load): Study {
  const rows: StudyRow[] = [];
  // What files lose depends on the cluster alone.
  const costs = costsOf(load, clusterSizes(question.sectorSize));
  const gaps: StudyGap[] = [];
  for (const variant of VARIANTS)
    for (const clusterBytes of clusterSizes(question.sectorSize)) {
      const found = fatGeometry({ ...question, variant, cluster: clusterBytes });
      if (found.ok) rows.push(rowOf(found.value, costs.get(clusterBytes)!, load));
      else gaps.push({ variant, clusterBytes, refusal: found.error });
    }
  const usual = fatGeometry(question);
  return {
    rows,
    gaps,
    byRule: usual.ok ? { variant: usual.value.variant, clusterBytes: usual.value.clusterBytes } : undefined,
  };
}

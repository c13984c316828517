/**
 * Geometry of a FAT volume: where everything lies, computed from nothing but sizes.
 *
 *   | reserved | FAT 1 | FAT 2 | root (FAT12, FAT16) | data: clusters 2, 3, … | tail |
 *
 * The FATs have the exact smallest size for the clusters that remain, and are padded on
 * purpose: so that the data area begins on the wanted unit of the medium. On FAT12 and FAT16
 * one reserved sector, two equal FATs and a root directory of whole 32-sector steps make an
 * odd number whatever the FAT size, so the padding goes into the reserved sectors, or into a
 * longer root directory and larger FATs. Cluster counts keep 16 away from the borders between
 * variants unless a person chose them. See docs/fat.md.
 */
import { GIB, KIB, MIB } from '../../quantity/units';
import { alignUp } from '../../quantity/integers';
import { fail, ok, type Result } from '../../quantity/result';
import { CLASSIC, FIXED, type Headers } from './classic';
import { BORDER, clusterSizes, fatBytes, leastClusters, mostClusters, type Variant, VARIANTS } from './variants';

/** Sectors before the first FAT where nothing is padded. */
const LEAST_RESERVED: Readonly<Record<Variant, number>> = { 12: 1, 16: 1, 32: 32 };
/** Reserved sectors, and on FAT12 and FAT16 the sectors of a FAT, are 16-bit numbers. */
const MOST_16 = 65_535;
/** The total is a 32-bit number of sectors. */
const MOST_SECTORS = 2 ** 32 - 1;
const FATS = 2;
const ENTRY = 32;
/** Volumes of floppies are never padded. */
const FLOPPY_SIZED = 1440 * KIB;
/** Most that padding, and sectors left unused, may cost: this part of the volume. */
const COST = 16;

/** Where padding goes on FAT12 and FAT16; FAT32 pads its reserved sectors. */
export const PADDINGS = ['reserved', 'root directory', 'none'] as const;
export type Padding = (typeof PADDINGS)[number];

/** What a volume is made for. Sizes in sectors, but for `unit` and `cluster` in bytes. */
export interface FatQuestion {
  readonly sectorSize: 512 | 4096;
  /** Sector of the medium on which the volume starts. */
  readonly start: number;
  /** Sectors that it may take. */
  readonly sectors: number;
  /** The data area begins on a multiple of this, counted from the start of the medium. */
  readonly unit: number;
  /** What a person chose. */
  readonly variant?: Variant;
  readonly cluster?: number;
  readonly rootEntries?: number;
  readonly padding?: Padding;
  /** FAT32 as soon as it is legal: an ESP. */
  readonly prefersFat32?: boolean;
  /** The volume is the whole medium, without a table: small ones keep the classic headers. */
  readonly wholeMedium?: boolean;
}

/** Where everything in the volume lies. Sectors are relative to the start of the volume. */
export interface FatGeometry {
  readonly variant: Variant;
  readonly sectorSize: 512 | 4096;
  readonly start: number;
  readonly totalSectors: number;
  /** Sectors of the partition behind the volume, given up so that the cluster count is sound. */
  readonly unused: number;
  readonly clusterBytes: number;
  readonly sectorsPerCluster: number;
  readonly reserved: number;
  readonly fatSectors: number;
  /** The smallest FAT that would do. */
  readonly leastFatSectors: number;
  /** 0 on FAT32, whose root directory is a chain of clusters. */
  readonly rootEntries: number;
  readonly rootSectors: number;
  readonly dataStart: number;
  readonly clusters: number;
  /** Sectors behind the last cluster that fill no cluster. */
  readonly tail: number;
  /** The unit on which the data area was laid, in bytes. */
  readonly unit: number;
  /** False when the data area is off the wanted unit, because that would have cost too much or nobody wanted it. */
  readonly onWantedUnit: boolean;
  /** Bytes that files can take: all clusters, on FAT32 but the one of the root directory. */
  readonly bytesForFiles: number;
  readonly headers: Headers;
}

/** Why no volume can be made. `least` and `most` are the sectors between which it could be. */
export interface FatRefusal {
  readonly reason: 'too few clusters' | 'too many clusters' | 'too many sectors' | 'cluster size';
  readonly variant: Variant;
  readonly clusters: number;
  readonly clusterBytes: number;
  readonly least?: number;
  readonly most?: number;
}

/** Variant and cluster size under trial, with the limits that the count must keep. */
interface Trial {
  readonly variant: Variant;
  readonly clusterBytes: number;
  readonly least: number;
  readonly most: number;
}

interface Allocation {
  readonly dataStart: number;
  readonly reserved: number;
  readonly fatSectors: number;
  readonly leastFatSectors: number;
  readonly rootSectors: number;
  readonly clusters: number;
}

function usualRootEntries({ sectors, sectorSize }: FatQuestion): number {
  const bytes = sectors * sectorSize;
  if (bytes > FLOPPY_SIZED) return 512;
  if (bytes >= FLOPPY_SIZED) return 224;
  return bytes >= 128 * KIB ? 112 : 16;
}

function rootSectorsOf(q: FatQuestion, variant: Variant): number {
  if (variant === 32) return 0;
  return Math.ceil(((q.rootEntries ?? usualRootEntries(q)) * ENTRY) / q.sectorSize);
}

/** True where padding lengthens the root directory and the FATs, and leaves one sector reserved. */
function padsRoot(q: FatQuestion, variant: Variant): boolean {
  return variant !== 32 && q.padding === 'root directory' && q.rootEntries === undefined;
}

/**
 * The smallest data start on the unit that leaves room for reserved sectors, root directory
 * and FATs that are just large enough. As the data start grows, clusters only get fewer.
 */
function layOut(q: FatQuestion, { variant, clusterBytes, most }: Trial, unitSectors: number): Allocation {
  const spc = clusterBytes / q.sectorSize;
  const least = LEAST_RESERVED[variant];
  const root = rootSectorsOf(q, variant);
  const evenly = padsRoot(q, variant) && unitSectors > 1;
  const clustersAt = (dataStart: number) => Math.min(most, Math.max(0, Math.floor((q.sectors - dataStart) / spc)));
  // With one sector reserved, what is left behind a root directory of the right length is even.
  const rootAt = (dataStart: number) => (evenly && (dataStart - least - root) % FATS !== 0 ? root + 1 : root);
  let dataStart = alignUp(q.start + least + FATS + root, unitSectors) - q.start;
  for (;;) {
    const clusters = clustersAt(dataStart);
    const fat = Math.ceil(fatBytes(variant, clusters + 2) / q.sectorSize);
    const rootSectors = rootAt(dataStart);
    const needed = least + FATS * fat + rootSectors;
    if (needed <= dataStart) {
      const mostReserved = evenly ? least : MOST_16;
      const reserved = Math.min(mostReserved, dataStart - FATS * fat - rootSectors);
      const grown = fat + Math.ceil((dataStart - FATS * fat - rootSectors - reserved) / FATS);
      return {
        dataStart,
        fatSectors: grown,
        leastFatSectors: fat,
        rootSectors,
        reserved: dataStart - FATS * grown - rootSectors,
        clusters,
      };
    }
    // A data start a little below what is needed now may still do, because fewer clusters need
    // a smaller FAT: step by units when close, jump when far.
    const jump = alignUp(q.start + Math.floor((dataStart + needed) / 2), unitSectors) - q.start;
    dataStart = Math.max(dataStart + unitSectors, jump - unitSectors);
  }
}

/**
 * Lays out with the wanted unit, or the largest power of two below it that costs at most 1/16
 * of the volume, does not take the clusters that make the variant, and can be written.
 */
function withUnit(q: FatQuestion, trial: Trial): Allocation & { unitSectors: number } {
  const bare = layOut(q, trial, 1);
  const wants = q.padding !== 'none' && q.sectors * q.sectorSize > FLOPPY_SIZED;
  let unitSectors = wants ? Math.max(1, Math.floor(q.unit / q.sectorSize)) : 1;
  let laid = layOut(q, trial, unitSectors);
  const costsTooMuch = () =>
    laid.dataStart - bare.dataStart > q.sectors / COST ||
    (laid.clusters < trial.least && bare.clusters >= trial.least) ||
    (trial.variant !== 32 && laid.fatSectors > MOST_16);
  while (unitSectors > 1 && costsTooMuch()) {
    unitSectors = 2 ** Math.ceil(Math.log2(unitSectors) - 1);
    laid = layOut(q, trial, unitSectors);
  }
  return { ...laid, unitSectors };
}

function finished(q: FatQuestion, trial: Trial, laid: Allocation & { unitSectors: number }): FatGeometry {
  const { variant, clusterBytes, most } = trial;
  const { unitSectors, rootSectors } = laid;
  const sectorsPerCluster = clusterBytes / q.sectorSize;
  const used = laid.dataStart + laid.clusters * sectorsPerCluster;
  // A volume that could hold more clusters than it may ends with its last cluster.
  const couldHold = Math.floor((q.sectors - laid.dataStart) / sectorsPerCluster);
  const totalSectors = couldHold > most ? used : q.sectors;
  const offUnit = ((q.start + laid.dataStart) * q.sectorSize) % q.unit !== 0;
  return {
    variant,
    sectorSize: q.sectorSize,
    start: q.start,
    totalSectors,
    unused: q.sectors - totalSectors,
    clusterBytes,
    sectorsPerCluster,
    dataStart: laid.dataStart,
    fatSectors: laid.fatSectors,
    leastFatSectors: laid.leastFatSectors,
    reserved: laid.reserved,
    clusters: laid.clusters,
    rootSectors,
    rootEntries: q.rootEntries && variant !== 32 ? q.rootEntries : (rootSectors * q.sectorSize) / ENTRY,
    tail: totalSectors - used,
    unit: unitSectors * q.sectorSize,
    onWantedUnit: !offUnit || q.sectors * q.sectorSize <= FLOPPY_SIZED,
    bytesForFiles: Math.max(0, laid.clusters - (variant === 32 ? 1 : 0)) * clusterBytes,
    headers: FIXED,
  };
}

/** Clusters that a volume could hold if it might hold any number, with this cluster size. */
function countAt(q: FatQuestion, variant: Variant, clusterBytes: number): number {
  return layOut(q, { variant, clusterBytes, least: 0, most: mostClusters(32) + 1 }, 1).clusters;
}

/** Fewest sectors in which a trial holds its least number of clusters. */
function leastSectors(q: FatQuestion, trial: Trial): number {
  const spc = trial.clusterBytes / q.sectorSize;
  const fat = Math.ceil(fatBytes(trial.variant, trial.least + 2) / q.sectorSize);
  let sectors = LEAST_RESERVED[trial.variant] + FATS * fat + rootSectorsOf(q, trial.variant) + trial.least * spc;
  for (;;) {
    const found = withUnit({ ...q, sectors }, trial);
    if (found.clusters >= trial.least) return sectors;
    sectors += (trial.least - found.clusters) * spc;
  }
}

/** Most sectors of which no more than the tolerated part stays unused. */
function mostSectors(q: FatQuestion, trial: Trial): number {
  const spc = trial.clusterBytes / q.sectorSize;
  const fat = Math.ceil(fatBytes(trial.variant, trial.most + 2) / q.sectorSize);
  const used = LEAST_RESERVED[trial.variant] + FATS * fat + rootSectorsOf(q, trial.variant) + trial.most * spc;
  return Math.min(used, MOST_SECTORS);
}

function trialOf(variant: Variant, clusterBytes: number, distance: number): Trial {
  const least = leastClusters(variant) + (variant === 12 ? 0 : distance);
  const most = mostClusters(variant) - (variant === 32 ? 0 : distance);
  return { variant, clusterBytes, least, most };
}

/** One variant with one cluster size: the geometry, or in which direction it misses. */
function attempt(q: FatQuestion, trial: Trial): Result<FatGeometry, FatRefusal> {
  const { variant, clusterBytes } = trial;
  const whole = Math.min(q.sectors, MOST_SECTORS);
  const within = whole === q.sectors ? q : { ...q, sectors: whole };
  const refuse = (reason: FatRefusal['reason'], more: Partial<FatRefusal>) =>
    fail({ reason, variant, clusters: countAt(within, variant, clusterBytes), clusterBytes, ...more });
  const geometry = finished(within, trial, withUnit(within, trial));
  if (geometry.clusters < trial.least) return refuse('too few clusters', { least: leastSectors(q, trial) });
  const unused = q.sectors - geometry.totalSectors;
  if (unused > q.sectors / COST)
    return refuse(
      q.sectors > MOST_SECTORS && countAt(within, variant, clusterBytes) <= trial.most
        ? 'too many sectors'
        : 'too many clusters',
      { most: mostSectors(q, trial) },
    );
  return ok(unused === geometry.unused ? geometry : { ...geometry, unused });
}

function usualCluster(q: FatQuestion, variant: Variant): number {
  const bytes = q.sectors * q.sectorSize;
  const steps: Readonly<Record<Variant, readonly (readonly [upTo: number, cluster: number])[]>> = {
    12: [[Infinity, 512]],
    16: [
      [16 * MIB - 1, KIB],
      [128 * MIB, 2 * KIB],
      [256 * MIB, 4 * KIB],
      [512 * MIB, 8 * KIB],
      [GIB, 16 * KIB],
      [Infinity, 32 * KIB],
    ],
    32: [
      [8 * GIB, 4 * KIB],
      [16 * GIB, 8 * KIB],
      [32 * GIB, 16 * KIB],
      [Infinity, 32 * KIB],
    ],
  };
  return Math.max(q.sectorSize, steps[variant].find(([upTo]) => bytes <= upTo)![1]);
}

/** Cluster sizes that may be taken without being asked for. */
function automaticSizes(q: FatQuestion, variant: Variant): number[] {
  const large = variant === 32 && q.sectors * q.sectorSize > 8 * 1024 * GIB;
  return clusterSizes(q.sectorSize).filter((bytes) => bytes <= (large ? 64 : 32) * KIB);
}

/**
 * One variant: with the chosen cluster, or the usual one, or the nearest to it that gives a
 * sound count, or the largest with some sectors left unused.
 */
function forVariant(q: FatQuestion, variant: Variant): Result<FatGeometry, FatRefusal> {
  if (q.cluster !== undefined) {
    const careful = attempt(q, trialOf(variant, q.cluster, BORDER));
    if (careful.ok && careful.value.unused === 0) return careful;
    const exact = attempt(q, trialOf(variant, q.cluster, 0));
    return exact.ok ? exact : careful.ok ? careful : exact;
  }
  const sizes = automaticSizes(q, variant);
  let at = sizes.indexOf(usualCluster(q, variant));
  let last: Result<FatGeometry, FatRefusal> | undefined;
  let trimmed: Result<FatGeometry, FatRefusal> | undefined;
  for (let turn = 0; turn < sizes.length && sizes[at] !== undefined; turn++) {
    const found = attempt(q, trialOf(variant, sizes[at]!, BORDER));
    if (found.ok && found.value.unused === 0) return found;
    // The way leads in one direction only: from there the other would come back.
    const isTooMany = found.ok || found.error.reason !== 'too few clusters';
    if (last && isTooMany !== (last.ok || last.error.reason !== 'too few clusters')) break;
    if (found.ok) trimmed = found;
    last = found;
    at += isTooMany ? 1 : -1;
  }
  return trimmed ?? last!;
}

/** The variant where nobody asks for one: by size, and FAT32 for an ESP as soon as it is legal. */
function usualVariant(q: FatQuestion): Variant {
  const bytes = q.sectors * q.sectorSize;
  if (q.prefersFat32) return 32;
  if (bytes < 16 * MIB) return 12;
  return bytes < 512 * MIB ? 16 : 32;
}

/**
 * Computes the geometry, or says why there is none. What a person chose is kept; everything
 * else follows the rules of docs/fat.md: variant by size, usual cluster, then the nearest
 * cluster size with a sound count, then fewer total sectors, then the neighbouring variant.
 */
export function fatGeometry(q: FatQuestion): Result<FatGeometry, FatRefusal> {
  const first = q.variant ?? usualVariant(q);
  if (q.cluster !== undefined && !clusterSizes(q.sectorSize).includes(q.cluster))
    return fail({ reason: 'cluster size', variant: first, clusters: 0, clusterBytes: q.cluster });
  const classic = CLASSIC.get(q.sectors * q.sectorSize);
  const isPlain = q.cluster === undefined && q.rootEntries === undefined && first === 12;
  if (q.wholeMedium && q.sectorSize === 512 && classic && isPlain) {
    const trial = trialOf(12, classic.cluster, BORDER);
    const asked = { ...q, rootEntries: classic.rootEntries, padding: 'none' } as const;
    return ok({ ...finished(asked, trial, withUnit(asked, trial)), headers: classic.headers });
  }
  const found = forVariant(q, first);
  if (found.ok || q.variant !== undefined) return found;
  const step = found.error.reason === 'too few clusters' ? -1 : 1;
  for (let i = VARIANTS.indexOf(first) + step; VARIANTS[i] !== undefined; i += step) {
    const next = forVariant(q, VARIANTS[i]!);
    if (next.ok) return next;
  }
  return found;
}

/** First sector, counted from the start of the volume, of a cluster (2 is the first). */
export function sectorOfCluster(geometry: FatGeometry, cluster: number): number {
  return geometry.dataStart + (cluster - 2) * geometry.sectorsPerCluster;
}

/**
 * Sectors before the volume, as its header tells them. The field has 32 bits and is used by BIOS
 * calls only: for a volume behind them it says nothing ("BPB_HiddSec" of the published FAT32 specification).
 */
export function hiddenSectors(start: number): number {
  return start < 2 ** 32 ? start : 0;
}

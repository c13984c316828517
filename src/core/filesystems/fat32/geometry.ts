/**
 * Geometry of a FAT32 volume: where everything lies, computed from nothing but sizes.
 *
 * The variant of a FAT volume is decided by its cluster count alone ("FAT Type Determination"
 * in the FAT32 specification): FAT32 has at least 65,525 clusters. Some readers are off by a
 * few at the border, so counts within 16 of it are avoided.
 *
 *   | reserved (padded) | FAT 1 | FAT 2 | data: clusters 2, 3, … | tail |
 *
 * The reserved sectors are padded so that the data area begins on the wanted unit of the
 * medium, and the FATs have the exact smallest size for the clusters that remain.
 */
import { fail, ok, type Result } from '../../quantity/result';
import { alignUp } from '../../quantity/integers';

/** Fewest clusters of a FAT32 volume. */
export const LEAST_CLUSTERS = 65_525;
/** Most clusters of a FAT32 volume: 28-bit entries less those with a meaning. */
export const MOST_CLUSTERS = 268_435_445;
/** Distance to keep from the border to FAT16. */
export const BORDER = 16;
/** Reserved sectors before padding. */
const LEAST_RESERVED = 32;
/** The count of reserved sectors is a 16-bit number. */
const MOST_RESERVED = 65_535;
/** Bytes of a FAT entry. */
const ENTRY_BYTES = 4;
const FATS = 2;
const KIB = 1024;
const GIB = 1024 ** 3;

/** What a volume is made for. Sizes in sectors, but for `unit` and `cluster` in bytes. */
export interface Fat32Question {
  readonly sectorSize: 512 | 4096;
  /** Sector of the medium on which the volume starts. */
  readonly start: number;
  /** Sectors of the partition. */
  readonly sectors: number;
  /** The data area begins on a multiple of this, counted from the start of the medium. */
  readonly unit: number;
  /** Bytes per cluster, where a person chose. */
  readonly cluster?: number;
}

/** Where everything in the volume lies. Sectors are relative to the start of the volume. */
export interface Fat32Geometry {
  readonly sectorSize: 512 | 4096;
  readonly start: number;
  readonly totalSectors: number;
  readonly clusterBytes: number;
  readonly sectorsPerCluster: number;
  readonly reserved: number;
  readonly fatSectors: number;
  readonly dataStart: number;
  readonly clusters: number;
  /** Sectors behind the last cluster that fill no cluster. */
  readonly tail: number;
  /** The unit on which the data area really begins, in bytes. */
  readonly unit: number;
  /** False when the wanted unit would have cost more than 1/16 of the volume. */
  readonly onWantedUnit: boolean;
  /** Bytes that files can take: all clusters but the one of the root directory. */
  readonly bytesForFiles: number;
}

/** Why no FAT32 can be made: `least` is the smallest number of sectors that would do. */
export interface Fat32Refusal {
  readonly reason: 'too few clusters' | 'too many clusters' | 'too many sectors' | 'cluster size';
  readonly clusters: number;
  readonly clusterBytes: number;
  readonly least?: number;
}

/** Cluster sizes that can be written at this sector size, in bytes, smallest first. */
export function clusterSizes(sectorSize: number): number[] {
  return [512, 1, 2, 4, 8, 16, 32, 64].map((n) => (n === 512 ? 512 : n * KIB)).filter((bytes) => bytes >= sectorSize);
}

/** The specification's habit, in rounder steps: larger volumes get larger clusters. */
function usualCluster(bytes: number): number {
  if (bytes <= 8 * GIB) return 4 * KIB;
  if (bytes <= 16 * GIB) return 8 * KIB;
  if (bytes <= 32 * GIB) return 16 * KIB;
  return 32 * KIB;
}

/** Sectors of one FAT for this many clusters; two entries come before the first cluster. */
function fatFor(clusters: number, sectorSize: number): number {
  return Math.ceil(((clusters + 2) * ENTRY_BYTES) / sectorSize);
}

/**
 * The smallest data start on the unit that leaves room for the reserved sectors and for FATs
 * that are just large enough. As the data start grows, clusters only get fewer.
 */
function layOut(q: Fat32Question, spc: number, unitSectors: number) {
  const clustersAt = (dataStart: number) => Math.max(0, Math.floor((q.sectors - dataStart) / spc));
  let dataStart = alignUp(q.start + LEAST_RESERVED + FATS, unitSectors) - q.start;
  for (;;) {
    const fatSectors = fatFor(clustersAt(dataStart), q.sectorSize);
    const needed = LEAST_RESERVED + FATS * fatSectors;
    if (needed <= dataStart) {
      const reserved = Math.min(MOST_RESERVED, dataStart - FATS * fatSectors);
      const surplus = dataStart - FATS * fatSectors - reserved;
      const grown = fatSectors + Math.ceil(surplus / FATS);
      return { dataStart, fatSectors: grown, reserved: dataStart - FATS * grown, clusters: clustersAt(dataStart) };
    }
    // A data start a little below what is needed now may still do, because fewer clusters need
    // a smaller FAT: step by units when close, jump when far.
    const jump = alignUp(q.start + Math.floor((dataStart + needed) / 2), unitSectors) - q.start;
    dataStart = Math.max(dataStart + unitSectors, jump - unitSectors);
  }
}

/**
 * Lays out with the wanted unit, or the largest power of two below it that costs at most 1/16
 * of the volume and does not take the clusters that make it a FAT32.
 */
function withUnit(q: Fat32Question, clusterBytes: number): Fat32Geometry {
  const spc = clusterBytes / q.sectorSize;
  const bare = layOut(q, spc, 1);
  let unitSectors = Math.max(1, Math.floor(q.unit / q.sectorSize));
  let laid = layOut(q, spc, unitSectors);
  let onWantedUnit = true;
  const costsTooMuch = () =>
    laid.dataStart - bare.dataStart > q.sectors / 16 ||
    (laid.clusters < LEAST_CLUSTERS + BORDER && bare.clusters >= LEAST_CLUSTERS + BORDER);
  while (unitSectors > 1 && costsTooMuch()) {
    onWantedUnit = false;
    unitSectors = 2 ** Math.ceil(Math.log2(unitSectors) - 1);
    laid = layOut(q, spc, unitSectors);
  }
  return {
    sectorSize: q.sectorSize,
    start: q.start,
    totalSectors: q.sectors,
    clusterBytes,
    sectorsPerCluster: spc,
    ...laid,
    tail: Math.max(0, q.sectors - laid.dataStart - laid.clusters * spc),
    unit: unitSectors * q.sectorSize,
    onWantedUnit,
    bytesForFiles: Math.max(0, laid.clusters - 1) * clusterBytes,
  };
}

/** Fewest sectors with which `geometry` for this question and cluster holds `clusters`. */
function leastSectors(q: Fat32Question, clusterBytes: number, clusters: number): number {
  const spc = clusterBytes / q.sectorSize;
  const structures = LEAST_RESERVED + FATS * fatFor(clusters, q.sectorSize);
  let sectors = structures + clusters * spc;
  for (;;) {
    const found = withUnit({ ...q, sectors }, clusterBytes);
    if (found.clusters >= clusters) return sectors;
    sectors += (clusters - found.clusters) * spc;
  }
}

/**
 * Computes the geometry, or says why there is none. Without a chosen cluster the usual one for
 * the size is taken, and where that leaves too few clusters the largest smaller one that keeps
 * a distance of 16 from the border.
 */
export function fat32Geometry(q: Fat32Question): Result<Fat32Geometry, Fat32Refusal> {
  if (q.cluster !== undefined && !clusterSizes(q.sectorSize).includes(q.cluster))
    return fail({ reason: 'cluster size', clusters: 0, clusterBytes: q.cluster });
  const most = q.cluster ?? Math.max(q.sectorSize, usualCluster(q.sectors * q.sectorSize));
  if (q.sectors >= 2 ** 32) return fail({ reason: 'too many sectors', clusters: 0, clusterBytes: most });
  const sizes = q.cluster ? [q.cluster] : clusterSizes(q.sectorSize).filter((size) => size <= most);
  const wanted = q.cluster ? LEAST_CLUSTERS : LEAST_CLUSTERS + BORDER;
  for (const clusterBytes of sizes.toReversed()) {
    const found = withUnit(q, clusterBytes);
    if (found.clusters > MOST_CLUSTERS) {
      if (q.cluster === undefined) return fat32Geometry({ ...q, cluster: clusterBytes * 2 });
      return fail({ reason: 'too many clusters', clusters: found.clusters, clusterBytes });
    }
    if (found.clusters >= wanted) return ok(found);
  }
  const smallest = sizes[0]!;
  return fail({
    reason: 'too few clusters',
    clusters: withUnit(q, smallest).clusters,
    clusterBytes: smallest,
    least: leastSectors(q, smallest, LEAST_CLUSTERS + BORDER),
  });
}

/** First sector, counted from the start of the volume, of a cluster (2 is the first). */
export function sectorOfCluster(geometry: Fat32Geometry, cluster: number): number {
  return geometry.dataStart + (cluster - 2) * geometry.sectorsPerCluster;
}

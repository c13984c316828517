/**
 * Geometry of an exFAT volume (published exFAT specification, sections 2 and 3.1).
 *
 *   | boot region | its copy | FAT | gap | cluster heap: bitmap, up-case table, root, … | tail |
 *
 * The heap begins on the write unit of the medium, counted from its first byte.
 */
import { GIB, KIB, MIB } from '../../quantity/units';
import { alignUp } from '../../quantity/integers';
import { fail, ok, type Result } from '../../quantity/result';

/** Sectors of a boot region: boot, 8 extended, parameters, reserved, checksum. */
export const REGION = 12;

/** Least volume (3.1.6), largest cluster (3.1.15), most clusters (3.1.9). */
const LEAST_BYTES = MIB;
const LARGEST_CLUSTER = 32 * MIB;
const MOST_CLUSTERS = 2 ** 32 - 11;
/** The FAT begins behind both boot regions. */
const FAT_OFFSET = 2 * REGION;
/** Most that the gap before the heap may cost: this part of the volume. */
const COST = 16;

export interface ExfatQuestion {
  readonly sectorSize: 512 | 4096;
  /** Sector of the medium on which the volume starts. */
  readonly start: number;
  readonly sectors: number;
  /** The heap begins on a multiple of this many bytes. */
  readonly unit: number;
  readonly cluster?: number;
}

/** Where everything lies; sectors from the start of the volume. */
export interface ExfatGeometry {
  readonly sectorSize: 512 | 4096;
  readonly start: number;
  readonly sectors: number;
  readonly clusterBytes: number;
  readonly sectorsPerCluster: number;
  readonly fatOffset: number;
  readonly fatSectors: number;
  readonly heapOffset: number;
  readonly clusters: number;
  /** Sectors behind the last cluster. */
  readonly tail: number;
  /** Unit on which the heap begins, in bytes. */
  readonly unit: number;
  readonly onWantedUnit: boolean;
}

export interface ExfatRefusal {
  readonly reason: 'too small' | 'too many clusters' | 'cluster size';
  readonly clusters: number;
  readonly clusterBytes: number;
  /** Bytes from which on it could be; with `too many clusters` the least cluster. */
  readonly least: number;
}

/** Cluster sizes that can be written at a sector size, smallest first. */
export function exfatClusterSizes(sectorSize: number): number[] {
  const sizes = [];
  for (let bytes = 512; bytes <= LARGEST_CLUSTER; bytes *= 2) if (bytes >= sectorSize) sizes.push(bytes);
  return sizes;
}

/** The cluster where nobody asks for one. */
export function usualExfatCluster(bytes: number): number {
  if (bytes <= 256 * MIB) return 4 * KIB;
  return bytes <= 32 * GIB ? 32 * KIB : 128 * KIB;
}

function layOut(q: ExfatQuestion, clusterBytes: number, unitSectors: number) {
  const spc = clusterBytes / q.sectorSize;
  const heapFor = (fat: number) => alignUp(q.start + FAT_OFFSET + fat, unitSectors) - q.start;
  const fatFor = (clusters: number) => Math.ceil(((clusters + 2) * 4) / q.sectorSize);
  const clustersAt = (heap: number) => Math.max(0, Math.floor((q.sectors - heap) / spc));
  const isEnough = (fat: number) => fatFor(clustersAt(heapFor(fat))) <= fat;
  // The smallest FAT that is enough: a larger one leaves fewer clusters, so that it stays enough.
  let [fat, most] = [1, fatFor(clustersAt(FAT_OFFSET))];
  while (fat < most) {
    const middle = Math.floor((fat + most) / 2);
    if (isEnough(middle)) most = middle;
    else fat = middle + 1;
  }
  const heapOffset = heapFor(fat);
  return { fatSectors: fat, heapOffset, clusters: clustersAt(heapOffset) };
}

/** Computes the geometry, or says why there is none. */
export function exfatGeometry(q: ExfatQuestion): Result<ExfatGeometry, ExfatRefusal> {
  const bytes = q.sectors * q.sectorSize;
  const clusterBytes = Math.max(q.sectorSize, q.cluster ?? usualExfatCluster(bytes));
  const refuse = (reason: ExfatRefusal['reason'], clusters: number, least: number) =>
    fail({ reason, clusters, clusterBytes, least });
  if (!exfatClusterSizes(q.sectorSize).includes(q.cluster ?? clusterBytes))
    return refuse('cluster size', 0, q.sectorSize);
  if (bytes < LEAST_BYTES) return refuse('too small', 0, LEAST_BYTES);
  let unitSectors = Math.max(1, Math.floor(q.unit / q.sectorSize));
  const bare = layOut(q, clusterBytes, 1);
  if (bare.clusters > MOST_CLUSTERS) return refuse('too many clusters', bare.clusters, clusterBytes * 2);
  // Bitmap, up-case table and root directory take at least one each, and something must be left.
  if (bare.clusters < 8) return refuse('too small', bare.clusters, LEAST_BYTES + 8 * clusterBytes);
  let laid = layOut(q, clusterBytes, unitSectors);
  while (unitSectors > 1 && laid.heapOffset - bare.heapOffset > q.sectors / COST) {
    unitSectors = 2 ** Math.ceil(Math.log2(unitSectors) - 1);
    laid = layOut(q, clusterBytes, unitSectors);
  }
  const sectorsPerCluster = clusterBytes / q.sectorSize;
  return ok({
    sectorSize: q.sectorSize,
    start: q.start,
    sectors: q.sectors,
    clusterBytes,
    sectorsPerCluster,
    fatOffset: FAT_OFFSET,
    ...laid,
    tail: q.sectors - laid.heapOffset - laid.clusters * sectorsPerCluster,
    unit: unitSectors * q.sectorSize,
    onWantedUnit: ((q.start + laid.heapOffset) * q.sectorSize) % q.unit === 0,
  });
}

/** First byte of a cluster, from the start of the volume. */
export function byteOfCluster(
  geometry: { readonly heapOffset: number; readonly sectorSize: number; readonly clusterBytes: number },
  cluster: number,
): number {
  return geometry.heapOffset * geometry.sectorSize + (cluster - 2) * geometry.clusterBytes;
}

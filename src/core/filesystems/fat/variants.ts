/**
 * What tells the FAT variants apart: the number of clusters and nothing else ("FAT Type
 * Determination" in the published FAT32 file system specification).
 */
import { KIB } from '../../quantity/units';

export const VARIANTS = [12, 16, 32] as const;
export type Variant = (typeof VARIANTS)[number];

/** Fewest and most clusters of each variant. */
const CLUSTERS: Readonly<Record<Variant, readonly [least: number, most: number]>> = {
  12: [1, 4_084],
  16: [4_085, 65_524],
  // 28-bit entries less those with a meaning.
  32: [65_525, 268_435_445],
};

/** Distance to keep from a border between two variants: some readers draw it elsewhere. */
export const BORDER = 16;

export function leastClusters(variant: Variant): number {
  return CLUSTERS[variant][0];
}

export function mostClusters(variant: Variant): number {
  return CLUSTERS[variant][1];
}

/** The variant that every reader must see in a volume of so many clusters; undefined beyond FAT32. */
export function variantOf(clusters: number): Variant | undefined {
  return VARIANTS.find((variant) => clusters >= leastClusters(variant) && clusters <= mostClusters(variant));
}

/** Clusters to the nearest border with another variant; the far ends (1, and the most of FAT32) are none. */
export function borderDistance(variant: Variant, clusters: number): number {
  const below = variant === 12 ? Infinity : clusters - leastClusters(variant);
  const above = variant === 32 ? Infinity : mostClusters(variant) - clusters;
  return Math.min(below, above);
}

/** Bytes of a FAT with so many entries: 12 bits each, packed, or 16, or 32. */
export function fatBytes(variant: Variant, entries: number): number {
  return Math.ceil((entries * variant) / 8);
}

/** Cluster sizes that can be written at this sector size, in bytes, smallest first. */
export function clusterSizes(sectorSize: number): number[] {
  return [512, KIB, 2 * KIB, 4 * KIB, 8 * KIB, 16 * KIB, 32 * KIB, 64 * KIB].filter((bytes) => bytes >= sectorSize);
}

/** Where the boot code of a volume begins in its boot sector: behind the fields of the variant. */
export function codeAt(variant: Variant): number {
  return variant === 32 ? 90 : 62;
}

/** Bytes that boot code may have: up to the mark in bytes 510 and 511. */
export function codeRoom(variant: Variant): number {
  return 510 - codeAt(variant);
}

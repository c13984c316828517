/**
 * Twenty-four layouts over table kind, sector size, FAT variant and cluster size, in which every
 * legal pair of values of two of these factors occurs.
 */
import { exactText, inBinary, KIB, MIB } from '@/core/quantity/units';
import { fatPart, GPT_TABLE, layoutOn, NO_TABLE, part } from '@tests/samples';
import { clusterSizes, leastClusters, type Variant, VARIANTS } from '@/core/filesystems/fat/variants';
import type { Layout } from '@/core/layout/document';

export interface Combination {
  readonly table: 'mbr' | 'gpt' | 'none';
  readonly sectorSize: 512 | 4096;
  readonly variant: Variant;
  readonly cluster: number;
}

const TABLES = ['mbr', 'gpt', 'none'] as const;
/** Sizes are whole multiples of this. */
const STEP = 64 * KIB;

/** Each variant with each cluster size once; tables go round, and large clusters change the sector size. */
export const COMBINATIONS: readonly Combination[] = clusterSizes(512).flatMap((cluster, c) =>
  VARIANTS.map((variant, v) => ({
    table: TABLES[(c + v) % 3]!,
    sectorSize: cluster >= 4096 && (c + v) % 2 === 0 ? 4096 : 512,
    variant,
    cluster,
  })),
);

/** Clusters that are enough for the variant, and little to fill. */
const CLUSTERS: Readonly<Record<Variant, number>> = {
  12: 300,
  16: leastClusters(16) + 60,
  32: leastClusters(32) + 100,
};

/** A size that holds the clusters, their FATs, and padding. */
function volumeBytes({ variant, cluster }: Combination): number {
  const clusters = CLUSTERS[variant];
  const structures = variant === 12 ? 128 * KIB : 2 * MIB;
  return Math.ceil((clusters * (cluster + 8) + clusters * cluster * 0.08 + structures) / STEP) * STEP;
}

/** The layout of a combination; with a table the volume is the second partition. */
export function layoutFor(one: Combination, index: number): Layout {
  const { sectorSize, table, variant, cluster } = one;
  const bytes = volumeBytes(one);
  const volume = fatPart(
    `v${index}`,
    table === 'none' ? 'rest' : exactText(bytes, sectorSize),
    {
      variant,
      cluster: inBinary(cluster),
      label: `BUOY ${index}`,
      ...(variant !== 32 && index % 2 === 0 && { padding: 'root directory' }),
    },
    table === 'gpt' ? { name: `Pegel ${index} – Ä 🌊`, attributes: ['grow', 'no auto mount'] } : {},
  );
  const left = part('left', '2 MiB', table === 'mbr' ? { active: true } : { role: 'swap', name: 'x'.repeat(36) });
  const exact = exactText(table === 'none' ? bytes : bytes + 6 * MIB, sectorSize);
  return layoutOn(exact, table === 'none' ? [volume] : [left, volume], {
    medium: { kind: 'image', capacity: { exact }, logicalSector: sectorSize, physicalSector: sectorSize },
    ...(table === 'gpt' && { table: GPT_TABLE }),
    ...(table === 'none' && { table: NO_TABLE }),
  });
}

/** True where two values of two factors can stand together: a cluster is no smaller than a sector. */
export function isLegal(pair: Partial<Combination>): boolean {
  return pair.sectorSize === undefined || pair.cluster === undefined || pair.cluster >= pair.sectorSize;
}

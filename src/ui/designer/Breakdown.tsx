import { type FatGeometry, sectorOfCluster } from '@/core/filesystems/fat/geometry';
import { leastClusters, mostClusters } from '@/core/filesystems/fat/variants';
import { grouped, inBinary, inDecimal, sectorCount } from '@/core/quantity/units';
import { paint } from '../column/Patterns';

const WIDTH = 332;

/** Parts of the volume, each named, in the order of their places. */
function partsOf(geometry: FatGeometry) {
  const { sectorSize, reserved, fatSectors, leastFatSectors, clusterBytes, tail, unused, variant, rootSectors } =
    geometry;
  const padding = 2 * (fatSectors - leastFatSectors);
  const root =
    variant === 32
      ? { name: 'Root directory, one cluster', bytes: clusterBytes }
      : { name: `Root directory, ${grouped(geometry.rootEntries)} entries`, bytes: rootSectors * sectorSize };
  return [
    { name: `Reserved, ${sectorCount(reserved)}`, bytes: reserved * sectorSize, fill: paint('table') },
    {
      name: `Two FATs of ${sectorCount(leastFatSectors)}`,
      bytes: 2 * leastFatSectors * sectorSize,
      fill: paint('loader'),
    },
    { name: 'FATs, padded', bytes: padding * sectorSize, fill: paint('table') },
    { ...root, fill: paint('boot') },
    { name: FOR_FILES, bytes: geometry.bytesForFiles, fill: paint('data') },
    { name: 'Behind the last cluster', bytes: tail * sectorSize, fill: paint('gap') },
    { name: 'Behind the volume, unused', bytes: unused * sectorSize, fill: paint('gap') },
  ].filter((part) => part.bytes > 0);
}

const FOR_FILES = 'For files';

/** The distance of the cluster count to the borders of its variant. */
function bordersText({ variant, clusters }: FatGeometry): string {
  const below = `${grouped(clusters - leastClusters(variant))} above the least`;
  const above = `${grouped(mostClusters(variant) - clusters)} below the most`;
  return { 12: above, 16: `${below}, ${above}`, 32: below }[variant];
}

/** Where the bytes of a FAT volume go: every structure named, and what is left for files. */
export function Breakdown({ geometry }: { geometry: FatGeometry }) {
  const { sectorSize, totalSectors, unused, dataStart, start, variant, clusters } = geometry;
  const parts = partsOf(geometry);
  const total = (totalSectors + unused) * sectorSize;
  const scale = WIDTH / total;
  const widths = parts.map((part) => Math.max(1.5, part.bytes * scale));
  const lefts = widths.map((_, i) => widths.slice(0, i).reduce((sum, width) => sum + width, 0));
  return (
    <section className="mt-2 border-t border-hair pt-2">
      <h3 className="text-soft">
        Where the {inBinary(total)} go: FAT{variant}, {grouped(clusters)} clusters
      </h3>
      <p className="text-sm text-soft">
        {bordersText(geometry)} of FAT{variant}
      </p>
      <svg viewBox={`0 0 ${WIDTH} 12`} className="my-1 h-3 w-full" preserveAspectRatio="none" aria-hidden="true">
        {parts.map((part, i) => (
          <rect key={part.name} x={lefts[i]} width={widths[i]} height="12" fill={part.fill} />
        ))}
      </svg>
      <dl className="grid grid-cols-[1fr_auto] gap-x-3">
        {parts.map((part) => (
          <div key={part.name} className={`contents ${part.name === FOR_FILES ? 'font-semibold' : ''}`}>
            <dt>{part.name}</dt>
            <dd className="text-right font-mono text-sm">
              {inBinary(part.bytes)}
              {part.name === FOR_FILES && ` = ${inDecimal(part.bytes)}`}
            </dd>
          </div>
        ))}
        <dt className="text-soft">Cluster 2 lands at</dt>
        <dd className="text-right font-mono text-sm text-soft">
          {inBinary((start + dataStart) * sectorSize)} · {grouped(start + sectorOfCluster(geometry, 2))}
        </dd>
      </dl>
    </section>
  );
}

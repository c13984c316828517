import type { Fat32Geometry } from '@/core/filesystems/fat32/geometry';
import { sectorOfCluster } from '@/core/filesystems/fat32/geometry';
import { grouped, inBinary } from '@/core/quantity/units';
import { paint } from '../column/Patterns';

const WIDTH = 332;

/** Where the bytes of a FAT32 volume go: every structure named, and what is left for files. */
export function Breakdown({ geometry }: { geometry: Fat32Geometry }) {
  const { sectorSize, reserved, fatSectors, totalSectors, clusterBytes, tail, bytesForFiles, dataStart, start } =
    geometry;
  const parts = [
    { name: 'Reserved, padded to the unit', bytes: reserved * sectorSize, fill: paint('table') },
    { name: `Two FATs of ${grouped(fatSectors)} sectors`, bytes: 2 * fatSectors * sectorSize, fill: paint('loader') },
    { name: 'Root directory', bytes: clusterBytes, fill: paint('boot') },
    { name: 'For files', bytes: bytesForFiles, fill: paint('data') },
    { name: 'Behind the last cluster', bytes: tail * sectorSize, fill: paint('gap') },
  ].filter((part) => part.bytes > 0);
  const scale = WIDTH / (totalSectors * sectorSize);
  let x = 0;
  return (
    <section className="mt-2 border-t border-hair pt-2">
      <h3 className="text-soft">Where the {inBinary(totalSectors * sectorSize)} go</h3>
      <svg viewBox={`0 0 ${WIDTH} 12`} className="my-1 h-3 w-full" preserveAspectRatio="none" aria-hidden="true">
        {parts.map((part) => {
          const width = Math.max(1.5, part.bytes * scale);
          const rect = <rect key={part.name} x={x} width={width} height="12" fill={part.fill} />;
          x += width;
          return rect;
        })}
      </svg>
      <dl className="grid grid-cols-[1fr_auto] gap-x-3">
        {parts.map((part) => (
          <div key={part.name} className={`contents ${part.name === 'For files' ? 'font-semibold' : ''}`}>
            <dt>{part.name}</dt>
            <dd className="text-right font-mono text-sm">{inBinary(part.bytes)}</dd>
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

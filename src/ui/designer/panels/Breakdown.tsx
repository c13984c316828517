'use client';

import type { ByteUse } from '@/core/filesystems/account';
import type { FatGeometry } from '@/core/filesystems/fat/geometry';
import { leastClusters, mostClusters } from '@/core/filesystems/fat/variants';
import { kindOf, madeAs } from '@/core/filesystems/kinds';
import type { PlacedPartition } from '@/core/placement/placement';
import { accountOf } from '@/core/placement/volumes';
import { grouped, inBinary, inBoth } from '@/core/quantity/units';
import { paint } from '../../column/Patterns';
import { Fold } from '../../kit/Fold';
import { useDesigner } from '../state/context';

const WIDTH = 332;

const FILLS: Readonly<Record<ByteUse, ReturnType<typeof paint>>> = {
  structure: paint('table'),
  padding: paint('gap'),
  folders: paint('boot'),
  files: paint('system'),
  lost: paint('loader'),
  free: paint('data'),
  unused: paint('gap'),
};

/** The distance of the cluster count to the borders of its variant. */
function bordersText({ variant, clusters }: FatGeometry): string {
  const below = `${grouped(clusters - leastClusters(variant))} above the least`;
  const above = `${grouped(mostClusters(variant) - clusters)} below the most`;
  return `${{ 12: above, 16: `${below}, ${above}`, 32: below }[variant]} of FAT${variant}`;
}

/** Where the data area of a volume begins. */
function Landing({ placed: { slot, made, start } }: { placed: PlacedPartition }) {
  const dataStart = slot.content && made && kindOf(slot.content).dataStart?.(made);
  if (dataStart === undefined || !made?.geometry.ok) return null;
  const sector = start + dataStart;
  const { sectorSize } = made.geometry.value;
  return (
    <>
      <dt className="text-soft">Cluster 2 lands at</dt>
      <dd className="text-right font-mono text-sm text-soft">
        {inBinary(sector * sectorSize)} · {grouped(sector)}
      </dd>
    </>
  );
}

/** Where the bytes of a partition go: every structure named, what files take, and what is left for them. */
export function Breakdown({ placed }: { placed: PlacedPartition }) {
  const placement = useDesigner((state) => state.placement);
  const { title, parts, usable } = accountOf(placed, placement);
  const fat = madeAs(placed, 'fat');
  const total = placed.span.end - placed.span.start;
  const scale = WIDTH / Math.max(1, total);
  const widths = parts.map((part) => Math.max(1.5, part.bytes * scale));
  const lefts = widths.map((_, i) => widths.slice(0, i).reduce((sum, width) => sum + width, 0));
  return (
    <section aria-label="Where the bytes go" className="mt-0.5">
      <Fold
        name="bytes"
        title={`Where the ${inBinary(total)} go`}
        said={usable === undefined ? title : `${inBinary(usable)} of them for files`}
      >
        <div className="col-span-2">
          <h3 className="text-soft">{title}</h3>
          {fat?.ok && <p className="text-sm text-soft">{bordersText(fat.value)}</p>}
          <svg viewBox={`0 0 ${WIDTH} 12`} className="my-1 h-3 w-full" preserveAspectRatio="none" aria-hidden="true">
            {parts.map((part, i) => (
              <rect key={i} x={lefts[i]} width={widths[i]} height="12" fill={FILLS[part.use]} />
            ))}
          </svg>
          <dl className="grid grid-cols-[1fr_auto] gap-x-3">
            {parts.map((part, i) => (
              <div key={i} className={`contents ${part.use === 'free' ? 'font-semibold' : ''}`}>
                <dt className="min-w-0 truncate">{part.name}</dt>
                <dd className="text-right font-mono text-sm">{inBinary(part.bytes)}</dd>
              </div>
            ))}
            {usable !== undefined && (
              <>
                <dt className="border-t border-hair">Usable in all</dt>
                <dd className="border-t border-hair text-right font-mono text-sm">{inBoth(usable)}</dd>
              </>
            )}
            <Landing placed={placed} />
          </dl>
        </div>
      </Fold>
    </section>
  );
}

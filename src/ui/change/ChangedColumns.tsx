'use client';

import { useMemo } from 'react';
import type { Becoming, Fate } from '@/core/change/before-after';
import type { Placement, Stratum } from '@/core/placement/placement';
import { grouped, inBinary } from '@/core/quantity/units';
import { Bands } from '../column/Correlated';
import { fillOf } from '../column/fills';
import { type Band, depthOf, levelBands } from '../column/geometry';
import { paint } from '../column/Patterns';
import type { FoundLayer } from '../survey/layers';

const WIDTH = 78;
const BETWEEN = 96;
const NAMES = 150;
/** Part of the way to the other column after which the band of what goes, or comes, ends. */
const SHORT = 0.42;

/** True where nothing becomes of a partition but what its entry says of it. */
function isAtRest(fates: readonly Fate[]): boolean {
  return fates.every((fate) =>
    ['kept', 'retyped', 'renamed', 'another id', 'other marks', 'another number'].includes(fate),
  );
}

/** What joins a partition before and after: a plain band where it stays, an outlined one where it changes, one that ends where it goes. */
function Joint({ from, to, fates }: { from: Band | undefined; to: Band | undefined; fates: readonly Fate[] }) {
  if (from && to)
    return (
      <path
        d={`M0 ${from.y}L${BETWEEN} ${to.y}V${to.y + to.height}L0 ${from.y + from.height}Z`}
        fill={isAtRest(fates) ? 'var(--selected)' : 'none'}
        stroke="var(--edge)"
        strokeDasharray={isAtRest(fates) ? undefined : '5 3'}
        strokeWidth={isAtRest(fates) ? 1 : 1.5}
      />
    );
  const band = from ?? to;
  if (!band) return null;
  const { y, height } = band;
  const [near, far] = from ? [0, BETWEEN * SHORT] : [BETWEEN, BETWEEN * (1 - SHORT)];
  // The torn end of a band that leads nowhere, or comes from nowhere.
  const teeth = Math.max(2, Math.round(height / 9));
  const torn = Array.from({ length: teeth }, (_, i) => {
    const out = (from ? 1 : -1) * 5;
    return `L${far + (i % 2 === 0 ? out : 0)} ${y + ((i + 1) * height) / (teeth + 1)}`;
  }).join('');
  return (
    <path
      d={`M${near} ${y}H${far}${torn}L${far} ${y + height}H${near}`}
      fill="none"
      stroke={from ? 'var(--stop)' : 'var(--moss)'}
      strokeWidth="1.5"
    />
  );
}

function Name({
  band,
  title,
  detail,
  isStrong,
  align,
}: {
  band: Band;
  title: string;
  detail: string;
  isStrong: boolean;
  align: 'left' | 'right';
}) {
  return (
    <div
      className={`absolute overflow-hidden px-2 leading-tight text-soft ${align === 'right' ? 'text-right' : ''}`}
      style={{ top: band.y, height: band.height, width: NAMES }}
    >
      <span className={`block truncate ${isStrong ? 'font-semibold text-ink' : ''}`}>{title}</span>
      {detail && band.height >= 30 && <span className="block truncate font-mono text-sm">{detail}</span>}
    </div>
  );
}

function plannedTitle(stratum: Stratum): string {
  if (stratum.kind === 'slot') return stratum.placed.slot.name;
  return stratum.kind === 'table' ? 'table' : 'free';
}

/** Found beside planned: both columns whole, and what becomes of each partition between them. */
export function ChangedColumns({
  layers,
  placement,
  rows,
  height,
}: {
  layers: readonly FoundLayer[];
  placement: Placement;
  rows: readonly Becoming[];
  height: number;
}) {
  const { sectorSize, strata } = placement;
  const { before, after } = useMemo(() => {
    const keyOf = (number: number | undefined) =>
      rows.find((one) => one.before !== undefined && one.before.number === number)?.key;
    const found = layers.map((one) => ({ ...one, key: one.partition && keyOf(one.partition.number) }));
    const planned = strata.map((one) => ({ ...one, key: one.kind === 'slot' ? one.placed.slot.id : undefined }));
    const [left = [], right = []] = levelBands([found, planned], Math.max(height, 60));
    return {
      before: found.map(({ key }, i) => ({ key, band: left[i]! })),
      after: planned.map(({ key }, i) => ({ key, band: right[i]! })),
    };
  }, [layers, strata, rows, height]);
  const total = Math.max(depthOf(before.map((one) => one.band)), depthOf(after.map((one) => one.band)));
  const bandOf = (side: typeof before, key: string) => side.find((one) => one.key === key)?.band;
  const width = 2 * WIDTH + BETWEEN;
  return (
    <div
      role="group"
      aria-label="The medium before and after"
      className="relative"
      style={{ height: total + 2, width: 2 * NAMES + width }}
    >
      <div className="absolute top-0 left-0">
        {layers.map((layer, i) => (
          <Name
            key={layer.key}
            band={before[i]!.band}
            title={layer.title}
            detail={layer.partition ? `${inBinary(layer.sectors * sectorSize)} at ${grouped(layer.start)}` : ''}
            isStrong={layer.kind === 'slot'}
            align="right"
          />
        ))}
      </div>
      <svg aria-hidden="true" width={width} height={total + 1} className="absolute top-0" style={{ left: NAMES }}>
        <Bands
          bands={before.map((one) => one.band)}
          fills={layers.map((one) => paint(one.fill))}
          left={0}
          width={WIDTH}
        />
        <g transform={`translate(${WIDTH} 0)`}>
          {rows.map(({ key, fates }) => (
            <Joint key={key} from={bandOf(before, key)} to={bandOf(after, key)} fates={fates} />
          ))}
        </g>
        <Bands
          bands={after.map((one) => one.band)}
          fills={strata.map((one) => paint(fillOf(one)))}
          left={WIDTH + BETWEEN}
          width={WIDTH}
        />
      </svg>
      <div className="absolute top-0" style={{ left: NAMES + width }}>
        {strata.map((stratum, i) => (
          <Name
            key={i}
            band={after[i]!.band}
            title={plannedTitle(stratum)}
            detail={
              stratum.kind === 'slot' ? `${inBinary(stratum.sectors * sectorSize)} at ${grouped(stratum.start)}` : ''
            }
            isStrong={stratum.kind === 'slot'}
            align="left"
          />
        ))}
      </div>
    </div>
  );
}

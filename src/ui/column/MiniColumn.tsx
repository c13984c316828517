import type { Placement } from '@/core/placement/placement';
import { fillOf } from './fills';
import { depthOf, trueBands } from './geometry';
import { paint } from './Patterns';

/** A small column at true scale, for lists. */
export function MiniColumn({
  placement,
  width = 40,
  height = 132,
}: {
  placement: Placement;
  width?: number;
  height?: number;
}) {
  const bands = trueBands(placement.strata, height);
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`Column of ${placement.layout.name}`}
      className="shrink-0"
    >
      {placement.strata.map((stratum, i) => (
        <rect
          key={i}
          width={width}
          y={bands[i]!.y}
          height={Math.max(1, bands[i]!.height - 0.5)}
          fill={paint(fillOf(stratum))}
        />
      ))}
      <rect x=".5" y=".5" width={width - 1} height={Math.max(0, depthOf(bands) - 1)} fill="none" stroke="var(--edge)" />
    </svg>
  );
}

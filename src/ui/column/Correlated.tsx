/** Columns side by side, joined where they hold the same thing. */
import type { ReactNode } from 'react';
import type { Placement, Stratum } from '@/core/placement/placement';
import { fillOf } from './fills';
import { type Band, depthOf, type Keyed, levelBands, type Scale, trueBands } from './geometry';
import { paint } from './Patterns';

/** The picture of one column. */
export function Bands({
  bands,
  fills,
  left,
  width,
}: {
  bands: readonly Band[];
  fills: readonly string[];
  left: number;
  width: number;
}) {
  return (
    <g transform={`translate(${left} 0)`}>
      {bands.map((band, i) => (
        <rect key={i} width={width} y={band.y} height={Math.max(1, band.height - 1)} fill={fills[i]} />
      ))}
      <rect x=".5" y=".5" width={width - 1} height={Math.max(0, depthOf(bands) - 1)} fill="none" stroke="var(--edge)" />
    </g>
  );
}

/** What joins two bands: filled where both are the same, else only its dashed edges. */
export function Correlation({ from, to, width, isSame }: { from: Band; to: Band; width: number; isSame: boolean }) {
  return (
    <path
      d={`M0 ${from.y}L${width} ${to.y}V${to.y + to.height}L0 ${from.y + from.height}Z`}
      fill={isSame ? 'var(--selected)' : 'none'}
      stroke="var(--edge)"
      strokeDasharray={isSame ? undefined : '4 3'}
    />
  );
}

/** One of the columns that stand side by side. */
export interface Standing {
  readonly key: string;
  readonly placement: Placement;
  readonly head: ReactNode;
  /** What is written beside a stratum; nothing for thin ones. */
  readonly label: (stratum: Stratum) => ReactNode;
}

interface Props {
  readonly columns: readonly Standing[];
  readonly scale: Scale;
  readonly height: number;
  /** Width of a column with the words beside it. */
  readonly width: number;
  readonly label: string;
}

const COLUMN = 62;
const BETWEEN = 26;

function slotIndex({ strata }: Placement, id: string): number {
  return strata.findIndex((one) => one.kind === 'slot' && one.placed.slot.id === id);
}

/** A stratum as other columns may have it too: a slot, by its id. */
function keyed(stratum: Stratum): Keyed {
  return {
    kind: stratum.kind,
    sectors: stratum.sectors,
    key: stratum.kind === 'slot' ? stratum.placed.slot.id : undefined,
  };
}

/** Bands of all columns: in the legible scale equal things begin level; in the true scale one pixel stands for the same number of bytes in each. */
function bandsOf(columns: readonly Standing[], scale: Scale, height: number): Band[][] {
  const largest = Math.max(...columns.map(({ placement }) => placement.medium.capacity));
  if (scale === 'legible')
    return levelBands(
      columns.map(({ placement }) => placement.strata.map(keyed)),
      height,
    );
  return columns.map(({ placement }) =>
    trueBands(placement.strata, Math.max(24, (height * placement.medium.capacity) / largest)),
  );
}

/** Several placements as columns, with correlation lines between neighbours. */
export function Correlated({ columns, scale, height, width, label }: Props) {
  const bands = bandsOf(columns, scale, height);
  const total = Math.max(...bands.map(depthOf));
  const words = width - COLUMN - BETWEEN;
  return (
    <div role="group" aria-label={label} className="relative" style={{ width: columns.length * width }}>
      <div className="flex">
        {columns.map((one) => (
          <div key={one.key} className="overflow-hidden pr-2" style={{ width }}>
            {one.head}
          </div>
        ))}
      </div>
      <div className="relative mt-2" style={{ height: total + 2 }}>
        <svg aria-hidden="true" width={columns.length * width} height={total + 1} className="absolute inset-0">
          {columns.slice(0, -1).map((one, c) => (
            <g key={one.key} transform={`translate(${c * width + COLUMN} 0)`}>
              {one.placement.strata.map((stratum, i) => {
                if (stratum.kind !== 'slot') return null;
                const next = columns[c + 1]!.placement;
                const j = slotIndex(next, stratum.placed.slot.id);
                const other = next.strata[j];
                if (other === undefined) return null;
                const isSame = other.sectors === stratum.sectors && other.start === stratum.start;
                return (
                  <Correlation
                    key={i}
                    from={bands[c]![i]!}
                    to={bands[c + 1]![j]!}
                    width={width - COLUMN}
                    isSame={isSame}
                  />
                );
              })}
            </g>
          ))}
          {columns.map((one, c) => (
            <Bands
              key={one.key}
              bands={bands[c]!}
              fills={one.placement.strata.map((stratum) => paint(fillOf(stratum)))}
              left={c * width}
              width={COLUMN}
            />
          ))}
        </svg>
        {columns.map((one, c) =>
          one.placement.strata.map((stratum, i) => {
            const band = bands[c]![i]!;
            const text = band.height >= 15 ? one.label(stratum) : null;
            return text === null ? null : (
              <div
                key={`${one.key}-${i}`}
                className="absolute overflow-hidden px-1.5 leading-tight"
                style={{ top: band.y, height: band.height, left: c * width + COLUMN + 2, width: words + BETWEEN - 8 }}
              >
                {text}
              </div>
            );
          }),
        )}
      </div>
    </div>
  );
}

import type { Stratum } from '@/core/placement/placement';
import { fillOf } from './fills';
import type { Band } from './geometry';
import { paint } from './Patterns';

/** Width of the column itself. */
export const COLUMN = 92;
/** Width of the strip in which lines lead from strata to their rows. */
export const LEAD = 28;

function Break({ band }: { band: Band }) {
  const middle = band.y + band.height / 2;
  const step = COLUMN / 8;
  const points = Array.from({ length: 9 }, (_, i) => `${i * step},${middle + (i % 2 === 0 ? -4 : 4)}`).join(' ');
  return <polyline points={points} fill="none" stroke="var(--paper)" strokeWidth="5" />;
}

interface Props {
  readonly strata: readonly Stratum[];
  /** Where each stratum is drawn, and where its row is. */
  readonly bands: readonly Band[];
  readonly rows: readonly Band[];
  readonly broken: readonly boolean[];
  readonly selected: number;
  readonly height: number;
}

/** The picture: every stratum at its depth, and lines to the rows that speak of it. */
export function Strata({ strata, bands, rows, broken, selected, height }: Props) {
  return (
    <svg width={COLUMN + LEAD} height={height} aria-hidden="true" className="pointer-events-none absolute top-0">
      {strata.map((stratum, i) => {
        const band = bands[i]!;
        const row = rows[i]!;
        return (
          <g key={i}>
            <rect width={COLUMN} y={band.y} height={Math.max(1, band.height - 1)} fill={paint(fillOf(stratum))} />
            {stratum.kind === 'gap' && band.height > 4 && (
              <rect
                x=".5"
                y={band.y + 0.5}
                width={COLUMN - 1}
                height={band.height - 2}
                fill="none"
                stroke="var(--s-free-b)"
                strokeDasharray="3 3"
              />
            )}
            {broken[i] && <Break band={band} />}
            <path
              d={`M${COLUMN} ${band.y + band.height - 0.5}L${COLUMN + LEAD} ${row.y + row.height - 0.5}`}
              stroke="var(--line)"
              fill="none"
            />
            {i === selected && (
              <>
                <path
                  d={`M${COLUMN} ${band.y}L${COLUMN + LEAD} ${row.y}V${row.y + row.height}L${COLUMN} ${band.y + band.height}Z`}
                  fill="var(--selected)"
                />
                <rect
                  x="1"
                  y={band.y + 1}
                  width={COLUMN - 2}
                  height={Math.max(2, band.height - 3)}
                  fill="none"
                  stroke="var(--clay)"
                  strokeWidth="2"
                />
              </>
            )}
          </g>
        );
      })}
    </svg>
  );
}

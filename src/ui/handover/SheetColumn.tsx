import type { Placement, Stratum } from '@/core/placement/placement';
import { inBinary } from '@/core/quantity/units';
import { Bands } from '../column/Correlated';
import { fillOf } from '../column/fills';
import { paint } from '../column/Patterns';

const WIDTH = 46;
/** Heights of a slot's band, where its name has a line, and of all else. */
const SLOT = 20;
const OTHER = 7;

function bandsOf(strata: readonly Stratum[]): { readonly y: number; readonly height: number }[] {
  let y = 0;
  return strata.map(({ kind }) => {
    const height = kind === 'slot' ? SLOT : OTHER;
    y += height;
    return { y: y - height, height };
  });
}

/** The column as it stands on the sheet: every stratum in its order, a line for each slot. */
export function SheetColumn({ placement }: { readonly placement: Placement }) {
  const strata = placement.strata.filter(({ sectors }) => sectors > 0);
  const bands = bandsOf(strata);
  const last = bands[bands.length - 1];
  const height = last ? last.y + last.height : 0;
  return (
    <div className="relative shrink-0" style={{ width: 220, height }}>
      <svg width={WIDTH} height={height} role="img" aria-label={`Column of ${placement.layout.name}`}>
        <Bands bands={bands} fills={strata.map((one) => paint(fillOf(one)))} left={0} width={WIDTH} />
      </svg>
      {strata.map((one, i) =>
        one.kind !== 'slot' ? null : (
          <span
            key={one.placed.slot.id}
            className="absolute truncate text-xs"
            style={{ left: WIDTH + 7, right: 0, top: bands[i]!.y + 1 }}
          >
            <b className="font-semibold">{one.placed.slot.name}</b> {inBinary(one.sectors * placement.sectorSize)}
          </span>
        ),
      )}
    </div>
  );
}

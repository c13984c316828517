'use client';

import { type KeyboardEvent, useMemo } from 'react';
import type { SurveyFinding } from '@/core/findings/survey/finding';
import type { Layout } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import type { Placement, Stratum } from '@/core/placement/placement';
import { grouped, inBinary, inBoth } from '@/core/quantity/units';
import { Bands, Correlation } from '../column/Correlated';
import { fillOf } from '../column/fills';
import { type Band, depthOf, legibleBands, levelBands } from '../column/geometry';
import { paint } from '../column/Patterns';
import { useHeight } from '../column/useHeight';
import { isLetter, LETTERS } from '../kit/keys/letters';
import { Mark } from '../kit/Mark';
import type { FoundLayer } from './layers';

const DEPTH = 96;
const WIDTH = 84;
const BETWEEN = 72;
/** Height that a name and a size below it need. */
const TWO_LINES = 38;
/** Width of the names beside a layout's column. */
const NAMES = 186;

interface Props {
  readonly layers: readonly FoundLayer[];
  readonly sectorSize: number;
  readonly findings: readonly SurveyFinding[];
  readonly selected: string | undefined;
  readonly onSelect: (layer: FoundLayer) => void;
  readonly onOpen: (layer: FoundLayer) => void;
  readonly layout: Layout | undefined;
}

/** Pairs of a found layer and a planned stratum: the same number, or the same place where there are none. */
function pairsOf(layers: readonly FoundLayer[], placement: Placement) {
  return layers.flatMap((layer, i) => {
    const found = layer.partition;
    if (!found) return [];
    const j = placement.strata.findIndex(
      (one) =>
        one.kind === 'slot' &&
        (one.placed.entry ? one.placed.entry.number === found.number : found.kind === 'whole medium'),
    );
    const stratum = placement.strata[j];
    if (!stratum) return [];
    const isSame = stratum.start === found.start && stratum.sectors === found.sectors;
    return [{ i, j, isSame }];
  });
}

type Pairs = ReturnType<typeof pairsOf>;

/** Bands of the found column and of the planned one beside it, where pairs begin level. */
function bandsOf(
  layers: readonly FoundLayer[],
  placement: Placement | undefined,
  pairs: Pairs,
  height: number,
): { readonly bands: Band[]; readonly planned: Band[] } {
  if (!placement) return { bands: legibleBands(layers, height), planned: [] };
  const keyOf = (at: (pair: Pairs[number]) => number, index: number) => {
    const pair = pairs.findIndex((one) => at(one) === index);
    return pair < 0 ? undefined : String(pair);
  };
  const found = layers.map((one, i) => ({ ...one, key: keyOf((pair) => pair.i, i) }));
  const strata = placement.strata.map((one, j) => ({ ...one, key: keyOf((pair) => pair.j, j) }));
  const [bands = [], planned = []] = levelBands([found, strata], Math.max(height, 60));
  return { bands, planned };
}

function PlannedName({ stratum, band, sectorSize }: { stratum: Stratum; band: Band; sectorSize: number }) {
  const [title, detail] =
    stratum.kind === 'slot'
      ? [stratum.placed.slot.name, `${inBinary(stratum.sectors * sectorSize)} at ${grouped(stratum.start)}`]
      : [stratum.kind === 'table' ? 'table' : 'free', ''];
  return (
    <div className="absolute inset-x-0 overflow-hidden px-2 text-soft" style={{ top: band.y, height: band.height }}>
      <span className={`block truncate ${stratum.kind === 'slot' ? 'font-semibold text-ink' : ''}`}>{title}</span>
      {detail && <span className="block font-mono text-sm">{detail}</span>}
    </div>
  );
}

function FoundRow({
  layer,
  band,
  sectorSize,
  selected,
  findings,
  onSelect,
  id,
}: {
  readonly layer: FoundLayer;
  readonly band: Band;
  readonly sectorSize: number;
  readonly selected: boolean;
  readonly findings: readonly SurveyFinding[];
  readonly onSelect: () => void;
  readonly id: string;
}) {
  const bytes = layer.sectors * sectorSize;
  const inside = (size: string) => (
    <>
      {layer.inside && <span className="block truncate">{layer.inside}</span>}
      <span className="block truncate font-mono text-sm text-soft">{size}</span>
    </>
  );
  return (
    <div
      id={id}
      role="option"
      aria-selected={selected}
      aria-label={`${layer.title}, sector ${grouped(layer.start)}, ${inBinary(bytes)}${layer.inside ? `, ${layer.inside}` : ''}`}
      onClick={onSelect}
      style={{ top: band.y, height: band.height }}
      className={`absolute inset-x-0 grid cursor-default grid-cols-[1fr_28px] items-center @[760px]:grid-cols-[1fr_174px_28px] gap-x-1 overflow-hidden border-b border-hair px-2 ${selected ? 'bg-selected' : ''} ${layer.kind === 'thin' ? 'text-soft' : ''}`}
    >
      <span className="min-w-0">
        <span className={`block truncate ${layer.kind === 'slot' ? 'font-semibold' : ''}`}>{layer.title}</span>
        {layer.detail && <span className="block truncate font-mono text-sm text-soft">{layer.detail}</span>}
        {/* Where there is no room for a column of its own, what is inside stands below, if the layer is high enough. */}
        {band.height >= TWO_LINES && <span className="block @[760px]:hidden">{inside(inBinary(bytes))}</span>}
      </span>
      <span className="hidden min-w-0 @[760px]:block">{inside(inBoth(bytes))}</span>
      <span className="flex gap-1">
        {findings.slice(0, 2).map((one, i) => (
          <Mark key={i} severity={one.severity} />
        ))}
      </span>
    </div>
  );
}

/** The found column with its rows, and a layout's column beside it, joined by correlation lines. */
export function Columns(props: Props) {
  const { layers, sectorSize, findings, selected, onSelect, onOpen, layout } = props;
  const [frame, height] = useHeight();
  const placement = useMemo(() => layout && place(layout), [layout]);
  const pairs = placement ? pairsOf(layers, placement) : [];
  const { bands, planned } = bandsOf(layers, placement, pairs, height - 4);
  const at = layers.findIndex((one) => one.key === selected);
  const onKeyDown = (event: KeyboardEvent) => {
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    const current = layers[at];
    if (step !== 0) {
      event.preventDefault();
      const next = layers[Math.min(layers.length - 1, Math.max(0, at + step))];
      if (next) onSelect(next);
    } else if ((event.key === 'Enter' || (event.key.toLowerCase() === 'l' && isLetter(event.nativeEvent))) && current) {
      event.preventDefault();
      onOpen(current);
    }
  };
  const total = Math.max(depthOf(bands), depthOf(planned));
  const columnsWidth = placement ? 2 * WIDTH + BETWEEN : WIDTH;
  return (
    <div ref={frame} className="@container relative min-h-0 flex-1 overflow-y-auto">
      <div className="relative" style={{ height: total + 2 }}>
        {layers.map((layer, i) => (
          <span
            key={layer.key}
            aria-hidden="true"
            className="absolute pr-3 text-right font-mono text-sm text-soft"
            style={{ top: bands[i]!.y + 2, width: DEPTH }}
          >
            {layer.start === 0 ? '0' : inBinary(layer.start * sectorSize)}
          </span>
        ))}
        <div
          role="listbox"
          tabIndex={0}
          aria-label="What was found, from the first byte to the last"
          aria-activedescendant={at >= 0 ? `found-${at}` : undefined}
          onKeyDown={onKeyDown}
          {...LETTERS}
          className="absolute focus-visible:-outline-offset-2"
          style={{ left: DEPTH, right: columnsWidth + (placement ? NAMES + 4 : 16), height: depthOf(bands) }}
        >
          {layers.map((layer, i) => (
            <FoundRow
              key={layer.key}
              id={`found-${i}`}
              layer={layer}
              band={bands[i]!}
              sectorSize={sectorSize}
              selected={i === at}
              findings={findings.filter((one) => one.place.kind === 'partition' && one.place.key === layer.key)}
              onSelect={() => onSelect(layer)}
            />
          ))}
        </div>
        <svg
          aria-hidden="true"
          width={columnsWidth}
          height={total + 1}
          className="absolute top-0"
          style={{ right: placement ? NAMES : 12 }}
        >
          <Bands bands={bands} fills={layers.map((one) => paint(one.fill))} left={0} width={WIDTH} />
          {placement && (
            <>
              <g transform={`translate(${WIDTH} 0)`}>
                {pairs.map(({ i, j, isSame }) => (
                  <Correlation key={`${i}-${j}`} from={bands[i]!} to={planned[j]!} width={BETWEEN} isSame={isSame} />
                ))}
              </g>
              <Bands
                bands={planned}
                fills={placement.strata.map((one) => paint(fillOf(one)))}
                left={WIDTH + BETWEEN}
                width={WIDTH}
              />
            </>
          )}
        </svg>
        {placement && (
          <div className="absolute top-0 right-0" style={{ width: NAMES - 4 }}>
            {placement.strata.map((stratum, i) => (
              <PlannedName key={i} stratum={stratum} band={planned[i]!} sectorSize={placement.sectorSize} />
            ))}
          </div>
        )}
      </div>
    </div>
  );
}

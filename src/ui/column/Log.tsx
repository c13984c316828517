'use client';

import { type KeyboardEvent, useEffect, useRef } from 'react';
import type { Finding } from '@/core/findings/layout/finding';
import type { Edit } from '@/core/layout/edits';
import { foundOf } from '@/core/layout/kept';
import type { Placement, Stratum } from '@/core/placement/placement';
import { grouped, inBinary, inBoth } from '@/core/quantity/units';
import {
  type Band,
  brokenBands,
  depthOf,
  heightAt,
  legibleBands,
  type Neighbours,
  type Scale,
  sectorAt,
  trueBands,
} from './geometry';
import { ARRIVAL } from '../kit/Arrival';
import { LETTERS } from '../kit/keys/letters';
import { Row } from './Row';
import { useOrderDrag } from './useOrderDrag';
import { COLUMN, LEAD, Strata } from './Strata';
import { useHeight } from './useHeight';
import { type Gesture, HANDLE_ABOVE, useBoundaryGesture } from './useBoundaryGesture';

/** Width of the lane of depths. */
export const DEPTH = 104;

/** What identifies a stratum between two placements. */
function keyOfStratum(stratum: Stratum): string {
  if (stratum.kind === 'table') return `table-${stratum.start}`;
  return stratum.kind === 'gap' ? `gap-${stratum.start}` : stratum.placed.slot.id;
}

/** What is said where nothing is yet. */
const EMPTY_HINT = 'A adds a partition here, P takes lines of text, Ctrl V what was copied.';

/** Height of the closing line under the last stratum. */
const CLOSING = 26;

interface Props {
  readonly base: Placement;
  readonly placement: Placement;
  readonly findings: readonly Finding[];
  readonly scale: Scale;
  readonly selectedKey: string | undefined;
  /** Ids of all slots that are selected. */
  readonly marked: readonly string[];
  /** `adds`: to what is selected already. */
  readonly onSelect: (stratum: Stratum, adds?: boolean) => void;
  /** Id of the list of strata. */
  readonly id: string;
  /** A slot was dragged to another place in the order. */
  readonly onMove: (id: string, index: number) => void;
  readonly preview: (edit: Edit | undefined) => void;
  readonly commit: (edit: Edit) => void;
  /** Keys that the log does not deal with itself. */
  readonly onKey: (event: KeyboardEvent<HTMLElement>) => void;
}

/** The heart of the screen: the column with its lanes. Picture and table are one thing. */
export function Log(props: Props) {
  const { id, base, placement, findings, scale, selectedKey, marked, onSelect, onMove, preview, commit, onKey } = props;
  const order = useOrderDrag(placement, onMove);
  const [frame, height] = useHeight();
  const body = useRef<HTMLDivElement>(null);
  const { strata, sectorSize } = placement;
  const rows = legibleBands(strata, height - CLOSING);
  const total = depthOf(rows);
  const baseBands = bandsFor(base, scale, height);

  const { gesture, handle, nudge, finish } = useBoundaryGesture({
    base,
    preview,
    commit,
    sectorUnder: (boundary, clientY) => {
      const y = clientY - body.current!.getBoundingClientRect().top;
      return sectorAt(y, around(base, baseBands, boundary.upper.slot.id));
    },
  });
  const settled = scale === 'true' ? trueBands(strata, total) : rows;
  const bands = gesture ? followed(settled, baseBands, base, placement, gesture) : settled;
  const rowBands = scale === 'true' ? rows : bands;
  const selected = strata.findIndex((one) => keyOfStratum(one) === selectedKey);

  // What is selected is in view, whatever selected it.
  useEffect(() => {
    if (selected >= 0) document.getElementById(`stratum-${selected}`)?.scrollIntoView({ block: 'nearest' });
  }, [selected]);

  const onKeyDown = (event: KeyboardEvent<HTMLElement>) => {
    const end = event.key === 'Home' ? strata[0] : event.key === 'End' ? strata.at(-1) : undefined;
    if (end) {
      event.preventDefault();
      onSelect(end);
      return;
    }
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    const plain = !event.altKey && !event.ctrlKey && !event.metaKey;
    if (step !== 0 && plain) {
      event.preventDefault();
      const next = event.shiftKey
        ? nextSlot(strata, selected, step)
        : strata[Math.min(strata.length - 1, Math.max(0, selected + step))];
      if (next) onSelect(next, event.shiftKey);
      return;
    }
    const size = event.key === '+' ? 1 : event.key === '-' ? -1 : 0;
    const stratum = strata[selected];
    if (size !== 0 && plain && stratum?.kind === 'slot') {
      event.preventDefault();
      nudge(stratum.placed.slot.id, size);
      return;
    }
    onKey(event);
  };

  return (
    <div ref={frame} className="@container relative min-h-0 flex-1 overflow-y-auto">
      <div ref={body} className="relative" style={{ height: total + CLOSING }}>
        <Depths strata={strata} rows={rowBands} sectorSize={sectorSize} />
        <div className="absolute" style={{ left: DEPTH }}>
          <Strata
            strata={strata}
            bands={bands}
            rows={rowBands}
            broken={scale === 'legible' ? brokenBands(strata, bands) : strata.map(() => false)}
            selected={selected}
            height={total + 1}
          />
        </div>
        <div
          id={id}
          role="listbox"
          tabIndex={0}
          {...LETTERS}
          {...ARRIVAL}
          aria-label="Strata of the medium, from the first byte to the last"
          aria-activedescendant={selected >= 0 ? `stratum-${selected}` : undefined}
          aria-multiselectable="true"
          onKeyDown={onKeyDown}
          onKeyUp={(event) => (event.key === '+' || event.key === '-') && finish()}
          className="absolute right-0 focus-visible:-outline-offset-2"
          style={{ left: DEPTH + COLUMN + LEAD, height: total }}
        >
          {strata.map((stratum, i) => (
            <Row
              key={keyOfStratum(stratum)}
              id={`stratum-${i}`}
              stratum={stratum}
              band={rowBands[i]!}
              sectorSize={sectorSize}
              selected={i === selected || (stratum.kind === 'slot' && marked.includes(stratum.placed.slot.id))}
              drag={order(stratum)}
              findings={findingsOf(findings, stratum)}
              kept={stratum.kind === 'slot' ? foundOf(placement.layout, stratum.placed.slot) : undefined}
              hint={placement.placed.length === 0 && stratum.kind === 'gap' ? EMPTY_HINT : undefined}
              onSelect={(adds) => onSelect(stratum, adds)}
            />
          ))}
        </div>
        {strata.map((stratum, i) => (
          <ColumnTarget key={keyOfStratum(stratum)} band={bands[i]!} onSelect={() => onSelect(stratum)} />
        ))}
        {strata.map(
          (stratum, i) =>
            stratum.kind === 'slot' &&
            stratum.placed.slot.kind !== 'raw' && (
              <Handle
                key={stratum.placed.slot.id}
                name={stratum.placed.slot.name}
                top={bands[i]!.y + bands[i]!.height}
                sector={stratum.start + stratum.sectors}
                above={stratum.sectors}
                below={strata[i + 1]?.kind === 'table' ? undefined : strata[i + 1]?.sectors}
                most={placement.sectors}
                handlers={handle(stratum.placed.slot.id)}
                gesture={gesture?.id === stratum.placed.slot.id ? gesture : undefined}
                sectorSize={sectorSize}
              />
            ),
        )}
        <p className="absolute flex gap-3 text-soft" style={{ top: total + 3, left: 0 }}>
          <span className="text-right font-mono text-sm" style={{ width: DEPTH - 12 }}>
            {inBinary(placement.sectors * sectorSize)}
          </span>
          <MediumEnd placement={placement} />
        </p>
      </div>
    </div>
  );
}

/** The next slot on the way; keys add slots only. */
function nextSlot(strata: readonly Stratum[], from: number, step: number): Stratum | undefined {
  for (let i = from + step; i >= 0 && i < strata.length; i += step) if (strata[i]!.kind === 'slot') return strata[i];
  return undefined;
}

/** The closing line: where the medium ends, and by how much the layout runs past it. */
function MediumEnd({ placement: { strata, sectors, sectorSize } }: { placement: Placement }) {
  const past = Math.max(...strata.map((one) => one.start + one.sectors)) - sectors;
  const end = `end of the medium, last sector ${grouped(sectors - 1)}`;
  if (past <= 0) return <span>{end}</span>;
  return (
    <span className="text-stop">
      {end}: the layout runs {inBinary(past * sectorSize)} past it
    </span>
  );
}

function bandsFor(placement: Placement, scale: Scale, height: number): Band[] {
  const rows = legibleBands(placement.strata, height - CLOSING);
  return scale === 'true' ? trueBands(placement.strata, depthOf(rows)) : rows;
}

/** Index of the stratum of a slot. */
function indexOf(placement: Placement, id: string): number {
  return placement.strata.findIndex((one) => one.kind === 'slot' && one.placed.slot.id === id);
}

/** Bands on both sides of the boundary below a slot, and the sectors at their edges. */
function around(placement: Placement, bands: readonly Band[], id: string): Neighbours & { index: number } {
  const index = indexOf(placement, id);
  const upper = bands[index]!;
  const stratum = placement.strata[index]!;
  const next = placement.strata[index + 1];
  const boundary = stratum.start + stratum.sectors;
  const lower = bands[index + 1] ?? { y: upper.y + upper.height, height: 0 };
  return { index, upper, lower, first: stratum.start, boundary, end: next ? next.start + next.sectors : boundary };
}

/** Bands during a gesture: only the boundary moves, so that it stays under the pointer. */
function followed(settled: Band[], before: Band[], base: Placement, now: Placement, gesture: Gesture): Band[] {
  if (before.length !== settled.length || base.strata.length !== now.strata.length) return settled;
  const neighbours = around(base, before, gesture.id);
  const { index, upper, lower } = neighbours;
  const split = heightAt(gesture.move.sector, neighbours);
  return before.map((band, i) => {
    if (i === index) return { y: upper.y, height: split - upper.y };
    return i === index + 1 ? { y: split, height: lower.y + lower.height - split } : band;
  });
}

function findingsOf(findings: readonly Finding[], stratum: Stratum): Finding[] {
  return findings.filter(({ place }) =>
    stratum.kind === 'slot'
      ? place.kind === 'slot' && place.id === stratum.placed.slot.id
      : stratum.kind === 'table' && stratum.start === 0 && (place.kind === 'table' || place.kind === 'boots'),
  );
}

function Depths({
  strata,
  rows,
  sectorSize,
}: {
  strata: readonly Stratum[];
  rows: readonly Band[];
  sectorSize: number;
}) {
  return (
    <div aria-hidden="true">
      {strata.map((stratum, i) => {
        const at = stratum.kind === 'slot' ? stratum.placed.span.start : stratum.start * sectorSize;
        return (
          <div
            key={i}
            className="absolute pr-3 text-right font-mono text-sm leading-[1.3]"
            style={{ top: rows[i]!.y + 3, width: DEPTH }}
          >
            <span className={stratum.kind === 'slot' ? '' : 'text-soft'}>{at === 0 ? '0' : inBinary(at)}</span>
            {stratum.kind === 'slot' && <span className="block text-soft">{grouped(stratum.start)}</span>}
          </div>
        );
      })}
    </div>
  );
}

function ColumnTarget({ band, onSelect }: { band: Band; onSelect: () => void }) {
  return (
    <div
      aria-hidden="true"
      onClick={onSelect}
      className="absolute"
      style={{ left: DEPTH, width: COLUMN, top: band.y, height: band.height }}
    />
  );
}

interface HandleProps {
  readonly name: string;
  readonly top: number;
  readonly sector: number;
  /** Sectors on both sides of it, as they are when nothing moves. */
  readonly above: number;
  readonly below: number | undefined;
  readonly most: number;
  readonly handlers: ReturnType<ReturnType<typeof useBoundaryGesture>['handle']>;
  readonly gesture: Gesture | undefined;
  readonly sectorSize: number;
}

function sizeText(sectors: number, sectorSize: number): string {
  const bytes = sectors * sectorSize;
  return inBoth(bytes);
}

/** The handle of a boundary; while it moves it says both sizes in both unit families. */
function Handle({ name, top, sector, above, below, most, handlers, gesture, sectorSize }: HandleProps) {
  const move = gesture?.move;
  const [upper, lower] = move ? [move.upperSectors, move.lowerSectors] : [above, below];
  const text = `sector ${grouped(move?.sector ?? sector)}: ${sizeText(upper, sectorSize)} above${lower === undefined ? '' : `, ${sizeText(lower, sectorSize)} below`}`;
  return (
    <div
      role="separator"
      tabIndex={0}
      aria-orientation="horizontal"
      aria-label={`Boundary below ${name}`}
      aria-valuemin={0}
      aria-valuemax={most}
      aria-valuenow={move?.sector ?? sector}
      aria-valuetext={text}
      data-boundary={name}
      title="Drag, or use the arrow keys"
      {...handlers}
      className="group absolute z-10 h-[9px] cursor-row-resize touch-none"
      style={{ left: DEPTH, width: COLUMN, top: top - HANDLE_ABOVE }}
    >
      <div className="mx-auto mt-[3px] h-[3px] w-8 rounded-full bg-edge opacity-0 group-hover:opacity-100 group-focus-visible:opacity-100" />
      {move && (
        <div className="pointer-events-none absolute top-1/2 left-full z-20 ml-2 -translate-y-1/2 rounded-[5px] border border-edge bg-card px-2 py-1 font-mono text-sm whitespace-nowrap shadow-sm">
          <span className="block">
            ▲ {sizeText(move.upperSectors, sectorSize)} · {grouped(move.upperSectors)} sec
          </span>
          {lower !== undefined && (
            <span className="block">
              ▼ {sizeText(lower, sectorSize)} · {grouped(lower)} sec
            </span>
          )}
        </div>
      )}
    </div>
  );
}

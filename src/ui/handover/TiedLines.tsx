'use client';

import { type KeyboardEvent, type ReactNode, useRef } from 'react';
import type { MachineMedium } from '@/core/naming/nameable';
import type { Stratum } from '@/core/placement/placement';
import { inBinary } from '@/core/quantity/units';
import { Bands } from '../column/Correlated';
import { fillOf } from '../column/fills';
import { type Band, depthOf, legibleBands } from '../column/geometry';
import { paint } from '../column/Patterns';
import { STROKE_WORDS, STROKES, type Tie } from './ties';

/** A line of text, and what it names. */
export interface TiedLine {
  readonly key: string;
  readonly content: ReactNode;
  /** The line as a whole, for those who cannot see it. */
  readonly text: string;
  readonly ties: readonly Tie[];
}

interface Props {
  readonly label: string;
  readonly media: readonly MachineMedium[];
  readonly lines: readonly TiedLine[];
  /** Key of the line that is selected, and of the partition whose lines stand out. */
  readonly selected: string | undefined;
  readonly partition: string | undefined;
  readonly onSelect: (key: string) => void;
  readonly onPartition: (key: string) => void;
  /** What stands below the lines. */
  readonly children?: ReactNode;
}

const COLUMN = 46;
const WORDS = 150;
const BETWEEN = 96;
const HEAD = 22;
const GAP = 14;
const ROW = 25;

interface Standing {
  readonly medium: MachineMedium;
  readonly top: number;
  readonly bands: readonly Band[];
}

/** The columns of the media, one below the other. */
function standing(media: readonly MachineMedium[]): Standing[] {
  let top = HEAD;
  return media.map((medium) => {
    const bands = legibleBands(
      medium.placement.strata.map(({ kind, sectors }) => ({ kind, sectors })),
      0,
    );
    const one = { medium, top, bands };
    top += depthOf(bands) + GAP + HEAD;
    return one;
  });
}

const keyOf = (medium: MachineMedium, stratum: Stratum) =>
  stratum.kind === 'slot' ? `${medium.name}/${stratum.placed.slot.id}` : undefined;

/** The stroke from a partition to a line, or one that comes from nowhere. */
function Stroke({ tie, from, to, isOut }: { tie: Tie; from: number | undefined; to: number; isOut: boolean }) {
  const [left, right] = [0, BETWEEN];
  const colour = tie.isWrong || from === undefined ? 'var(--stop)' : isOut ? 'var(--clay)' : 'var(--edge)';
  if (from === undefined)
    return (
      <path
        d={`M${right - 34} ${to - 4}l8 8m0 -8l-8 8M${right - 26} ${to}H${right}`}
        stroke={colour}
        strokeDasharray={STROKES[tie.by]}
        strokeWidth="1.4"
        fill="none"
      />
    );
  return (
    <path
      d={`M${left} ${from}C${right / 2} ${from} ${right / 2} ${to} ${right} ${to}`}
      stroke={colour}
      strokeDasharray={STROKES[tie.by]}
      strokeWidth={isOut ? 2.2 : 1.4}
      fill="none"
    />
  );
}

function Legend() {
  return (
    <p className="mt-2 flex flex-wrap gap-x-4 text-sm text-soft">
      {STROKE_WORDS.map(([by, text]) => (
        <span key={by} className="inline-flex items-center gap-1.5">
          <svg width="30" height="6" aria-hidden="true">
            <path d="M0 3H30" stroke="var(--ink)" strokeWidth="1.4" strokeDasharray={STROKES[by]} />
          </svg>
          {text}
        </span>
      ))}
    </p>
  );
}

/** The columns of the media at the left, lines of text at the right, and a stroke from each partition to every line that names it. */
export function TiedLines({ label, media, lines, selected, partition, onSelect, onPartition, children }: Props) {
  const columns = standing(media);
  const list = useRef<HTMLUListElement>(null);
  const last = columns[columns.length - 1];
  const height = Math.max(last ? last.top + depthOf(last.bands) : 0, HEAD + lines.length * ROW) + 2;
  const middle = new Map(
    columns.flatMap(({ medium, top, bands }) =>
      medium.placement.strata.flatMap((stratum, i): [string, number][] => {
        const key = keyOf(medium, stratum);
        return key === undefined ? [] : [[key, top + bands[i]!.y + bands[i]!.height / 2]];
      }),
    ),
  );
  const isOut = ({ key, ties }: TiedLine) =>
    key === selected || ties.some(({ to }) => to !== undefined && to === partition);
  const onKey = (event: KeyboardEvent, at: number) => {
    const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    const next = by === undefined ? undefined : lines[at + by];
    if (!next) return;
    event.preventDefault();
    onSelect(next.key);
    list.current?.querySelectorAll('button')[at + by!]?.focus();
  };
  return (
    <div className="grid" style={{ gridTemplateColumns: `${COLUMN + WORDS + BETWEEN}px minmax(0, 1fr)` }}>
      <div className="relative" style={{ height }}>
        {columns.map(({ medium, top, bands }) => (
          <div key={medium.name} className="absolute left-0" style={{ top: top - HEAD, width: COLUMN + WORDS }}>
            <p className="truncate text-sm font-semibold" style={{ height: HEAD }} title={medium.name}>
              {medium.name}
            </p>
            <svg aria-hidden="true" width={COLUMN} height={depthOf(bands) + 1} className="absolute">
              <Bands
                bands={bands}
                fills={medium.placement.strata.map((stratum) => paint(fillOf(stratum)))}
                left={0}
                width={COLUMN}
              />
            </svg>
            {medium.placement.strata.map((stratum, i) => {
              const key = keyOf(medium, stratum);
              const band = bands[i]!;
              if (key === undefined || stratum.kind !== 'slot') return null;
              const { slot } = stratum.placed;
              const mount = slot.kind === 'partition' ? slot.mount : undefined;
              return (
                <button
                  key={key}
                  type="button"
                  aria-pressed={key === partition}
                  onClick={() => onPartition(key)}
                  className={`absolute overflow-hidden rounded-sm px-1.5 text-left leading-tight ${key === partition ? 'bg-selected' : 'hover:bg-selected'}`}
                  style={{ top: HEAD + band.y + 1, height: band.height - 3, left: COLUMN + 2, width: WORDS - 4 }}
                >
                  <span className="block truncate font-semibold">{slot.name}</span>
                  <span className="block truncate font-mono text-xs text-soft">
                    {mount ?? ''} {inBinary(stratum.sectors * medium.placement.sectorSize)}
                  </span>
                </button>
              );
            })}
          </div>
        ))}
        <svg
          aria-hidden="true"
          width={BETWEEN}
          height={height}
          className="absolute top-0"
          style={{ left: COLUMN + WORDS }}
        >
          {lines.map((line, i) =>
            line.ties.map((tie) => (
              <Stroke
                key={`${line.key} ${tie.to}`}
                tie={tie}
                from={tie.to === undefined ? undefined : middle.get(tie.to)}
                to={HEAD + i * ROW + ROW / 2}
                isOut={isOut(line)}
              />
            )),
          )}
        </svg>
      </div>
      <div style={{ paddingTop: HEAD }}>
        <ul ref={list} aria-label={label} className="overflow-x-auto">
          {lines.map((line, i) => (
            <li key={line.key} style={{ height: ROW }}>
              <button
                type="button"
                aria-label={line.text}
                aria-pressed={line.key === selected}
                onClick={() => onSelect(line.key)}
                onKeyDown={(event) => onKey(event, i)}
                className={`h-full w-max min-w-full rounded-sm px-2 text-left font-mono text-sm whitespace-pre focus-visible:-outline-offset-2 ${isOut(line) ? 'bg-selected' : 'hover:bg-selected'}`}
              >
                {line.content}
              </button>
            </li>
          ))}
        </ul>
        <Legend />
        {children}
      </div>
    </div>
  );
}

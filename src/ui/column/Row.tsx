import type { Finding } from '@/core/findings/layout/finding';
import type { FoundEntry } from '@/core/layout/document';
import { isLocked } from '@/core/layout/kept';
import type { Placed, Stratum } from '@/core/placement/placement';
import { grouped, inBinary, inDecimal } from '@/core/quantity/units';
import { typeName } from '@/core/tables/types';
import { kindOf } from '@/core/filesystems/kinds';
import { Lock } from '../kit/Lock';
import { Mark } from '../kit/Mark';
import type { Band } from './geometry';
import type { OrderDrag } from './useOrderDrag';

/** Tracks of the lanes to the right of the column. */
export const LANES =
  'grid grid-cols-[minmax(100px,1fr)_236px_30px] items-center gap-x-3 @[864px]:grid-cols-[minmax(120px,1.1fr)_minmax(110px,1fr)_236px_84px_30px]';
/** A lane that only a wide log has. */
export const WIDE_LANE = 'hidden @[864px]:block';

function SlotName({ placed }: { placed: Placed }) {
  const { slot, entry } = placed;
  const marked = slot.kind === 'partition' && slot.active;
  return (
    <span className="min-w-0">
      <span className="block truncate">
        <b className="font-semibold">
          {isLocked(slot) && <Lock />}
          {entry ? `${entry.number} ` : ''}
          {slot.name}
        </b>{' '}
        {marked && <span className="text-soft">active</span>}
        {placed.recordAt !== undefined && <span className="text-soft"> logical</span>}
        {placed.startReason.rule === 'pinned' && !isLocked(slot) && <span className="text-soft"> pinned</span>}
      </span>
      <span className="block truncate font-mono text-sm text-soft">{kindText(placed)}</span>
    </span>
  );
}

/** What a slot is to the table. */
function kindText({ slot, entry }: Placed): string {
  if (entry) return typeName(entry.type);
  if (slot.kind === 'partition') return 'without a table';
  if (slot.kind === 'raw') return slot.keeps ? 'raw range, kept' : 'raw range';
  return 'free on purpose';
}

/** What stays in a kept partition. */
function Kept({ entry: { inside } }: { entry: FoundEntry }) {
  if (!inside) return <span className="text-soft">kept, not recognised</span>;
  return (
    <span className="min-w-0">
      <span className="block truncate">
        <b className="font-semibold">{inside.kind}</b> <span className="text-soft">kept</span>
      </span>
      {inside.label && <span className="block truncate font-mono text-sm text-soft">{inside.label}</span>}
    </span>
  );
}

/** What is in a partition: its kind, clusters where it has some, and what it is called. */
function Content({ placed: { slot, made }, kept }: { placed: Placed; kept: FoundEntry | undefined }) {
  if (slot.kind === 'raw' && slot.blob) return <span className="truncate font-mono text-sm">{slot.blob.name}</span>;
  if (slot.kind !== 'partition') return <span className="text-soft">–</span>;
  const { content } = slot;
  if (!content && kept) return <Kept entry={kept} />;
  if (!content) return <span className="text-soft">left to its system</span>;
  const kind = kindOf(content);
  const { clusters } = kind;
  const { word, detail } = kind.summary(content, made);
  const isLeft = content.kind === 'left';
  return (
    <span className="min-w-0">
      <span className="block truncate">
        {isLeft ? <span className="text-soft">{word}</span> : <b className="font-semibold">{word}</b>}{' '}
        {made &&
          (made.geometry.ok ? (
            `${inBinary(made.geometry.value.clusterBytes)} ${clusters?.field ?? 'cluster'}s`
          ) : (
            <span className="text-stop">cannot be</span>
          ))}
      </span>
      {detail !== undefined && <span className="block truncate font-mono text-sm text-soft">{detail}</span>}
    </span>
  );
}

function Size({ placed, sectorSize }: { placed: Placed; sectorSize: number }) {
  const { slot, sectors } = placed;
  const bytes = placed.span.end - placed.span.start;
  const asked = slot.kind === 'raw' ? slot.length : slot.size;
  const isSaid = /[GMK]iB$|^\d+ B$/.test(asked) && bytes === sectors * sectorSize;
  const got = isSaid ? inDecimal(bytes) : inBinary(bytes);
  return (
    <span className="min-w-0 font-mono text-sm" title={asked}>
      <span className={`line-clamp-2 break-words ${asked.length > 31 ? 'leading-[1.15]' : ''}`}>{asked}</span>
      <span className="block whitespace-nowrap text-soft">
        {got.startsWith('≈') ? got : `= ${got}`} · {grouped(sectors)} sec
      </span>
    </span>
  );
}

function Findings({ findings }: { findings: readonly Finding[] }) {
  const shown = findings.slice(0, 2);
  return (
    <span className="flex gap-1" title={findings.map((one) => one.sentence).join('\n')}>
      {shown.map((one, i) => (
        <Mark key={i} severity={one.severity} hollow={one.accepted !== undefined} />
      ))}
    </span>
  );
}

const GAP_NAMES: Readonly<Record<Extract<Stratum, { kind: 'gap' }>['cause'], string>> = {
  grain: 'lost to the grain',
  'before raw range': 'free, ahead of a raw range',
  'before pinned slot': 'free, ahead of a fixed slot',
  closed: 'closed to partitions',
  unclaimed: 'free, claimed by nobody',
};

function ThinRow({ stratum, sectorSize, hint }: { stratum: Stratum; sectorSize: number; hint: string | undefined }) {
  const { kind, sectors } = stratum;
  const name = kind === 'gap' ? GAP_NAMES[stratum.cause] : kind === 'table' ? stratum.text : '';
  return (
    <>
      <span className="truncate @[864px]:col-span-2">
        {name}
        {hint !== undefined && <span className="block">{hint}</span>}
      </span>
      <span className="truncate font-mono text-sm">
        {inBinary(sectors * sectorSize)} · {grouped(sectors)} sec
      </span>
    </>
  );
}

/** What a screen reader says of a stratum. */
function rowLabel(stratum: Stratum, sectorSize: number): string {
  const where = `sector ${grouped(stratum.start)}, ${inBinary(stratum.sectors * sectorSize)}`;
  if (stratum.kind === 'table') return `Table: ${stratum.text}, ${where}`;
  if (stratum.kind === 'gap') return `Free space, ${where}`;
  return `${stratum.placed.slot.name}, ${where}`;
}

interface Props {
  readonly id: string;
  readonly stratum: Stratum;
  readonly band: Band;
  readonly sectorSize: number;
  readonly selected: boolean;
  readonly findings: readonly Finding[];
  /** The partition that the slot keeps, as it was found. */
  readonly kept?: FoundEntry | undefined;
  /** What could be done with a free stratum. */
  readonly hint?: string | undefined;
  /** `adds`: to what is selected already. */
  readonly onSelect: (adds: boolean) => void;
  /** Handlers for dragging the slot to another place in the order. */
  readonly drag: OrderDrag | undefined;
}

/** One line of the log: the lanes of a stratum. */
export function Row({ id, stratum, band, sectorSize, selected, findings, kept, hint, onSelect, drag }: Props) {
  const placed = stratum.kind === 'slot' ? stratum.placed : undefined;
  const mount = placed?.slot.kind === 'partition' ? placed.slot.mount : undefined;
  return (
    // The keyboard works on the listbox that holds the rows.
    <div
      id={id}
      role="option"
      aria-selected={selected}
      aria-label={rowLabel(stratum, sectorSize)}
      onClick={(event) => onSelect(event.shiftKey || event.ctrlKey || event.metaKey)}
      {...drag?.handlers}
      style={{ top: band.y, height: band.height }}
      className={`absolute inset-x-0 cursor-default border-b border-hair pl-2 ${LANES} ${selected ? 'bg-selected' : ''} ${placed ? '' : 'text-soft'} ${drag?.mark === 'above' ? 'border-t-2 border-t-clay' : drag?.mark === 'below' ? 'border-b-2 border-b-clay' : ''}`}
    >
      {placed ? (
        <>
          <SlotName placed={placed} />
          <span className={`min-w-0 ${WIDE_LANE}`}>
            <Content placed={placed} kept={kept} />
          </span>
          <Size placed={placed} sectorSize={sectorSize} />
          <span className={`truncate font-mono text-sm ${WIDE_LANE}`}>{mount ?? ''}</span>
        </>
      ) : (
        <>
          <ThinRow stratum={stratum} sectorSize={sectorSize} hint={hint} />
          <span className={WIDE_LANE} />
        </>
      )}
      <Findings findings={findings} />
    </div>
  );
}

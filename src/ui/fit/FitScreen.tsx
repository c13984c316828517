'use client';

import dynamic from 'next/dynamic';
import Link from 'next/link';
import { type ReactNode, useState } from 'react';
import type { LayoutView } from '@/contract/layouts';
import { FIT_LIMIT, type Fit, type FitColumn, fitOn, usualSet } from '@/core/advice/fit';
import { stopsAmong } from '@/core/findings/layout/finding';
import type { Layout, MediumSpec } from '@/core/layout/document';
import { mediumText } from '@/core/layout/medium-spec';
import { KIND_NAMES, MEDIUM_KINDS, type MediumKind } from '@/core/medium/medium';
import type { Stratum } from '@/core/placement/placement';
import { parseExact } from '@/core/quantity/size-language';
import { grouped, inBinary, inBoth } from '@/core/quantity/units';
import { Correlated } from '../column/Correlated';
import type { Scale } from '../column/geometry';
import { Patterns } from '../column/Patterns';
import { ScaleChoice } from '../column/ScaleChoice';
import { tally } from '@/core/findings/tally';
import { Button, buttonClass } from '../kit/Button';
import { Choice } from '../kit/Choice';
import { Mark } from '../kit/Mark';
import { Select } from '../kit/Select';
import { exactEcho } from '../kit/size-echo';
import { FactTable } from '../kit/Table';
import { TopBar } from '../kit/TopBar';

/** Charts come with their first use. */
const BarChart = dynamic(() => import('../chart/BarChart').then((file) => file.BarChart));

function sizeText({ capacity }: MediumSpec): string {
  return 'nominal' in capacity ? capacity.nominal : capacity.exact;
}

function slackText({ slack }: FitColumn): string {
  if (slack === undefined) return 'no size works';
  return slack < 0 ? `lacks ${inBoth(-slack)}` : `${inBoth(slack)} spare`;
}

function Head({ column, onRemove }: { column: FitColumn; onRemove: (() => void) | undefined }) {
  const { medium, placement, works } = column;
  return (
    <>
      <p className="flex items-center gap-1.5">
        <b className="truncate font-semibold">{mediumText(medium)}</b>
        {!works && <Mark severity="stop" />}
        <span className="flex-1" />
        {onRemove && (
          <Button look="quiet" className="px-1 py-0" onClick={onRemove} aria-label={`Leave out ${sizeText(medium)}`}>
            ×
          </Button>
        )}
      </p>
      <p className="truncate font-mono text-sm text-soft">{inBoth(placement.medium.capacity)}</p>
      <p className="truncate font-mono text-sm text-soft">{grouped(placement.sectors)} sec</p>
      <p className={`truncate text-sm ${works ? 'text-soft' : 'text-stop'}`}>
        {works || column.slack === undefined || column.slack < 0 ? slackText(column) : 'does not work'}
      </p>
    </>
  );
}

function stratumLabel(stratum: Stratum, sectorSize: number): ReactNode {
  if (stratum.kind !== 'slot') return null;
  return (
    <>
      <span className="block truncate text-sm font-semibold">{stratum.placed.slot.name}</span>
      <span className="block truncate font-mono text-xs text-soft">{inBinary(stratum.sectors * sectorSize)}</span>
    </>
  );
}

/** A field for one more medium of the set. */
function AddMedium({ layout, onAdd }: { layout: Layout; onAdd: (medium: MediumSpec) => void }) {
  const [text, setText] = useState('');
  const [kind, setKind] = useState<MediumKind>(layout.medium.kind);
  const [sectors, setSectors] = useState(`${layout.medium.logicalSector}`);
  const read = parseExact(text);
  const echo = text.trim() === '' ? undefined : exactEcho(512)(text);
  const add = () => {
    if (!read.ok) return;
    const logicalSector = sectors === '4096' ? 4096 : 512;
    const capacity = kind === 'image' ? { exact: text.trim() } : { nominal: text.trim() };
    const physicalSector = logicalSector === 4096 ? 4096 : layout.medium.physicalSector;
    onAdd({ ...layout.medium, kind, capacity, logicalSector, physicalSector });
    setText('');
  };
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        add();
      }}
    >
      <label className="flex items-center gap-1.5">
        <span className="text-soft">One more</span>
        <input
          value={text}
          onChange={(event) => setText(event.target.value)}
          placeholder="16 GB"
          aria-label="Size of one more medium"
          aria-invalid={echo?.wrong ?? false}
          className={`w-28 rounded-[5px] border bg-paper px-2 py-[2px] font-mono text-sm ${echo?.wrong ? 'border-stop' : 'border-edge'}`}
        />
      </label>
      <span className="w-36">
        <Select
          label="Kind of the medium"
          value={kind}
          options={MEDIUM_KINDS.map((value) => ({ value, text: KIND_NAMES[value] }))}
          onChange={setKind}
        />
      </span>
      <Choice
        label="Sectors of the medium"
        dense
        value={sectors}
        options={[
          { value: '512', text: '512 B' },
          { value: '4096', text: '4096 B' },
        ]}
        onChange={setSectors}
      />
      <Button type="submit" disabled={!read.ok}>
        Add it
      </Button>
      {echo && <span className={`text-sm ${echo.wrong ? 'text-stop' : 'text-soft'}`}>{echo.text}</span>}
    </form>
  );
}

function Breaks({ fit }: { fit: Fit }) {
  const broken = fit.columns.flatMap((column) => [
    ...stopsAmong(column.findings).map((one) => ({ column, severity: 'stop' as const, sentence: one.sentence })),
    ...(column.moved ? [{ column, severity: 'risk' as const, sentence: column.moved }] : []),
  ]);
  return (
    <section aria-label="What breaks">
      <h2 className="text-base font-semibold">What breaks</h2>
      {broken.length === 0 && <p className="text-soft">Nothing: the layout works on every medium of the set.</p>}
      <ul>
        {broken.map(({ column, severity, sentence }, i) => (
          <li key={i} className="grid grid-cols-[14px_110px_1fr] items-baseline gap-2 border-b border-hair py-1">
            <Mark severity={severity} />
            <span className="font-mono text-sm">{sizeText(column.medium)}</span>
            <span>{sentence}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Grows({ layout, fit }: { layout: Layout; fit: Fit }) {
  const rows = layout.slots.map((slot) => ({
    key: slot.id,
    cells: [
      slot.name,
      ...fit.columns.map(({ placement }) => {
        const { span, sectors } = placement.placed.find((one) => one.slot.id === slot.id)!;
        return `${inBinary(span.end - span.start)} · ${grouped(sectors)} sec`;
      }),
    ],
  }));
  return (
    <section aria-label="What grows">
      <h2 className="text-base font-semibold">What grows</h2>
      <p className="text-soft">
        {fit.growing.length === 0
          ? 'Every slot is the same on all of them.'
          : `${fit.growing.map((one) => one.name).join(', ')} ${fit.growing.length === 1 ? 'differs' : 'differ'} between them; the others are the same everywhere.`}
      </p>
      <FactTable
        columns={[{ title: 'slot' }, ...fit.columns.map(({ medium }) => ({ title: sizeText(medium), figures: true }))]}
        rows={rows}
      />
    </section>
  );
}

function FitChart({ layout, fit }: { layout: Layout; fit: Fit }) {
  const series = layout.slots.map((slot) => ({
    name: slot.name,
    bytes: fit.columns.map(({ placement }) => {
      const { span } = placement.placed.find((one) => one.slot.id === slot.id)!;
      return span.end - span.start;
    }),
  }));
  return (
    <div style={{ height: 80 + fit.columns.length * 34 }}>
      <BarChart
        label={`How the space divides on ${fit.columns.map(({ medium }) => sizeText(medium)).join(', ')}; the table above has the figures`}
        names={fit.columns.map(({ medium }) => sizeText(medium))}
        series={series}
        stacked
      />
    </div>
  );
}

/** The layout on a set of media side by side. */
export function FitScreen({ view }: { view: LayoutView }) {
  const layout = view.document;
  const [media, setMedia] = useState<readonly MediumSpec[]>(() => usualSet(layout));
  const [scale, setScale] = useState<Scale>('legible');
  const [chart, setChart] = useState(false);
  const fit = fitOn(layout, media);
  const width = Math.max(150, Math.min(230, Math.floor(1200 / media.length)));
  return (
    <div className="flex min-h-screen min-w-[960px] flex-col">
      <Patterns />
      <TopBar title={layout.name} detail="fit: one layout on several media">
        <Link className={buttonClass()} href={`/layouts/${view.id}`}>
          Back to the designer
        </Link>
      </TopBar>
      <div className="flex flex-wrap items-center gap-4 border-b border-line px-5 py-2">
        <p>
          <span className="block text-xs text-soft">Smallest {KIND_NAMES[layout.medium.kind]} that works</span>
          {fit.least === undefined ? (
            <b className="font-semibold text-stop">none: slots lie over fixed places, or ask for too much</b>
          ) : (
            <>
              <b className="font-semibold">{inBoth(fit.least)}</b>{' '}
              <span className="font-mono text-sm text-soft">
                {grouped(fit.least / layout.medium.logicalSector)} sectors of {layout.medium.logicalSector} ·{' '}
                {grouped(fit.least)} bytes
              </span>
            </>
          )}
        </p>
        <span className="flex-1" />
        <ScaleChoice value={scale} onChange={setScale} />
        {media.length < FIT_LIMIT && <AddMedium layout={layout} onAdd={(medium) => setMedia([...media, medium])} />}
        {media.length >= FIT_LIMIT && <span className="text-soft">A set has {FIT_LIMIT} media at most.</span>}
      </div>
      <main id="main" tabIndex={-1} className="grid grid-cols-[minmax(0,1fr)] gap-6 px-5 py-4">
        <div className="overflow-x-auto" tabIndex={0} aria-label="Columns, side by side">
          <Correlated
            label="The layout on each medium, joined slot by slot"
            columns={fit.columns.map((column, i) => ({
              key: `${i}`,
              placement: column.placement,
              head: (
                <Head column={column} onRemove={media.length > 1 ? () => setMedia(media.toSpliced(i, 1)) : undefined} />
              ),
              label: (stratum) => stratumLabel(stratum, column.placement.sectorSize),
            }))}
            scale={scale}
            height={360}
            width={width}
          />
        </div>
        <section aria-label="On each medium">
          <h2 className="text-base font-semibold">On each</h2>
          <FactTable
            columns={[
              { title: 'medium' },
              { title: 'capacity', figures: true },
              { title: 'grain', figures: true },
              { title: 'spare or lacking', figures: true },
              { title: 'findings' },
            ]}
            rows={fit.columns.map((column, i) => ({
              key: i,
              wrong: !column.works,
              cells: [
                mediumText(column.medium),
                inBoth(column.placement.medium.capacity, 'decimal'),
                inBinary(column.placement.grain.bytes),
                slackText(column),
                tally(column.findings),
              ],
            }))}
          />
        </section>
        <Grows layout={layout} fit={fit} />
        <Breaks fit={fit} />
        <section aria-label="As a chart">
          <Button onClick={() => setChart(!chart)} aria-expanded={chart}>
            {chart ? 'Put the chart away' : 'Show it as a chart'}
          </Button>
          {chart && <FitChart layout={layout} fit={fit} />}
        </section>
      </main>
    </div>
  );
}

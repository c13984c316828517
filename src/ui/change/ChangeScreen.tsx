'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useMemo } from 'react';
import type { BuildView } from '@/contract/builds';
import type { Candidate, ChangeView } from '@/contract/changes';
import type { LayoutView } from '@/contract/layouts';
import { type Becoming, stakeWords } from '@/core/change/before-after';
import { openRisks } from '@/core/findings/layout/acceptance';
import { stopsAmong } from '@/core/findings/layout/finding';
import { place } from '@/core/placement/place';
import { grouped, inBinary, inBoth } from '@/core/quantity/units';
import { typeName } from '@/core/tables/types';
import { startChange, surveyUrl } from '../api';
import { Order } from './Order';
import { Objections, obstacleText } from '../build/Objections';
import { Patterns } from '../column/Patterns';
import { useHeight } from '../column/useHeight';
import { buttonClass } from '../kit/Button';
import { FactTable } from '../kit/Table';
import { TopBar } from '../kit/TopBar';
import { layersOf } from '../survey/layers';
import { ChangedColumns } from './ChangedColumns';
import { Left, Written } from './Written';

interface Props {
  readonly view: LayoutView;
  /** The change on the image that was chosen, why there is none, or nothing where none is chosen. */
  readonly change: ChangeView | string | undefined;
  readonly candidates: readonly Candidate[];
  readonly of: string | undefined;
  readonly first: readonly BuildView[];
}

function ImageChoice({ view, candidates, of }: Pick<Props, 'view' | 'candidates' | 'of'>) {
  const router = useRouter();
  return (
    <label className="flex items-center gap-2">
      <span className="text-soft">On the image</span>
      <select
        value={of ?? ''}
        onChange={(event) => router.push(`/layouts/${view.id}/change?of=${encodeURIComponent(event.target.value)}`)}
        className="rounded-[5px] border border-edge bg-card px-1 py-[3px]"
      >
        {candidates.every((one) => one.of !== of) && <option value={of ?? ''}>{of ?? 'none has its size'}</option>}
        {candidates.map((one) => (
          <option key={one.of} value={one.of}>
            {one.name}
          </option>
        ))}
      </select>
    </label>
  );
}

function SideCell({ side, sectorSize }: { side: Becoming['before']; sectorSize: number }) {
  if (!side) return '–';
  const { number, start, sectors } = side;
  return (
    <>
      <span className="block">
        {number === 0 ? '' : `${number}: `}
        {inBinary(sectors * sectorSize)}
      </span>
      <span className="block text-soft">
        {grouped(start)} – {grouped(start + sectors - 1)}
      </span>
    </>
  );
}

const once = (was: string | undefined, is: string | undefined) =>
  was && is && was !== is ? `${was}, then ${is}` : (is ?? was ?? '');

/** Every partition with what becomes of it. */
function Fates({ rows, sectorSize }: { rows: readonly Becoming[]; sectorSize: number }) {
  return (
    <FactTable
      columns={[
        { title: 'partition' },
        { title: 'becomes' },
        { title: 'before', figures: true },
        { title: 'after', figures: true },
      ]}
      rows={rows.map(({ key, fates, before, after, atStake }) => ({
        key,
        wrong: atStake > 0,
        cells: [
          <span key="name" className="block max-w-56">
            <b className="font-semibold">{(after ?? before)!.name}</b>
            <span className="block text-sm text-soft">{once(before?.inside, after?.inside)}</span>
            <span className="block text-sm text-soft">
              {once(before?.type && typeName(before.type), after?.type && typeName(after.type))}
            </span>
          </span>,
          fates.join(', '),
          <SideCell key="before" side={before} sectorSize={sectorSize} />,
          <SideCell key="after" side={after} sectorSize={sectorSize} />,
        ],
      }))}
    />
  );
}

function Shown({ view, change, first }: { view: LayoutView; change: ChangeView; first: readonly BuildView[] }) {
  const [frame, height] = useHeight();
  const placement = useMemo(() => place(view.document), [view.document]);
  const layers = useMemo(() => layersOf(change.survey), [change.survey]);
  const names = new Map(view.document.slots.map(({ id, name }) => [id, name]));
  const { sectorSize } = placement;
  const obstacle =
    change.refused.length > 0
      ? change.isOther
        ? 'This image is not the one that the layout was made from.'
        : 'This image cannot become what the layout says.'
      : obstacleText(stopsAmong(change.findings).length, openRisks(change.findings).length);
  const words = change.rows.flatMap((one) =>
    one.words.map((text) => ({ name: (one.after ?? one.before)!.name, text })),
  );
  return (
    <main
      id="main"
      tabIndex={-1}
      className="grid min-h-0 flex-1 grid-cols-[576px_1fr] max-[1180px]:grid-cols-[560px_1fr]"
    >
      <section aria-label="Columns" ref={frame} className="min-h-0 overflow-y-auto border-r border-line px-2 py-2">
        <ChangedColumns layers={layers} placement={placement} rows={change.rows} height={height - 20} />
      </section>
      <section aria-label="What becomes of it" className="overflow-y-auto bg-card px-5 py-3">
        {change.refused.length > 0 && (
          <div role="alert" className="mb-3 text-stop">
            <p>
              “{change.name}”{' '}
              {change.isOther ? 'is not what the layout was made from' : 'cannot become what the layout says'}:
            </p>
            <ul className="list-disc pl-5">
              {change.refused.map((one) => (
                <li key={one}>{one}</li>
              ))}
            </ul>
          </div>
        )}
        <h2 className="text-base font-semibold">Partition by partition</h2>
        <p className={change.rows.some(({ atStake }) => atStake > 0) ? 'text-stop' : 'text-soft'}>
          {stakeWords(change.rows)}
        </p>
        <Fates rows={change.rows} sectorSize={sectorSize} />
        {words.length > 0 && (
          <ul className="mt-2 list-disc pl-5">
            {words.map(({ name, text }, i) => (
              <li key={i}>
                <b className="font-semibold">{name}</b>: {text}
              </li>
            ))}
          </ul>
        )}
        <h2 className="mt-4 text-base font-semibold">What will be written</h2>
        <Written ranges={change.ranges} names={names} />
        <h2 className="mt-4 text-base font-semibold">What would be found afterwards</h2>
        <Left left={change.left} />
        <h2 className="mt-4 text-base font-semibold">What stands against it</h2>
        <Objections view={view} findings={change.findings} />
        <Order
          name={change.name}
          obstacle={obstacle}
          order={() => startChange({ layoutId: view.id, revision: change.revision, of: change.of, mark: change.mark })}
          first={first}
          slots={view.document.slots}
        />
      </section>
    </main>
  );
}

/** Before and after: what was found beside what is planned, and the new image that is made of both. */
export function ChangeScreen({ view, change, candidates, of, first }: Props) {
  return (
    <div className="flex h-(--page) min-w-[960px] flex-col overflow-hidden">
      <Patterns />
      <TopBar title={view.document.name} detail={`revision ${view.revision}: before and after`}>
        {of !== undefined && (
          <Link className={buttonClass()} href={surveyUrl(of)}>
            Survey of the image
          </Link>
        )}
        <Link className={buttonClass()} href={`/layouts/${view.id}`}>
          Back to the designer
        </Link>
      </TopBar>
      <div className="flex items-center gap-4 border-b border-line px-4 py-1.5">
        <ImageChoice view={view} candidates={candidates} of={of} />
        <span className="text-soft">
          Images of {inBoth(view.document.found?.size ?? 0)}, as the one that was surveyed.
        </span>
      </div>
      {change === undefined && (
        <main id="main" tabIndex={-1} className="px-5 py-4">
          <p>
            No image of that size is here. Put the one that was surveyed into the folder of images, or upload it on the
            shelf.
          </p>
        </main>
      )}
      {typeof change === 'string' && (
        <main id="main" tabIndex={-1} className="px-5 py-4">
          <p role="alert" className="text-stop">
            {change}
          </p>
        </main>
      )}
      {typeof change === 'object' && <Shown view={view} change={change} first={first} />}
    </div>
  );
}

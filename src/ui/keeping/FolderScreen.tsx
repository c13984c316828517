'use client';

import Link from 'next/link';
import { type ReactNode, useState } from 'react';
import type { Amount, FolderOrder, Holdings, KeptDay } from '@/contract/keeping';
import { counted, grouped, inBinary, inBoth } from '@/core/quantity/units';
import { Button, buttonClass } from '../kit/Button';
import { FactTable } from '../kit/Table';
import { TopBar } from '../kit/TopBar';
import { CheckSection } from './CheckSection';
import { LimitFields } from './LimitFields';
import { useHoldings } from './useHoldings';

type Order = (order: FolderOrder) => void;

/** A button that asks once more before something goes for good. */
function SureButton({
  text,
  sure,
  disabled,
  onSure,
}: {
  text: string;
  sure: string;
  disabled: boolean;
  onSure: () => void;
}) {
  const [asks, setAsks] = useState(false);
  if (!asks)
    return (
      <Button disabled={disabled} onClick={() => setAsks(true)}>
        {text}
      </Button>
    );
  return (
    <span className="inline-flex flex-wrap items-center gap-1">
      <Button
        disabled={disabled}
        onClick={() => {
          setAsks(false);
          onSure();
        }}
      >
        {sure}
      </Button>
      <Button look="quiet" onClick={() => setAsks(false)}>
        Leave it
      </Button>
    </span>
  );
}

function Unnamed({
  holdings: { unnamed, doubts },
  isBusy,
  order,
}: {
  holdings: Holdings;
  isBusy: boolean;
  order: Order;
}) {
  if (unnamed.number === 0) return <span className="text-soft">nothing that no layout names</span>;
  return (
    <span className="block">
      {counted(unnamed.number, 'file')}, {inBinary(unnamed.bytes)}, that no revision names.{' '}
      {doubts[0] !== undefined && <span className="block text-risk">They stay for now: {doubts[0]}</span>}
      <Button disabled={isBusy} onClick={() => order({ do: 'sweep' })}>
        Move them to the trash
      </Button>
    </span>
  );
}

function BuildsOver({ holdings, isBusy, order }: { holdings: Holdings; isBusy: boolean; order: Order }) {
  const { builds, overWithout } = holdings;
  return (
    <span className="flex flex-wrap gap-1">
      {overWithout > 0 && (
        <Button disabled={isBusy} onClick={() => order({ do: 'remove builds', which: 'without image' })}>
          Remove {counted(overWithout, 'build')} without an image
        </Button>
      )}
      {builds.number > 0 && (
        <SureButton
          text="Remove all builds that are over"
          sure={`Remove them and ${counted(builds.number, 'image')} for good`}
          disabled={isBusy}
          onSure={() => order({ do: 'remove builds', which: 'all' })}
        />
      )}
      {overWithout + builds.number === 0 && <span className="text-soft">none</span>}
    </span>
  );
}

const daysText = (days: readonly KeptDay[]): Amount => ({
  number: days.reduce((sum, { number }) => sum + number, 0),
  bytes: days.reduce((sum, { bytes }) => sum + bytes, 0),
});

/** What lies in the folder, row by row, each with what could go. */
function HoldingsTable({ holdings, isBusy, order }: { holdings: Holdings; isBusy: boolean; order: Order }) {
  const trash = daysText(holdings.trash);
  const quarantine = daysText(holdings.quarantine);
  const row = (name: string, { number, bytes }: Amount, could: ReactNode) => ({
    key: name,
    cells: [
      <span key="name" className="whitespace-nowrap">
        {name}
      </span>,
      grouped(number),
      inBoth(bytes),
      could,
    ],
  });
  const stays = <span className="text-soft">stays: every change can be undone</span>;
  return (
    <FactTable
      columns={[
        { title: 'what' },
        { title: 'number', figures: true },
        { title: 'on the disk', figures: true },
        { title: 'what could go' },
      ]}
      rows={[
        row('Revisions of layouts', holdings.revisions, stays),
        row('Contents', holdings.contents, <Unnamed holdings={holdings} isBusy={isBusy} order={order} />),
        row('Images built here', holdings.builds, <BuildsOver holdings={holdings} isBusy={isBusy} order={order} />),
        row('Image files', holdings.images, <span className="text-soft">each by hand, on the shelf</span>),
        row('Trash', trash, <span className="text-soft">by itself after thirty days; see below</span>),
        row('Quarantine', quarantine, <span className="text-soft">never by itself: it may be all that is left</span>),
        row(
          'Database copies',
          holdings.backups,
          <span className="text-soft">never by itself: from before each change of its form</span>,
        ),
      ]}
    />
  );
}

function Trash({ holdings, isBusy, order }: { holdings: Holdings; isBusy: boolean; order: Order }) {
  const days = holdings.trash.filter(({ number }) => number > 0);
  if (days.length === 0)
    return (
      <p className="text-soft">Empty. What no revision names comes here, and comes back when one names it again.</p>
    );
  return (
    <>
      <FactTable
        columns={[
          { title: 'went on', mono: true },
          { title: 'files', figures: true },
          { title: 'bytes', figures: true },
          { title: '' },
        ]}
        rows={days.map(({ day, number, bytes }) => ({
          key: day,
          cells: [
            day,
            grouped(number),
            inBoth(bytes),
            <Button key="back" look="quiet" disabled={isBusy} onClick={() => order({ do: 'bring back', day })}>
              Bring back
            </Button>,
          ],
        }))}
      />
      <p className="mt-1.5">
        <SureButton
          text="Empty the trash"
          sure="Delete all of it for good"
          disabled={isBusy}
          onSure={() => order({ do: 'empty the trash' })}
        />
      </p>
    </>
  );
}

/** The page of the data folder: what it holds, what could go, and whether all of it is sound. */
export function FolderScreen({ first }: { readonly first: Holdings }) {
  const { holdings, refused, isBusy, order } = useHoldings(first);
  const act: Order = (what) => void order(what);
  const { root, disk } = holdings;
  return (
    <div className="flex h-(--page) min-w-[960px] flex-col overflow-hidden">
      <TopBar title="Data folder" detail={`${root}: ${inBoth(disk.free)} free of ${inBoth(disk.size)}`}>
        <Link className={buttonClass()} href="/">
          Back to the shelf
        </Link>
      </TopBar>
      {refused !== undefined && (
        <p role="alert" className="border-b border-line bg-selected px-5 py-1 text-stop">
          {refused}
        </p>
      )}
      <main id="main" tabIndex={-1} className="grid min-h-0 flex-1 grid-cols-[1fr_430px]">
        <section aria-label="What it holds" className="overflow-y-auto px-5 py-3">
          <h2 className="text-base font-semibold">What it holds</h2>
          <HoldingsTable holdings={holdings} isBusy={isBusy} order={act} />
          <h2 className="mt-5 text-base font-semibold">Trash</h2>
          <Trash holdings={holdings} isBusy={isBusy} order={act} />
          <h2 className="mt-5 text-base font-semibold">Limits</h2>
          <LimitFields limits={holdings.limits} onChange={(limits) => act({ do: 'limit', ...limits })} />
        </section>
        <CheckSection check={holdings.check} isBusy={isBusy} order={act} />
      </main>
    </div>
  );
}

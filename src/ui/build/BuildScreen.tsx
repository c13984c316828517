'use client';

import Link from 'next/link';
import { useState } from 'react';
import type { BuildView } from '@/contract/builds';
import type { LayoutView } from '@/contract/layouts';
import { lengthOf } from '@/core/bytes/extents';
import { compose, type DefinedRange } from '@/core/compose/compose';
import { openRisks } from '@/core/findings/acceptance';
import { check, stopsAmong } from '@/core/findings/check';
import type { Finding } from '@/core/findings/finding';
import { place } from '@/core/placement/place';
import type { Placement } from '@/core/placement/placement';
import { inBinary, inBoth } from '@/core/quantity/units';
import { startBuild } from '../api';
import { MiniColumn } from '../column/MiniColumn';
import { Patterns } from '../column/Patterns';
import { Button, buttonClass } from '../kit/Button';
import { Mark } from '../kit/Mark';
import { Table } from '../kit/Table';
import { TopBar } from '../kit/TopBar';
import { BuildCard } from './BuildCard';
import { useBuilds } from './useBuilds';

/** What a build of this placement writes for one owner. */
interface Portion {
  readonly name: string;
  readonly ranges: number;
  readonly written: number;
  readonly zeros: number;
}

function portions(placement: Placement, ranges: readonly DefinedRange[]): Portion[] {
  const owners = [...new Set(ranges.map((range) => range.owner))];
  const nameOf = (owner: string | undefined) =>
    placement.layout.slots.find((slot) => slot.id === owner)?.name ?? 'Table and ends of the medium';
  return owners.map((owner) => {
    const own = ranges.filter((range) => range.owner === owner);
    const sum = (zeros: boolean) =>
      own.reduce((total, { extent }) => ('zeros' in extent === zeros ? total + lengthOf(extent) : total), 0);
    return {
      name: nameOf(owner),
      ranges: own.length,
      written: sum(false),
      zeros: sum(true),
    };
  });
}

function Plan({ placement }: { placement: Placement }) {
  return (
    <Table
      columns={[
        { title: 'part' },
        { title: 'ranges', figures: true },
        { title: 'written', figures: true },
        { title: 'zeros defined', figures: true },
      ]}
      rows={portions(placement, compose(placement)).map((row) => ({
        key: row.name,
        cells: [row.name, row.ranges, inBinary(row.written), inBinary(row.zeros)],
      }))}
    />
  );
}

function Objections({ findings, layoutId }: { findings: readonly Finding[]; layoutId: string }) {
  const objections = findings.filter((one) => one.severity !== 'note');
  if (objections.length === 0) return <p className="mt-2 text-soft">No stop and no risk stands against a build.</p>;
  return (
    <ul className="mt-2">
      {objections.map((finding, i) => (
        <li key={i} className="grid grid-cols-[14px_1fr] items-baseline gap-2 border-t border-hair py-1">
          <Mark severity={finding.severity} hollow={finding.accepted !== undefined} />
          <span>
            {finding.sentence} <span className="text-soft">{finding.why}</span>
            {finding.accepted !== undefined && (
              <b className="block font-semibold text-moss">Accepted: {finding.accepted}</b>
            )}
          </span>
        </li>
      ))}
      {stopsAmong(findings).length + openRisks(findings).length > 0 && (
        <li className="border-t border-hair py-1">
          Stops and open risks prevent a build.{' '}
          <Link className="underline" href={`/layouts/${layoutId}`}>
            Back to the designer
          </Link>
          , where most have a remedy, and risks can be accepted.
        </li>
      )}
    </ul>
  );
}

/** What prevents a build, said at the button. */
function obstacleText(stops: number, risks: number): string | undefined {
  if (stops > 0) return `${stops === 1 ? 'A stop prevents' : `${stops} stops prevent`} it; see the left.`;
  if (risks === 0) return undefined;
  return `${risks === 1 ? 'A risk waits' : `${risks} risks wait`} to be mended, or accepted with a reason; see the left.`;
}

/** The screen where a layout becomes an image. */
export function BuildScreen({ view, first }: { view: LayoutView; first: readonly BuildView[] }) {
  const placement = place(view.document);
  const { builds, add, refresh } = useBuilds(first);
  const [refused, setRefused] = useState<string>();
  const findings = check(placement);
  const stops = stopsAmong(findings).length;
  const open = openRisks(findings).length;
  const isStopped = stops > 0;
  const obstacle = obstacleText(stops, open);
  const start = async () => {
    const answer = await startBuild(view.id, view.revision);
    if (answer.ok) add(answer.value);
    setRefused(answer.ok ? undefined : answer.error.sentence);
  };
  return (
    <div className="flex h-screen min-w-[1080px] flex-col overflow-hidden">
      <Patterns />
      <TopBar title={view.document.name} aside={`revision ${view.revision}: build an image`}>
        <Link className={buttonClass()} href={`/layouts/${view.id}`}>
          Back to the designer
        </Link>
      </TopBar>
      <main className="grid min-h-0 flex-1 grid-cols-[440px_1fr]">
        <section aria-label="What will be written" className="overflow-y-auto border-r border-line bg-card px-5 py-4">
          <h2 className="text-base font-semibold">What will be written</h2>
          <p className="mb-2 text-soft">
            A new image file of {inBoth(placement.medium.capacity)}, sparse: zeros take no room on disk. Nothing else is
            touched.
          </p>
          <div className="flex gap-4">
            <MiniColumn placement={placement} width={46} height={210} />
            <div className="min-w-0 flex-1">
              {isStopped ? <p className="text-soft">Not computed while stops stand.</p> : <Plan placement={placement} />}
            </div>
          </div>
          <h2 className="mt-4 text-base font-semibold">What stands against it</h2>
          <Objections findings={findings} layoutId={view.id} />
        </section>
        <section aria-label="Builds" className="overflow-y-auto px-5 py-4">
          <div className="mb-3 flex items-center gap-3">
            <Button look="primary" onClick={() => void start()} disabled={obstacle !== undefined} className="px-4 py-1.5">
              Build revision {view.revision}
            </Button>
            <span className="text-soft">
              {obstacle ?? 'Written to a temporary file, read back, then named.'}
            </span>
          </div>
          {refused && (
            <p role="alert" className="mb-3 text-stop">
              {refused}
            </p>
          )}
          {builds.length === 0 && (
            <p className="text-soft">
              No image yet. Build one: it takes about a second, and every range is read back and compared.
            </p>
          )}
          {builds.map((build) => (
            <BuildCard key={build.id} build={build} slots={view.document.slots} onChange={refresh} />
          ))}
        </section>
      </main>
    </div>
  );
}

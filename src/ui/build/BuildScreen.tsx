'use client';

import Link from 'next/link';
import { useState } from 'react';
import type { BuildPlan, BuildView } from '@/contract/builds';
import type { LayoutView } from '@/contract/layouts';
import { openRisks } from '@/core/findings/layout/acceptance';
import { stopsAmong } from '@/core/findings/layout/finding';
import { sameInEveryCopy } from '@/core/layout/series';
import { COPY_LIMIT } from '@/core/layout/vocabulary';
import { place } from '@/core/placement/place';
import { grouped, inBinary, inBoth } from '@/core/quantity/units';
import { startBuild } from '../api';
import { MiniColumn } from '../column/MiniColumn';
import { Patterns } from '../column/Patterns';
import { Button, buttonClass } from '../kit/Button';
import { FactTable } from '../kit/Table';
import { TopBar } from '../kit/TopBar';
import { BuildCard } from './BuildCard';
import { Objections, obstacleText } from './Objections';
import { useBuilds } from './useBuilds';

function Plan({ portions }: { portions: BuildPlan['portions'] }) {
  return (
    <FactTable
      columns={[
        { title: 'part' },
        { title: 'ranges', figures: true },
        { title: 'written', figures: true },
        { title: 'zeros defined', figures: true },
      ]}
      rows={portions.map((row, i) => ({
        key: i,
        cells: [row.name, grouped(row.ranges), inBinary(row.written), inBinary(row.zeros)],
      }))}
    />
  );
}

/** The screen where a layout becomes an image. */
export function BuildScreen({ view, plan, first }: { view: LayoutView; plan: BuildPlan; first: readonly BuildView[] }) {
  const placement = place(view.document);
  const { builds, add, refresh } = useBuilds(first);
  const [refused, setRefused] = useState<string>();
  const { findings, portions } = plan;
  const [copy, setCopy] = useState(0);
  const stops = stopsAmong(findings).length;
  const open = openRisks(findings).length;
  const isStopped = stops > 0;
  const obstacle = obstacleText(stops, open);
  const start = async () => {
    const answer = await startBuild(view.id, view.revision, copy);
    if (answer.ok) add(answer.value);
    setRefused(answer.ok ? undefined : answer.error.sentence);
  };
  return (
    <div className="flex h-(--page) min-w-[960px] flex-col overflow-hidden">
      <Patterns />
      <TopBar title={view.document.name} detail={`revision ${view.revision}: build an image`}>
        <Link className={buttonClass()} href={`/layouts/${view.id}/hand-over`}>
          Hand over
        </Link>
        <Link className={buttonClass()} href={`/layouts/${view.id}`}>
          Back to the designer
        </Link>
      </TopBar>
      <main id="main" tabIndex={-1} className="grid min-h-0 flex-1 grid-cols-[440px_1fr] max-[1180px]:grid-cols-[380px_1fr]">
        <section aria-label="What will be written" className="overflow-y-auto border-r border-line bg-card px-5 py-4">
          <h2 className="text-base font-semibold">What will be written</h2>
          <p className="mb-2 text-soft">
            A new image file of {inBoth(placement.medium.capacity)}, sparse: zeros take no room on disk. Written to a
            temporary file, read back, then named; nothing else is touched.
          </p>
          <div className="flex gap-4">
            <div className="max-[1180px]:hidden">
              <MiniColumn placement={placement} width={46} height={210} />
            </div>
            <div className="min-w-0 flex-1">
              {isStopped ? <p className="text-soft">Not computed while stops stand.</p> : <Plan portions={portions} />}
            </div>
          </div>
          <h2 className="mt-4 text-base font-semibold">What stands against it</h2>
          <Objections view={view} findings={findings} />
        </section>
        <section aria-label="Builds" className="overflow-y-auto px-5 py-4">
          <div className="mb-3 flex items-center gap-3">
            <Button look="primary" onClick={() => void start()} disabled={obstacle !== undefined} className="px-4 py-1.5">
              Build revision {view.revision}
              {copy > 0 && `, copy ${copy}`}
            </Button>
            <label className="flex items-center gap-2">
              <span className="text-soft">copy</span>
              <input
                type="number"
                min={0}
                max={COPY_LIMIT}
                value={copy}
                onChange={(event) => setCopy(Math.min(COPY_LIMIT, Math.max(0, Math.floor(Number(event.target.value)))))}
                className="w-20 rounded-[5px] border border-edge bg-card px-2 py-[3px] font-mono text-sm"
              />
            </label>
            <span className="text-soft" aria-live="polite">
              {obstacle ??
                (copy === 0
                  ? 'With the ids of the layout. Every other copy of a series has ids of its own.'
                  : [
                      `With ids of its own, which follow from those of the layout and ${copy}.`,
                      sameInEveryCopy(view.document),
                    ]
                      .filter(Boolean)
                      .join(' '))}
            </span>
          </div>
          {refused && (
            <p role="alert" className="mb-3 text-stop">
              {refused}
            </p>
          )}
          {builds.length === 0 && (
            <p className="text-soft">
              No image yet. Build one: every range is read back and compared before the image gets its name.
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

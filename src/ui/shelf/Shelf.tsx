'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { BuildView } from '@/contract/builds';
import type { AwayLayout, DamagedLayout, LayoutView, ShelfView } from '@/contract/layouts';
import type { ImageFile, StrangeFile } from '@/contract/surveys';
import { check } from '@/core/findings/layout/check';
import { mediumText } from '@/core/layout/medium-spec';
import { TABLE_NAMES } from '@/core/layout/vocabulary';
import { place } from '@/core/placement/place';
import { counted, grouped, inBinary, inBoth } from '@/core/quantity/units';
import { goOnFromReadable, imageUrl, putAway, removeBuild, surveyUrl } from '../api';
import { MiniColumn } from '../column/MiniColumn';
import { Patterns } from '../column/Patterns';
import { tally } from '@/core/findings/tally';
import { Button, buttonClass } from '../kit/Button';
import { Mark } from '../kit/Mark';
import { DeleteForGood } from '../kit/Sure';
import { When } from '../kit/When';
import { TopBar } from '../kit/TopBar';
import { zerosOf } from '../build/zeros';
import { Filter, Pages } from './Filter';
import { ImageFiles } from './ImageFiles';
import { NewLayout } from './NewLayout';

function LayoutCard({ view, onPutAway }: { view: LayoutView; onPutAway: () => void }) {
  const placement = place(view.document);
  const { medium, sectors } = placement;
  const partitions = view.document.slots.filter((slot) => slot.kind === 'partition').length;
  return (
    <li className="flex gap-3 rounded-[6px] border border-line bg-card p-3">
      <MiniColumn placement={placement} width={32} height={124} />
      <div className="flex min-w-0 flex-1 flex-col">
        <h3 className="text-base font-semibold">
          <Link className="hover:underline" href={`/layouts/${view.id}`}>
            {view.document.name}
          </Link>
        </h3>
        <p className="line-clamp-2 text-soft">{view.document.story}</p>
        <p className="mt-1">
          {mediumText(view.document.medium)},{' '}
          <span className="font-mono text-sm">
            {inBoth(medium.capacity)} · {grouped(sectors)} sectors
          </span>
        </p>
        <p>
          {TABLE_NAMES[view.document.table.kind]}, {counted(partitions, 'partition')}; {tally(check(placement))}
        </p>
        <p className="mt-auto flex items-center gap-2 pt-2">
          <Link className={buttonClass()} href={`/layouts/${view.id}`}>
            Design
          </Link>
          <Link className={buttonClass()} href={`/layouts/${view.id}/fit`} aria-label={`Fit ${view.document.name}`}>
            Fit
          </Link>
          <Link className={buttonClass()} href={`/layouts/${view.id}/build`}>
            Build
          </Link>
          <Button look="quiet" onClick={onPutAway} aria-label={`Put ${view.document.name} away`}>
            Put away
          </Button>
          <span className="flex-1 text-right text-sm text-soft">revision {view.revision}</span>
        </p>
      </div>
    </li>
  );
}

/** A layout that cannot be read: what is wrong, and the way on. */
function DamagedCard({ layout, refuse }: { layout: DamagedLayout; refuse: (sentence: string) => void }) {
  const router = useRouter();
  const goOn = async () => {
    const answer = await goOnFromReadable(layout.id);
    if (answer.ok) router.push(`/layouts/${layout.id}`);
    else refuse(answer.error.sentence);
  };
  return (
    <li className="col-span-full flex items-center gap-3 rounded-[6px] border border-stop bg-card p-3">
      <div className="flex-1">
        <h3 className="text-base font-semibold">{layout.id}</h3>
        <p className="flex items-start gap-2">
          <span className="pt-1">
            <Mark severity="stop" />
          </span>
          <span>
            {layout.damaged}{' '}
            {layout.readable === null
              ? 'No revision of it can be read: restore a backup.'
              : 'Nothing of it is deleted; you can go on from an earlier revision.'}
          </span>
        </p>
      </div>
      {layout.readable !== null && <Button onClick={() => void goOn()}>Go on from revision {layout.readable}</Button>}
      <a className={buttonClass()} href={`/api/layouts/${layout.id}/document`} download>
        Export as it is
      </a>
    </li>
  );
}

/** What was put away: nothing of it is deleted, and each comes back. */
function Away({ layouts, bringBack }: { layouts: readonly AwayLayout[]; bringBack: (id: string) => void }) {
  if (layouts.length === 0) return null;
  return (
    <details className="mt-4">
      <summary className="cursor-pointer rounded-sm text-soft hover:text-ink">
        Put away: {counted(layouts.length, 'layout')}
      </summary>
      <ul>
        {layouts.map((one) => (
          <li key={one.id} className="flex items-center gap-3 border-b border-hair py-1.5">
            <span className="font-semibold">{one.name}</span>
            <span className="flex-1 text-soft">
              revision {one.revision}, put away <When at={one.putAwayAt} />
            </span>
            <Button onClick={() => bringBack(one.id)} aria-label={`Bring ${one.name} back`}>
              Bring back
            </Button>
          </li>
        ))}
      </ul>
    </details>
  );
}

function Images({ builds, refuse }: { builds: readonly BuildView[]; refuse: (sentence: string | undefined) => void }) {
  const router = useRouter();
  const remove = async (id: string) => {
    const answer = await removeBuild(id);
    refuse(answer.ok ? undefined : answer.error.sentence);
    router.refresh();
  };
  if (builds.length === 0)
    return <p className="text-soft">None yet. Open a layout and build it: its image will be listed here.</p>;
  return (
    <ul>
      {builds.map((build) => (
        <li key={build.id} className="flex items-center gap-3 border-b border-hair py-1.5">
          <span className="font-mono text-sm font-semibold">{build.name}</span>
          <span className="flex-1 text-soft">
            <When at={build.endedAt ?? build.startedAt} /> · {inBoth(build.size)};{' '}
            {inBinary(build.report?.writtenBytes ?? 0)} written
          </span>
          <DeleteForGood name={build.name} question="Delete this image?" onSure={() => void remove(build.id)} />
          {build.layoutId && (
            <Link className="hover:underline" href={`/layouts/${build.layoutId}/build`}>
              Report
            </Link>
          )}
          <Link className="hover:underline" href={surveyUrl(`build:${build.id}`)} aria-label={`Survey ${build.name}`}>
            Survey
          </Link>
          <a
            className={buttonClass()}
            href={imageUrl(build.id, zerosOf(build) ? 'gzip' : 'raw')}
            download
            title={zerosOf(build)}
            aria-label={`Download ${build.name}`}
          >
            {zerosOf(build) ? 'Download gzip' : 'Download'}
          </a>
        </li>
      ))}
    </ul>
  );
}

interface Props {
  readonly view: ShelfView;
  /** What the layouts are filtered by, and the page of them. */
  readonly find: string;
  readonly page: number;
  readonly away: readonly AwayLayout[];
  readonly images: readonly BuildView[];
  readonly files: readonly ImageFile[];
  readonly strange: readonly StrangeFile[];
  /** Where the files lie. */
  readonly folder: string;
}

/** The first screen: layouts and images, each with its column. */
export function Shelf({ view, find, page, away, images, files, strange, folder }: Props) {
  const { layouts, damaged } = view;
  const router = useRouter();
  const [last, setLast] = useState<AwayLayout['id']>();
  const [refused, setRefused] = useState<string>();
  const move = async (id: string, isAway: boolean) => {
    const answer = await putAway(id, isAway);
    setRefused(answer.ok ? undefined : answer.error.sentence);
    if (!answer.ok) return;
    setLast(isAway ? id : undefined);
    router.refresh();
  };
  const gone = away.find((one) => one.id === last);
  return (
    <>
      <Patterns />
      <TopBar title="Loess" detail="partition layouts, computed to the sector">
        <Link className={buttonClass()} href="/bench">
          Bench
        </Link>
        <Link className={buttonClass()} href="/data">
          Data folder
        </Link>
      </TopBar>
      {(gone ?? refused) && (
        <div role="alert" className="flex items-center gap-3 border-b border-line bg-selected px-5 py-1">
          <span className="flex-1">
            {refused ?? `“${gone?.name}” is put away. Its revisions and images are kept; it stands below the layouts.`}
          </span>
          {gone && <Button onClick={() => void move(gone.id, false)}>Bring it back</Button>}
        </div>
      )}
      <main
        id="main"
        tabIndex={-1}
        className="mx-auto grid min-w-[920px] max-w-[1880px] grid-cols-[minmax(0,1fr)_340px] gap-8 px-5 py-5 max-[1180px]:grid-cols-[minmax(0,1fr)_290px] max-[1180px]:gap-5"
      >
        <div>
          <h2 className="mb-2 flex items-center gap-3 text-base font-semibold">
            Layouts <Filter view={view} find={find} />
          </h2>
          {view.total === 0 && find !== '' && (
            <p className="text-soft">
              No name has “{find}” in it.{' '}
              <Link className="underline" href="/">
                Show all
              </Link>
            </p>
          )}
          {view.total === 0 && find === '' && (
            <p className="text-soft">The shelf is empty. Begin with a medium on the right, or import a document.</p>
          )}
          <ul className="grid grid-cols-[repeat(auto-fill,minmax(360px,1fr))] gap-3">
            {damaged.map((one) => (
              <DamagedCard key={one.id} layout={one} refuse={setRefused} />
            ))}
            {layouts.map((view) => (
              <LayoutCard key={view.id} view={view} onPutAway={() => void move(view.id, true)} />
            ))}
          </ul>
          <Pages view={view} find={find} page={page} />
          <Away layouts={away} bringBack={(id) => void move(id, false)} />
          <h2 className="mt-6 mb-1 text-base font-semibold">Images built here</h2>
          <Images builds={images} refuse={setRefused} />
          <ImageFiles files={files} strange={strange} folder={folder} />
        </div>
        <NewLayout />
      </main>
    </>
  );
}

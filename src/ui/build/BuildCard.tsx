'use client';

import Link from 'next/link';
import { useState } from 'react';
import type { BuildReport, BuildView } from '@/contract/builds';
import type { Slot } from '@/core/layout/document';
import { inBinary, inBoth } from '@/core/quantity/units';
import { type Answer, cancelBuild, cancelDigest, folderUrl, imageUrl, removeBuild, startDigest, surveyUrl } from '../api';
import { Button, buttonClass } from '../kit/Button';
import { ProgressBar } from '../kit/ProgressBar';
import { DeleteForGood } from '../kit/Sure';
import { When } from '../kit/When';
import { Report } from './Report';
import { zerosOf } from './zeros';

const STATE_TEXTS: Readonly<Record<BuildView['state'], string>> = {
  waiting: 'waiting',
  running: 'building',
  done: 'done, read back',
  failed: 'failed',
  cancelled: 'cancelled',
  interrupted: 'interrupted',
};

function Digest({ build, act }: { build: BuildView; act: (work: Promise<Answer<unknown>>) => void }) {
  const { state, sha256, progress } = build.digest;
  if (state === 'done') return <p className="mt-2 font-mono text-sm break-all">SHA-256 {sha256}</p>;
  if (state === 'waiting' || state === 'running')
    return (
      <div className="mt-2">
        {progress && <ProgressBar progress={progress} label="Checksum" />}
        <Button onClick={() => act(cancelDigest(build.id))}>Stop the checksum</Button>
      </div>
    );
  return (
    <p className="mt-2">
      <Button onClick={() => act(startDigest(build.id))}>Compute SHA-256 of the whole file</Button>{' '}
      {state !== 'none' && <span className="text-soft">the last one was {state}</span>}
    </p>
  );
}

/** The volumes of the image, each the way to its files. */
function Volumes({ of, volumes }: { of: string; volumes: NonNullable<BuildReport['volumes']> }) {
  if (volumes.length === 0) return null;
  return (
    <p className="mt-2 flex flex-wrap items-center gap-2">
      <span className="text-soft">Browse the files of</span>
      {volumes.map(({ partition, name }) => (
        <Link key={partition} className={buttonClass()} href={folderUrl({ of, partition, path: '' })}>
          {name}
        </Link>
      ))}
    </p>
  );
}

/** The image to fetch: where most of it is zeros as gzip first, which sends none of them. */
function Downloads({ build }: { build: BuildView }) {
  const isZeros = zerosOf(build) !== undefined;
  const gzip = (
    <a key="gzip" className={buttonClass(isZeros ? 'primary' : 'plain')} href={imageUrl(build.id, 'gzip')} download>
      Download gzip
    </a>
  );
  const raw = (
    <a key="raw" className={buttonClass(isZeros ? 'plain' : 'primary')} href={imageUrl(build.id, 'raw')} download>
      Download image, {inBinary(build.size)}
    </a>
  );
  return isZeros ? [gzip, raw] : [raw, gzip];
}

interface Props {
  readonly build: BuildView;
  readonly slots: readonly Slot[];
  readonly onChange: (id: string) => Promise<void>;
}

/** One build: where it stands, what came of it, and what can be done with it. */
export function BuildCard({ build, slots, onChange }: Props) {
  const [refused, setRefused] = useState<string>();
  const act = (work: Promise<Answer<unknown>>) => {
    void work.then(async (answer) => {
      setRefused(answer.ok ? undefined : answer.error.sentence);
      await onChange(build.id);
    });
  };
  const isOpen = build.state === 'waiting' || build.state === 'running';
  return (
    <article aria-label={`Build ${build.name}`} className="mb-3 rounded-[6px] border border-line bg-card px-4 py-3">
      <header className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <h3 className="font-mono font-semibold">{build.name}</h3>
        <span className={build.state === 'failed' || build.state === 'interrupted' ? 'text-stop' : 'text-moss'} aria-live="polite">
          {STATE_TEXTS[build.state]}
        </span>
        <span className="min-w-[120px] flex-1 text-soft">
          {inBoth(build.size)} · {build.layoutId && `revision ${build.revision} · `}
          <When at={build.startedAt} />
        </span>
        {isOpen ? (
          <Button onClick={() => act(cancelBuild(build.id))}>Cancel</Button>
        ) : (
          <DeleteForGood
            name={build.name}
            question="Delete it and its image?"
            onSure={() => act(removeBuild(build.id))}
          />
        )}
      </header>
      {isOpen && build.progress && <ProgressBar progress={build.progress} label="Build" />}
      {build.failure && <p className="mt-1">{build.failure.sentence}</p>}
      {refused && (
        <p role="alert" className="mt-1 text-stop">
          {refused}
        </p>
      )}
      {build.state === 'done' && build.report && (
        <>
          <div className="mt-2 flex flex-wrap gap-2">
            <Downloads build={build} />
            <Link className={buttonClass()} href={`${surveyUrl(`build:${build.id}`)}${build.layoutId && `&layout=${build.layoutId}`}`}>
              Survey it
            </Link>
          </div>
          {zerosOf(build) && <p className="mt-1 text-soft">{zerosOf(build)}</p>}
          <Volumes of={`build:${build.id}`} volumes={build.report.volumes ?? []} />
          <Digest build={build} act={act} />
          <Report report={build.report} slots={slots} />
        </>
      )}
    </article>
  );
}

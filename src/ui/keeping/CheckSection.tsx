'use client';

import Link from 'next/link';
import type { CheckReport, Damage, FolderOrder, Holdings } from '@/contract/keeping';
import { counted, inBoth } from '@/core/quantity/units';
import { Button } from '../kit/Button';
import { Mark } from '../kit/Mark';
import { ProgressBar } from '../kit/ProgressBar';

/** One thing that is not what it was, and the layouts that need it. */
function DamageLine({ damage: { kind, what, sentence, layouts } }: { damage: Damage }) {
  return (
    <li className="grid grid-cols-[14px_1fr] gap-x-2 border-b border-hair py-1.5">
      <span className="pt-1">
        <Mark severity={kind === 'missing' ? 'risk' : 'stop'} />
      </span>
      <span className="min-w-0">
        {sentence}
        {kind !== 'revision' && <span className="block font-mono text-xs break-all text-soft">{what}</span>}
        {layouts.length > 0 && (
          <span className="block">
            needed by{' '}
            {layouts.map((id, i) => (
              <span key={id}>
                {i > 0 && ', '}
                <Link className="underline" href={`/layouts/${id}`}>
                  {id}
                </Link>
              </span>
            ))}
          </span>
        )}
      </span>
    </li>
  );
}

function Report({ report }: { report: CheckReport }) {
  const { checkedAt, revisions, contents, bytes, images, damages, quarantined } = report;
  return (
    <>
      <p className="mt-2">
        {checkedAt.slice(0, 19).replace('T', ' ')} UTC: {counted(revisions, 'revision')} against the schema,{' '}
        {counted(contents, 'stored file')} ({inBoth(bytes)}) against their sums, {counted(images, 'image')} against
        their reports.
      </p>
      {damages.length === 0 ? (
        <p className="mt-2 font-semibold">All of it is what it was.</p>
      ) : (
        <>
          <p className="mt-2 font-semibold">
            {counted(damages.length, 'thing')} {damages.length === 1 ? 'is' : 'are'} damaged or missing.
            {quarantined > 0 &&
              ` ${counted(quarantined, 'file')} went into quarantine/${checkedAt.slice(0, 10)} of the data folder; nothing is deleted.`}
          </p>
          <ul aria-label="What is damaged" className="mt-1">
            {damages.map((damage, i) => (
              <DamageLine key={i} damage={damage} />
            ))}
          </ul>
        </>
      )}
    </>
  );
}

interface Props {
  readonly check: Holdings['check'];
  readonly isBusy: boolean;
  readonly order: (order: FolderOrder) => void;
}

/** Whether everything that is kept is what it was. */
export function CheckSection({ check: { progress, report, failure }, isBusy, order }: Props) {
  return (
    <section aria-label="Check" className="overflow-y-auto border-l border-line bg-card px-5 py-3">
      <h2 className="text-base font-semibold">Is all of it sound?</h2>
      <p className="text-soft">
        Reads every stored file and compares its sum, reads every revision, and compares images with their reports. What
        is damaged is named with the layouts that need it and put into quarantine; nothing is deleted.
      </p>
      {progress ? (
        <>
          <ProgressBar progress={progress} label="Check" />
          <Button disabled={isBusy} onClick={() => order({ do: 'stop the check' })}>
            Stop
          </Button>
        </>
      ) : (
        <p className="mt-2">
          <Button look="primary" disabled={isBusy} onClick={() => order({ do: 'check' })}>
            Check everything
          </Button>
        </p>
      )}
      {failure !== null && (
        <p role="alert" className="mt-2 text-stop">
          {failure}
        </p>
      )}
      {report && !progress && <Report report={report} />}
    </section>
  );
}

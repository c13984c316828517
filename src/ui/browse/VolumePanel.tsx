'use client';

import { useCallback, useEffect, useState } from 'react';
import type { FolderView } from '@/contract/contents';
import type { VolumeCheckView } from '@/contract/surveys';
import type { Fault } from '@/core/filesystems/ext/check/faults';
import { visible } from '@/core/bytes/record';
import { counted, grouped } from '@/core/quantity/units';
import { type Answer, getVolumeCheck, startVolumeCheck, stopVolumeCheck } from '../api';
import { Button } from '../kit/Button';
import { Mark } from '../kit/Mark';
import { ProgressBar } from '../kit/ProgressBar';
import { RoomSection } from './RoomSection';

const INTERVAL = 500;

/** Follows the check of a volume. */
function useVolumeCheck(volume: Pick<FolderView, 'of' | 'partition'>) {
  const { of, partition } = volume;
  const [check, setCheck] = useState<VolumeCheckView>();
  const [refused, setRefused] = useState<string>();
  const [isBusy, setBusy] = useState(false);
  const take = useCallback((answer: Answer<VolumeCheckView>) => {
    if (answer.ok) setCheck(answer.value);
    setRefused(answer.ok ? undefined : answer.error.sentence);
  }, []);
  const order = async (what: typeof startVolumeCheck) => {
    setBusy(true);
    take(await what({ of, partition }));
    setBusy(false);
  };
  const isChecking = refused === undefined && (check === undefined || check.progress !== null);
  useEffect(() => {
    if (!isChecking) return undefined;
    const follow = () => void getVolumeCheck({ of, partition }).then(take);
    const timer = setInterval(follow, INTERVAL);
    if (check === undefined) follow();
    return () => clearInterval(timer);
  }, [check, isChecking, of, partition, take]);
  return { check, refused, isBusy, order };
}

/** One fault, with the files that it touches. */
function FaultLine({ fault: { code, where, says, files } }: { readonly fault: Fault }) {
  return (
    <li className="grid grid-cols-[14px_1fr] gap-x-2 border-b border-hair py-1.5">
      <span className="pt-1">
        <Mark severity="risk" />
      </span>
      <span className="min-w-0">
        <span className="font-semibold">{code.replace('/', ': ')}</span>, {where}: {says}
        {files && <span className="block font-mono text-xs break-all text-soft">{files.map(visible).join('  ')}</span>}
      </span>
    </li>
  );
}

function Report({ report }: { readonly report: NonNullable<VolumeCheckView['report']> }) {
  const { refused, words, faults, isCutShort, files, folders } = report;
  if (refused !== undefined) return <p className="mt-2 text-risk">It cannot be checked: {refused}.</p>;
  return (
    <>
      {words.length > 0 && <p className="mt-2 text-soft">{words.join(' ')}</p>}
      <p className="mt-2">
        {counted(folders, 'folder')} and {counted(files, 'file')} were looked at.
      </p>
      {faults.length === 0 ? (
        <p className="mt-1 font-semibold">Nothing is amiss.</p>
      ) : (
        <>
          <p className="mt-1 font-semibold">
            {isCutShort ? `${grouped(faults.length)} faults, and perhaps more` : counted(faults.length, 'fault')}:
          </p>
          <ul aria-label="Faults" className="mt-1">
            {faults.map((fault, i) => (
              <FaultLine key={i} fault={fault} />
            ))}
          </ul>
        </>
      )}
    </>
  );
}

/** Whether all of an ext volume is sound. */
function CheckSection({ view }: { readonly view: FolderView }) {
  const { check, refused, isBusy, order } = useVolumeCheck(view);
  return (
    <>
      <h2 className="mt-4 text-base font-semibold">Is it sound?</h2>
      <p className="text-soft">
        Reads every inode, map and folder and compares them with the bitmaps. Nothing is written to the image.
      </p>
      {check?.progress ? (
        <>
          <ProgressBar progress={check.progress} label="Check of the volume" />
          <Button disabled={isBusy} onClick={() => void order(stopVolumeCheck)}>
            Stop
          </Button>
        </>
      ) : (
        <p className="mt-2">
          <Button look="primary" disabled={isBusy || check === undefined} onClick={() => void order(startVolumeCheck)}>
            {check?.report ? 'Check it again' : 'Check all of it'}
          </Button>
        </p>
      )}
      {(refused ?? check?.failure) && (
        <p role="alert" className="mt-2 text-stop">
          {refused ?? check?.failure}
        </p>
      )}
      {check?.report && !check.progress && <Report report={check.report} />}
    </>
  );
}

/** Where the room of a volume is, whether it is sound, and what it says of itself. */
export function VolumePanel({ view }: { readonly view: FolderView }) {
  return (
    <aside
      aria-label="Volume"
      className="min-h-0 w-[380px] shrink-0 overflow-y-auto border-l border-line bg-card px-4 py-3"
    >
      <RoomSection view={view} />
      {view.canBeChecked && <CheckSection view={view} />}
      {view.says.length > 0 && (
        <>
          <h2 className="mt-4 text-base font-semibold">What it says of itself</h2>
          <dl className="mt-1">
            {view.says.map(({ name, value }) => (
              <div key={name} className="grid grid-cols-[110px_1fr] gap-x-2 border-b border-hair py-1">
                <dt className="text-soft">{name}</dt>
                <dd className="min-w-0 break-words">{value}</dd>
              </div>
            ))}
          </dl>
        </>
      )}
    </aside>
  );
}

'use client';

import { useState } from 'react';
import type { FolderView } from '@/contract/contents';
import type { VolumeRoomView } from '@/contract/surveys';
import { parseExact } from '@/core/quantity/size-language';
import { counted, grouped, inBoth } from '@/core/quantity/units';
import { startRepack } from '../api';
import { BuildCard } from '../build/BuildCard';
import { useBuilds } from '../build/useBuilds';
import { Button } from '../kit/Button';
import { Choice } from '../kit/Choice';
import { TextField } from '../kit/TextField';

const NUMBERS = [
  { value: 'renumbered', text: 'numbered anew' },
  { value: 'kept', text: 'numbers kept' },
] as const;

function Least({
  name,
  bytes,
  block,
}: {
  readonly name: string;
  readonly bytes: number | undefined;
  readonly block: number;
}) {
  return (
    <div className="grid grid-cols-[110px_1fr] gap-x-2 border-b border-hair py-1">
      <dt className="text-soft">{name}</dt>
      <dd className="min-w-0">
        {bytes === undefined ? 'not this way' : `${inBoth(bytes)}, ${counted(bytes / block, 'block')}`}
      </dd>
    </div>
  );
}

/** How small an ext volume can be, and the order for it in that or another size: an image of its own. */
export function RepackSection({ view, room }: { readonly view: FolderView; readonly room: VolumeRoomView }) {
  const { of, partition } = view;
  const { minima, refused } = room;
  const [size, setSize] = useState('minimum');
  const [numbers, setNumbers] = useState<(typeof NUMBERS)[number]['value']>(minima?.mustKeep ? 'kept' : 'renumbered');
  const [withoutFaulty, setWithout] = useState(false);
  const [trouble, setTrouble] = useState<string>();
  const { builds, add, refresh } = useBuilds([]);
  if (!minima)
    return (
      <>
        <h2 className="mt-4 text-base font-semibold">How small it can be</h2>
        <p className="mt-1 text-risk">It cannot be laid anew: {refused}.</p>
      </>
    );
  const { block, renumbered, kept, mustKeep, inodes, highest } = minima;
  const order = async () => {
    const answer = await startRepack({ of, partition, size, keepsNumbers: numbers === 'kept', withoutFaulty });
    if (answer.ok) add(answer.value);
    setTrouble(answer.ok ? undefined : answer.error.sentence);
  };
  return (
    <>
      <h2 className="mt-4 text-base font-semibold">How small it can be</h2>
      <dl className="mt-1">
        <Least name="numbered anew" bytes={renumbered} block={block} />
        <Least name="numbers kept" bytes={kept} block={block} />
      </dl>
      <p className="mt-1 text-soft">
        {counted(inodes, 'inode')} in use, the highest has number {grouped(highest)}.{' '}
        {mustKeep
          ? 'Keys of its files depend on the numbers: they stay.'
          : 'New numbers are not known to handles of network clients, and to signatures over what was measured.'}
      </p>
      <div className="mt-2 grid grid-cols-[110px_1fr] items-center gap-x-2 gap-y-1.5">
        <TextField
          label="Size"
          mono
          value={size}
          echo={(draft) =>
            draft === 'minimum' || parseExact(draft).ok
              ? undefined
              : { wrong: true, text: 'Say for example 512 MiB, 40 GB, or minimum.' }
          }
          onCommit={setSize}
        />
        <span className="text-soft">Inodes</span>
        <Choice
          label="Inodes"
          value={numbers}
          options={NUMBERS.map((one) => ({
            ...one,
            ...(mustKeep && one.value === 'renumbered' && { disabled: 'Keys of its files depend on the numbers.' }),
          }))}
          onChange={setNumbers}
        />
      </div>
      <label className="mt-1.5 flex items-start gap-1.5">
        <input type="checkbox" checked={withoutFaulty} onChange={(event) => setWithout(event.target.checked)} />
        Leave out files that the check names; a volume with faults is refused otherwise.
      </label>
      <p className="mt-2 mb-2">
        <Button onClick={() => void order()}>Lay it anew in an image of its own</Button>
      </p>
      {trouble && (
        <p role="alert" className="mt-2 text-stop">
          {trouble}
        </p>
      )}
      {builds.map((build) => (
        <BuildCard key={build.id} build={build} slots={[]} onChange={refresh} />
      ))}
    </>
  );
}

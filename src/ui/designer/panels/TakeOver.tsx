'use client';

import { useState } from 'react';
import type { FileSource } from '@/contract/contents';
import { type TakenKind, takingOver } from '@/core/advice/adding';
import type { FoundEntry } from '@/core/layout/document';
import type { KeptSlot } from '@/core/layout/kept';
import { counted } from '@/core/quantity/units';
import { listFileSources, takeFromVolume } from '../../api';
import { remember } from '../../contents/known';
import { Button } from '../../kit/Button';
import { useDesignerNow } from '../state/context';

/** Kinds of volumes whose files can be read and put elsewhere. */
function takenAs({ inside }: FoundEntry): TakenKind | undefined {
  if (inside?.kind === 'exFAT') return 'exfat';
  if (inside?.kind === 'ext2' || inside?.kind === 'ext3' || inside?.kind === 'ext4') return inside.kind;
  return inside?.kind.startsWith('FAT') ? 'fat' : undefined;
}

const NO_IMAGE =
  'No image of that size is here. Put the one that was surveyed into the folder of images, or upload it on the shelf.';

/** Takes the files of a kept volume over into a new slot: they are read out of an image of the medium, and the kept one stays. */
export function TakeOver({ slot, entry }: { slot: KeptSlot; entry: FoundEntry }) {
  const now = useDesignerNow();
  const [choices, setChoices] = useState<readonly FileSource[]>([]);
  const [said, setSaid] = useState<string>();
  const [isBusy, setBusy] = useState(false);
  const kind = takenAs(entry);
  if (!kind) return null;

  const take = async ({ of, partition }: FileSource) => {
    setSaid('Reading its files …');
    const taken = await takeFromVolume({ of, partition, path: '', under: '', keepsAll: kind.startsWith('ext') });
    if (!taken.ok) return setSaid(taken.error.sentence);
    const { sha256, leftOut } = taken.value;
    if (sha256 === null) return setSaid('There are no files in it.');
    remember(taken.value);
    const { placement, commit, select } = now();
    const added = takingOver(placement, { like: slot, files: sha256, kind, label: entry.inside?.label });
    if (!added) return setSaid('A layout can have no more slots.');
    commit(added.edit);
    setChoices([]);
    const missing = leftOut.map(({ path, why }) => `${path === '' ? 'the root' : path} (${why})`);
    setSaid(missing.length === 0 ? undefined : `${counted(missing.length, 'file')} not taken: ${missing.join('; ')}`);
    if (missing.length === 0) select({ kind: 'slot', id: added.id });
  };
  const working = async (work: () => Promise<void>) => {
    setBusy(true);
    await work();
    setBusy(false);
  };
  const look = async () => {
    setSaid(undefined);
    const answer = await listFileSources();
    if (!answer.ok) return setSaid(answer.error.sentence);
    const size = now().document.found?.size;
    const key = entry.number === 0 ? 'whole' : String(entry.number);
    const fitting = answer.value.filter((one) => one.size === size && one.partition === key);
    const [first] = fitting;
    if (!first) return setSaid(NO_IMAGE);
    if (fitting.length === 1) return take(first);
    setSaid('Out of which image?');
    setChoices(fitting);
  };
  return (
    <>
      <Button onClick={() => void working(look)} disabled={isBusy}>
        Its files in a new slot
      </Button>
      {said && (
        <p role="status" className="w-full text-soft">
          {said}
        </p>
      )}
      {choices.map((one) => (
        <Button key={one.of} onClick={() => void working(() => take(one))} disabled={isBusy}>
          {one.text}
        </Button>
      ))}
    </>
  );
}

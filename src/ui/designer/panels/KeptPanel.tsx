'use client';

import { asFound, deleting, layingAnew, moving, renewing, resizing, type Act } from '@/core/layout/acts';
import type { FoundEntry } from '@/core/layout/document';
import { canRepack, changesOf, foundOf, insideWords, type KeptSlot } from '@/core/layout/kept';
import type { Placed } from '@/core/placement/placement';
import { typedSectors } from '@/core/placement/typed';
import type { Result } from '@/core/quantity/result';
import { exactText, grouped, inBoth } from '@/core/quantity/units';
import { Button } from '../../kit/Button';
import { Key } from '../../kit/Key';
import { Select } from '../../kit/Select';
import { Pointed } from '../../kit/size-echo';
import { type Echo, TextField } from '../../kit/TextField';
import { useDesigner } from '../state/context';
import { SIZE_FIELD } from '../state/editing';
import { TakeOver } from './TakeOver';

/** What stays in a partition, as it was found. */
function KeptFacts({ entry, sectorSize }: { entry: FoundEntry; sectorSize: number }) {
  const { inside, at, sectors, number } = entry;
  const facts: readonly (readonly [string, string | undefined])[] = [
    ['Found as', `partition ${number}, from sector ${grouped(at)}`],
    ['Size then', inBoth(sectors * sectorSize)],
    ['Inside', insideWords(entry)],
    ['Its id', inside?.id],
    ['Its size', inside?.bytes === undefined ? undefined : inBoth(inside.bytes)],
    ['In use', inside?.used === undefined ? undefined : inBoth(inside.used)],
    ['State', inside?.state],
  ];
  return (
    <dl className="mt-2 grid grid-cols-[76px_1fr] gap-x-2.5 gap-y-0.5 border-t border-hair pt-2">
      {facts.map(([name, value]) =>
        value === undefined ? null : (
          <div key={name} className="contents">
            <dt className="text-soft">{name}</dt>
            <dd className="min-w-0 font-mono text-sm break-words">{value}</dd>
          </div>
        ),
      )}
    </dl>
  );
}

interface ActFieldProps {
  readonly label: string;
  readonly value: string;
  readonly fieldId?: string;
  readonly actFor: (sectors: number) => Result<Act, string>;
}

/** A field whose text is an act: while it is typed, it says what that costs. */
function ActField({ label, value, fieldId, actFor }: ActFieldProps) {
  const sectorSize = useDesigner((state) => state.placement.sectorSize);
  const act = useDesigner((state) => state.act);
  const echo = (draft: string): Echo | undefined => {
    if (draft === value) return undefined;
    const sectors = typedSectors(draft, sectorSize);
    if (!sectors.ok) return { wrong: true, text: <Pointed text={draft} error={sectors.error} /> };
    const done = actFor(sectors.value);
    if (!done.ok) return { wrong: true, text: done.error };
    const { cost, sentence } = done.value;
    return { wrong: false, text: <span className={cost === 'none' ? '' : 'text-risk'}>{sentence}</span> };
  };
  return (
    <TextField
      label={label}
      mono
      value={value}
      {...(fieldId !== undefined && { fieldId })}
      echo={echo}
      onCommit={(draft) => {
        const sectors = typedSectors(draft, sectorSize);
        const done = sectors.ok ? actFor(sectors.value) : undefined;
        if (done?.ok) act(done.value.edit);
      }}
    />
  );
}

/** Whether the ext inside stays where it lies, or is laid anew in the size of the slot. */
function LaidAnew({ slot, entry }: { slot: KeptSlot; entry: FoundEntry }) {
  const layout = useDesigner((state) => state.document);
  const act = useDesigner((state) => state.act);
  if (!canRepack(slot, layout.found)) return null;
  const ways = [
    { value: 'stays', text: 'stays where it lies', numbering: undefined },
    { value: 'renumbered', text: 'laid anew', numbering: 'renumbered' },
    { value: 'kept', text: 'laid anew, numbers kept', numbering: 'kept' },
  ] as const;
  const said = layingAnew(layout, slot.id, slot.repack);
  return (
    <>
      <span className="text-soft">Its {entry.inside!.kind}</span>
      <Select
        label={`What becomes of its ${entry.inside!.kind}`}
        value={slot.repack ?? 'stays'}
        options={ways}
        onChange={(value) => {
          const done = layingAnew(layout, slot.id, ways.find((one) => one.value === value)?.numbering);
          if (done) act(done.edit);
        }}
      />
      {slot.repack && said && <p className="col-start-2 text-soft">{said.sentence}</p>}
    </>
  );
}

const NEW_CONTENTS = [
  { kind: 'fat', text: 'FAT' },
  { kind: 'ext', text: 'ext4' },
  { kind: 'exfat', text: 'exFAT' },
  { kind: 'swap', text: 'swap' },
] as const;

/** What can be done with a kept partition: each act says what it costs before it is done. */
export function KeptActs({ placed }: { placed: Placed & { slot: KeptSlot } }) {
  const layout = useDesigner((state) => state.document);
  const act = useDesigner((state) => state.act);
  const commit = useDesigner((state) => state.commit);
  const select = useDesigner((state) => state.select);
  const { slot, start, sectors } = placed;
  const entry = foundOf(layout, slot);
  if (!entry) return null;
  const { logicalSector } = layout.medium;
  const gone = deleting(layout, slot.id);
  const back = asFound(layout, slot.id);
  const isChanged = changesOf(slot, entry, layout).length > 0;
  return (
    <>
      <KeptFacts entry={entry} sectorSize={logicalSector} />
      <div className="mt-2 grid grid-cols-[76px_1fr] items-center gap-x-2.5 gap-y-1.5 border-t border-hair pt-2">
        <ActField
          label="Size"
          fieldId={SIZE_FIELD}
          value={exactText(sectors * logicalSector, logicalSector)}
          actFor={(to) => resizing(layout, slot.id, to)}
        />
        <LaidAnew slot={slot} entry={entry} />
        <ActField label="Begins at" value={grouped(start)} actFor={(to) => moving(layout, slot.id, to)} />
      </div>
      {gone && <p className="mt-2 text-soft">Deleted: {gone.sentence}</p>}
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        <Button onClick={() => commit({ do: 'remove slot', id: slot.id })} aria-label={`Delete ${slot.name}`}>
          Delete <Key>Del</Key>
        </Button>
        {NEW_CONTENTS.map(({ kind, text }) => {
          const anew = slot.content === undefined ? renewing(layout, slot.id, kind) : undefined;
          return (
            anew && (
              <Button key={kind} onClick={() => act(anew.edit)} title={anew.sentence}>
                Anew as {text}
              </Button>
            )
          );
        })}
        <TakeOver slot={slot} entry={entry} />
        {isChanged && back && <Button onClick={() => act(back)}>Leave it as it was found</Button>}
        <Button
          onClick={() => select({ kind: 'ledger', sector: start })}
          aria-label={`Open ${slot.name} in the ledger`}
        >
          Ledger <Key>L</Key>
        </Button>
      </div>
    </>
  );
}

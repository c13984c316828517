'use client';

import dynamic from 'next/dynamic';
import Link from 'next/link';
import { sizeExamples } from '@/core/findings/layout/size-examples';
import { preparedBytes } from '@/core/layout/contents';
import type { FreeSlot, PartitionSlot, RawSlot, Slot } from '@/core/layout/document';
import type { KeptSlot } from '@/core/layout/kept';
import { SLOT_NAME_LIMIT } from '@/core/layout/vocabulary';
import { lastSector, type Placed } from '@/core/placement/placement';
import { grouped, inBoth } from '@/core/quantity/units';
import { buttonClass } from '../../kit/Button';
import { Lock } from '../../kit/Lock';
import { exactEcho, sizeEcho } from '../../kit/size-echo';
import { TextField } from '../../kit/TextField';
import { useDesigner } from '../state/context';
import { useSizeFacts, nameEcho, SIZE_FIELD, useSettled, useSlotEditing } from '../state/editing';
import { LineField } from './LineField';
import { Fields, PanelHead } from './panel';

/** The fields that keys lead to are there at once; what stands below them comes a moment after the first load. */
const PartitionFields = dynamic(() => import('./SlotDetails').then((file) => file.PartitionFields), {
  loading: () => null,
});
const PartitionContent = dynamic(() => import('./SlotDetails').then((file) => file.PartitionContent), {
  loading: () => null,
});
const SlotFoot = dynamic(() => import('./SlotDetails').then((file) => file.SlotFoot), { loading: () => null });
const InsideFields = dynamic(() => import('./SlotDetails').then((file) => file.InsideFields), { loading: () => null });
const KeptActs = dynamic(() => import('./KeptPanel').then((file) => file.KeptActs), { loading: () => null });
const SizeCard = dynamic(() => import('./SizeCard').then((file) => file.SizeCard), { loading: () => null });
const PlaceFields = dynamic(() => import('./PlaceFields').then((file) => file.PlaceFields), { loading: () => null });

function NameField({ slot }: { slot: Slot }) {
  const { change } = useSlotEditing(slot.id);
  return (
    <TextField
      label="Name"
      value={slot.name}
      echo={nameEcho('A slot', SLOT_NAME_LIMIT)}
      onCommit={(name) => change({ name: name.trim() })}
    />
  );
}

function SizeAndName({ placed }: { placed: Placed & { slot: PartitionSlot | FreeSlot } }) {
  const sectorSize = useDesigner((state) => state.placement.sectorSize);
  const { slot } = placed;
  const base = useDesigner((state) => state.base);
  const settled = useSettled(slot);
  const { change, draft } = useSlotEditing(slot.id);
  const facts = { ...useSizeFacts(), image: preparedBytes(slot) };
  return (
    <>
      <NameField slot={slot} />
      <TextField
        label="Size"
        fieldId={SIZE_FIELD}
        mono
        value={slot.size}
        settled={settled.size}
        echo={sizeEcho(sectorSize, facts, () => sizeExamples(base, slot.id))}
        help={{ name: 'How sizes are said', card: () => <SizeCard /> }}
        onDraft={(size) => draft(size === undefined ? undefined : { size })}
        onCommit={(size) => change({ size: size.trim() })}
      />
    </>
  );
}

function whereText(placed: Placed): string {
  const range = `sectors ${grouped(placed.start)} – ${grouped(lastSector(placed))}`;
  if (placed.recordAt !== undefined)
    return `logical partition ${placed.entry?.number ?? ''}, ${range}, record in ${grouped(placed.recordAt)}`;
  return placed.entry ? `partition ${placed.entry.number}, ${range}` : `without a table, ${range}`;
}

/** Properties of a partition. */
export function PartitionPanel({ placed }: { placed: Placed & { slot: PartitionSlot } }) {
  const { slot } = placed;
  const settled = useSettled(slot);
  return (
    <>
      <PanelHead title={slot.name} detail={whereText(placed)} />
      <LineField key={slot.id} slot={settled} />
      <Fields>
        <SizeAndName placed={placed} />
        <PartitionFields placed={placed} />
      </Fields>
      <PartitionContent placed={placed} />
      <SlotFoot placed={placed} />
    </>
  );
}

/** Properties of a kept partition: what it is called and is to its system; the rest are acts. */
export function KeptPanel({ placed }: { placed: Placed & { slot: KeptSlot } }) {
  const { slot } = placed;
  return (
    <>
      <PanelHead
        title={slot.name}
        detail={
          <>
            <Lock />
            kept, {whereText(placed)}
          </>
        }
      />
      <Fields>
        <NameField slot={slot} />
        <PartitionFields placed={placed} />
      </Fields>
      {slot.content && <InsideFields placed={placed} />}
      <KeptActs placed={placed} />
    </>
  );
}

/** What lies ahead of the first partition and stays. */
export function KeptRawPanel({ placed }: { placed: Placed & { slot: RawSlot } }) {
  const { slot, span } = placed;
  return (
    <>
      <PanelHead
        title={slot.name}
        detail={
          <>
            <Lock />
            kept, bytes {grouped(span.start)} – {grouped(span.end - 1)}
          </>
        }
      />
      <Fields>
        <NameField slot={slot} />
      </Fields>
      <p className="mt-2 text-soft">
        Data was seen here, perhaps a loader: nothing is written over it. Delete the slot if it is of no use any more.
      </p>
      <SlotFoot placed={placed} />
    </>
  );
}

/** Properties of deliberate free space. */
export function FreePanel({ placed }: { placed: Placed & { slot: FreeSlot } }) {
  const settled = useSettled(placed.slot);
  return (
    <>
      <PanelHead
        title={placed.slot.name}
        detail={`free on purpose, sectors ${grouped(placed.start)} – ${grouped(lastSector(placed))}`}
      />
      <LineField key={placed.slot.id} slot={settled} />
      <Fields>
        <SizeAndName placed={placed} />
      </Fields>
      <PlaceFields placed={placed} />
      <SlotFoot placed={placed} />
    </>
  );
}

/** Properties of a raw range. */
export function RawPanel({ placed }: { placed: Placed & { slot: RawSlot } }) {
  const sectorSize = useDesigner((state) => state.placement.sectorSize);
  const id = useDesigner((state) => state.view.id);
  const { slot, span } = placed;
  const settled = useSettled(slot);
  const { change, draft } = useSlotEditing(slot.id);
  return (
    <>
      <PanelHead title={slot.name} detail={`raw range, bytes ${grouped(span.start)} – ${grouped(span.end - 1)}`} />
      <LineField key={slot.id} slot={settled} />
      <Fields>
        <NameField slot={slot} />
        <TextField
          label="Starts at"
          mono
          value={slot.at}
          settled={settled.at}
          echo={exactEcho(sectorSize, { zero: true })}
          onDraft={(at) => draft(at === undefined ? undefined : { at: at.trim() })}
          onCommit={(at) => change({ at: at.trim() })}
        />
        <TextField
          label="Length"
          fieldId={SIZE_FIELD}
          mono
          value={slot.length}
          settled={settled.length}
          echo={exactEcho(sectorSize)}
          onDraft={(length) => draft(length === undefined ? undefined : { length })}
          onCommit={(length) => change({ length: length.trim() })}
        />
      </Fields>
      <p className="mt-2 flex items-baseline gap-2">
        <span className="flex-1 text-soft">
          {slot.blob
            ? `“${slot.blob.name}” lies here, ${inBoth(slot.blob.take ?? slot.blob.size - (slot.blob.from ?? 0))}; the rest is zeros.`
            : 'Kept free of tables and partitions for what a ROM loads from this place. Empty: a build writes zeros here.'}
        </span>
        <Link className={buttonClass()} href={`/layouts/${id}/contents?slot=${slot.id}`}>
          Contents
        </Link>
      </p>
      <SlotFoot placed={placed} />
    </>
  );
}

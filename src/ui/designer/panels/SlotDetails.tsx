'use client';

import { MOUNT_POINT, type Role, ROLES } from '@/core/layout/vocabulary';
import type { PartitionSlot, Slot } from '@/core/layout/document';
import { roleEdit } from '@/core/layout/edits';
import type { Placed } from '@/core/placement/placement';
import { Choice, type Option } from '../../kit/Choice';
import { type Echo, TextField } from '../../kit/TextField';
import { useDesigner } from '../state/context';
import { useSlotEditing } from '../state/editing';
import { Breakdown } from './Breakdown';
import { ContentChoice } from './ContentChoice';
import { ContentFields } from './ContentFields';
import { EntryFields } from './EntryFields';
import { ExtFields } from './ExtFields';
import { FatFields } from './FatFields';
import { Fields, Reasons } from './panel';
import { PlaceFields } from './PlaceFields';
import { SlotActions } from './SlotActions';

const ROLE_OPTIONS = ROLES.map((value): Option<Role> => ({
  value,
  text: value === 'esp' ? 'ESP' : value.replace('bios-boot', 'BIOS'),
}));

function mountEcho(draft: string): Echo | undefined {
  if (draft === '' || MOUNT_POINT.test(draft)) return undefined;
  return { wrong: true, text: 'A mount point begins with / and has no spaces.' };
}

/** Role, entry and mount point of a partition, below its size. */
export function PartitionFields({ placed }: { placed: Placed & { slot: PartitionSlot } }) {
  const { slot } = placed;
  const layout = useDesigner((state) => state.document);
  const { change, commit } = useSlotEditing(slot.id);
  return (
    <>
      <span className="text-soft">Role</span>
      <Choice
        label="Role"
        dense
        value={slot.role}
        options={ROLE_OPTIONS}
        onChange={(role) => commit(roleEdit(layout, slot, role))}
      />
      <EntryFields placed={placed} />
      <TextField
        label="Mounts at"
        mono
        value={slot.mount ?? ''}
        placeholder="nowhere said"
        echo={mountEcho}
        onCommit={(mount) => change({ mount: mount === '' ? undefined : mount })}
      />
    </>
  );
}

/** What is inside a partition. */
export function InsideFields({ placed }: { placed: Placed & { slot: PartitionSlot } }) {
  const { slot } = placed;
  const { content } = slot;
  return (
    <Fields>
      <ContentChoice slot={slot} />
      {content?.kind === 'ext' && <ExtFields placed={placed} content={content} />}
      {content?.kind === 'fat' && <FatFields placed={placed} content={content} />}
      <ContentFields placed={placed} />
    </Fields>
  );
}

/** What is inside a partition, and where its bytes go. */
export function PartitionContent({ placed }: { placed: Placed & { slot: PartitionSlot } }) {
  return (
    <>
      <InsideFields placed={placed} />
      <PlaceFields placed={placed} />
      <Breakdown placed={placed} />
    </>
  );
}

/** What every slot has: why it is where it is, and what can be done with it. */
export function SlotFoot({ placed }: { placed: Placed & { slot: Slot } }) {
  const { id, name } = placed.slot;
  return (
    <>
      <Reasons placed={placed} />
      <SlotActions id={id} name={name} start={placed.start} />
    </>
  );
}

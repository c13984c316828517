'use client';

import type { PartitionSlot } from '@/core/layout/document';
import { Choice } from '../../kit/Choice';
import { CHOICES, type Chosen, chosenOf, contentPatch } from '../state/content-edit';
import { useDesigner } from '../state/context';
import { useSlotEditing } from '../state/editing';

/** What is made in a partition, or put into it. */
export function ContentChoice({ slot }: { slot: PartitionSlot }) {
  const layout = useDesigner((state) => state.document);
  const { change } = useSlotEditing(slot.id);
  const chosen = chosenOf(slot);
  return (
    <>
      <span className="text-soft">Content</span>
      <Choice<Chosen>
        label="File system"
        dense
        value={chosen}
        // Files are supplied among the contents: they are shown only while they are there.
        options={CHOICES.filter(({ value, isSupplied }) => !isSupplied || value === chosen)}
        onChange={(kind) => change(contentPatch(layout, slot, kind))}
      />
    </>
  );
}

'use client';

import type { PartitionSlot } from '@/core/layout/document';
import { Choice, type Option } from '../kit/Choice';
import { type Chosen, chosenOf, contentPatch } from './content-edit';
import { useDesigner } from './context';
import { useSlotEditing } from './editing';

const OPTIONS: readonly Option<Chosen>[] = [
  { value: 'fat', text: 'FAT' },
  { value: 'fat12', text: 'FAT12' },
  { value: 'fat16', text: 'FAT16' },
  { value: 'fat32', text: 'FAT32' },
  { value: 'exfat', text: 'exFAT' },
  { value: 'swap', text: 'swap' },
  { value: 'overwritten', text: 'zeros' },
  { value: 'none', text: 'none' },
];
/** Shown only while it is so: files are supplied among the contents. */
const SUPPLIED: readonly Option<Chosen>[] = [
  { value: 'image', text: 'an image' },
  { value: 'blob', text: 'a file' },
];

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
        options={[...OPTIONS, ...SUPPLIED.filter(({ value }) => value === chosen)]}
        onChange={(kind) => change(contentPatch(layout, slot, kind))}
      />
    </>
  );
}

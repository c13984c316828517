/**
 * A series: copies of one layout that may meet in one machine, and so need ids of their own.
 * The ids of copy n follow from those of the document and n: they are the same whenever it is built.
 */
import { guidFrom, hashText } from '../bytes/guid';
import { kindOf } from '../filesystems/kinds';
import { fillingOf } from './contents';
import type { Layout, PartitionSlot, Slot, Table } from './document';
import { partitionGuid } from './edits';

function tableOf(table: Table, copy: number): Table {
  if (table.kind === 'gpt') return { ...table, diskId: guidFrom(`${table.diskId}/copy ${copy}`) };
  if (table.kind === 'none') return table;
  const signature = hashText(`${table.signature}/copy ${copy}`) || 1;
  return { ...table, signature: signature.toString(16).padStart(8, '0') };
}

function partitionOf(slot: PartitionSlot, { table }: Layout, copy: number): PartitionSlot {
  const next = (id: string) => `${id}/copy ${copy}`;
  const { content } = slot;
  const identity = content && kindOf(content).identity;
  return {
    ...slot,
    ...(table.kind === 'gpt' && { partitionId: guidFrom(next(partitionGuid(table.diskId, slot))) }),
    ...(identity && {
      content: identity.with(content, identity.from(next(`${identity.of(content)}/${slot.id}`))),
    }),
  };
}

/**
 * What stays the same in every copy, in a sentence; undefined where nothing does. Images and files are
 * put in as they are: ids in an image stay, and files that name ids go on naming those of the layout itself, but for
 * what Loess writes.
 */
export function sameInEveryCopy({ slots }: Layout): string | undefined {
  const images = slots.filter((slot) => slot.kind === 'partition' && slot.content?.kind === 'image');
  const filled = slots.filter((slot) => slot.kind === 'partition' && fillingOf(slot)?.files !== undefined);
  const sentences = [
    ...(images.length > 0
      ? [
          `The ids in the prepared ${images.length === 1 ? 'image' : 'images'} of ${names(images)} are the same in every copy.`,
        ]
      : []),
    ...(filled.length > 0
      ? [
          `Files of ${names(filled)} that name ids (a mount table, boot entries) name those of the layout itself, not of the copy${filled.some((slot) => slot.kind === 'partition' && slot.writes) ? '; those that Loess writes name the copy’s' : ''}.`,
        ]
      : []),
  ];
  return sentences.length > 0 ? sentences.join(' ') : undefined;
}

const names = (slots: readonly Slot[]): string => slots.map((slot) => slot.name).join(', ');

/** Copy `copy` of a layout: 0 is the layout itself, each other number has ids of its own. */
export function copyOf(layout: Layout, copy: number): Layout {
  if (copy === 0) return layout;
  const slots = layout.slots.map((slot): Slot => (slot.kind === 'partition' ? partitionOf(slot, layout, copy) : slot));
  return { ...layout, table: tableOf(layout.table, copy), slots };
}

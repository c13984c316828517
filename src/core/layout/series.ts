/**
 * A series: copies of one layout that may meet in one machine, and so need ids of their own.
 * The ids of copy n follow from those of the document and n: they are the same whenever it is built.
 */
import { guidFrom, hashText } from '../bytes/guid';
import { volumeIdText } from '../filesystems/label';
import type { Layout, PartitionSlot, Slot, Table } from './document';
import { partitionGuid } from './edits';

/** Most copies of a series. */
export const COPY_LIMIT = 1_000_000;

function tableOf(table: Table, copy: number): Table {
  if (table.kind === 'gpt') return { ...table, diskId: guidFrom(`${table.diskId}/copy ${copy}`) };
  if (table.kind === 'none') return table;
  const signature = hashText(`${table.signature}/copy ${copy}`) || 1;
  return { ...table, signature: signature.toString(16).padStart(8, '0') };
}

function partitionOf(slot: PartitionSlot, { table }: Layout, copy: number): PartitionSlot {
  const next = (id: string) => `${id}/copy ${copy}`;
  const volume = (id: string) => volumeIdText(hashText(next(`${id}/${slot.id}`)) || 1);
  const { fileSystem, content } = slot;
  return {
    ...slot,
    ...(table.kind === 'gpt' && { partitionId: guidFrom(next(partitionGuid(table.diskId, slot))) }),
    ...(fileSystem && { fileSystem: { ...fileSystem, volumeId: volume(fileSystem.volumeId) } }),
    ...(content?.kind === 'exfat' && { content: { ...content, volumeId: volume(content.volumeId) } }),
    ...(content?.kind === 'swap' && { content: { ...content, uuid: guidFrom(next(`${content.uuid}/${slot.id}`)) } }),
  };
}

/** Copy `copy` of a layout: 0 is the layout itself, each other number has ids of its own. */
export function copyOf(layout: Layout, copy: number): Layout {
  if (copy === 0) return layout;
  const slots = layout.slots.map((slot): Slot => (slot.kind === 'partition' ? partitionOf(slot, layout, copy) : slot));
  return { ...layout, table: tableOf(layout.table, copy), slots };
}

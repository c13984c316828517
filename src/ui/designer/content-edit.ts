/** What choosing a content means for a partition. */
import { guidFrom } from '@/core/bytes/guid';
import { fillingOf } from '@/core/layout/contents';
import type { FileSystem, Layout, PartitionSlot } from '@/core/layout/document';
import { derivedVolumeId, seedOf, type SlotPatch } from '@/core/layout/edits';
import { type ContentKind, FILE_SYSTEMS, type FileSystemKind } from '@/core/layout/vocabulary';

/** What a person can choose for a partition; images and other files are supplied among the contents. */
export type Chosen = FileSystemKind | ContentKind | 'none';

/** What a partition holds now. */
export function chosenOf({ fileSystem, content }: PartitionSlot): Chosen {
  return fileSystem?.kind ?? content?.kind ?? 'none';
}

function isFat(kind: Chosen): kind is FileSystemKind {
  return FILE_SYSTEMS.some((one) => one === kind);
}

/** The patch that gives a partition another content. Label, id and files stay where the new one can hold them. */
export function contentPatch(layout: Layout, slot: PartitionSlot, kind: Chosen): SlotPatch {
  const { fileSystem, content } = slot;
  const { files, times, label } = fillingOf(slot) ?? {};
  const kept = {
    ...(label !== undefined && { label }),
    ...(files !== undefined && { files }),
    ...(times !== undefined && { times }),
  };
  const volumeId =
    fileSystem?.volumeId ?? (content?.kind === 'exfat' ? content.volumeId : derivedVolumeId(layout, slot.id));
  if (isFat(kind)) {
    const changed: FileSystem = fileSystem ? { ...fileSystem, kind } : { kind, ...kept, volumeId };
    return { fileSystem: changed, content: undefined };
  }
  if (kind === 'exfat') return { fileSystem: undefined, content: { kind, ...kept, volumeId } };
  if (kind === 'swap') {
    const uuid = guidFrom(`${seedOf(layout)}/${slot.id}/swap`);
    return { fileSystem: undefined, content: { kind, uuid } };
  }
  if (kind === 'overwritten') return { fileSystem: undefined, content: { kind } };
  return kind === 'none' ? { fileSystem: undefined, content: undefined } : {};
}

/** Contents of slots: which files go into them, and what a document refers to. */
import { type Fillable, isFillable, kindOf } from '../filesystems/kinds';
import { withMade, type WithMade } from '../filesystems/made-files';
import type { Content } from '../filesystems/shapes';
import type { Stored } from '../filesystems/fields';
import { type BlobFacts, blobOf, type Contents } from '../filesystems/supplied';
import type { Tree, TreeFile } from '../filesystems/tree';
import type { Layout, PartitionSlot, Slot } from './document';

/** The content of a slot into which files can go. */
export function fillingOf({ content }: Pick<PartitionSlot, 'content'>): Fillable | undefined {
  return content && isFillable(content) ? content : undefined;
}

/** The content with other files, or with none; wherever they came from before is forgotten. */
export function withFiles(slot: PartitionSlot, files: string | undefined): Pick<PartitionSlot, 'content'> {
  const filling = fillingOf(slot);
  if (!filling) return {};
  const { files: _, filesFrom: __, ...rest } = filling;
  return { content: { ...rest, ...(files !== undefined && { files }) } };
}

/** The supplied file of a content: what it is made of as a whole, or its boot code. */
function fileOf(content: Content | undefined): Stored | undefined {
  if (!content) return undefined;
  if ('sha256' in content) return content;
  return 'code' in content ? content.code : undefined;
}

/** Bytes of the image or file that a slot consists of, where it is one. */
export function preparedBytes(slot: Slot): number | undefined {
  const content = slot.kind === 'partition' ? slot.content : undefined;
  return content && 'sha256' in content ? content.size : undefined;
}

/** Facts of the supplied file of a content, where they are known. */
export function factsOfSlot({ content }: Pick<PartitionSlot, 'content'>, contents: Contents): BlobFacts | undefined {
  return blobOf(fileOf(content)?.sha256, contents);
}

/** SHA-256 of all trees and of all other files that a document names. */
export function referredTo({ slots, table }: Pick<Layout, 'slots' | 'table'>): { trees: string[]; blobs: string[] } {
  const trees = new Set<string>();
  const blobs = new Set<string>();
  if (table.kind !== 'none' && table.code) blobs.add(table.code.sha256);
  for (const slot of slots) {
    if (slot.kind === 'raw' && slot.blob) blobs.add(slot.blob.sha256);
    if (slot.kind !== 'partition') continue;
    const files = fillingOf(slot)?.files;
    if (files !== undefined) trees.add(files);
    const file = fileOf(slot.content);
    if (file) blobs.add(file.sha256);
  }
  return { trees: [...trees], blobs: [...blobs] };
}

/** Whether a document says anything about what is inside: content of a slot, files, or boot code. */
export function namesContents({ slots, table }: Pick<Layout, 'slots' | 'table'>): boolean {
  if (table.kind !== 'none' && table.code) return true;
  return slots.some((slot) => {
    if (slot.kind === 'raw') return slot.blob !== undefined;
    if (slot.kind === 'free') return false;
    if (slot.writes) return true;
    const { content } = slot;
    if (!content || content.kind === 'left') return false;
    // Of a FAT file system everything but files and code is told without looking at contents.
    return content.kind !== 'fat' || content.files !== undefined || content.code !== undefined;
  });
}

const EMPTY: Tree = [];

/** The files that a person put into a slot: none where it names none, `undefined` where they are not known here. */
export function storedTreeOf(slot: Slot, contents: Contents): Tree | undefined {
  const files = slot.kind === 'partition' ? fillingOf(slot)?.files : undefined;
  if (files === undefined) return EMPTY;
  const tree = contents.tree(files);
  return tree === 'missing' ? undefined : tree;
}

const NO_FILES: readonly TreeFile[] = [];

/** The files of a slot with those that follow from the layout, and what became of others because of them. */
export function madeInto(slot: Slot, contents: Contents): WithMade | undefined {
  const filling = slot.kind === 'partition' ? fillingOf(slot) : undefined;
  const tree = storedTreeOf(slot, contents);
  const made = (filling && contents.made?.(slot.id)) ?? NO_FILES;
  if (!tree || !filling || made.length === 0) return tree && { tree, replaced: [], blocked: [] };
  return withMade(tree, made, kindOf(filling).keepsAll === true);
}

/** All that goes into a slot: its files, and those that follow from the layout. */
export function treeOfSlot(slot: Slot, contents: Contents): Tree | undefined {
  return madeInto(slot, contents)?.tree;
}

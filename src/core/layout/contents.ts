/**
 * Contents: what a document refers to by SHA-256 alone. Whoever places a layout hands in what is
 * known of them; the core never looks where they lie.
 */
import type { Variant } from '../filesystems/fat/variants';
import type { Tree } from '../filesystems/tree';
import type { FileSystem, Layout, PartitionSlot, Slot } from './document';

/** What a file that was supplied turned out to be, if it holds a file system. */
export interface ImageFacts {
  /** `FAT32`, `exFAT`, `ext4` … */
  readonly name: string;
  readonly variant?: Variant;
  /** Variant that the fields of a FAT header are made for; readers that count clusters go by `variant`. */
  readonly headerOf?: Variant;
  readonly label?: string;
  readonly id?: string;
  /** Bytes of a sector, and of the file system, where it says so. */
  readonly sectorSize?: number;
  readonly bytes?: number;
  /** Sectors before the volume, as a FAT header says. */
  readonly hidden?: number;
  /** Sector of the second boot sector of a FAT32. */
  readonly backupSector?: number;
  readonly fatsAgree?: boolean;
  /** Its block, where it can be mounted from no sectors larger than that. */
  readonly block?: number;
  /** The table, where it is the image of a whole disk, and how many partitions that has. */
  readonly disk?: 'mbr' | 'gpt';
  readonly partitions?: number;
  /** Bytes in use, where it says so. */
  readonly used?: number;
}

/** A supplied file. */
export interface BlobFacts {
  readonly size: number;
  /** Its first bytes, at most HEAD of them. */
  readonly head: Uint8Array;
  readonly image?: ImageFacts;
  /** Its bytes have another sum than its name. */
  readonly damaged?: true;
}

/** What is wrong with the stored files of a tree: the first of them, and how many more. */
export interface TreeFlaw {
  readonly path: string;
  /** Bytes that the tree says, and that are stored; undefined where nothing is. */
  readonly size: number;
  readonly found: number | undefined;
  readonly others: number;
}

/** Bytes of every supplied file that are known without reading it: boot code is never longer. */
export const HEAD = 512;

/** What is known; `missing` says that it was looked for, `undefined` that it was not yet. */
export interface Contents {
  tree(sha256: string): Tree | 'missing' | undefined;
  blob(sha256: string): BlobFacts | 'missing' | undefined;
  /** What is wrong with the files of a tree, where somebody looked. */
  flaws?(sha256: string): TreeFlaw | undefined;
}

/** Nothing is known. */
export const NO_CONTENTS: Contents = { tree: () => undefined, blob: () => undefined };

/** Contents from plain maps. */
export function contentsOf(
  trees: ReadonlyMap<string, Tree | 'missing'>,
  blobs: ReadonlyMap<string, BlobFacts | 'missing'>,
  flaws: ReadonlyMap<string, TreeFlaw> = new Map(),
): Contents {
  return {
    tree: (sha256) => trees.get(sha256),
    blob: (sha256) => blobs.get(sha256),
    flaws: (sha256) => flaws.get(sha256),
  };
}

/** A file system that can hold files: FAT or exFAT. */
export type Filling = Pick<FileSystem, 'files' | 'times' | 'label'>;

/** The file system of a slot into which files can go. */
export function fillingOf(slot: PartitionSlot): Filling | undefined {
  return slot.fileSystem ?? (slot.content?.kind === 'exfat' ? slot.content : undefined);
}

/** The partition with other files, or with none. */
export function withFiles(
  slot: PartitionSlot,
  files: string | undefined,
): Pick<PartitionSlot, 'fileSystem' | 'content'> {
  const patched = <T extends object>(value: T): T => {
    const { files: _, ...rest } = value as T & Filling;
    return { ...rest, ...(files !== undefined && { files }) } as T;
  };
  if (slot.fileSystem) return { fileSystem: patched(slot.fileSystem) };
  return slot.content?.kind === 'exfat' ? { content: patched(slot.content) } : {};
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
    if (slot.fileSystem?.code) blobs.add(slot.fileSystem.code.sha256);
    if (slot.content && 'sha256' in slot.content) blobs.add(slot.content.sha256);
  }
  return { trees: [...trees], blobs: [...blobs] };
}

/** Whether a document says anything about what is inside: content of a slot, files, or boot code. */
export function saysWhatIsInside({ slots, table }: Pick<Layout, 'slots' | 'table'>): boolean {
  if (table.kind !== 'none' && table.code) return true;
  return slots.some((slot) => {
    if (slot.kind === 'raw') return slot.blob !== undefined;
    if (slot.kind === 'free') return false;
    return slot.content !== undefined || slot.fileSystem?.files !== undefined || slot.fileSystem?.code !== undefined;
  });
}

const EMPTY: Tree = [];

/** The files of a slot: none where it names none, `undefined` where they are not known here. */
export function treeOfSlot(slot: Slot, contents: Contents): Tree | undefined {
  const files = slot.kind === 'partition' ? fillingOf(slot)?.files : undefined;
  if (files === undefined) return EMPTY;
  const tree = contents.tree(files);
  return tree === 'missing' ? undefined : tree;
}

/** Facts of a supplied file, where they are known. */
export function blobOf(sha256: string | undefined, contents: Contents): BlobFacts | undefined {
  const facts = sha256 === undefined ? undefined : contents.blob(sha256);
  return facts === 'missing' ? undefined : facts;
}

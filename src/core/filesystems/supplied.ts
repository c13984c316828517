/**
 * What people supply: files and trees of files, which a document refers to by SHA-256 alone. Whoever
 * places a layout hands in what is known of them; the core never looks where they lie.
 */
import type { Variant } from './fat/variants';
import type { Tree, TreeFile } from './tree';

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
  /** It is the archive that this file lies in. */
  readonly inArchive?: boolean;
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
  /** The text of a file of a tree in which ids stand, where it was read; by the sum of its content. */
  text?(sha256: string): string | undefined;
  /** Files that follow from the layout itself, and go into a slot beside those of its tree. */
  made?(slot: string): readonly TreeFile[];
}

/** Nothing is known. */
export const NO_CONTENTS: Contents = { tree: () => undefined, blob: () => undefined };

/** Contents from plain maps. */
export function contentsOf(
  trees: ReadonlyMap<string, Tree | 'missing'>,
  blobs: ReadonlyMap<string, BlobFacts | 'missing'>,
  flaws: ReadonlyMap<string, TreeFlaw> = new Map(),
  texts: ReadonlyMap<string, string> = new Map(),
): Contents {
  return {
    tree: (sha256) => trees.get(sha256),
    blob: (sha256) => blobs.get(sha256),
    flaws: (sha256) => flaws.get(sha256),
    text: (sha256) => texts.get(sha256),
  };
}

/** Facts of a supplied file, where they are known. */
export function blobOf(sha256: string | undefined, contents: Contents): BlobFacts | undefined {
  const facts = sha256 === undefined ? undefined : contents.blob(sha256);
  return facts === 'missing' ? undefined : facts;
}

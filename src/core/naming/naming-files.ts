/** Files of a tree in which ids of partitions stand: mount tables, boot entries, command lines. */
import { filesOf, storedSize, type Tree, type TreeFile } from '../filesystems/tree';
import { inBinary, KIB } from '../quantity/units';
import type { Contents } from '../filesystems/supplied';

/** What a file says: a mount table; one boot entry; entries as boards read them; the command line of a kernel alone. */
export type NamingForm = 'mount table' | 'boot entry' | 'board entries' | 'command line';

export interface NamingFile {
  readonly form: NamingForm;
  readonly file: TreeFile;
  /** Why it is not read; undefined where it is. */
  readonly unread: string | undefined;
}

/** Where such files lie; readers of FAT do not mind case, and on other systems nobody has these names by chance. */
const PLACES: readonly (readonly [RegExp, NamingForm])[] = [
  [/^etc\/fstab$/i, 'mount table'],
  [/^(?:boot\/|efi\/)?loader\/entries\/[^/]+\.conf$/i, 'boot entry'],
  [/^(?:boot\/)?extlinux\/extlinux\.conf$/i, 'board entries'],
  [/^cmdline\.txt$/i, 'command line'],
];

/** Longest text that is read, and all texts of a tree together, in bytes: a command line has 4,096 at most. */
const TEXT_LIMIT = 64 * KIB;
const ALL_LIMIT = 256 * KIB;

const KNOWN = new WeakMap<Tree, readonly NamingFile[]>();

/** The files of a tree that name ids, in its order. */
export function namingFiles(tree: Tree): readonly NamingFile[] {
  const known = KNOWN.get(tree);
  if (known) return known;
  const found: NamingFile[] = [];
  let read = 0;
  for (const file of filesOf(tree)) {
    const place = PLACES.find(([pattern]) => pattern.test(file.path));
    if (!place) continue;
    const unread = whyUnread(file, read);
    if (unread === undefined) read += storedSize(file);
    found.push({ form: place[1], file, unread });
  }
  KNOWN.set(tree, found);
  return found;
}

function whyUnread(file: TreeFile, before: number): string | undefined {
  if (file.pieces !== undefined) return 'has holes';
  const size = storedSize(file);
  if (size > TEXT_LIMIT) return 'is longer than such a file ever is';
  return before + size > ALL_LIMIT ? `comes behind ${inBinary(ALL_LIMIT)} of such files` : undefined;
}

/** The text of bytes; what is no UTF-8 in it shows as U+FFFD. */
export function textOfBytes(bytes: Uint8Array): string {
  return new TextDecoder().decode(bytes);
}

/** The text of a file, where it is known. */
export function textOfFile({ made, sha256 }: TreeFile, contents: Contents): string | undefined {
  return made ? textOfBytes(made) : contents.text?.(sha256);
}

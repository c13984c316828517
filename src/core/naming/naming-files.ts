/** Files of a tree in which ids of partitions stand: mount tables, boot entries, command lines. */
import { filesOf, storedSize, type Tree, type TreeFile } from '../filesystems/tree';
import type { Contents } from '../filesystems/supplied';

/** What a file says: a mount table; one boot entry; entries as boards read them; the command line of a kernel alone. */
export type NamingForm = 'mount table' | 'boot entry' | 'board entries' | 'command line';

export interface NamingFile {
  readonly form: NamingForm;
  readonly file: TreeFile;
}

/** Where such files lie; readers of FAT do not mind case, and on other systems nobody has these names by chance. */
const PLACES: readonly (readonly [RegExp, NamingForm])[] = [
  [/^etc\/fstab$/i, 'mount table'],
  [/^(?:boot\/|efi\/)?loader\/entries\/[^/]+\.conf$/i, 'boot entry'],
  [/^(?:boot\/)?extlinux\/extlinux\.conf$/i, 'board entries'],
  [/^cmdline\.txt$/i, 'command line'],
];

/** Longest text that is read, in bytes, and most files of a tree. */
const TEXT_LIMIT = 65_536;
const FILES_LIMIT = 64;

const KNOWN = new WeakMap<Tree, readonly NamingFile[]>();

/** The files of a tree that name ids, in its order. */
export function namingFiles(tree: Tree): readonly NamingFile[] {
  const known = KNOWN.get(tree);
  if (known) return known;
  const found = filesOf(tree)
    .flatMap((file): NamingFile[] => {
      const place = PLACES.find(([pattern]) => pattern.test(file.path));
      return place ? [{ form: place[1], file }] : [];
    })
    .slice(0, FILES_LIMIT);
  KNOWN.set(tree, found);
  return found;
}

/** True for a file that is short enough, and stored in one piece. */
export function isReadable(file: TreeFile): boolean {
  return file.pieces === undefined && storedSize(file) <= TEXT_LIMIT;
}

/** The text of bytes; what is no UTF-8 in it shows as U+FFFD. */
export function textOfBytes(bytes: Uint8Array): string {
  return new TextDecoder().decode(bytes);
}

/** The text of a file, where it is known. */
export function textOfFile({ made, sha256 }: TreeFile, contents: Contents): string | undefined {
  return made ? textOfBytes(made) : contents.text?.(sha256);
}

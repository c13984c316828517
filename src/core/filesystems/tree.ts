/**
 * Trees: the files and folders that a file system shall hold, in their order, with all that a Linux
 * system keeps of them. A file is known by the SHA-256 of its content; where the bytes lie is no
 * matter of the tree. `tree-text.ts` writes and reads trees, `tree-edits.ts` changes them.
 */
import type { Copied, Extent } from '../bytes/extents';

export const FILE_ATTRIBUTES = ['read only', 'hidden', 'system', 'archive'] as const;
export type FileAttribute = (typeof FILE_ATTRIBUTES)[number];

/** What Linux keeps of an entry beside its content; what is missing has a usual value. */
export interface Owned {
  /** The lower twelve bits of its mode: who may do what, setuid, setgid and sticky. */
  readonly mode?: number;
  /** Owner and group, in numbers; 0 where they are missing. */
  readonly user?: number;
  readonly group?: number;
  /** Extended attributes by their whole names (`user.note`), the values in Base64; access lists in the kernel's form. */
  readonly extended?: Readonly<Record<string, string>>;
}

interface Common extends Owned {
  /** Names from the root of the volume, joined by `/`; no slash at either end. Bytes that are no UTF-8 stand in it as `utf8.ts` says. */
  readonly path: string;
  /** `YYYY-MM-DDTHH:MM:SS`, with up to nine digits of a second behind a point; the date of the layout where it is missing. */
  readonly time?: string;
  readonly attributes?: readonly FileAttribute[];
}

/** A part of a file that is no hole: where in the file it begins, where in the stored bytes, and its length. */
export type FilePiece = readonly [at: number, from: number, length: number];

/** Content that files of a tree lie in: an archive, kept in one piece as it came, or as it unpacked. */
export interface Archive {
  readonly sha256: string;
  readonly size: number;
  /** SHA-256 of what was given, where that was compressed. */
  readonly given?: string;
}

export interface TreeFile extends Common {
  readonly kind: 'file';
  readonly size: number;
  /** 64 hexadecimal digits in lower case. */
  readonly sha256: string;
  /** CRC-32 of the content, eight hexadecimal digits: with it every copy is checked at hardly any cost. */
  readonly crc32?: string;
  /** Where its bytes lie in an archive, from byte `at` on; without it they are content of their own. */
  readonly within?: { readonly archive: Archive; readonly at: number };
  /** Of a file with holes, what is none, ascending; the sums are those of the stored bytes, which may lack the holes. */
  readonly pieces?: readonly FilePiece[];
  /** Its bytes, where it is stored nowhere: it follows from the layout. No text of a tree has such a file. */
  readonly made?: Uint8Array;
}

export interface TreeFolder extends Common {
  readonly kind: 'folder';
}

/** A symbolic link. */
export interface TreeLink extends Common {
  readonly kind: 'link';
  readonly target: string;
}

/** A second name of something that is no folder: a hard link. It has no facts of its own. */
export interface TreeName extends Common {
  readonly kind: 'second name';
  /** Path of what it names, which is no second name itself. */
  readonly of: string;
}

export interface TreeDevice extends Common {
  readonly kind: 'device';
  readonly device: 'character' | 'block';
  readonly major: number;
  readonly minor: number;
}

export interface TreePipe extends Common {
  readonly kind: 'pipe' | 'socket';
}

/** What Linux systems have beside files and folders. */
export type TreeSpecial = TreeLink | TreeName | TreeDevice | TreePipe;
/** Everything that is no folder. */
export type TreeLeaf = TreeFile | TreeSpecial;
export type TreeEntry = TreeLeaf | TreeFolder;
export type Tree = readonly TreeEntry[];

/** Most entries of a tree, longest path in characters, deepest nesting. */
export const ENTRY_LIMIT = 1_000_000;
export const PATH_LIMIT = 4096;
const DEPTH_LIMIT = 64;

export const SHA256 = /^[0-9a-f]{64}$/;
/** Largest number of an owner; major and minor numbers of devices; target of a link in bytes. */
export const OWNER_LIMIT = 2 ** 32 - 2;
const MAJOR_LIMIT = 4095;
const MINOR_LIMIT = 2 ** 20 - 1;
export const TARGET_LIMIT = 4095;
export const MODE_LIMIT = 0o7777;
/** Bytes of all extended attributes of an entry: no file system here holds more. */
export const EXTENDED_LIMIT = 65_536;

/** True for numbers that a device can have. */
export function isDevice(major: number, minor: number): boolean {
  return major >= 0 && major <= MAJOR_LIMIT && minor >= 0 && minor <= MINOR_LIMIT;
}

/** The mode of an entry that says none; a folder that is not said at all has that of folders. */
export function usualMode(entry: Pick<TreeEntry, 'kind' | 'attributes'> | undefined): number {
  if (!entry || entry.kind === 'folder') return 0o755;
  if (entry.kind === 'link') return 0o777;
  return entry.attributes?.includes('read only') ? 0o444 : 0o644;
}

/** The mode of an entry: what it says, or what is usual. */
export function modeOf(entry: TreeEntry | undefined): number {
  return entry?.mode ?? usualMode(entry);
}

/** What no path of a tree may be, in words; undefined for a good one. */
export function pathTrouble(path: string): string | undefined {
  if (path.length > PATH_LIMIT) return `is longer than ${PATH_LIMIT} characters`;
  const names = path.split('/');
  if (names.length > DEPTH_LIMIT) return `lies more than ${DEPTH_LIMIT} folders deep`;
  if (path.startsWith('/')) return 'begins at the root of a system';
  if (names.includes('..')) return 'leaves the folder that it is in';
  if (names.some((name) => name === '' || name === '.')) return 'has a name that is empty or “.”';
  return path.includes('\0') ? 'has a zero character in it' : undefined;
}

/** Something that is no folder. */
export type LeafNode = {
  [Leaf in TreeLeaf as Leaf['kind']]: { readonly kind: Leaf['kind']; readonly name: string; readonly entry: Leaf };
}[TreeLeaf['kind']];

export interface FolderNode {
  readonly kind: 'folder';
  readonly name: string;
  readonly path: string;
  /** Missing where the folder is only named by paths of what is in it. */
  entry?: TreeFolder;
  readonly children: TreeNode[];
}

export type TreeNode = LeafNode | FolderNode;

const ROOTS = new WeakMap<Tree, FolderNode>();

/** The tree as nested folders, each with its children in the order of the tree. */
export function rootOf(tree: Tree): FolderNode {
  const known = ROOTS.get(tree);
  if (known) return known;
  const root: FolderNode = { kind: 'folder', name: '', path: '', children: [] };
  const folders = new Map<string, FolderNode>([['', root]]);
  const folder = (path: string): FolderNode => {
    const there = folders.get(path);
    if (there) return there;
    const cut = path.lastIndexOf('/');
    const made: FolderNode = { kind: 'folder', name: path.slice(cut + 1), path, children: [] };
    folder(cut < 0 ? '' : path.slice(0, cut)).children.push(made);
    folders.set(path, made);
    return made;
  };
  for (const entry of tree) {
    if (entry.kind === 'folder') {
      folder(entry.path).entry = entry;
      continue;
    }
    const cut = entry.path.lastIndexOf('/');
    folder(cut < 0 ? '' : entry.path.slice(0, cut)).children.push({
      kind: entry.kind,
      name: entry.path.slice(cut + 1),
      entry,
    } as LeafNode);
  }
  ROOTS.set(tree, root);
  return root;
}

/** Every folder, the root first, each before what is in it. */
export function foldersOf(root: FolderNode): FolderNode[] {
  const found = [root];
  for (const folder of found) for (const child of folder.children) if (child.kind === 'folder') found.push(child);
  return found;
}

/** Bytes of a file that are stored: all but the holes that were left out. */
export function storedSize({ size, pieces }: Pick<TreeFile, 'size' | 'pieces'>): number {
  return pieces ? pieces.reduce((most, [, from, length]) => Math.max(most, from + length), 0) : size;
}

/** All that is stored of a file, as it is copied; of a file without holes that is its content. */
export function copiedOf(file: TreeFile): Copied {
  const { sha256, crc32, within } = file;
  return {
    from: within?.archive.sha256 ?? sha256,
    at: within?.at ?? 0,
    length: storedSize(file),
    ...(crc32 !== undefined && { crc32: parseInt(crc32, 16) }),
  };
}

/** The content of a file from byte `offset` of a medium on: what is copied, and zeros where it has holes. */
export function extentsOfFile(file: TreeFile, offset: number): Extent[] {
  const { size, pieces, made } = file;
  if (made) return made.length > 0 ? [{ offset, bytes: made }] : [];
  if (!pieces) return [{ offset, copied: copiedOf(file) }];
  const whole = copiedOf(file);
  const extents: Extent[] = [];
  let end = 0;
  const zeros = (to: number) => {
    if (to > end) extents.push({ offset: offset + end, zeros: to - end });
  };
  for (const [at, from, length] of pieces) {
    zeros(at);
    extents.push({ offset: offset + at, copied: { from: whole.from, at: whole.at + from, length } });
    end = at + length;
  }
  zeros(size);
  return extents;
}

/** Content that files of a tree lie in, and the first of them. */
export interface StoredContent {
  readonly sha256: string;
  readonly size: number;
  readonly path: string;
  readonly isArchive: boolean;
}

/** Every content that the files of a tree lie in, once, with its length and the first file that needs it. */
export function storedOf(tree: Tree): StoredContent[] {
  const found = new Map<string, StoredContent>();
  for (const file of filesOf(tree)) {
    const { sha256, path, within, made } = file;
    if (made) continue;
    const stored = within ? within.archive : { sha256, size: storedSize(file) };
    if (!found.has(stored.sha256))
      found.set(stored.sha256, { sha256: stored.sha256, size: stored.size, path, isArchive: within !== undefined });
  }
  return [...found.values()];
}

/** The files in the order of the tree. */
export function filesOf(tree: Tree): TreeFile[] {
  return tree.filter((one): one is TreeFile => one.kind === 'file');
}

/** The paths of all files and folders, also of folders that only stand in the path of what is in them. */
export function pathsOf(tree: Tree): ReadonlySet<string> {
  const paths = new Set<string>();
  for (const { path } of tree) {
    for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1)) paths.add(path.slice(0, at));
    paths.add(path);
  }
  return paths;
}

/** What a tree holds, summed up. */
export function treeSums(tree: Tree): {
  readonly files: number;
  readonly folders: number;
  /** Links, second names, devices, pipes and sockets. */
  readonly others: number;
  readonly bytes: number;
} {
  const files = filesOf(tree);
  return {
    files: files.length,
    folders: foldersOf(rootOf(tree)).length - 1,
    others: tree.filter(({ kind }) => kind !== 'file' && kind !== 'folder').length,
    bytes: files.reduce((sum, one) => sum + one.size, 0),
  };
}

/** True for a folder, and for everything in it. */
export function isIn(path: string, folder: string): boolean {
  return path === folder || path.startsWith(`${folder}/`);
}

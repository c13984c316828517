/**
 * Trees: the files and folders that a file system shall hold, in their order. A file is known by
 * the SHA-256 of its content; where the bytes lie is no matter of the tree. A tree is written as
 * text in one way only, so that it can itself be stored by its content.
 */
import type { Copied } from '../bytes/extents';
import { fail, ok, type Result } from '../quantity/result';

export const FILE_ATTRIBUTES = ['read only', 'hidden', 'system', 'archive'] as const;
export type FileAttribute = (typeof FILE_ATTRIBUTES)[number];

interface Common {
  /** Names from the root of the volume, joined by `/`; no slash at either end. */
  readonly path: string;
  /** `YYYY-MM-DDTHH:MM:SS`; the date of the layout where it is missing. */
  readonly time?: string;
  readonly attributes?: readonly FileAttribute[];
}

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
}

export interface TreeFolder extends Common {
  readonly kind: 'folder';
}

export type TreeEntry = TreeFile | TreeFolder;
export type Tree = readonly TreeEntry[];

/** An entry as it is written: the archive by its place among those of the tree. */
export type WrittenEntry = (Omit<TreeFile, 'within'> & { readonly in?: number; readonly at?: number }) | TreeFolder;

/** Most entries of a tree, longest path in characters, deepest nesting. */
export const ENTRY_LIMIT = 1_000_000;
export const PATH_LIMIT = 4096;
const DEPTH_LIMIT = 64;

export const SHA256 = /^[0-9a-f]{64}$/;
const CRC32 = /^[0-9a-f]{8}$/;
const TIME = /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d$/;

/** True for a time that calendar and clock have. */
export function isRealTime(time: string): boolean {
  if (!TIME.test(time)) return false;
  const date = new Date(`${time}Z`);
  return Number.isFinite(date.getTime()) && date.toISOString().startsWith(time);
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

function isCount(value: unknown): value is number {
  return Number.isSafeInteger(value) && (value as number) >= 0;
}

function isSum(value: unknown): value is string {
  return typeof value === 'string' && SHA256.test(value);
}

/** The archives of the text of a tree; undefined where they are none. */
function archivesIn(value: unknown): readonly Archive[] | undefined {
  if (value === undefined) return [];
  if (!Array.isArray(value)) return undefined;
  const isArchive = (one: Partial<Archive> | null) =>
    typeof one === 'object' &&
    one !== null &&
    isSum(one.sha256) &&
    isCount(one.size) &&
    (one.given === undefined || isSum(one.given));
  return value.every(isArchive) ? (value as Archive[]) : undefined;
}

/** Why a file does not lie in the archive that it names. */
function withinTrouble(entry: WrittenFields, archives: readonly Archive[]): string | undefined {
  const { in: which, at, size } = entry;
  if (which === undefined && at === undefined) return undefined;
  const archive = isCount(which) ? archives[which] : undefined;
  if (!archive) return 'lies in an archive that the tree does not name';
  return isCount(at) && at + (size as number) <= archive.size ? undefined : 'lies beyond the end of its archive';
}

type WrittenFields = { readonly [Key in keyof Extract<WrittenEntry, { kind: 'file' }>]?: unknown };

function entryTrouble(entry: WrittenFields, archives: readonly Archive[]): string | undefined {
  if (typeof entry.path !== 'string') return 'has no path';
  const isKnown = (one: unknown) => FILE_ATTRIBUTES.includes(one as FileAttribute);
  if (entry.time !== undefined && !(typeof entry.time === 'string' && TIME.test(entry.time)))
    return 'has no valid time';
  if (entry.attributes !== undefined && !(Array.isArray(entry.attributes) && entry.attributes.every(isKnown)))
    return 'has unknown attributes';
  const { kind, size } = entry;
  if (kind === 'file' && !isCount(size)) return 'has no size';
  if (kind === 'file' && !isSum(entry.sha256)) return 'has no SHA-256';
  const { crc32 } = entry;
  if (crc32 !== undefined && !(typeof crc32 === 'string' && CRC32.test(crc32))) return 'has no valid CRC-32';
  if (kind !== 'file' && kind !== 'folder') return 'is neither file nor folder';
  return pathTrouble(entry.path) ?? (kind === 'file' ? withinTrouble(entry, archives) : undefined);
}

/** How the text of every tree begins. */
export const TREE_BEGINS = '{"format":"loess-tree",';

/** Reads the text of a tree. What is not the text of a tree is an error with the reason. */
export function readTree(text: string): Result<Tree, string> {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return fail('is not the text of a tree');
  }
  const { format, entries, ...rest } = (value ?? {}) as { format?: unknown; entries?: unknown; archives?: unknown };
  const archives = archivesIn(rest.archives);
  if (format !== 'loess-tree' || !Array.isArray(entries) || !archives) return fail('is not the text of a tree');
  if (entries.length > ENTRY_LIMIT) return fail(`has more than ${ENTRY_LIMIT} entries`);
  const seen = new Set<string>();
  for (const entry of entries as WrittenEntry[]) {
    const trouble = typeof entry === 'object' && entry !== null ? entryTrouble(entry, archives) : 'is no entry';
    if (trouble) return fail(`“${String(entry?.path)}” ${trouble}`);
    if (seen.has(entry.path)) return fail(`“${entry.path}” stands in it twice`);
    seen.add(entry.path);
  }
  return ok(treeAsWritten({ archives, entries: entries as WrittenEntry[] }));
}

function asRead(entry: WrittenEntry, archives: readonly Archive[]): TreeEntry {
  if (entry.kind === 'folder' || entry.in === undefined) return entry as TreeEntry;
  const { in: which, at, ...rest } = entry;
  return { ...rest, within: { archive: archives[which]!, at: at! } };
}

/** A time that the calendar does not have, as older trees may say, is none. */
function withRealTime<T extends TreeEntry>(entry: T): T {
  if (entry.time === undefined || isRealTime(entry.time)) return entry;
  const { time: _, ...rest } = entry;
  return rest as T;
}

/** The archives that files of a tree lie in, in the order in which they come up. */
class Archives {
  private readonly places = new Map<Archive, number>();
  private readonly byText = new Map<string, number>();
  readonly all: Archive[] = [];

  placeOf(archive: Archive): number {
    const known = this.places.get(archive);
    if (known !== undefined) return known;
    const { sha256, size, given } = archive;
    const own = { sha256, size, ...(given !== undefined && { given }) };
    const text = JSON.stringify(own);
    const place = this.byText.get(text) ?? this.all.push(own) - 1;
    this.byText.set(text, place);
    this.places.set(archive, place);
    return place;
  }
}

/** A tree as it is written, and sent: its archives once, and entries that name them by their place. */
export interface WrittenTree {
  readonly archives?: readonly Archive[];
  readonly entries: readonly WrittenEntry[];
}

/** The tree as it is written: fields in one order. */
export function writtenTree(tree: Tree): WrittenTree {
  const archives = new Archives();
  const entries = tree.map((one): WrittenEntry => {
    const about = {
      ...(one.time !== undefined && { time: one.time }),
      ...(one.attributes?.length && { attributes: FILE_ATTRIBUTES.filter((name) => one.attributes!.includes(name)) }),
    };
    if (one.kind === 'folder') return { kind: one.kind, path: one.path, ...about };
    const { kind, path, size, sha256, crc32, within } = one;
    return {
      kind,
      path,
      size,
      sha256,
      ...(crc32 && { crc32 }),
      ...(within && { in: archives.placeOf(within.archive), at: within.at }),
      ...about,
    };
  });
  return { ...(archives.all.length > 0 && { archives: archives.all }), entries };
}

/** The tree that was written so; every place that an entry names is one of the archives. */
export function treeAsWritten({ archives = [], entries }: WrittenTree): Tree {
  return entries.map((entry) => withRealTime(asRead(entry, archives)));
}

/** The text of a tree: its archives first, then one entry a line. */
export function treeText(tree: Tree): string {
  const { archives, entries } = writtenTree(tree);
  const ahead = archives ? `"archives":${JSON.stringify(archives)},` : '';
  return `${TREE_BEGINS}${ahead}"entries":[\n${entries.map((one) => JSON.stringify(one)).join(',\n')}\n]}\n`;
}

export interface FileNode {
  readonly kind: 'file';
  readonly name: string;
  readonly entry: TreeFile;
}

export interface FolderNode {
  readonly kind: 'folder';
  readonly name: string;
  readonly path: string;
  /** Missing where the folder is only named by paths of what is in it. */
  entry?: TreeFolder;
  readonly children: TreeNode[];
}

export type TreeNode = FileNode | FolderNode;

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
      kind: 'file',
      name: entry.path.slice(cut + 1),
      entry,
    });
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

/** All of the content of a file, as it is copied. */
export function copiedOf({ sha256, size, crc32, within }: TreeFile): Copied {
  return {
    from: within?.archive.sha256 ?? sha256,
    at: within?.at ?? 0,
    length: size,
    ...(crc32 !== undefined && { crc32: parseInt(crc32, 16) }),
  };
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
  for (const { sha256, size, path, within } of filesOf(tree)) {
    const stored = within ? within.archive : { sha256, size };
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
export function treeSums(tree: Tree): { readonly files: number; readonly folders: number; readonly bytes: number } {
  const files = filesOf(tree);
  return {
    files: files.length,
    folders: foldersOf(rootOf(tree)).length - 1,
    bytes: files.reduce((sum, one) => sum + one.size, 0),
  };
}

function isIn(path: string, folder: string): boolean {
  return path === folder || path.startsWith(`${folder}/`);
}

/**
 * Adds entries: one with the path of another takes its place, all others come behind. A file
 * takes the place of a folder of its path with all that is in it, and a folder that of a file.
 */
export function withEntries(tree: Tree, added: Tree): Tree {
  const byPath = new Map(tree.map((one) => [one.path, one]));
  const inside = new Set<string>();
  for (const { path } of tree)
    for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1)) inside.add(path.slice(0, at));
  for (const one of added) {
    const { path } = one;
    if (one.kind === 'file' && (inside.has(path) || byPath.get(path)?.kind === 'folder'))
      for (const other of [...byPath.keys()]) if (isIn(other, path)) byPath.delete(other);
    for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1)) {
      const above = path.slice(0, at);
      inside.add(above);
      if (byPath.get(above)?.kind === 'file') byPath.delete(above);
    }
    byPath.set(path, one);
  }
  return [...byPath.values()];
}

/** The tree without a file, or without a folder and all that is in it. */
export function withoutPath(tree: Tree, path: string): Tree {
  return tree.filter((one) => !isIn(one.path, path));
}

/** The tree with a file or folder, and all that is in it, under another path. */
export function withRenamed(tree: Tree, from: string, to: string): Tree {
  return tree.map((one) => (isIn(one.path, from) ? { ...one, path: to + one.path.slice(from.length) } : one));
}

/**
 * The tree with other names for several files and folders, each of which stays in its folder; without
 * `names` they are left out, with all that is in them. Every path is one of the tree as it was.
 */
export function withNames(tree: Tree, paths: readonly string[], names?: readonly string[]): Tree {
  const named = new Map(paths.map((path, n) => [path, names?.[n]]));
  return tree.flatMap((one) => {
    const parts: string[] = [];
    let above = '';
    for (const part of one.path.split('/')) {
      above = above === '' ? part : `${above}/${part}`;
      if (named.has(above) && !names) return [];
      parts.push(named.get(above) ?? part);
    }
    return [{ ...one, path: parts.join('/') }];
  });
}

/** The tree with an entry, and all that is in it, moved ahead of another one; at the end without one. */
export function withMoved(tree: Tree, path: string, before: string | undefined): Tree {
  const moved = tree.filter((one) => isIn(one.path, path));
  const others = withoutPath(tree, path);
  const at = before === undefined ? -1 : others.findIndex((one) => isIn(one.path, before));
  return at < 0 ? [...others, ...moved] : others.toSpliced(at, 0, ...moved);
}

/** The tree with other attributes for one entry. */
export function withAttributes(tree: Tree, path: string, attributes: readonly FileAttribute[]): Tree {
  return tree.map((one) => (one.path === path ? { ...one, attributes } : one));
}

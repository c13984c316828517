/** Trees as text, written in one way only, so that a tree can itself be stored by its content. */
import { fail, ok, type Result } from '../quantity/result';
import {
  type Archive,
  ENTRY_LIMIT,
  EXTENDED_LIMIT,
  FILE_ATTRIBUTES,
  type FileAttribute,
  isDevice,
  MODE_LIMIT,
  OWNER_LIMIT,
  pathTrouble,
  SHA256,
  storedSize,
  TARGET_LIMIT,
  type Tree,
  type TreeEntry,
  type TreeFile,
  type TreeName,
} from './tree';

type WrittenFile = Omit<TreeFile, 'within'> & { readonly in?: number; readonly at?: number };

/** An entry as it is written: the archive by its place among those of the tree. */
export type WrittenEntry = WrittenFile | Exclude<TreeEntry, TreeFile>;

const CRC32 = /^[0-9a-f]{8}$/;
const TIME = /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d{1,9})?$/;
/** A name of an extended attribute: a namespace, a point, and the rest. */
const EXTENDED_NAME = /^(user|trusted|security|system)\.[^\0]+$/;
const BASE64 = /^(?:[A-Za-z0-9+/]{4})*(?:[A-Za-z0-9+/]{2}==|[A-Za-z0-9+/]{3}=)?$/;

/** True for a time that calendar and clock have. */
export function isRealTime(time: string): boolean {
  if (!TIME.test(time)) return false;
  const seconds = time.slice(0, 19);
  const date = new Date(`${seconds}Z`);
  return Number.isFinite(date.getTime()) && date.toISOString().startsWith(seconds);
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
  const { in: which, at, size, pieces } = entry;
  if (which === undefined && at === undefined) return undefined;
  const archive = isCount(which) ? archives[which] : undefined;
  if (!archive) return 'lies in an archive that the tree does not name';
  return isCount(at) && at + storedSize({ size, pieces } as TreeFile) <= archive.size
    ? undefined
    : 'lies beyond the end of its archive';
}

type AnyKey<T> = T extends unknown ? keyof T : never;
type WrittenFields = { readonly [Key in AnyKey<WrittenEntry>]?: unknown };

function isAmong(value: unknown, most: number): boolean {
  return isCount(value) && value <= most;
}

/** What is wrong with the parts of a file that are no holes. */
function piecesTrouble(pieces: unknown, size: number): string | undefined {
  if (pieces === undefined) return undefined;
  const isPiece = (one: unknown) => Array.isArray(one) && one.length === 3 && one.every(isCount) && one[2]! > 0;
  if (!Array.isArray(pieces) || !pieces.every(isPiece)) return 'has holes that cannot be read';
  let end = 0;
  for (const [at, , length] of pieces as [number, number, number][]) {
    if (at < end || at + length > size) return 'has holes that overlap or lie behind its end';
    end = at + length;
  }
  return undefined;
}

/** What is wrong with what Linux keeps of an entry. */
function ownedTrouble({ mode, user, group, extended }: WrittenFields): string | undefined {
  if (mode !== undefined && !isAmong(mode, MODE_LIMIT)) return 'has no valid mode';
  for (const owner of [user, group])
    if (owner !== undefined && !isAmong(owner, OWNER_LIMIT)) return 'has no valid owner';
  if (extended === undefined) return undefined;
  if (typeof extended !== 'object' || extended === null) return 'has no valid attributes';
  let bytes = 0;
  for (const [name, value] of Object.entries(extended)) {
    if (!EXTENDED_NAME.test(name) || typeof value !== 'string' || !BASE64.test(value))
      return 'has extended attributes that cannot be read';
    bytes += name.length + value.length;
  }
  return bytes > 2 * EXTENDED_LIMIT ? 'has too many extended attributes' : undefined;
}

/** What is wrong with what only this kind of entry has. */
function kindTrouble(entry: WrittenFields, archives: readonly Archive[]): string | undefined {
  const { kind, size, crc32 } = entry;
  switch (kind) {
    case 'folder':
    case 'pipe':
    case 'socket':
      return undefined;
    case 'file':
      if (!isCount(size)) return 'has no size';
      if (!isSum(entry.sha256)) return 'has no SHA-256';
      if (crc32 !== undefined && !(typeof crc32 === 'string' && CRC32.test(crc32))) return 'has no valid CRC-32';
      return piecesTrouble(entry.pieces, size) ?? withinTrouble(entry, archives);
    case 'link':
      return typeof entry.target === 'string' && entry.target !== '' && entry.target.length <= TARGET_LIMIT
        ? undefined
        : 'is a link to nowhere';
    case 'second name':
      return typeof entry.of === 'string' ? undefined : 'is a second name of nothing';
    case 'device':
      return ['character', 'block'].includes(entry.device as string) &&
        isCount(entry.major) &&
        isCount(entry.minor) &&
        isDevice(entry.major, entry.minor)
        ? undefined
        : 'is a device with no numbers';
    default:
      return 'is of an unknown kind';
  }
}

function entryTrouble(entry: WrittenFields, archives: readonly Archive[]): string | undefined {
  if (typeof entry.path !== 'string') return 'has no path';
  const isKnown = (one: unknown) => FILE_ATTRIBUTES.includes(one as FileAttribute);
  if (entry.time !== undefined && !(typeof entry.time === 'string' && TIME.test(entry.time)))
    return 'has no valid time';
  if (entry.attributes !== undefined && !(Array.isArray(entry.attributes) && entry.attributes.every(isKnown)))
    return 'has unknown attributes';
  return pathTrouble(entry.path) ?? ownedTrouble(entry) ?? kindTrouble(entry, archives);
}

/** What is wrong with second names: each is one of something in the tree that is neither a folder nor a second name. */
function namesTrouble(entries: readonly WrittenEntry[]): string | undefined {
  if (!entries.some(({ kind }) => kind === 'second name')) return undefined;
  const kinds = new Map(entries.map(({ path, kind }) => [path, kind]));
  for (const one of entries) {
    if (one.kind !== 'second name') continue;
    const kind = kinds.get(one.of);
    if (kind === undefined || kind === 'folder' || kind === 'second name')
      return `“${one.path}” is a second name of “${one.of}”, which ${kind === undefined ? 'is not there' : `is a ${kind}`}`;
  }
  return undefined;
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
  const trouble = namesTrouble(entries as WrittenEntry[]);
  if (trouble) return fail(trouble);
  return ok(treeAsWritten({ archives, entries: entries as WrittenEntry[] }));
}

function asRead(entry: WrittenEntry, archives: readonly Archive[]): TreeEntry {
  if (entry.kind !== 'file' || entry.in === undefined) return entry as TreeEntry;
  const { in: which, at, ...rest } = entry;
  return { ...rest, within: { archive: archives[which]!, at: at! } };
}

/** A time that the calendar does not have, as older trees may say, is none. */
function withRealTime<T extends TreeEntry>(entry: T): T {
  if (entry.kind === 'second name' || entry.time === undefined || isRealTime(entry.time)) return entry;
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

/** What every entry but a second name may have, in one order. */
function writtenFacts(one: Exclude<TreeEntry, TreeName>) {
  const { time, attributes, mode, user, group, extended } = one;
  const named = Object.entries(extended ?? {}).sort(([a], [b]) => (a < b ? -1 : 1));
  return {
    ...(time !== undefined && { time }),
    ...(attributes?.length && { attributes: FILE_ATTRIBUTES.filter((name) => attributes.includes(name)) }),
    ...(mode !== undefined && { mode }),
    ...(user !== undefined && { user }),
    ...(group !== undefined && { group }),
    ...(named.length > 0 && { extended: Object.fromEntries(named) }),
  };
}

function writtenEntry(one: TreeEntry, archives: Archives): WrittenEntry {
  const { path } = one;
  switch (one.kind) {
    case 'file': {
      const { kind, size, sha256, crc32, within, pieces } = one;
      return {
        kind,
        path,
        size,
        sha256,
        ...(crc32 && { crc32 }),
        ...(within && { in: archives.placeOf(within.archive), at: within.at }),
        ...(pieces && { pieces }),
        ...writtenFacts(one),
      };
    }
    case 'second name':
      return { kind: one.kind, path, of: one.of };
    case 'link':
      return { kind: one.kind, path, target: one.target, ...writtenFacts(one) };
    case 'device': {
      const { kind, device, major, minor } = one;
      return { kind, path, device, major, minor, ...writtenFacts(one) };
    }
    default:
      return { kind: one.kind, path, ...writtenFacts(one) };
  }
}

/** The tree as it is written: fields in one order. */
export function writtenTree(tree: Tree): WrittenTree {
  const archives = new Archives();
  const entries = tree.map((one) => writtenEntry(one, archives));
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

/** The words of slot lines for ext file systems: each clause once, for reading and for writing. */
import { EXT_VERSIONS, PROFILES } from '../filesystems/ext/words';
import type { ExtContent } from '../filesystems/ext/shape';

/** What a line says of an ext file system: everything but its id, and what is in it. */
export type LineExt = Omit<ExtContent, 'uuid' | 'files' | 'filesFrom' | 'times'>;
/** What clauses of its own say of one; its label is said as everywhere. */
export type ExtClauses = Partial<Omit<LineExt, 'kind' | 'label'>>;
export type ExtField = keyof ExtClauses;

/** What reading a clause asks of the line. */
export interface ClauseReader {
  /** Takes what matches where the line stands. */
  take(pattern: RegExp): RegExpExecArray | undefined;
  /** A size that is exact and not zero. */
  exactSize(): string;
  refuse(at: number, length: number, message: string): never;
}

/** How one field is read, written, and called. */
interface Clause<Key extends ExtField> {
  readonly key: Key;
  readonly name: string;
  /** The value, where its clause stands here. */
  read(reader: ClauseReader): NonNullable<ExtClauses[Key]> | undefined;
  write(value: NonNullable<ExtClauses[Key]>): string;
}

const END = '(?![\\p{L}\\p{N}_-])';
const word = (text: string) => new RegExp(`${text}${END}`);

function number(found: RegExpExecArray | undefined, most: number, what: string, reader: ClauseReader) {
  if (!found) return undefined;
  const value = Number(found[1]);
  return value <= most ? value : reader.refuse(found.index, found[0].length, `${what} is ${most} at most.`);
}

/** A size, or the word for none. */
function sizeOr(key: 'journal' | 'growTo', name: string, ahead: string, none: string): Clause<'journal' | 'growTo'> {
  return {
    key,
    name,
    read(reader) {
      if (reader.take(word(none))) return 'none';
      return reader.take(new RegExp(`${ahead}\\s+`)) ? reader.exactSize() : undefined;
    },
    write: (value) => (value === 'none' ? none : `${ahead} ${value}`),
  };
}

function sized(key: 'block' | 'perInode', name: string, ahead: string): Clause<'block' | 'perInode'> {
  return {
    key,
    name,
    read: (reader) => (reader.take(new RegExp(`${ahead}\\s+`)) ? reader.exactSize() : undefined),
    write: (value) => `${ahead} ${value}`,
  };
}

/** Largest number of an owner. */
const OWNER = 2 ** 32 - 2;

function owned(key: 'rootUser' | 'rootGroup', name: string): Clause<'rootUser' | 'rootGroup'> {
  return {
    key,
    name,
    read: (reader) => number(reader.take(word(`${name}\\s+(\\d{1,10})`)), OWNER, `The ${name}`, reader),
    write: (value) => `${name} ${value}`,
  };
}

const VERSION: Clause<'version'> = {
  key: 'version',
  name: 'file system',
  read: (reader) => reader.take(word(`(${EXT_VERSIONS.join('|')})`))?.[1]!.toLowerCase() as ExtContent['version'],
  write: (value) => value,
};
const PROFILE: Clause<'profile'> = {
  key: 'profile',
  name: 'profile',
  read: (reader) =>
    reader.take(word(`profile\\s+(${PROFILES.join('|')})`))?.[1]!.toLowerCase() as ExtContent['profile'],
  write: (value) => `profile ${value}`,
};
const INODE_SIZE: Clause<'inodeSize'> = {
  key: 'inodeSize',
  name: 'size of inodes',
  read: (reader) => {
    const found = reader.take(word('inode size (128|256)'));
    return found && (Number(found[1]) as 128 | 256);
  },
  write: (value) => `inode size ${value}`,
};
const RESERVED: Clause<'reserved'> = {
  key: 'reserved',
  name: 'reserved share',
  read: (reader) => number(reader.take(/reserved\s+(\d{1,3}(?:\.\d{1,6})?)\s*%/), 50, 'The reserved share', reader),
  write: (value) => `reserved ${value} %`,
};
const CHECK: Clause<'checkDays'> = {
  key: 'checkDays',
  name: 'check interval',
  read: (reader) =>
    reader.take(word('never checked'))
      ? 0
      : number(reader.take(word('check every (\\d{1,4}) days?')), 3650, 'The check interval', reader),
  write: (value) => (value === 0 ? 'never checked' : `check every ${value} ${value === 1 ? 'day' : 'days'}`),
};
const TABLES: Clause<'tables'> = {
  key: 'tables',
  name: 'way of inode tables',
  read: (reader) => (reader.take(word('tables left to the kernel')) ? 'left to the kernel' : undefined),
  write: () => 'tables left to the kernel',
};

/** All clauses, in the order in which a canonical line has them. */
export const EXT_CLAUSES = [
  VERSION,
  PROFILE,
  sized('block', 'size of blocks', 'block'),
  sized('perInode', 'room for an inode', 'inode per'),
  INODE_SIZE,
  sizeOr('journal', 'journal', 'journal', 'no journal'),
  RESERVED,
  CHECK,
  sizeOr('growTo', 'size to grow to', 'grows to', 'never grows'),
  owned('rootUser', 'root user'),
  owned('rootGroup', 'root group'),
  TABLES,
] as unknown as readonly Clause<ExtField>[];

/** The clauses of an ext file system, its label left out. */
export function extTexts(content: LineExt): string[] {
  return EXT_CLAUSES.flatMap(({ key, write }) => {
    const value = content[key];
    return value === undefined ? [] : [write(value)];
  });
}

/** What the fields are called in errors. */
export const EXT_FIELD_NAMES = Object.fromEntries(EXT_CLAUSES.map(({ key, name }) => [key, name])) as Readonly<
  Record<ExtField, string>
>;

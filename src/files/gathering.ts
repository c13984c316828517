/**
 * What comes out of an archive, or of a folder: the entries of a tree, and what has to be left out
 * of it because file systems such as FAT cannot hold it, or because it would lead out of the folder.
 */
import { MIB } from '@/core/quantity/units';
import { createHash, hash } from 'node:crypto';
import { crc32 } from 'node:zlib';
import { type Archive, ENTRY_LIMIT, pathTrouble, type Tree, type TreeEntry } from '@/core/filesystems/tree';
import { SupplyError } from './errors';
import type { Taker } from './tar-reader';

/** An archive may unpack to so many times its own length, but always to as much as the grace. */
const MOST_TIMES = 1000;
const GRACE = 64 * MIB;
/** Most names that are told of what was left out. */
const NAMES_TOLD = 5;
/** Who may write it, of the bits of a mode. */
const MAY_WRITE = 0o222;

/** What was taken in: its name, and its length in bytes. */
export interface Kept {
  readonly sha256: string;
  readonly size: number;
  /** CRC-32, eight hexadecimal digits. */
  readonly crc32: string;
}

export interface LeftOut {
  readonly path: string;
  readonly why: string;
}

/** What came out of an archive or a folder. */
export interface Unpacked {
  readonly entries: Tree;
  /** What was left out, with the reason. */
  readonly leftOut: readonly LeftOut[];
}

export interface UnpackOptions {
  /** Leave out what cannot be stored, instead of refusing the archive. */
  readonly leaveOut: boolean;
  /** Latest time that a file may have, in seconds since 1970. */
  readonly latest?: number | undefined;
  /** The times of files are not wanted. */
  readonly timeless?: boolean;
  /** What to do where something cannot be stored, in a sentence; what an upload can do, if missing. */
  readonly remedy?: string;
}

/** Why something cannot be in a tree, by what it is. */
export const NOT_STORED = {
  link: 'is a link, which these file systems do not have',
  'second name': 'is a second name of another file, which these file systems do not have',
  device: 'is a device',
  pipe: 'is a pipe',
  unknown: 'is a file of an unknown kind',
} as const;

/** What a name looks like whose bytes are no UTF-8. */
const NO_CHARACTER = '\ufffd';
const NOT_UTF8 = 'has a name that is no UTF-8';

/** Sums of bytes that come in pieces. */
export class Sums {
  private readonly sha = createHash('sha256');
  private crc = 0;
  private size = 0;

  add(bytes: Uint8Array): void {
    this.sha.update(bytes);
    this.crc = crc32(bytes, this.crc);
    this.size += bytes.length;
  }

  get kept(): Kept {
    return { sha256: this.sha.digest('hex'), size: this.size, crc32: eightDigits(this.crc) };
  }
}

function eightDigits(crc: number): string {
  return crc.toString(16).padStart(8, '0');
}

/** Sums of bytes that are there at once. */
export function sumsOf(bytes: Uint8Array): Kept {
  return { sha256: hash('sha256', bytes, 'hex'), size: bytes.length, crc32: eightDigits(crc32(bytes)) };
}

/** Sums of what a member of an archive holds; most of them come in one piece. */
export class SummingTaker implements Taker {
  private sums: Sums | undefined;
  private whole: Kept | undefined;

  constructor(
    private readonly size: number,
    private readonly done: (kept: Kept) => void,
  ) {}

  take(bytes: Uint8Array): void {
    if (!this.sums && bytes.length === this.size) this.whole = sumsOf(bytes);
    else (this.sums ??= new Sums()).add(bytes);
  }

  end(): void {
    this.done(this.whole ?? (this.sums ?? new Sums()).kept);
  }
}

/** An archive that is still being read: its sum is known at the end. */
type Reading = { -readonly [Key in keyof Archive]: Archive[Key] };

/** The facts of a file beside its content. */
export interface Facts {
  readonly path: string;
  /** In seconds since 1970. */
  readonly time: number | undefined;
  /** Who may do what, as on Unix; undefined where that is not known. */
  readonly mode: number | undefined;
}

/** Gathers entries, and what has to be left out. */
export class Gathering {
  readonly entries = new Map<string, TreeEntry>();
  readonly leftOut: LeftOut[] = [];
  /** The archive itself; its sums are filled in at the end. */
  readonly archive: Reading = { sha256: '', size: 0 };
  /** Folders that something lies in. */
  private readonly above = new Set<string>();
  private unpacked = 0;

  constructor(
    private readonly options: UnpackOptions,
    private readonly length = Number.POSITIVE_INFINITY,
  ) {}

  /** The path as a tree has it: without `./` ahead and a slash behind. */
  private static plain(name: string): string {
    return name
      .replace(/^(\.\/+)+/, '')
      .replace(/\/+$/, '')
      .replace(/\/\/+/g, '/');
  }

  /** Where an entry goes; undefined where it is left out, because of `why` too, or is the folder itself. */
  path(name: string, isFolder: boolean, why?: string): string | undefined {
    const path = Gathering.plain(name);
    if (path === '' || path === '.') return undefined;
    if (this.entries.size + this.leftOut.length >= ENTRY_LIMIT)
      throw new SupplyError(
        'too large',
        'archive-of-too-many-files',
        `There are more than ${ENTRY_LIMIT} entries. Divide it.`,
      );
    const against = (path.includes(NO_CHARACTER) ? NOT_UTF8 : pathTrouble(path)) ?? why ?? this.clash(path, isFolder);
    if (against === undefined) return path;
    this.leftOut.push({ path: name, why: against });
    return undefined;
  }

  /** Why something cannot stand beside what came before it; of two files of one path the later one counts. */
  private clash(path: string, isFolder: boolean): string | undefined {
    for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1))
      if (this.entries.get(path.slice(0, at))?.kind === 'file')
        return `lies in “${path.slice(0, at)}”, which is a file in this archive`;
    const before = this.entries.get(path);
    if (isFolder) return before?.kind === 'file' ? 'is a folder, and a file of that name came before' : undefined;
    if (before?.kind === 'folder' || this.above.has(path)) return 'is a file, and a folder of that name came before';
    if (before) this.leftOut.push({ path, why: 'stands in it twice; the later one counts' });
    return undefined;
  }

  private keep(entry: TreeEntry): void {
    const { path } = entry;
    this.entries.set(path, entry);
    for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1)) this.above.add(path.slice(0, at));
  }

  private timeOf(seconds: number | undefined): { time?: string } {
    const { latest = Number.POSITIVE_INFINITY, timeless } = this.options;
    if (timeless || seconds === undefined || !(seconds > 0)) return {};
    const date = new Date(Math.min(seconds, latest) * 1000);
    return Number.isFinite(date.getTime()) ? { time: date.toISOString().slice(0, 19) } : {};
  }

  folder({ path, time }: Facts): void {
    if (!this.entries.has(path)) this.keep({ kind: 'folder', path, ...this.timeOf(time) });
  }

  /** Keeps a file: content of its own, or from `at` on in the archive. */
  file({ path, time, mode }: Facts, { sha256, size, crc32: crc }: Kept, at?: number): void {
    const isReadOnly = mode !== undefined && (mode & MAY_WRITE) === 0;
    this.keep({
      kind: 'file',
      path,
      size,
      sha256,
      crc32: crc,
      ...(at !== undefined && { within: { archive: this.archive, at } }),
      ...this.timeOf(time),
      ...(isReadOnly && { attributes: ['read only'] as const }),
    });
  }

  /** Passes on what comes out of the archive, kept or not, and refuses when it is too much for the length of the archive. */
  async *watched(body: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
    for await (const chunk of body) {
      this.unpacked += chunk.length;
      if (this.unpacked > Math.max(GRACE, MOST_TIMES * this.length))
        throw new SupplyError(
          'too large',
          'archive-unpacks-too-large',
          `The archive has ${this.length} bytes and unpacks to more than ${MOST_TIMES} times as much. If that is meant, unpack it and send the folder.`,
        );
      yield chunk;
    }
  }

  done(): Unpacked {
    const { leftOut } = this;
    const them = leftOut.length === 1 ? 'it' : 'them';
    const {
      leaveOut,
      remedy = `Send it again and leave ${them} out, or make another archive. Nothing of it was kept.`,
    } = this.options;
    if (leftOut.length > 0 && !leaveOut) {
      const named = leftOut.slice(0, NAMES_TOLD).map(({ path, why }) => `“${path.slice(0, 200)}” ${why}`);
      const more = leftOut.length > NAMES_TOLD ? `, and ${leftOut.length - NAMES_TOLD} more` : '';
      throw new SupplyError('unusable', 'archive-cannot-be-stored', `${named.join('; ')}${more}. ${remedy}`);
    }
    if (this.entries.size === 0)
      throw new SupplyError('unusable', 'archive-is-empty', 'There is no file in it that could be stored.');
    return { entries: [...this.entries.values()], leftOut };
  }
}

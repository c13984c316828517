/**
 * What comes out of an archive, or of a folder: the entries of a tree with all that Linux keeps of them,
 * and what has to be left out because it would lead out of the folder, or cannot be understood.
 */
import { MIB } from '@/core/quantity/units';
import { createHash, hash } from 'node:crypto';
import { crc32 } from 'node:zlib';
import {
  type Archive,
  ENTRY_LIMIT,
  EXTENDED_LIMIT,
  type FilePiece,
  isDevice,
  MODE_LIMIT,
  OWNER_LIMIT,
  type Owned,
  PATH_LIMIT,
  pathTrouble,
  TARGET_LIMIT,
  type Tree,
  type TreeDevice,
  type TreeEntry,
  usualMode,
} from '@/core/filesystems/tree';
import { byteLength, hasLoneBytes } from '@/core/bytes/utf8';
import { SupplyError } from './errors';
import { SecondNames } from './second-names';
import type { Taker } from './tar-reader';

/** An archive may unpack to so many times its own length, but always to as much as the grace. */
const MOST_TIMES = 1000;
const GRACE = 64 * MIB;
/** What may be held of all entries beside their contents: names, targets, attributes, and so much of each piece between holes, and of each folder. */
const HELD_LIMIT = 128 * MIB;
const [PIECE_BYTES, FOLDER_BYTES] = [256, 128];
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
  /** Only something about it is left out; it is there itself. */
  readonly isFact?: true;
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
  /** Everything that Linux knows is kept: owners, modes, links, devices, attributes. Without it, plain files and folders are, as FAT holds them. */
  readonly keepsAll?: boolean;
  /** Latest time that a file may have, in seconds since 1970. */
  readonly latest?: number | undefined;
  /** The times of files are not wanted. */
  readonly timeless?: boolean;
  /** What to do where something cannot be stored, in a sentence; what an upload can do, if missing. */
  readonly remedy?: string;
}

/** Why something cannot be in a tree of plain files and folders, by what it is. */
const NOT_PLAIN = {
  link: 'is a link, which these file systems do not have',
  'second name': 'is a second name of another file, which these file systems do not have',
  device: 'is a device',
  pipe: 'is a pipe',
  socket: 'is a socket',
} as const;
const NOT_UTF8 = 'has a name that is no UTF-8';

/** Why something of an unknown kind cannot be in a tree. */
export const UNKNOWN_KIND = 'is a file of an unknown kind';

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

/** The facts of an entry beside its content. */
export interface Facts {
  readonly path: string;
  /** In seconds since 1970, and nanoseconds. */
  readonly time: number | undefined;
  readonly nanoseconds?: number;
  /** Who may do what, as on Unix; undefined where that is not known. */
  readonly mode: number | undefined;
  readonly user?: number | undefined;
  readonly group?: number | undefined;
  /** Extended attributes by their whole names. */
  readonly extended?: ReadonlyMap<string, Uint8Array>;
}

/** Content of a file: its sums and those of what is stored of it, where holes are left out. */
export interface Stored {
  readonly kept: Kept;
  /** Where it lies in the archive; missing for content of its own. */
  readonly at?: number | undefined;
  /** Bytes of the file, and where what is stored belongs, where it has holes. */
  readonly holes?: { readonly size: number; readonly pieces: readonly FilePiece[] } | undefined;
}

/** Namespaces of attributes that Linux knows. */
const NAMESPACES = /^(?:user|trusted|security|system)\.[^\0]+$/;

/** Gathers entries, and what has to be left out. */
export class Gathering {
  readonly entries = new Map<string, TreeEntry>();
  readonly leftOut: LeftOut[] = [];
  /** The archive itself; its sums are filled in at the end. */
  readonly archive: Reading = { sha256: '', size: 0 };
  /** Folders that something lies in. */
  private readonly above = new Set<string>();
  private readonly names = new SecondNames();
  private unpacked = 0;
  /** Bytes of what is held of all entries beside their contents. */
  private held = 0;
  /** Facts that are not kept, by what they are, with the first entry that has some. */
  private readonly lost = new Map<'owner' | 'mode' | 'attributes', { readonly path: string; count: number }>();

  constructor(
    private readonly options: UnpackOptions,
    private readonly length = Number.POSITIVE_INFINITY,
  ) {}

  /** The path as a tree has it: without `./` ahead and a slash behind. What is far too long stays so. */
  private static plain(name: string): string {
    if (name.length > 2 * PATH_LIMIT) return name;
    const parts = name.split('/');
    const named = parts.filter((part, i) => part !== '' || i === 0);
    const first = named.findIndex((part) => part !== '.');
    return named.slice(first < 0 ? named.length - 1 : first).join('/');
  }

  /** Takes what is held of an entry out of what there is for all of them. */
  private hold(bytes: number): void {
    this.held += bytes;
    if (this.held > HELD_LIMIT)
      throw new SupplyError(
        'too large',
        'archive-says-too-much',
        `Names, attributes and holes of its files take more than ${HELD_LIMIT / MIB} MiB. Divide it.`,
      );
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
    this.hold(name.length);
    const against =
      pathTrouble(path) ??
      (this.isPlain && hasLoneBytes(path) ? NOT_UTF8 : undefined) ??
      why ??
      this.clash(path, isFolder);
    if (against === undefined) return path;
    this.leftOut.push({ path: name.slice(0, 2 * PATH_LIMIT), why: against });
    return undefined;
  }

  /** Why something cannot stand beside what came before it; of two files of one path the later one counts. */
  private clash(path: string, isFolder: boolean): string | undefined {
    for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1)) {
      const above = this.entries.get(path.slice(0, at));
      if (above && above.kind !== 'folder')
        return `lies in “${path.slice(0, at)}”, which is a ${above.kind} in this archive`;
    }
    const before = this.entries.get(path);
    if (isFolder)
      return before && before.kind !== 'folder'
        ? 'is a folder, and something else of that name came before'
        : undefined;
    if (before?.kind === 'folder' || this.above.has(path)) return 'is no folder, and a folder of that name came before';
    if (before) this.leftOut.push({ path, why: 'stands in it twice; the later one counts' });
    return undefined;
  }

  private keep(entry: TreeEntry): void {
    const { path } = entry;
    const before = this.entries.get(path);
    this.entries.set(path, entry);
    const heir = this.names.replaced(path);
    if (heir !== undefined) this.entries.set(heir, { ...before!, path: heir } as TreeEntry);
    for (let at = path.lastIndexOf('/'); at > 0; at = path.lastIndexOf('/', at - 1)) {
      const folder = path.slice(0, at);
      if (this.above.has(folder)) break;
      this.hold(FOLDER_BYTES);
      this.above.add(folder);
    }
  }

  private timeOf({ time, nanoseconds = 0 }: Facts): { time?: string } {
    const { latest = Number.POSITIVE_INFINITY, timeless } = this.options;
    if (timeless || time === undefined || !Number.isFinite(time)) return {};
    const isLate = time > latest || (time === latest && nanoseconds > 0);
    const date = new Date(Math.floor(Math.min(time, latest)) * 1000);
    // A calendar of four digits ends before what a date can be.
    if (!(date.getTime() >= Date.UTC(0, 0) && date.getUTCFullYear() >= 1 && date.getUTCFullYear() <= 9999)) return {};
    const fraction = isLate || nanoseconds === 0 ? '' : `.${String(nanoseconds).padStart(9, '0').replace(/0+$/, '')}`;
    return { time: date.toISOString().slice(0, 19) + fraction };
  }

  /** Extended attributes as trees have them; those that Linux does not know are told and left out. */
  private extendedOf({ path, extended }: Facts): Pick<Owned, 'extended'> {
    if (!extended || extended.size === 0) return {};
    let bytes = 0;
    const kept: [string, string][] = [];
    for (const [name, value] of extended) {
      bytes += name.length + value.length;
      this.hold(name.length + value.length);
      if (NAMESPACES.test(name) && bytes <= EXTENDED_LIMIT) kept.push([name, Buffer.from(value).toString('base64')]);
      else
        this.withoutFact(
          path,
          `has the attribute “${name.slice(0, 100)}”, which ${bytes > EXTENDED_LIMIT ? 'is too large' : 'no Linux system knows'}`,
        );
    }
    return kept.length > 0 ? { extended: Object.fromEntries(kept) } : {};
  }

  /** Tells of an entry that is left out. */
  leave(path: string, why: string): void {
    if (this.leftOut.length < ENTRY_LIMIT) this.leftOut.push({ path, why });
  }

  /** Tells of something about an entry that is left out. */
  withoutFact(path: string, why: string): void {
    if (this.leftOut.length < ENTRY_LIMIT) this.leftOut.push({ path, why, isFact: true });
  }

  private get isPlain(): boolean {
    return this.options.keepsAll !== true;
  }

  /** Counts what is not kept of an entry. */
  private lose(path: string, { mode, user, group, extended }: Owned): void {
    const lost = [
      [user !== undefined || group !== undefined, 'owner'],
      [mode !== undefined, 'mode'],
      [extended !== undefined, 'attributes'],
    ] as const;
    for (const [is, what] of lost) {
      if (!is) continue;
      const before = this.lost.get(what);
      if (before) before.count += 1;
      else this.lost.set(what, { path, count: 1 });
    }
  }

  /** Refuses what plain trees do not have. */
  private isRefused(path: string, kind: keyof typeof NOT_PLAIN): boolean {
    if (this.isPlain) this.leftOut.push({ path, why: NOT_PLAIN[kind] });
    return this.isPlain;
  }

  /** What Linux keeps of an entry, without what is usual; nothing in a plain tree. */
  private ownedOf(facts: Facts, usual: number): Owned {
    const owned = this.allOwned(facts, usual);
    if (!this.isPlain) return owned;
    this.lose(facts.path, owned);
    return {};
  }

  private allOwned(facts: Facts, usual: number): Owned {
    const { mode, user, group } = facts;
    const isOwner = (one: number | undefined): one is number =>
      one !== undefined && Number.isSafeInteger(one) && one > 0 && one <= OWNER_LIMIT;
    const bits = mode === undefined || !Number.isSafeInteger(mode) || mode < 0 ? usual : mode % (MODE_LIMIT + 1);
    return {
      ...(bits !== usual && { mode: bits }),
      ...(isOwner(user) && { user }),
      ...(isOwner(group) && { group }),
      ...this.extendedOf(facts),
    };
  }

  folder(facts: Facts): void {
    const { path } = facts;
    this.keep({ kind: 'folder', path, ...this.timeOf(facts), ...this.ownedOf(facts, usualMode({ kind: 'folder' })) });
  }

  /** Keeps a file. */
  file(facts: Facts, { kept, at, holes }: Stored): void {
    const { path, mode } = facts;
    this.hold((holes?.pieces.length ?? 0) * PIECE_BYTES);
    const attributes = mode !== undefined && (mode & MAY_WRITE) === 0 ? (['read only'] as const) : undefined;
    this.keep({
      kind: 'file',
      path,
      size: holes?.size ?? kept.size,
      sha256: kept.sha256,
      crc32: kept.crc32,
      ...(at !== undefined && { within: { archive: this.archive, at } }),
      ...(holes && { pieces: holes.pieces }),
      ...this.timeOf(facts),
      ...(attributes && { attributes }),
      ...this.ownedOf(facts, usualMode({ kind: 'file', ...(attributes && { attributes }) })),
    });
  }

  /** Keeps a symbolic link, wherever it leads. */
  link(facts: Facts, target: string): void {
    const { path } = facts;
    if (this.isRefused(path, 'link')) return;
    const against =
      target === ''
        ? 'is a link to nowhere'
        : byteLength(target) > TARGET_LIMIT
          ? 'is a link to a name that is too long'
          : undefined;
    if (against) this.leftOut.push({ path, why: against });
    else {
      this.hold(target.length);
      const { mode: _, ...owned } = facts;
      this.keep({
        kind: 'link',
        path,
        target,
        ...this.timeOf(facts),
        ...this.ownedOf({ ...owned, mode: undefined }, 0o777),
      });
    }
  }

  /** Keeps a second name of something that came before. */
  secondName(path: string, target: string): void {
    if (this.isRefused(path, 'second name')) return;
    const plain = Gathering.plain(target);
    const of = this.names.headOf(plain) ?? plain;
    const kind = this.entries.get(of)?.kind;
    if (kind === undefined || kind === 'folder' || of === path) {
      const why = kind === undefined ? 'is not there' : kind === 'folder' ? 'is a folder' : 'it is itself';
      this.leftOut.push({ path, why: `is a second name of “${target.slice(0, 200)}”, which ${why}` });
      return;
    }
    this.keep({ kind: 'second name', path, of });
    this.names.add(path, of);
  }

  device(facts: Facts, { device, major, minor }: Pick<TreeDevice, 'device' | 'major' | 'minor'>): void {
    const { path } = facts;
    if (this.isRefused(path, 'device')) return;
    if (!isDevice(major, minor)) {
      this.leftOut.push({ path, why: 'is a device with numbers that Linux does not have' });
      return;
    }
    this.keep({
      kind: 'device',
      path,
      device,
      major,
      minor,
      ...this.timeOf(facts),
      ...this.ownedOf(facts, usualMode({ kind: 'device' })),
    });
  }

  pipe(facts: Facts, kind: 'pipe' | 'socket' = 'pipe'): void {
    const { path } = facts;
    if (this.isRefused(path, kind)) return;
    this.keep({ kind, path, ...this.timeOf(facts), ...this.ownedOf(facts, usualMode({ kind })) });
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
    for (const [what, { path, count }] of this.lost) {
      const others = count > 1 ? `; ${count - 1} ${count === 2 ? 'other' : 'others'} likewise` : '';
      const has = what === 'owner' ? 'an owner of its own' : what === 'mode' ? 'a mode of its own' : 'attributes';
      leftOut.push({
        path,
        why: `has ${has}, which ${what === 'attributes' ? 'are' : 'is'} not kept${others}`,
        isFact: true,
      });
    }
    const whole = leftOut.filter(({ isFact }) => !isFact);
    const them = whole.length === 1 ? 'it' : 'them';
    const {
      leaveOut,
      remedy = `Send it again and leave ${them} out, or make another archive. Nothing of it was kept.`,
    } = this.options;
    if (whole.length > 0 && !leaveOut) {
      const named = whole.slice(0, NAMES_TOLD).map(({ path, why }) => `“${path.slice(0, 200)}” ${why}`);
      const more = whole.length > NAMES_TOLD ? `, and ${whole.length - NAMES_TOLD} more` : '';
      throw new SupplyError('unusable', 'archive-cannot-be-stored', `${named.join('; ')}${more}. ${remedy}`);
    }
    if (this.entries.size === 0)
      throw new SupplyError('unusable', 'archive-is-empty', 'There is no file in it that could be stored.');
    const entries = [...this.entries.values()].map((entry) =>
      entry.kind === 'second name' ? { ...entry, of: this.names.headOf(entry.path)! } : entry,
    );
    return { entries, leftOut };
  }
}

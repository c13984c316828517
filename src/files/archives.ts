/**
 * Archives: tar (also within gzip) and zip, read as streams of files. What a FAT or exFAT volume
 * cannot hold, and what would lead out of the folder, is named; nothing of an archive is kept
 * before all of it was looked at.
 */
import { MIB } from '@/core/quantity/units';
import { open } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { crc32, createGunzip } from 'node:zlib';
import { extract } from 'tar-stream';
import yauzl from 'yauzl';
import { ENTRY_LIMIT, isRealTime, pathTrouble, type Tree, type TreeEntry } from '@/core/filesystems/tree';
import type { Upload } from './uploaded';
import { SupplyError } from './errors';
import { systemTrouble } from './system-errors';
import { sparseFile, withHoles } from './sparse-tar';

/** An archive may unpack to so many times its own length, but always to as much as the grace. */
const MOST_TIMES = 1000;
const GRACE = 64 * MIB;
/** Most names that are told of what was left out. */
const NAMES_TOLD = 5;

/** What came out of an archive. */
export interface Unpacked {
  readonly entries: Tree;
  /** What was left out, with the reason. */
  readonly leftOut: readonly { readonly path: string; readonly why: string }[];
}

export interface UnpackOptions {
  /** Leave out what cannot be stored, instead of refusing the archive. */
  readonly leaveOut: boolean;
}

const KINDS: Readonly<Record<string, string>> = {
  symlink: 'is a link, which these file systems do not have',
  link: 'is a second name of another file, which these file systems do not have',
  'character-device': 'is a device',
  'block-device': 'is a device',
  fifo: 'is a pipe',
  'contiguous-file': 'is a file of an unknown kind',
};

/** Gathers entries, and what has to be left out. */
class Gathering {
  readonly entries = new Map<string, TreeEntry>();
  readonly leftOut: { path: string; why: string }[] = [];
  /** Folders that something lies in. */
  private readonly above = new Set<string>();
  private unpacked = 0;

  constructor(
    private readonly upload: Upload,
    private readonly length: number,
  ) {}

  /** The path as a tree has it: without `./` ahead and a slash behind. */
  private static plain(name: string): string {
    return name
      .replace(/^(\.\/+)+/, '')
      .replace(/\/+$/, '')
      .replace(/\/\/+/g, '/');
  }

  /** Where an entry goes; undefined where it is left out or is the folder itself. */
  path(name: string, kind: string | undefined): string | undefined {
    const path = Gathering.plain(name);
    if (path === '' || path === '.') return undefined;
    if (this.entries.size + this.leftOut.length >= ENTRY_LIMIT)
      throw new SupplyError(
        'too large',
        'archive-of-too-many-files',
        `The archive has more than ${ENTRY_LIMIT} entries. Divide it.`,
      );
    const why =
      pathTrouble(path) ?? (kind === undefined ? undefined : KINDS[kind]) ?? this.clash(path, kind === 'directory');
    if (why === undefined) return path;
    this.leftOut.push({ path: name, why });
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

  folder(path: string, time: string | undefined): void {
    if (!this.entries.has(path)) this.keep({ kind: 'folder', path, ...(time !== undefined && { time }) });
  }

  async file(path: string, time: string | undefined, body: AsyncIterable<Uint8Array>): Promise<void> {
    const taken = await this.upload.add(body);
    this.keep({ kind: 'file', path, ...taken, ...(time !== undefined && { time }) });
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

  done({ leaveOut }: UnpackOptions): Unpacked {
    const { leftOut } = this;
    if (leftOut.length > 0 && !leaveOut) {
      const named = leftOut.slice(0, NAMES_TOLD).map(({ path, why }) => `“${path.slice(0, 200)}” ${why}`);
      const more = leftOut.length > NAMES_TOLD ? `, and ${leftOut.length - NAMES_TOLD} more` : '';
      throw new SupplyError(
        'unusable',
        'archive-cannot-be-stored',
        `${named.join('; ')}${more}. Send it again and leave ${leftOut.length === 1 ? 'it' : 'them'} out, or make another archive. Nothing of it was kept.`,
      );
    }
    if (this.entries.size === 0)
      throw new SupplyError('unusable', 'archive-is-empty', 'There is no file in this archive that could be stored.');
    return { entries: [...this.entries.values()], leftOut };
  }
}

function timeOf(date: Date | undefined | null): string | undefined {
  return date && Number.isFinite(date.getTime()) && date.getTime() > 0 ? date.toISOString().slice(0, 19) : undefined;
}

function damaged(error: unknown): Error {
  if (error instanceof SupplyError) return error;
  const { message, code } = error as NodeJS.ErrnoException;
  if (code === 'ECONNRESET' || code === 'ABORT_ERR')
    return new SupplyError(
      'broken off',
      'upload-broken-off',
      'The upload ended early. Send it again; nothing of it was kept.',
    );
  // What the disk refuses is no fault of the archive.
  if (systemTrouble(error)) return error as Error;
  return new SupplyError(
    'unusable',
    'archive-damaged',
    `The archive cannot be read: ${message.replace(/\.$/, '')}. Nothing of it was kept.`,
  );
}

async function untar(body: AsyncIterable<Uint8Array>, isGzip: boolean, gathering: Gathering): Promise<void> {
  const unpacking = extract();
  const source = Readable.from(body);
  const plain = isGzip ? source.pipe(createGunzip()) : source;
  const input = Readable.from(gathering.watched(plain));
  // A failure on the way in ends the reading of entries too.
  source.on('error', (error) => plain.destroy(error));
  input.on('error', (error) => unpacking.destroy(error));
  input.pipe(unpacking);
  try {
    for await (const entry of unpacking) {
      const { name, type, mtime, pax } = entry.header as typeof entry.header & { pax?: Record<string, string> };
      const isFolder = type === 'directory';
      const sparse = sparseFile(pax);
      const path = gathering.path(sparse?.name ?? name, type === 'file' ? undefined : (type ?? 'contiguous-file'));
      if (path === undefined || isFolder) {
        if (path !== undefined) gathering.folder(path, timeOf(mtime));
        entry.resume();
        continue;
      }
      const body = entry as AsyncIterable<Uint8Array>;
      // Holes are counted like everything that comes out: a few bytes can stand for terabytes of them.
      await gathering.file(path, timeOf(mtime), sparse ? gathering.watched(withHoles(body, sparse)) : body);
    }
  } finally {
    source.destroy();
  }
}

/** Kind of file that Unix archives keep in the upper half of the attributes. */
const UNIX_KIND = 0o170000;
const UNIX_LINK = 0o120000;
const UNIX_FILE = 0o100000;
const UNIX_FOLDER = 0o040000;
const MADE_ON_UNIX = 3;

function kindOf(entry: yauzl.Entry): string | undefined {
  if (entry.versionMadeBy >> 8 !== MADE_ON_UNIX) return undefined;
  const kind = (entry.externalFileAttributes >>> 16) & UNIX_KIND;
  if (kind === 0 || kind === UNIX_FILE || kind === UNIX_FOLDER) return undefined;
  return kind === UNIX_LINK ? 'symlink' : 'block-device';
}

/** Identifier of the extra field with a time in seconds. */
const TIMESTAMP_FIELD = 0x5455;

/** When an entry was changed: none where the calendar has no such day, which the older field can say. */
function zipTime(entry: yauzl.Entry): string | undefined {
  const isExact = entry.extraFields.some(({ id }) => id === TIMESTAMP_FIELD);
  const [date, clock] = [entry.lastModFileDate, entry.lastModFileTime];
  const two = (n: number) => String(n).padStart(2, '0');
  const text = `${1980 + (date >> 9)}-${two((date >> 5) & 15)}-${two(date & 31)}T${two(clock >> 11)}:${two((clock >> 5) & 63)}:${two(2 * (clock & 31))}`;
  return isExact || isRealTime(text) ? timeOf(entry.getLastModDate({ timezone: 'UTC' })) : undefined;
}

/** Passes bytes on, and fails at their end where they have another sum than the archive says. */
async function* summed(body: AsyncIterable<Uint8Array>, sum: number, name: string): AsyncGenerator<Uint8Array> {
  let crc = 0;
  for await (const chunk of body) {
    crc = crc32(chunk, crc);
    yield chunk;
  }
  if (crc !== sum) throw new Error(`“${name.slice(0, 200)}” has another sum than the archive says`);
}

async function unzip(file: string, gathering: Gathering): Promise<void> {
  // Names are judged here, where the archive can be refused as a whole.
  const zip = await yauzl.openPromise(file, { lazyEntries: true, decodeStrings: false });
  try {
    for await (const entry of zip.eachEntry()) {
      const name = yauzl.getFileNameLowLevel(entry.generalPurposeBitFlag, entry.fileNameRaw, entry.extraFields, false);
      const isFolder = name.endsWith('/');
      const path = gathering.path(name, kindOf(entry) ?? (isFolder ? 'directory' : undefined));
      if (path === undefined) continue;
      const time = zipTime(entry);
      if (isFolder) gathering.folder(path, time);
      else if (entry.isEncrypted()) gathering.leftOut.push({ path: name, why: 'is encrypted' });
      else
        await gathering.file(
          path,
          time,
          gathering.watched(summed(await zip.openReadStreamPromise(entry), entry.crc32, name)),
        );
    }
  } finally {
    zip.close();
  }
}

/** What a file is, by its first bytes. */
async function kindOfArchive(file: string): Promise<'zip' | 'gzip' | 'tar' | undefined> {
  const handle = await open(/* turbopackIgnore: true */ file, 'r');
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(512), 0, 512, 0);
    if (bytesRead >= 4 && buffer.readUInt32LE(0) === 0x04034b50) return 'zip';
    if (bytesRead >= 4 && buffer.readUInt32LE(0) === 0x06054b50) return 'zip';
    if (bytesRead >= 2 && buffer[0] === 0x1f && buffer[1] === 0x8b) return 'gzip';
    if (bytesRead === 512 && buffer.toString('latin1', 257, 262) === 'ustar') return 'tar';
    return undefined;
  } finally {
    await handle.close();
  }
}

/** Unpacks an archive that lies in a file; its kind is found out. */
export async function unpackFile(
  file: string,
  length: number,
  upload: Upload,
  options: UnpackOptions,
): Promise<Unpacked> {
  const kind = await kindOfArchive(file);
  if (!kind)
    throw new SupplyError(
      'unknown kind',
      'archive-unknown',
      'This is no tar archive (plain or within gzip) and no zip archive. To store it as it is, send it as a file.',
    );
  const gathering = new Gathering(upload, length);
  const handle = await open(/* turbopackIgnore: true */ file, 'r');
  try {
    if (kind === 'zip') await unzip(file, gathering);
    else await untar(handle.createReadStream({ autoClose: false }), kind === 'gzip', gathering);
  } catch (error) {
    throw damaged(error);
  } finally {
    await handle.close();
  }
  return gathering.done(options);
}

/** Unpacks a plain tar while it comes in: a folder that a browser sends. */
export async function unpackStream(body: AsyncIterable<Uint8Array>, length: number, upload: Upload): Promise<Unpacked> {
  const gathering = new Gathering(upload, length);
  try {
    await untar(body, false, gathering);
  } catch (error) {
    throw damaged(error);
  }
  return gathering.done({ leaveOut: false });
}

/**
 * Archives: tar (also within gzip, zstd or xz) and zip, read as they pass by. An archive is kept in
 * one piece, and the files of the tree point into it; nothing of it is kept before all of it was
 * looked at.
 */
import { open } from 'node:fs/promises';
import { crc32 } from 'node:zlib';
import yauzl from 'yauzl';
import { textOfBytes } from '@/core/bytes/utf8';
import type { FilePiece } from '@/core/filesystems/tree';
import { isRealTime } from '@/core/filesystems/tree-text';
import { accessListOf } from './access-lists';
import { type Compression, compressionOf, decompressed } from './decompress';
import { SupplyError } from './errors';
import {
  type Facts,
  Gathering,
  type Kept,
  type Stored,
  Sums,
  SummingTaker,
  UNKNOWN_KIND,
  type Unpacked,
  type UnpackOptions,
} from './gathering';
import { type HolesMap, MapAhead } from './sparse-tar';
import { systemTrouble } from './system-errors';
import { type Member, type Taker, TarReader } from './tar-reader';

/** Bytes that are read of an archive at a time. */
const PIECE = 256 * 1024;

/** Keeps what comes, as content of its own. */
export interface Keeper {
  /** `lies`: the file in which these bytes lie already, as they are. */
  add(body: AsyncIterable<Uint8Array>, lies?: string): Promise<Kept>;
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

/** Extended attributes of a member: as they are, in Base64, and access lists in words. */
function extendedOf({ pax, name }: Member, gathering: Gathering): ReadonlyMap<string, Uint8Array> {
  const found = new Map<string, Uint8Array>();
  if (!pax) return found;
  for (const [key, { bytes, text }] of pax) {
    const plain = /^SCHILY\.xattr\.(.+)$/.exec(key)?.[1];
    if (plain !== undefined) found.set(plain, bytes);
    const coded = /^LIBARCHIVE\.xattr\.(.+)$/.exec(key)?.[1];
    if (coded !== undefined && !found.has(decoded(coded))) found.set(decoded(coded), Buffer.from(text, 'base64'));
  }
  for (const [key, attribute] of ACCESS_LISTS) {
    const text = pax.get(key)?.text;
    if (text === undefined || text === '' || found.has(attribute)) continue;
    const list = accessListOf(text);
    if (list) found.set(attribute, list);
    else gathering.withoutFact(name, 'has an access list that cannot be read, or that names somebody without a number');
  }
  return found;
}

/** Access lists in words, and the attributes that they are. */
const ACCESS_LISTS = [
  ['SCHILY.acl.access', 'system.posix_acl_access'],
  ['SCHILY.acl.default', 'system.posix_acl_default'],
] as const;

/** A name in which some characters are written as `%XX`. */
function decoded(name: string): string {
  try {
    return decodeURIComponent(name);
  } catch {
    return name;
  }
}

/** Takes the content of a file with holes: a map may stand ahead of it. */
class SparseTaker implements Taker {
  private readonly sums = new Sums();
  private readonly ahead: MapAhead | undefined;

  constructor(
    private readonly holes: HolesMap,
    private readonly done: (stored: Stored, ahead: number) => void,
  ) {
    this.ahead = holes.pieces ? undefined : new MapAhead(holes.length);
  }

  take(bytes: Uint8Array): void {
    const used = this.ahead?.take(bytes) ?? 0;
    if (used < bytes.length) this.sums.add(bytes.subarray(used));
  }

  end(): void {
    const stretches = this.holes.pieces ?? this.ahead?.pieces;
    if (!stretches) throw new Error('a map of holes is damaged');
    let from = 0;
    const pieces = stretches.map(([at, length]): FilePiece => {
      from += length;
      return [at, from - length, length];
    });
    const { kept } = this.sums;
    if (kept.size < from) throw new Error('the data of a file with holes ends too early');
    this.done({ kept, holes: { size: this.holes.length, pieces } }, this.ahead?.bytes ?? 0);
  }
}

/** What becomes of a member of a tar archive. */
function entering(gathering: Gathering) {
  return (member: Member): Taker | undefined => {
    const { kind, size, mode, time, nanoseconds, user, group, at, holes, target } = member;
    const path = gathering.path(member.name, kind === 'folder', kind === 'unknown' ? UNKNOWN_KIND : undefined);
    if (path === undefined) return undefined;
    const facts: Facts = {
      path,
      time,
      nanoseconds,
      mode,
      user,
      group,
      extended: extendedOf(member, gathering),
    };
    switch (kind) {
      case 'folder':
        gathering.folder(facts);
        return undefined;
      case 'link':
        gathering.link(facts, target);
        return undefined;
      case 'second name':
        gathering.secondName(path, target);
        return undefined;
      case 'device':
        gathering.device(facts, member.device);
        return undefined;
      case 'pipe':
        gathering.pipe(facts);
        return undefined;
      default:
        break;
    }
    if (holes) return new SparseTaker(holes, (stored, ahead) => gathering.file(facts, { ...stored, at: at + ahead }));
    return new SummingTaker(size, (kept) => gathering.file(facts, { kept, at }));
  };
}

/** Reads a tar archive that passes by while it is kept. */
async function readTar(
  body: AsyncIterable<Uint8Array>,
  how: Compression | undefined,
  gathering: Gathering,
  keeper: Keeper,
  lies?: string,
): Promise<void> {
  const reader = new TarReader(entering(gathering));
  const given = new Sums();
  const source = async function* () {
    for await (const chunk of body) {
      given.add(chunk);
      yield chunk;
    }
  };
  const plain = gathering.watched(how ? decompressed(source(), how) : body);
  const passing = async function* () {
    try {
      for await (const chunk of plain) {
        await reader.take(chunk);
        yield chunk;
      }
      reader.end();
    } finally {
      reader.abandon();
    }
  };
  const { sha256, size } = await keeper.add(passing(), how ? undefined : lies);
  Object.assign(gathering.archive, { sha256, size, ...(how && { given: given.kept.sha256 }) });
}

/** Kind of file that Unix archives keep in the upper half of the attributes. */
const UNIX_KIND = 0o170000;
const UNIX_LINK = 0o120000;
const UNIX_FILE = 0o100000;
const UNIX_FOLDER = 0o040000;
const UNIX_PIPE = 0o010000;
/** Longest target of a link that is read. */
const TARGET_BYTES = 4096;
const MADE_ON_UNIX = 3;
/** The flag of a name that is UTF-8. */
const UTF8_NAME = 0x800;

/** The mode of an entry, where Unix made it. */
function modeOf(entry: yauzl.Entry): number | undefined {
  const mode = entry.externalFileAttributes >>> 16;
  return entry.versionMadeBy >> 8 === MADE_ON_UNIX && mode !== 0 ? mode : undefined;
}

/** Why an entry cannot be stored. */
function whyNot(entry: yauzl.Entry): string | undefined {
  if (entry.isEncrypted()) return 'is encrypted';
  const kind = (modeOf(entry) ?? 0) & UNIX_KIND;
  return kind === 0 || [UNIX_FILE, UNIX_FOLDER, UNIX_LINK, UNIX_PIPE].includes(kind) ? undefined : UNKNOWN_KIND;
}

/** Identifier of the extra field with the numbers of owner and group, each behind its length. */
const OWNER_FIELD = 0x7875;

function ownersOf(entry: yauzl.Entry): { user?: number; group?: number } {
  const data = entry.extraFields.find(({ id }) => id === OWNER_FIELD)?.data;
  if (!data || data.length < 3) return {};
  const number = (at: number) => {
    const length = data[at] ?? 0;
    return length > 0 && length <= 6 && at + 1 + length <= data.length ? data.readUIntLE(at + 1, length) : 0;
  };
  return { user: number(1), group: number(2 + (data[1] ?? 0)) };
}

/** Identifier of the extra field with a time in seconds. */
const TIMESTAMP_FIELD = 0x5455;

/** When an entry was changed: none where the calendar has no such day, which the older field can say. */
function zipTime(entry: yauzl.Entry): number | undefined {
  const isExact = entry.extraFields.some(({ id }) => id === TIMESTAMP_FIELD);
  const [date, clock] = [entry.lastModFileDate, entry.lastModFileTime];
  const two = (n: number) => String(n).padStart(2, '0');
  const text = `${1980 + (date >> 9)}-${two((date >> 5) & 15)}-${two(date & 31)}T${two(clock >> 11)}:${two((clock >> 5) & 63)}:${two(2 * (clock & 31))}`;
  return isExact || isRealTime(text) ? entry.getLastModDate({ timezone: 'UTC' }).getTime() / 1000 : undefined;
}

/** The name of an entry; one that says that it is UTF-8 and is not is kept to the byte. */
function zipName(entry: yauzl.Entry): string {
  const isUtf8 = (entry.generalPurposeBitFlag & UTF8_NAME) !== 0;
  return isUtf8
    ? textOfBytes(entry.fileNameRaw)
    : yauzl.getFileNameLowLevel(entry.generalPurposeBitFlag, entry.fileNameRaw, entry.extraFields, false);
}

/** Where a link leads: that is its content. */
async function linkIn(zip: yauzl.ZipFile, entry: yauzl.Entry, gathering: Gathering): Promise<string> {
  if (entry.uncompressedSize > TARGET_BYTES) return 'x'.repeat(TARGET_BYTES + 1);
  const parts: Uint8Array[] = [];
  for await (const chunk of gathering.watched(await zip.openReadStreamPromise(entry))) parts.push(chunk);
  return textOfBytes(Buffer.concat(parts));
}

/** The files of a zip archive one behind another, as they unpack; what they are is gathered meanwhile. */
async function* filesOfZip(zip: yauzl.ZipFile, gathering: Gathering): AsyncGenerator<Uint8Array> {
  let at = 0;
  for await (const entry of zip.eachEntry()) {
    const name = zipName(entry);
    const isFolder = name.endsWith('/');
    const path = gathering.path(name, isFolder, whyNot(entry));
    if (path === undefined) continue;
    const mode = modeOf(entry);
    const facts: Facts = { path, time: zipTime(entry), mode, ...ownersOf(entry) };
    const kind = (mode ?? 0) & UNIX_KIND;
    if (isFolder || kind === UNIX_PIPE) {
      if (isFolder) gathering.folder(facts);
      else gathering.pipe(facts);
      continue;
    }
    if (kind === UNIX_LINK) {
      gathering.link(facts, await linkIn(zip, entry, gathering));
      continue;
    }
    const sums = new Sums();
    let crc = 0;
    for await (const chunk of gathering.watched(await zip.openReadStreamPromise(entry))) {
      sums.add(chunk);
      crc = crc32(chunk, crc);
      yield chunk;
    }
    if (crc !== entry.crc32) throw new Error(`“${name.slice(0, 200)}” has another sum than the archive says`);
    const { kept } = sums;
    gathering.file(facts, { kept, at });
    at += kept.size;
  }
}

async function readZip(file: string, gathering: Gathering, keeper: Keeper): Promise<void> {
  // Names are judged here, where the archive can be refused as a whole.
  const zip = await yauzl.openPromise(file, { lazyEntries: true, decodeStrings: false });
  try {
    const { sha256, size } = await keeper.add(filesOfZip(zip, gathering));
    const given = new Sums();
    await withBody(file, async (body) => {
      for await (const chunk of body) given.add(chunk);
    });
    Object.assign(gathering.archive, { sha256, size, given: given.kept.sha256 });
  } finally {
    zip.close();
  }
}

type ArchiveKind = 'zip' | 'tar' | Compression;

/** What a file is, by its first bytes. */
async function archiveKindOf(file: string): Promise<ArchiveKind | undefined> {
  const handle = await open(/* turbopackIgnore: true */ file, 'r');
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(512), 0, 512, 0);
    const magic = bytesRead >= 4 ? buffer.readUInt32LE(0) : 0;
    if (magic === 0x04034b50 || magic === 0x06054b50) return 'zip';
    if (bytesRead === 512 && buffer.toString('latin1', 257, 262) === 'ustar') return 'tar';
    return compressionOf(buffer.subarray(0, bytesRead));
  } finally {
    await handle.close();
  }
}

/** Whether a file begins as an archive does; one that is compressed may hold something else. */
export async function beginsAsArchive(file: string): Promise<boolean> {
  return (await archiveKindOf(file)) !== undefined;
}

async function withBody<T>(file: string, work: (body: AsyncIterable<Uint8Array>) => Promise<T>): Promise<T> {
  const handle = await open(/* turbopackIgnore: true */ file, 'r');
  try {
    return await work(handle.createReadStream({ autoClose: false, highWaterMark: PIECE }));
  } finally {
    await handle.close();
  }
}

/** Reads an archive that lies in a file; its kind is found out. */
export async function unpackFile(
  file: string,
  length: number,
  keeper: Keeper,
  options: UnpackOptions,
): Promise<Unpacked> {
  const kind = await archiveKindOf(file);
  if (!kind)
    throw new SupplyError(
      'unknown kind',
      'archive-unknown',
      'This is no tar archive (plain, or within gzip, zstd or xz) and no zip archive. To store it as it is, send it as a file.',
    );
  const gathering = new Gathering(options, length);
  try {
    if (kind === 'zip') await readZip(file, gathering, keeper);
    else await withBody(file, (body) => readTar(body, kind === 'tar' ? undefined : kind, gathering, keeper, file));
  } catch (error) {
    throw damaged(error);
  }
  return gathering.done();
}

/** Reads a plain tar while it comes in: a folder that a browser sends. */
export async function unpackStream(body: AsyncIterable<Uint8Array>, length: number, keeper: Keeper): Promise<Unpacked> {
  const gathering = new Gathering({ leaveOut: false }, length);
  try {
    await readTar(body, undefined, gathering, keeper);
  } catch (error) {
    throw damaged(error);
  }
  return gathering.done();
}

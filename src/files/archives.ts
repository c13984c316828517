/**
 * Archives: tar (also within gzip, zstd or xz) and zip, read as they pass by. An archive is kept in
 * one piece, and the files of the tree point into it; nothing of it is kept before all of it was
 * looked at.
 */
import { once } from 'node:events';
import { open } from 'node:fs/promises';
import { PassThrough } from 'node:stream';
import { crc32 } from 'node:zlib';
import yauzl from 'yauzl';
import { isRealTime } from '@/core/filesystems/tree-text';
import { type Compression, compressionOf, decompressed } from './decompress';
import { SupplyError } from './errors';
import {
  type Facts,
  Gathering,
  type Kept,
  NOT_STORED,
  Sums,
  SummingTaker,
  type Unpacked,
  type UnpackOptions,
} from './gathering';
import { sparseFile, withHoles } from './sparse-tar';
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

/** Hands what is taken on to somebody who reads it as a stream. */
function piped(consume: (body: AsyncIterable<Uint8Array>) => Promise<void>): Taker {
  const queue = new PassThrough();
  let isOver = false;
  const done = consume(queue).finally(() => (isOver = true));
  done.catch(() => undefined);
  return {
    take: async (bytes) => {
      if (!isOver && !queue.write(Buffer.from(bytes))) await Promise.race([once(queue, 'drain'), done]);
    },
    end: async () => {
      queue.end();
      await done;
    },
    abandon: () => queue.destroy(),
  };
}

/** What becomes of a member of a tar archive. */
function entering(gathering: Gathering, keeper: Keeper) {
  return (member: Member): Taker | undefined => {
    const { kind, size, mode, time, at } = member;
    const sparse = kind === 'file' ? sparseFile(member.pax) : undefined;
    const why = kind === 'file' || kind === 'folder' ? undefined : NOT_STORED[kind];
    const path = gathering.path(sparse?.name ?? member.name, kind === 'folder', why);
    if (path === undefined) return undefined;
    const facts: Facts = { path, time, mode };
    if (kind === 'folder') {
      gathering.folder(facts);
      return undefined;
    }
    if (!sparse) return new SummingTaker(size, (kept) => gathering.file(facts, kept, at));
    // A file with holes does not lie in the archive as it is: it becomes content of its own. Its holes
    // are counted like everything that comes out: a few bytes can stand for terabytes of them.
    return piped(async (body) => {
      gathering.file(facts, await keeper.add(gathering.watched(withHoles(body, sparse))));
    });
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
  const reader = new TarReader(entering(gathering, keeper));
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
const MADE_ON_UNIX = 3;

/** The mode of an entry, where Unix made it. */
function modeOf(entry: yauzl.Entry): number | undefined {
  const mode = entry.externalFileAttributes >>> 16;
  return entry.versionMadeBy >> 8 === MADE_ON_UNIX && mode !== 0 ? mode : undefined;
}

/** Why an entry cannot be stored. */
function whyNot(entry: yauzl.Entry): string | undefined {
  if (entry.isEncrypted()) return 'is encrypted';
  const kind = (modeOf(entry) ?? 0) & UNIX_KIND;
  if (kind === 0 || kind === UNIX_FILE || kind === UNIX_FOLDER) return undefined;
  return kind === UNIX_LINK ? NOT_STORED.link : NOT_STORED.device;
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

/** The files of a zip archive one behind another, as they unpack; what they are is gathered meanwhile. */
async function* filesOfZip(zip: yauzl.ZipFile, gathering: Gathering): AsyncGenerator<Uint8Array> {
  let at = 0;
  for await (const entry of zip.eachEntry()) {
    const name = yauzl.getFileNameLowLevel(entry.generalPurposeBitFlag, entry.fileNameRaw, entry.extraFields, false);
    const isFolder = name.endsWith('/');
    const path = gathering.path(name, isFolder, whyNot(entry));
    if (path === undefined) continue;
    const facts: Facts = { path, time: zipTime(entry), mode: modeOf(entry) };
    if (isFolder) {
      gathering.folder(facts);
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
    gathering.file(facts, kept, at);
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

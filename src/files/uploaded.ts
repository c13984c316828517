/**
 * Uploads of contents. Everything of one upload lies in a folder of its own, under its SHA-256, until all
 * of it is there; then it goes to its place at once, or not at all.
 */
import { MIB, GIB } from '@/core/quantity/units';
import { execFile } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { open, rename, rm, statfs } from 'node:fs/promises';
import path from 'node:path';
import { promisify } from 'node:util';
import { type DataFolder, uploadsFolder } from './data-folder';
import { makeFolder, syncFile, syncFolder, writeWhole } from './durable';
import { SupplyError } from './errors';
import { type Kept, Sums } from './gathering';
import { storedPath } from './stored';

/** Most bytes of one upload, and of what an archive unpacks to. */
export const UPLOAD_LIMIT = 64 * GIB;
/** Space that is left free on the disk. */
const LEAVE_FREE = 256 * MIB;
/** The disk is asked for its room after so many bytes. */
const ASK_AFTER = 64 * MIB;

/** So many files are synced one by one; for more of them the whole file system is, once. */
const FEW = 32;

const run = promisify(execFile);

function tooLarge(): SupplyError {
  return new SupplyError(
    'too large',
    'upload-too-large',
    `An upload, and what it unpacks to, may have ${UPLOAD_LIMIT / GIB} GiB in all. Send it in parts.`,
  );
}

/** The contents of one upload while they come in. */
export class Upload {
  private readonly added = new Map<string, string>();
  private bytes = 0;
  private room = 0;
  private counted = 0;

  private constructor(
    private readonly data: DataFolder,
    private readonly folder: string,
    private readonly allowed: number | undefined,
  ) {}

  static async begin(data: DataFolder, allowed?: number): Promise<Upload> {
    const folder = path.join(/* turbopackIgnore: true */ uploadsFolder(data), randomUUID());
    await makeFolder(folder);
    return new Upload(data, folder, allowed);
  }

  /** Counts bytes that are about to be kept; refuses when there are too many of them. */
  private async claim(bytes: number): Promise<void> {
    this.bytes += bytes;
    if (this.bytes > UPLOAD_LIMIT) throw tooLarge();
    if (this.allowed !== undefined && this.bytes > this.allowed)
      throw new SupplyError(
        'too large',
        'limit-of-contents',
        `The limit that was set for contents leaves ${this.allowed} bytes. Raise it on the page of the data folder, or send less; nothing of it was kept.`,
      );
    if (this.counted === 0 || this.bytes - this.counted > ASK_AFTER) {
      const { bavail, bsize } = await statfs(this.folder);
      this.room = bavail * bsize - LEAVE_FREE;
      this.counted = this.bytes;
    }
    if (bytes > this.room)
      throw new SupplyError(
        'too large',
        'no-room-for-file',
        `The disk of the data folder has no room for ${this.bytes} bytes and more. Free some space, then send it again; nothing of it was kept.`,
      );
    this.room -= bytes;
  }

  /** Keeps a body that is only needed until everything came in, such as an archive. */
  async temporary(body: AsyncIterable<Uint8Array>): Promise<{ file: string; size: number }> {
    const file = path.join(/* turbopackIgnore: true */ this.folder, `temporary-${randomUUID()}`);
    const handle = await open(/* turbopackIgnore: true */ file, 'wx');
    let size = 0;
    try {
      for await (const chunk of body) {
        await this.claim(chunk.length);
        await writeWhole(handle, chunk);
        size += chunk.length;
      }
    } finally {
      await handle.close();
    }
    this.bytes -= size;
    return { file, size };
  }

  /** Takes one file in; `lies` is what `temporary` gave, where that is the same file. */
  async add(body: AsyncIterable<Uint8Array>, lies?: string): Promise<Kept> {
    const isHere = lies !== undefined && path.dirname(lies) === this.folder;
    const file = isHere
      ? lies
      : path.join(/* turbopackIgnore: true */ this.folder, `${this.added.size}-${randomUUID()}`);
    const sums = new Sums();
    const handle = isHere ? undefined : await open(/* turbopackIgnore: true */ file, 'wx');
    try {
      for await (const chunk of body) {
        await this.claim(chunk.length);
        sums.add(chunk);
        if (handle) await writeWhole(handle, chunk);
      }
    } finally {
      await handle?.close();
    }
    const { kept } = sums;
    const { sha256 } = kept;
    // What is stored already is put in its place anew: it may be damaged there, or about to be swept.
    const before = this.added.get(sha256);
    if (before === undefined) this.added.set(sha256, file);
    else if (before !== file) await rm(file);
    return kept;
  }

  /** Where content lies now: that of this upload, or what was stored before. */
  whereIs(sha256: string): string {
    return this.added.get(sha256) ?? storedPath(this.data.store, sha256);
  }

  /** Where something that was taken in lies until then. */
  placeOf(sha256: string): string {
    const place = this.added.get(sha256);
    if (place === undefined) throw new RangeError(`not taken in: ${sha256}`);
    return place;
  }

  /** Puts everything that came in to its place. */
  async commit(): Promise<void> {
    const { store } = this.data;
    // The bytes reach the disk before their names do, and the names before anybody is told.
    if (this.added.size <= FEW) for (const temporary of this.added.values()) await syncFile(temporary);
    else await run('sync', ['-f', this.folder]);
    const folders = new Set([...this.added.keys()].map((sha256) => path.dirname(storedPath(store, sha256))));
    for (const folder of folders) await makeFolder(folder);
    // Also where one of them was made by an upload that failed then.
    await syncFolder(store);
    for (const [sha256, temporary] of this.added)
      await rename(/* turbopackIgnore: true */ temporary, storedPath(store, sha256));
    for (const folder of folders) await syncFolder(folder);
    await this.abandon();
  }

  /** Forgets everything that came in. */
  async abandon(): Promise<void> {
    await rm(this.folder, { recursive: true, force: true });
  }
}

/** Takes contents in with `work`, whole or not at all; `room` is how many bytes may be kept, where that is limited. */
export async function withUpload<T>(data: DataFolder, work: (upload: Upload) => Promise<T>, room?: number): Promise<T> {
  const upload = await Upload.begin(data, room);
  try {
    const result = await work(upload);
    await upload.commit();
    return result;
  } catch (error) {
    await upload.abandon();
    throw error;
  }
}

/** One piece of bytes as a body. */
export async function* asBody(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}

/**
 * Taking contents in. Everything of one upload is kept aside, under its SHA-256, until all of it
 * is there; then it goes to its place at once, or not at all.
 */
import { execFile } from 'node:child_process';
import { createHash, randomUUID } from 'node:crypto';
import { mkdirSync, renameSync, existsSync } from 'node:fs';
import { mkdir, open, rm, statfs } from 'node:fs/promises';
import path from 'node:path';
import { promisify } from 'node:util';
import { crc32 } from 'node:zlib';
import type { Context } from './context';
import { intakeFolder } from './data-folder';
import { Refusal } from './refusal';
import { storedPath } from './stored';

/** Most bytes of one upload, and of what an archive unpacks to. */
export const INTAKE_LIMIT = 64 * 2 ** 30;
/** Space that is left free on the disk. */
const LEAVE_FREE = 256 * 2 ** 20;
/** The disk is asked for its room after so many bytes. */
const ASK_AFTER = 64 * 2 ** 20;

const run = promisify(execFile);

/** What was taken in: its name, and its length in bytes. */
export interface Taken {
  readonly sha256: string;
  readonly size: number;
  /** CRC-32, eight hexadecimal digits. */
  readonly crc32: string;
}

function tooLarge(): Refusal {
  return new Refusal(
    413,
    'upload-too-large',
    `An upload, and what it unpacks to, may have ${INTAKE_LIMIT / 2 ** 30} GiB in all. Send it in parts.`,
    'body',
  );
}

/** The contents of one upload while they come in. */
export class Intake {
  private readonly taken = new Map<string, string>();
  private bytes = 0;
  private room = 0;
  private counted = 0;

  private constructor(
    private readonly context: Context,
    private readonly folder: string,
  ) {}

  static async begin(context: Context): Promise<Intake> {
    const folder = path.join(/* turbopackIgnore: true */ intakeFolder(context.folder), randomUUID());
    await mkdir(folder, { recursive: true });
    return new Intake(context, folder);
  }

  /** Counts bytes that are about to be kept; refuses when there are too many of them. */
  private async claim(bytes: number): Promise<void> {
    this.bytes += bytes;
    if (this.bytes > INTAKE_LIMIT) throw tooLarge();
    if (this.counted === 0 || this.bytes - this.counted > ASK_AFTER) {
      const { bavail, bsize } = await statfs(this.folder);
      this.room = bavail * bsize - LEAVE_FREE;
      this.counted = this.bytes;
    }
    if (bytes > this.room)
      throw new Refusal(
        413,
        'no-room-for-file',
        `The disk of the data folder has no room for ${this.bytes} bytes and more. Free some space, then send it again; nothing of it was kept.`,
        'body',
      );
    this.room -= bytes;
  }

  /** Keeps a body aside that is only needed until everything came in, such as an archive. */
  async aside(body: AsyncIterable<Uint8Array>): Promise<{ file: string; size: number }> {
    const file = path.join(/* turbopackIgnore: true */ this.folder, `aside-${randomUUID()}`);
    const handle = await open(/* turbopackIgnore: true */ file, 'wx');
    let size = 0;
    try {
      for await (const chunk of body) {
        await this.claim(chunk.length);
        await handle.write(chunk);
        size += chunk.length;
      }
    } finally {
      await handle.close();
    }
    this.bytes -= size;
    return { file, size };
  }

  /** Takes one file in. */
  async add(body: AsyncIterable<Uint8Array>): Promise<Taken> {
    const temporary = path.join(/* turbopackIgnore: true */ this.folder, `${this.taken.size}-${randomUUID()}`);
    const hash = createHash('sha256');
    let size = 0;
    let crc = 0;
    const handle = await open(/* turbopackIgnore: true */ temporary, 'wx');
    try {
      for await (const chunk of body) {
        await this.claim(chunk.length);
        hash.update(chunk);
        crc = crc32(chunk, crc);
        await handle.write(chunk);
        size += chunk.length;
      }
    } finally {
      await handle.close();
    }
    const sha256 = hash.digest('hex');
    if (this.taken.has(sha256) || existsSync(/* turbopackIgnore: true */ storedPath(this.context.folder.store, sha256)))
      await rm(temporary);
    else this.taken.set(sha256, temporary);
    return { sha256, size, crc32: crc.toString(16).padStart(8, '0') };
  }

  /** Puts everything that came in to its place. */
  async commit(): Promise<void> {
    const { store } = this.context.folder;
    // The bytes reach the disk before their names do.
    if (this.taken.size > 0) await run('sync', ['-f', this.folder]);
    for (const [sha256, temporary] of this.taken) {
      const file = storedPath(store, sha256);
      mkdirSync(/* turbopackIgnore: true */ path.dirname(file), { recursive: true });
      renameSync(/* turbopackIgnore: true */ temporary, file);
    }
    await this.abandon();
  }

  /** Forgets everything that came in. */
  async abandon(): Promise<void> {
    await rm(this.folder, { recursive: true, force: true });
  }
}

/** Takes contents in with `work`, whole or not at all. */
export async function takingIn<T>(context: Context, work: (intake: Intake) => Promise<T>): Promise<T> {
  const intake = await Intake.begin(context);
  try {
    const result = await work(intake);
    await intake.commit();
    return result;
  } catch (error) {
    await intake.abandon();
    throw error;
  }
}

/** One piece of bytes as a body. */
export async function* asBody(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}

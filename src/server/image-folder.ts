/**
 * The folder of images: files that a person put there or uploaded. They are read and never
 * written; an upload appears whole or not at all.
 */
import { MIB } from '@/core/quantity/units';
import { randomUUID } from 'node:crypto';
import { open, readdir, rm, stat, statfs } from 'node:fs/promises';
import path from 'node:path';
import type { ImageFile, StrangeFile } from '@/contract/surveys';
import type { Context } from './context';
import { imageUploadsFolder } from '../files/data-folder';
import { plainText, strangeness } from '../files/plain-file';
import { makeFolder, moveFile, writeWhole } from '../files/durable';
import { ifThere } from '../files/system-errors';
import { Refusal } from './refusal';

/** Space that an upload must leave free, in bytes. */
const LEAVE_FREE = 256 * MIB;
const NAME = /^[^/\\\p{Cc}.][^/\\\p{Cc}]*$/u;
const BLOCK = 64 * 1024;
const ZEROS = Buffer.alloc(BLOCK);

/** Ending of a file that tells the story of an image, in one line. */
export const STORY = '.story';
const STORY_LIMIT = 400;

/** Longest name, in bytes: beside the image its story has room. */
const NAME_BYTES = 255 - STORY.length;

const isName = (name: string) => NAME.test(name) && Buffer.byteLength(name) <= NAME_BYTES;

/** The story of an image, where somebody wrote one. */
async function storyOf(file: string): Promise<string | undefined> {
  const text = await plainText(file + STORY).catch(() => undefined);
  return text
    ?.slice(0, STORY_LIMIT)
    .replace(/[\p{Cc}\p{Cs}]+/gu, ' ')
    .trim();
}

/** Where a file of the folder lies; refuses names that lead elsewhere. */
export function imageFilePath(context: Context, name: string): string {
  if (!isName(name))
    throw new Refusal(
      400,
      'file-name-refused',
      `A file name has 1 to ${NAME_BYTES} bytes, no slash and no control characters, and does not begin with a point.`,
      'name',
    );
  return path.join(/* turbopackIgnore: true */ context.folder.images, name);
}

/** One file of the folder as it is now; it may be gone since it was listed. */
export async function imageFile(context: Context, name: string): Promise<ImageFile> {
  const found = (await listImageFiles(context)).find((one) => one.name === name);
  if (!found)
    throw new Refusal(404, 'file-unknown', `There is no file “${name.slice(0, 80)}” in the folder of images.`, 'file');
  return found;
}

/** The files of the folder, by name. What is no plain file is left out. */
export async function listImageFiles(context: Context): Promise<ImageFile[]> {
  const entries = await readdir(/* turbopackIgnore: true */ context.folder.images, { withFileTypes: true });
  const names = entries.filter((one) => one.isFile() && isName(one.name) && !one.name.endsWith(STORY));
  const files = await Promise.all(
    names.map(async ({ name }): Promise<ImageFile[]> => {
      const file = path.join(/* turbopackIgnore: true */ context.folder.images, name);
      const found = await stat(/* turbopackIgnore: true */ file).catch(() => undefined);
      if (!found) return [];
      const story = await storyOf(file);
      return [{ name, size: found.size, changedAt: found.mtime.toISOString(), ...(story && { story }) }];
    }),
  );
  return files.flat().sort((a, b) => a.name.localeCompare(b.name));
}

/** What lies in the folder and is passed over: no plain file, or with a name that is none here. Not what begins with a point. */
export async function strangeFiles(context: Context): Promise<StrangeFile[]> {
  const entries = await readdir(/* turbopackIgnore: true */ context.folder.images, { withFileTypes: true });
  return entries
    .filter(({ name }) => !name.startsWith('.') && !name.endsWith(STORY))
    .flatMap((one): StrangeFile[] => {
      const what = strangeness(one) ?? (isName(one.name) ? undefined : 'a file with a name that is none here');
      return what === undefined ? [] : [{ name: one.name, what }];
    })
    .sort((a, b) => a.name.localeCompare(b.name));
}

async function exists(file: string): Promise<boolean> {
  return (await ifThere(stat(file))) !== undefined;
}

async function refuseIfTooLarge(context: Context, size: number): Promise<void> {
  const { bavail, bsize } = await statfs(context.folder.images);
  const room = bavail * bsize - LEAVE_FREE;
  if (size > room)
    throw new Refusal(
      413,
      'no-room-for-file',
      `The file has ${size} bytes; the disk of the data folder has room for ${Math.max(0, room)}. Free some space, or put the file into ${context.folder.images} on a larger disk.`,
      'content-length',
    );
}

/** Pieces of a stream in whole blocks, the last one shorter. */
async function* blocksOf(body: AsyncIterable<Uint8Array>): AsyncGenerator<Buffer> {
  let waiting: Buffer[] = [];
  let length = 0;
  for await (const chunk of body) {
    waiting.push(Buffer.from(chunk.buffer, chunk.byteOffset, chunk.byteLength));
    length += chunk.length;
    if (length < BLOCK) continue;
    const all = Buffer.concat(waiting);
    const whole = length - (length % BLOCK);
    for (let at = 0; at < whole; at += BLOCK) yield all.subarray(at, at + BLOCK);
    waiting = whole === length ? [] : [all.subarray(whole)];
    length -= whole;
  }
  if (length > 0) yield Buffer.concat(waiting);
}

function brokenOff(): Refusal {
  return new Refusal(
    400,
    'upload-broken-off',
    'The upload ended early, or is longer than it said. Send it again.',
    'body',
  );
}

/**
 * Takes an upload of `size` bytes under a new name. Blocks of zeros stay holes of a sparse
 * file. Whatever goes wrong, nothing of it is left.
 */
export async function receiveImageFile(
  context: Context,
  name: string,
  size: number,
  body: AsyncIterable<Uint8Array>,
): Promise<ImageFile> {
  const file = imageFilePath(context, name);
  const taken = new Refusal(409, 'file-exists', `There is a file “${name}” already. Rename one of them.`, 'name');
  if (await exists(file)) throw taken;
  await refuseIfTooLarge(context, size);
  const uploads = imageUploadsFolder(context.folder);
  await makeFolder(uploads);
  const temporary = path.join(/* turbopackIgnore: true */ uploads, randomUUID());
  const handle = await open(/* turbopackIgnore: true */ temporary, 'wx');
  try {
    let received = 0;
    for await (const block of blocksOf(body)) {
      const at = received;
      received += block.length;
      if (received > size) break;
      if (!block.equals(ZEROS.subarray(0, block.length))) await writeWhole(handle, block, at);
    }
    if (received !== size) throw brokenOff();
    await handle.truncate(size);
    await handle.sync();
    if (await exists(file)) throw taken;
    const { mtime } = await handle.stat();
    await moveFile(temporary, file);
    return { name, size, changedAt: mtime.toISOString() };
  } catch (error) {
    await rm(temporary, { force: true });
    throw (error as NodeJS.ErrnoException).code === 'ECONNRESET' ? brokenOff() : error;
  } finally {
    // The folder of what is sent stays: others may begin or end at this moment.
    await handle.close();
  }
}

/** Deletes a file of the folder. */
export async function removeImageFile(context: Context, name: string): Promise<void> {
  const file = imageFilePath(context, name);
  if (!(await exists(file))) throw new Refusal(404, 'file-unknown', `There is no file “${name}”.`, 'name');
  await rm(file);
  await rm(file + STORY, { force: true });
}

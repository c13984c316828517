/**
 * Writing that is on the disk when it says so. A file is there for good when its bytes are
 * synced, and its name when the folder is; an error of a sync is never passed over, because the
 * system tells it once and forgets what it could not write.
 */
import { chmod, type FileHandle, link, mkdir, open, rename, stat, unlink, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { ifThere } from './system-errors';

/** Writes all bytes at the file's own position, or at a place of it; the system may take them in pieces. */
export async function writeWhole(handle: FileHandle, bytes: Uint8Array, position?: number): Promise<void> {
  for (let done = 0; done < bytes.length;) {
    const at = position === undefined ? null : position + done;
    const { bytesWritten } = await handle.write(bytes, done, bytes.length - done, at);
    if (bytesWritten === 0) throw Object.assign(new Error('ENOSPC: the system took no more bytes'), { code: 'ENOSPC' });
    done += bytesWritten;
  }
}

/** Waits until the names in a folder are on the disk. */
export async function syncFolder(folder: string): Promise<void> {
  const handle = await open(/* turbopackIgnore: true */ folder, 'r');
  await handle.sync().finally(() => handle.close());
}

/** Waits until the bytes of a file are on the disk. */
export async function syncFile(file: string): Promise<void> {
  const handle = await open(/* turbopackIgnore: true */ file, 'r+');
  await handle.sync().finally(() => handle.close());
}

/** Makes a folder and those above it, where they are missing, for good. */
export async function makeFolder(folder: string, isAgain = false): Promise<void> {
  // One by one: making all of them at once tells a full or faulty disk as a folder that is not there.
  try {
    await mkdir(/* turbopackIgnore: true */ folder);
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'EEXIST') return;
    // Where the one above is there and this still cannot be, the system makes no folders there.
    if (code !== 'ENOENT' || isAgain) throw error;
    await makeFolder(path.dirname(folder));
    return makeFolder(folder, true);
  }
  await syncFolder(path.dirname(folder));
}

/** Gives a file, whose bytes are on the disk, another name, for good. The folder of the new name must be there. */
export async function moveFile(from: string, to: string): Promise<void> {
  await rename(/* turbopackIgnore: true */ from, to);
  await syncFolder(path.dirname(to));
  if (path.dirname(from) !== path.dirname(to)) await syncFolder(path.dirname(from));
}

/** What a file system says that has no second names for a file. */
const NO_LINKS = new Set(['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EMLINK']);

/** Gives a file, whose bytes are on the disk, another name that no file has yet; rejects with `EEXIST` where one has. */
export async function moveNewFile(from: string, to: string): Promise<void> {
  try {
    await link(/* turbopackIgnore: true */ from, to);
  } catch (error) {
    if (!NO_LINKS.has((error as NodeJS.ErrnoException).code ?? '')) throw error;
    if (await ifThere(stat(/* turbopackIgnore: true */ to)))
      throw Object.assign(new Error(`“${to}” is there already.`), { code: 'EEXIST' });
    return moveFile(from, to);
  }
  await unlink(/* turbopackIgnore: true */ from);
  await syncFolder(path.dirname(to));
}

/** Writes a small file, whole or not at all, over one that may be there; `mode` says who may do what with it. */
export async function writeSmallFile(file: string, text: string, mode?: number): Promise<void> {
  const temporary = `${file}.new`;
  await writeFile(/* turbopackIgnore: true */ temporary, text);
  if (mode !== undefined) await chmod(/* turbopackIgnore: true */ temporary, mode);
  await syncFile(temporary);
  await moveFile(temporary, file);
}

/** The data folder: database, built images, and the lock that keeps a second server out. */
import { mkdir, open, readdir, readFile, rm } from 'node:fs/promises';
import path from 'node:path';

/** Ending of files that are not finished. */
export const UNFINISHED = '.part';

export interface DataFolder {
  readonly root: string;
  readonly database: string;
  readonly builds: string;
}

/** Makes the folder where it is missing. */
export async function openDataFolder(root: string): Promise<DataFolder> {
  const absolute = path.resolve(root);
  const folder = { root: absolute, database: path.join(absolute, 'loess.db'), builds: path.join(absolute, 'builds') };
  await mkdir(folder.builds, { recursive: true });
  return folder;
}

/** Where the image of a build lies. */
export function imagePath(folder: DataFolder, buildId: string): string {
  return path.join(folder.builds, `${buildId}.img`);
}

function isRunning(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

/**
 * Takes the folder for this process; a lock left by a process that is gone is taken over.
 * Throws an Error with a sentence for people if another server uses the folder.
 */
export async function lockDataFolder(folder: DataFolder): Promise<() => Promise<void>> {
  const file = path.join(folder.root, 'server.pid');
  for (;;) {
    try {
      const handle = await open(file, 'wx');
      await handle.writeFile(String(process.pid));
      await handle.close();
      return () => rm(file, { force: true });
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
    }
    const pid = Number(await readFile(file, 'utf8'));
    if (pid !== process.pid && pid > 0 && isRunning(pid))
      throw new Error(
        `The data folder ${folder.root} is in use by process ${pid}. Stop that server, or name another folder in LOESS_DATA.`,
      );
    await rm(file, { force: true });
  }
}

/** Removes unfinished files; returns how many there were. */
export async function removeUnfinished(folder: DataFolder): Promise<number> {
  const files = (await readdir(folder.builds)).filter((name) => name.endsWith(UNFINISHED));
  await Promise.all(files.map((name) => rm(path.join(folder.builds, name), { force: true })));
  return files.length;
}

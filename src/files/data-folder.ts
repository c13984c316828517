/**
 * The data folder: database, built images, and the lock that keeps a second server out.
 *
 * Comments at paths, here and in the other files of this room, keep the web framework's build
 * from looking for what the program may open: images in the data folder can be larger than any memory.
 */
import { createHash } from 'node:crypto';
import { mkdir, readdir, rm } from 'node:fs/promises';
import { createServer } from 'node:net';
import path from 'node:path';

/** Ending of files that are not finished. */
export const UNFINISHED = '.part';

export interface DataFolder {
  readonly root: string;
  readonly database: string;
  readonly builds: string;
  /** Images that a person put there or uploaded; they are only read. */
  readonly images: string;
  /** Contents by their SHA-256, and what is being taken in. */
  readonly store: string;
  /** Simulated media: a description and a sparse file each. */
  readonly bench: string;
}

/** Makes the folder where it is missing. */
export async function openDataFolder(root: string): Promise<DataFolder> {
  const absolute = path.resolve(/* turbopackIgnore: true */ root);
  const folder = {
    root: absolute,
    database: path.join(/* turbopackIgnore: true */ absolute, 'loess.db'),
    builds: path.join(/* turbopackIgnore: true */ absolute, 'builds'),
    images: path.join(/* turbopackIgnore: true */ absolute, 'images'),
    store: path.join(/* turbopackIgnore: true */ absolute, 'contents'),
    bench: path.join(/* turbopackIgnore: true */ absolute, 'bench'),
  };
  await mkdir(folder.builds, { recursive: true });
  await mkdir(folder.images, { recursive: true });
  await mkdir(folder.store, { recursive: true });
  return folder;
}

/** Where the image of a build lies. */
export function imagePath(folder: DataFolder, buildId: string): string {
  return path.join(/* turbopackIgnore: true */ folder.builds, `${buildId}.img`);
}

/**
 * Takes the folder for this process until the returned function is called or the process ends
 * in whatever way: a Linux socket with an abstract name is held, which leaves nothing behind.
 * Throws an Error with a sentence for people if another server uses the folder.
 */
export function lockDataFolder(folder: DataFolder): Promise<() => Promise<void>> {
  const name = createHash('sha256').update(folder.root).digest('hex');
  const holder = createServer();
  return new Promise((resolve, reject) => {
    holder.once('error', () =>
      reject(
        new Error(
          `The data folder ${folder.root} is in use by another server. Stop that one, or name another folder in LOESS_DATA.`,
        ),
      ),
    );
    holder.listen(`\0loess-${name}`, () => {
      holder.unref();
      resolve(() => new Promise((closed) => holder.close(() => closed())));
    });
  });
}

/** Where contents lie while they are uploaded. */
export function uploadsFolder({ store }: DataFolder): string {
  return path.join(/* turbopackIgnore: true */ store, 'intake');
}

/** Removes unfinished files; returns how many there were. */
export async function removeUnfinished(folder: DataFolder): Promise<number> {
  const { builds, images } = folder;
  await rm(uploadsFolder(folder), { recursive: true, force: true });
  const found = await Promise.all(
    [builds, images].map(async (one) => {
      const names = (await readdir(/* turbopackIgnore: true */ one)).filter((name) => name.endsWith(UNFINISHED));
      return names.map((name) => path.join(/* turbopackIgnore: true */ one, name));
    }),
  );
  await Promise.all(found.flat().map((file) => rm(file, { force: true })));
  return found.flat().length;
}

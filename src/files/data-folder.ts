/**
 * The data folder: where everything lies that a server keeps.
 *
 * Comments at paths, here and in the other files of this room, keep the web framework's build
 * from looking for what the program may open: images in the data folder can be larger than any memory.
 */
import { readdir, rm } from 'node:fs/promises';
import path from 'node:path';
import { makeFolder } from './durable';
import { ifThere } from './system-errors';

/** Ending of images that are not finished. */
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
  /** Contents that nothing named, by the day on which they went. */
  readonly trash: string;
  /** What was found damaged, by the day on which it was. */
  readonly quarantine: string;
  /** Copies of the database from before it was changed. */
  readonly backups: string;
}

/** Where the parts of a data folder lie; nothing is made or looked at. */
export function dataFolderAt(root: string): DataFolder {
  const absolute = path.resolve(/* turbopackIgnore: true */ root);
  const part = (name: string) => path.join(/* turbopackIgnore: true */ absolute, name);
  return {
    root: absolute,
    database: part('loess.db'),
    builds: part('builds'),
    images: part('images'),
    store: part('contents'),
    bench: part('bench'),
    trash: part('trash'),
    quarantine: part('quarantine'),
    backups: part('backups'),
  };
}

/** Makes the folder where it is missing. */
export async function openDataFolder(root: string): Promise<DataFolder> {
  const folder = dataFolderAt(root);
  const { builds, images, store, trash, quarantine, backups } = folder;
  for (const one of [builds, images, store, trash, quarantine, backups]) await makeFolder(one);
  return folder;
}

/** Where the image of a build lies. */
export function imagePath(folder: DataFolder, buildId: string): string {
  return path.join(/* turbopackIgnore: true */ folder.builds, `${buildId}.img`);
}

/** Where contents lie while they are uploaded. */
export function uploadsFolder({ store }: DataFolder): string {
  return path.join(/* turbopackIgnore: true */ store, 'intake');
}

/** Where images lie while they are uploaded: beside the others, so that they need not be copied then. */
export function imageUploadsFolder({ images }: DataFolder): string {
  return path.join(/* turbopackIgnore: true */ images, '.unfinished');
}

const UNFINISHED_BUILD = /^[0-9a-f-]{36}\.img\.part$/;

/** Removes unfinished files of this program, and no others; returns how many images of builds there were. */
export async function removeUnfinished(folder: DataFolder): Promise<number> {
  await rm(uploadsFolder(folder), { recursive: true, force: true });
  await rm(imageUploadsFolder(folder), { recursive: true, force: true });
  const names = (await readdir(/* turbopackIgnore: true */ folder.builds)).filter((one) => UNFINISHED_BUILD.test(one));
  for (const name of names) await rm(path.join(/* turbopackIgnore: true */ folder.builds, name), { force: true });
  return names.length;
}

const DAY = /^\d{4}-\d{2}-\d{2}$/;

/** Name of the folder of a day, from an ISO 8601 time. */
export function dayOf(time: string): string {
  return time.slice(0, 10);
}

/** The folders of days below the trash or the quarantine, the oldest first. */
export async function daysIn(folder: string): Promise<string[]> {
  const names = (await ifThere(readdir(/* turbopackIgnore: true */ folder))) ?? [];
  return names.filter((name) => DAY.test(name)).sort();
}

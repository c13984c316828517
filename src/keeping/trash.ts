/**
 * The trash: contents that nothing named, by the day on which they went. They come back when
 * something names them again, or by hand, and go for good after thirty days, or by hand.
 */
import { open, readdir, rename, rm, stat } from 'node:fs/promises';
import path from 'node:path';
import { SHA256, storedOf } from '@/core/filesystems/tree';
import { referredTo } from '@/core/layout/contents';
import type { Layout } from '@/core/layout/document';
import { type DataFolder, dayOf, daysIn } from '../files/data-folder';
import { makeFolder, moveFile, syncFolder } from '../files/durable';
import { ifThere } from '../files/system-errors';
import { readStoredTree, type StoredFile, storedPath } from '../files/stored';

/** Days that the trash is kept. */
const TRASH_DAYS = 30;
const DAY = 24 * 60 * 60 * 1000;
/** What went on a day, one line each: time, SHA-256, bytes. */
const LOG = 'moved.txt';

async function appendTo(file: string, text: string): Promise<void> {
  const log = await open(/* turbopackIgnore: true */ file, 'a');
  try {
    await log.appendFile(text);
    await log.sync();
  } finally {
    await log.close();
  }
}

/** Moves stored files to the trash of today; what moves is written down before. */
export async function moveToTrash(folder: DataFolder, files: readonly StoredFile[], now: string): Promise<void> {
  if (files.length === 0) return;
  const day = path.join(/* turbopackIgnore: true */ folder.trash, dayOf(now));
  await makeFolder(day);
  await appendTo(path.join(day, LOG), files.map((one) => `${now} ${one.sha256} ${one.size}\n`).join(''));
  for (const { sha256, file } of files) await rename(file, path.join(day, sha256));
  await syncFolder(day);
  for (const bucket of new Set(files.map(({ file }) => path.dirname(file)))) await syncFolder(bucket);
}

/** One day of the trash. */
export interface TrashDay {
  readonly day: string;
  readonly files: number;
  readonly bytes: number;
}

async function contentsOf(folder: DataFolder, day: string): Promise<{ sha256: string; size: number }[]> {
  const place = path.join(/* turbopackIgnore: true */ folder.trash, day);
  const names = (await readdir(place)).filter((name) => SHA256.test(name));
  return Promise.all(names.map(async (sha256) => ({ sha256, size: (await stat(path.join(place, sha256))).size })));
}

/** What lies in the trash, the oldest day first. */
export async function trashDays(folder: DataFolder): Promise<TrashDay[]> {
  const days = await daysIn(folder.trash);
  return Promise.all(
    days.map(async (day) => {
      const files = await contentsOf(folder, day);
      return { day, files: files.length, bytes: files.reduce((sum, { size }) => sum + size, 0) };
    }),
  );
}

/** Brings all of a day back among the contents. Returns how many files those were. */
export async function bringBackDay(folder: DataFolder, day: string): Promise<number> {
  const files = await contentsOf(folder, day);
  for (const { sha256 } of files) await takeBack(folder, day, sha256);
  await rm(path.join(/* turbopackIgnore: true */ folder.trash, day), { recursive: true, force: true });
  return files.length;
}

async function takeBack(folder: DataFolder, day: string, sha256: string): Promise<void> {
  const place = storedPath(folder.store, sha256);
  const from = path.join(/* turbopackIgnore: true */ folder.trash, day, sha256);
  const isThere = await ifThere(stat(place));
  // What came again meanwhile is the same.
  if (isThere) return rm(from, { force: true });
  await makeFolder(path.dirname(place));
  await moveFile(from, place);
}

/** Brings a content back that is missing, where the trash has it; true where it is stored now. */
async function bringBack(folder: DataFolder, days: readonly string[], sha256: string): Promise<boolean> {
  if (await ifThere(stat(storedPath(folder.store, sha256)))) return true;
  for (const day of days.toReversed()) {
    if (!(await ifThere(stat(path.join(/* turbopackIgnore: true */ folder.trash, day, sha256))))) continue;
    await takeBack(folder, day, sha256);
    return true;
  }
  return false;
}

/** Brings back whatever a document names that lies in the trash. */
export async function bringBackNamed(folder: DataFolder, layout: Pick<Layout, 'slots' | 'table'>): Promise<void> {
  const days = await daysIn(folder.trash);
  if (days.length === 0) return;
  const { trees, blobs } = referredTo(layout);
  for (const sha256 of blobs) await bringBack(folder, days, sha256);
  for (const sha256 of trees) {
    if (!(await bringBack(folder, days, sha256))) continue;
    const tree = await readStoredTree(folder.store, sha256);
    for (const file of storedOf(tree ?? [])) await bringBack(folder, days, file.sha256);
  }
}

/** Removes days of the trash for good: those that are over, or all. Returns what went. */
export async function emptyTrash(folder: DataFolder, which: 'over' | 'all', now: string): Promise<TrashDay[]> {
  const oldest = dayOf(new Date(Date.parse(now) - TRASH_DAYS * DAY).toISOString());
  const gone = (await trashDays(folder)).filter(({ day }) => which === 'all' || day < oldest);
  for (const { day } of gone)
    await rm(path.join(/* turbopackIgnore: true */ folder.trash, day), { recursive: true, force: true });
  return gone;
}

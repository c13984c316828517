/**
 * Backups: a copy of the database as it is at one moment, and of the contents that it may name,
 * each compared with its sum on the way. A backup is made while a server works; one is restored
 * into a folder of its own, so that nothing is ever put over anything.
 */
import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { open, readdir, rm, stat } from 'node:fs/promises';
import path from 'node:path';
import { MIB } from '@/core/quantity/units';
import { type DataFolder, dataFolderAt } from '../files/data-folder';
import { makeFolder, moveFile, writeWhole } from '../files/durable';
import { ifThere } from '../files/system-errors';
import { storedFiles, storedPath } from '../files/stored';
import { copyDatabase, damagesIn, openToRead } from './database';

/** A backup or a restoring that cannot be: its message says why and what to do. */
export class BackupRefused extends Error {}

export interface CopyJob {
  readonly signal: AbortSignal;
  readonly onProgress: (phase: string, done: number, total: number) => void;
}

/** What was copied, and what of it was damaged and therefore left out. */
export interface Copied {
  /** Contents that are in the copy now, and bytes of them that had to be copied. */
  readonly contents: number;
  readonly copiedBytes: number;
  /** SHA-256 of stored files that are not what they were. */
  readonly damaged: readonly string[];
}

/** Copies one file under its sum; false where its bytes have another one. */
async function copyContent(from: string, to: string, sha256: string, signal: AbortSignal): Promise<boolean> {
  const temporary = `${to}.new`;
  const hash = createHash('sha256');
  const handle = await open(/* turbopackIgnore: true */ temporary, 'w');
  try {
    for await (const chunk of createReadStream(/* turbopackIgnore: true */ from, { highWaterMark: MIB, signal })) {
      hash.update(chunk as Buffer);
      await writeWhole(handle, chunk as Buffer);
    }
    await handle.sync();
  } finally {
    await handle.close();
  }
  const isSound = hash.digest('hex') === sha256;
  if (isSound) await moveFile(temporary, to);
  else await rm(temporary, { force: true });
  return isSound;
}

async function copyContents(from: string, to: string, job: CopyJob): Promise<Copied> {
  const files = [];
  for await (const one of storedFiles(from)) files.push(one);
  const total = files.reduce((sum, { size }) => sum + size, 0);
  const damaged: string[] = [];
  let [done, copiedBytes] = [0, 0];
  for (const { sha256, file, size } of files) {
    job.signal.throwIfAborted();
    job.onProgress('contents', done, total);
    done += size;
    const target = storedPath(to, sha256);
    const there = await ifThere(stat(target));
    // A content never changes: what an earlier backup copied is there already.
    if (there?.size === size) continue;
    await makeFolder(path.dirname(target));
    const isGood = await copyContent(file, target, sha256, job.signal).catch((error: NodeJS.ErrnoException) => {
      // It went to the trash since it was listed: nothing names it.
      if (error.code === 'ENOENT') return true;
      throw error;
    });
    if (!isGood) damaged.push(sha256);
    else copiedBytes += size;
  }
  job.onProgress('contents', total, total);
  return { contents: files.length - damaged.length, copiedBytes, damaged };
}

async function refuseWithout(file: string): Promise<void> {
  if (await ifThere(stat(/* turbopackIgnore: true */ file))) return;
  throw new BackupRefused(`There is no database ${file}. Name the folder that holds “loess.db”.`);
}

/** Copies a database that is sound; refuses another one with what `sentence` says of its first damage. */
async function copySound(from: string, to: string, job: CopyJob, sentence: (damage: string) => string): Promise<void> {
  job.onProgress('database', 0, 1);
  const client = openToRead(from);
  try {
    const [damage] = await damagesIn(client);
    if (damage !== undefined) throw new BackupRefused(sentence(damage));
    await copyDatabase(client, to);
  } finally {
    client.close();
  }
  job.onProgress('database', 1, 1);
}

/** Copies a data folder's database and contents into the folder `to`; an older backup there is brought up to date. */
export async function backUp(folder: DataFolder, to: string, job: CopyJob): Promise<Copied> {
  await refuseWithout(folder.database);
  const target = dataFolderAt(to);
  if (target.root === folder.root || target.root.startsWith(`${folder.root}${path.sep}`))
    throw new BackupRefused('A backup cannot lie in the data folder itself. Name a folder elsewhere.');
  // A copy where a server works would be written over by it.
  if (await ifThere(stat(path.join(target.root, 'in-use.db'))))
    throw new BackupRefused(`${target.root} is the data folder of a server. Name a folder that is only for backups.`);
  await makeFolder(target.store);
  // The database first: what it names is stored already, and stays.
  await copySound(
    folder.database,
    target.database,
    job,
    (damage) => `The database is damaged (${damage}): the older backup was left as it is.`,
  );
  return copyContents(folder.store, target.store, job);
}

/** Makes a data folder at `to`, which must be empty or not there, of a backup. */
export async function restoreBackup(from: string, to: string, job: CopyJob): Promise<Copied> {
  const backup = dataFolderAt(from);
  await refuseWithout(backup.database);
  const there = (await ifThere(readdir(/* turbopackIgnore: true */ to))) ?? [];
  if (there.length > 0)
    throw new BackupRefused(
      `${path.resolve(to)} is not empty. A backup is restored into a new folder, so that nothing is lost.`,
    );
  const folder = dataFolderAt(to);
  await makeFolder(folder.store);
  const copied = await copyContents(backup.store, folder.store, job);
  // The database comes last: a folder without one is no restored folder.
  await copySound(
    backup.database,
    folder.database,
    job,
    (damage) => `The database of this backup is damaged (${damage}). Take another backup.`,
  );
  return copied;
}

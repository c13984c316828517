/** What the terminal does with the data folder of a server: check, back up, restore, clean. */
import { stat } from 'node:fs/promises';
import { counted, inBoth } from '@/core/quantity/units';
import { dataFolderAt, openDataFolder } from '@/files/data-folder';
import { systemTrouble } from '@/files/system-errors';
import { BackupRefused, backUp, type Copied, restoreBackup } from '@/keeping/backup';
import { checkFolder } from '@/keeping/check';
import { Database, DatabaseRefused, openToRead } from '@/keeping/database';
import { lockDataFolder } from '@/keeping/lock';
import { sweep, type Swept } from '@/keeping/sweep';
import { emptyTrash } from '@/keeping/trash';
import { Ended, EXIT, type Exit, interrupted } from './exit';
import type { Io } from './io';
import { answerText } from './answering';
import type { Answers } from './answers';
import { printable } from './text';

type CheckReport = Awaited<ReturnType<typeof checkFolder>>;

const now = () => new Date().toISOString();

/** Shows where long work stands, on one line, where that can be shown. */
function progressOn(io: Io) {
  let shown = '';
  return (phase: string, done: number, total: number) => {
    if (!io.isTerminal) return;
    const share = total > 0 ? ` ${Math.floor((done / total) * 100)} %` : '';
    const text = `${phase}${share}`;
    if (text === shown) return;
    shown = text;
    io.error(`\r${text.padEnd(24)}`);
    if (done >= total && total > 0) io.error(`\r${' '.repeat(24)}\r`);
  };
}

/** Runs work; what refuses it ends the program with a sentence. */
async function ending<T>(io: Io, work: () => Promise<T>): Promise<T> {
  try {
    return await io.whole(work);
  } catch (error) {
    if (io.signal.aborted) throw interrupted(io.signal);
    if (error instanceof BackupRefused || error instanceof DatabaseRefused)
      throw new Ended(EXIT.file, 'refused', error.message);
    const { code, sentence } = systemTrouble(error) ?? { code: 'file', sentence: (error as Error).message };
    throw new Ended(EXIT.file, code, sentence);
  }
}

async function refuseUnlessFolder(folder: string): Promise<void> {
  const { database } = dataFolderAt(folder);
  if (await stat(database).catch(() => undefined)) return;
  throw new Ended(EXIT.file, 'no-data-folder', `“${folder}” is no data folder: there is no “loess.db” in it.`);
}

function reportText({ revisions, contents, bytes, images, damages }: CheckReport): string {
  const lines = damages.map(
    ({ sentence, what, layouts }) =>
      `  ${sentence}\n    ${what}${layouts.length > 0 ? `, needed by ${layouts.join(', ')}` : ''}`,
  );
  const looked = `${counted(revisions, 'revision')}, ${counted(contents, 'stored file')} (${inBoth(bytes)}), ${counted(images, 'image')}.`;
  return damages.length === 0
    ? `All of it is what it was: ${looked}\n`
    : `${counted(damages.length, 'thing')} not what it was, of ${looked}\n${lines.join('\n')}\n`;
}

/** A check for machines: what is of this run is told as that. */
function checkAnswer({ checkedAt, ...report }: CheckReport) {
  return { ...report, thisRun: { checkedAt } };
}

/** `check-data`: whether all that is kept is sound. Changes nothing. */
export async function checkData(io: Io, folder: string, options: { json?: boolean }): Promise<Exit> {
  await refuseUnlessFolder(folder);
  const report = await ending(io, async () => {
    const place = dataFolderAt(folder);
    const rows = openToRead(place.database);
    try {
      return await checkFolder({
        folder: place,
        rows,
        now,
        signal: io.signal,
        onProgress: progressOn(io),
        quarantines: false,
      });
    } finally {
      rows.close();
    }
  });
  io.out(options.json ? answerText('check-data', checkAnswer(report)) : printable(reportText(report)));
  return report.damages.some(({ kind }) => kind !== 'missing') ? EXIT.stop : EXIT.done;
}

function copiedText({ contents, copiedBytes, damaged }: Copied, what: string): string {
  const left = damaged.map((sha256) => `  left out, because it is damaged: ${sha256}`);
  return [`${what}: ${counted(contents, 'stored file')}, ${inBoth(copiedBytes)} copied.`, ...left, ''].join('\n');
}

/** Says what was copied; damaged files among it are no success. */
function toldCopy(io: Io, copied: Copied, answer: 'back-up' | 'restore', what: string, isJson = false): Exit {
  io.out(isJson ? answerText(answer, copied) : printable(copiedText(copied, what)));
  return copied.damaged.length > 0 ? EXIT.stop : EXIT.done;
}

/** `back-up`: database and contents into a folder. */
export async function backUpData(io: Io, folder: string, options: { into: string; json?: boolean }): Promise<Exit> {
  const job = { signal: io.signal, onProgress: progressOn(io) };
  const copied = await ending(io, () => backUp(dataFolderAt(folder), options.into, job));
  return toldCopy(io, copied, 'back-up', `Backed up into ${options.into}`, options.json);
}

/** `restore`: a new data folder of a backup. */
export async function restoreData(io: Io, backup: string, options: { into: string; json?: boolean }): Promise<Exit> {
  const job = { signal: io.signal, onProgress: progressOn(io) };
  const copied = await ending(io, () => restoreBackup(backup, options.into, job));
  return toldCopy(io, copied, 'restore', `Restored into ${options.into}`, options.json);
}

/** `clean`: what no revision names goes to the trash; that is emptied if asked for. */
export async function cleanData(io: Io, folder: string, options: { trash?: boolean; json?: boolean }): Promise<Exit> {
  await refuseUnlessFolder(folder);
  const done = await ending(io, () => cleaned(folder, options.trash === true));
  const { number, bytes, doubts } = done.swept;
  const lines = [
    doubts.length > 0
      ? `Nothing went to the trash, because it is not certain what is named:\n${doubts.map((one) => `  ${one}`).join('\n')}`
      : `${counted(number, 'stored file')}, ${inBoth(bytes)}, went to the trash.`,
    ...done.emptied.map(({ day, files }) => `The trash of ${day} was emptied: ${counted(files, 'file')}.`),
    '',
  ];
  io.out(options.json ? answerText('clean', done) : printable(lines.join('\n')));
  return doubts.length > 0 ? EXIT.stop : EXIT.done;
}

async function cleaned(
  root: string,
  emptiesTrash: boolean,
): Promise<{ swept: Swept; emptied: Answers['clean']['emptied'] }> {
  const folder = await openDataFolder(root);
  const unlock = await lockDataFolder(folder);
  try {
    const migrations = process.env.LOESS_MIGRATIONS ?? 'drizzle';
    const db = await Database.open(folder.database, { migrations, backups: folder.backups, looksAtAll: true });
    try {
      const swept = await sweep({ folder, db, now }, { byHand: true });
      const emptied = emptiesTrash ? await emptyTrash(folder, 'all', now()) : [];
      return { swept, emptied };
    } finally {
      await db.close();
    }
  } finally {
    unlock();
  }
}

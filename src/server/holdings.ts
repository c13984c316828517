/** Use cases of the data folder: what it holds, what could go, and looking whether all of it is sound. */
import { stat, statfs } from 'node:fs/promises';
import path from 'node:path';
import { inArray, isNotNull } from 'drizzle-orm';
import type { FolderOrder, Holdings, KeptDay } from '@/contract/keeping';
import { daysIn } from '../files/data-folder';
import { systemTrouble } from '../files/system-errors';
import { checkFolder } from '../keeping/check';
import { revisionCount } from '../keeping/keeping';
import { limitsOf, setLimits, storedAmount, takenIn } from '../keeping/limits';
import { builds } from '../keeping/schema';
import { sweep, sweepable } from '../keeping/sweep';
import { bringBackDay, emptyTrash, trashDays } from '../keeping/trash';
import { removeBuild } from './builds';
import type { Context } from './context';
import { Refusal } from './refusal';

const CHECK = 'check';

async function quarantineDays({ folder }: Context): Promise<KeptDay[]> {
  const days = await daysIn(folder.quarantine);
  return Promise.all(
    days.map(async (day) => ({
      day,
      ...(await takenIn(path.join(/* turbopackIgnore: true */ folder.quarantine, day))),
    })),
  );
}

async function databaseBytes({ folder }: Context): Promise<number> {
  const sizes = ['', '-wal'].map((end) =>
    stat(folder.database + end).then(
      ({ size }) => size,
      () => 0,
    ),
  );
  return (await Promise.all(sizes)).reduce((sum, size) => sum + size, 0);
}

/** Builds that are over and have no image: those may go together. */
async function overWithoutImage({ db }: Context): Promise<string[]> {
  const rows = await db.read
    .select({ id: builds.id })
    .from(builds)
    .where(inArray(builds.state, ['failed', 'cancelled', 'interrupted']));
  return rows.map(({ id }) => id);
}

/** Where the check stands, and what the last one came to. */
export function checkState({ checkQueue, lastCheck }: Context): Holdings['check'] {
  return { progress: checkQueue.progress(CHECK) ?? null, ...lastCheck };
}

/** What the data folder holds now. */
export async function holdings(context: Context): Promise<Holdings> {
  const { folder, db } = context;
  const { bsize, blocks, bavail } = await statfs(folder.root);
  const { unnamed, doubts } = await sweepable(context);
  return {
    root: folder.root,
    disk: { size: bsize * blocks, free: bsize * bavail },
    revisions: { number: await revisionCount(db), bytes: await databaseBytes(context) },
    contents: await storedAmount(context),
    unnamed,
    doubts,
    builds: await takenIn(folder.builds),
    overWithout: (await overWithoutImage(context)).length,
    images: await takenIn(folder.images),
    backups: await takenIn(folder.backups),
    trash: (await trashDays(folder)).map(({ day, files, bytes }) => ({ day, number: files, bytes })),
    quarantine: await quarantineDays(context),
    limits: await limitsOf(context),
    check: checkState(context),
  };
}

/** Starts a check of everything; what is damaged goes into quarantine. */
function startCheck(context: Context): void {
  if (context.checkQueue.progress(CHECK))
    throw new Refusal(409, 'check-running', 'The data folder is being checked already.');
  context.lastCheck.failure = null;
  context.checkQueue.add(CHECK, async (signal, onProgress) => {
    const { folder, now, db } = context;
    try {
      context.lastCheck.report = await checkFolder({
        folder,
        rows: db.raw,
        now,
        signal,
        onProgress,
        quarantines: true,
      });
    } catch (error) {
      context.lastCheck.failure = signal.aborted
        ? 'The check was stopped. Nothing was changed.'
        : (systemTrouble(error)?.sentence ?? `The check could not go on: ${(error as Error).message}`);
    }
  });
}

/** Asks the check to stop. */
function stopCheck(context: Context): void {
  if (!context.checkQueue.cancel(CHECK)) throw new Refusal(409, 'check-over', 'No check runs.');
}

/** Moves what no revision names to the trash, by hand. */
async function sweepByHand(context: Context): Promise<void> {
  const swept = await sweep(context, { byHand: true });
  if (swept.doubts.length > 0)
    throw new Refusal(409, 'not-known-what-is-named', `Nothing was moved: ${swept.doubts[0]} Mend that first.`);
}

/** Brings a day of the trash back. */
async function bringBack(context: Context, day: string): Promise<void> {
  if (!(await daysIn(context.folder.trash)).includes(day))
    throw new Refusal(404, 'day-unknown', `The trash has nothing of ${day}.`, 'day');
  await bringBackDay(context.folder, day);
}

/** Removes builds that are over: those without an image, or those with one too. */
async function removeBuildsOver(context: Context, which: 'without image' | 'all'): Promise<void> {
  const ids =
    which === 'all'
      ? (await context.db.read.select({ id: builds.id }).from(builds).where(isNotNull(builds.endedAt))).map(
          ({ id }) => id,
        )
      : await overWithoutImage(context);
  for (const id of ids) await removeBuild(context, id);
}

/** Carries an order out, and answers with what the folder holds then. */
export async function carryOut(context: Context, order: FolderOrder): Promise<Holdings> {
  switch (order.do) {
    case 'check':
      startCheck(context);
      break;
    case 'stop the check':
      stopCheck(context);
      break;
    case 'sweep':
      await sweepByHand(context);
      break;
    case 'empty the trash':
      await emptyTrash(context.folder, 'all', context.now());
      break;
    case 'bring back':
      await bringBack(context, order.day);
      break;
    case 'remove builds':
      await removeBuildsOver(context, order.which);
      break;
    case 'limit':
      await setLimits(context, order);
  }
  return holdings(context);
}

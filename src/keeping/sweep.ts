/**
 * Contents that no revision names go to the trash, a day after they came, and only when it is
 * known for certain that nothing names them.
 */
import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { randomUUID } from 'node:crypto';
import { desc, eq } from 'drizzle-orm';
import { storedOf } from '@/core/filesystems/tree';
import type { Amount } from '@/contract/keeping';
import type { DataFolder } from '../files/data-folder';
import { writeSmallFile } from '../files/durable';
import { forgetTrees, readStoredTree, STORE_MARK, type StoredFile, storedFiles } from '../files/stored';
import { type Keeping, revisionCount, type Rows, storedRevisions } from './keeping';
import { namedBy } from './named';
import { revisions, settings } from './schema';
import { moveToTrash } from './trash';

/** Contents that nobody names are kept so long: an upload is named by a layout a moment after it came. */
const KEPT_UNNAMED = 24 * 60 * 60 * 1000;
/** A clock may be so much behind the last save. */
const CLOCK_SLACK = 60 * 60 * 1000;
/** The time of a file is coarser than that of a save, and some file systems keep two seconds only. */
const FILE_TIME_SLACK = 10 * 1000;

/** What a database says of itself beside the contents, to tell when it is another one, or an older copy. */
interface Mark {
  readonly database: string;
  readonly revisions: number;
}

const markFile = ({ store }: DataFolder) => path.join(/* turbopackIgnore: true */ store, STORE_MARK);

async function readMark(folder: DataFolder): Promise<Mark | undefined> {
  const text = await readFile(markFile(folder), 'utf8').catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return undefined;
    throw error;
  });
  if (text === undefined) return undefined;
  const { database, revisions: count } = JSON.parse(text) as Mark;
  return { database, revisions: count };
}

const ID = 'database-id';

/** The name of this database, given to it once. */
async function databaseId({ db }: Keeping): Promise<string> {
  const [known] = await db.read.select().from(settings).where(eq(settings.name, ID));
  if (known) return known.value;
  const value = randomUUID();
  await db.write((tx) => tx.insert(settings).values({ name: ID, value }).onConflictDoNothing());
  return value;
}

/** Writes a mark after all that are being written: several uploads end at once. */
function writeMark({ folder, db }: Keeping, mark: Mark): Promise<void> {
  return db.inTurn(() => writeSmallFile(markFile(folder), JSON.stringify(mark)));
}

/** Writes beside the contents which database they belong to and how far that is; not over the mark of another or a later one. */
export async function markContents(keeping: Keeping): Promise<void> {
  if ((await doubtOfDatabase(keeping)) === undefined) await takeAsOwn(keeping);
}

async function takeAsOwn(keeping: Keeping): Promise<void> {
  const mark: Mark = { database: await databaseId(keeping), revisions: await revisionCount(keeping.db) };
  const old = await readMark(keeping.folder).catch(() => undefined);
  if (old && old.database === mark.database && old.revisions === mark.revisions) return;
  await writeMark(keeping, mark);
}

/** Why the database cannot tell what is named; undefined when it can. */
async function doubtOfDatabase(keeping: Keeping): Promise<string | undefined> {
  let mark: Mark | undefined;
  try {
    mark = await readMark(keeping.folder);
  } catch {
    return 'The file that says which database the contents belong to cannot be read.';
  }
  if (!mark) return undefined;
  if (mark.database !== (await databaseId(keeping)))
    return 'The database is another one than the contents were kept for.';
  if (mark.revisions > (await revisionCount(keeping.db)))
    return 'The database is older than the contents: it has fewer revisions than it had.';
  return undefined;
}

/**
 * Says for the first time which database the contents belong to: this one, unless it was made just
 * now while they are older. False where that was said before.
 */
async function markFirst(keeping: Keeping): Promise<boolean> {
  const mark = await readMark(keeping.folder).catch(() => 'unreadable');
  if (mark) return false;
  if (keeping.db.isNew && !(await isEmpty(keeping.folder)))
    await writeMark(keeping, { database: 'lost', revisions: 0 });
  else await takeAsOwn(keeping);
  return true;
}

async function isEmpty({ store }: DataFolder): Promise<boolean> {
  for await (const _ of storedFiles(store)) return false;
  return true;
}

/** When the last revision was saved, in milliseconds since 1970; 0 without any. */
async function lastSave({ db }: Keeping): Promise<number> {
  const [newest] = await db.read
    .select({ savedAt: revisions.savedAt })
    .from(revisions)
    .orderBy(desc(revisions.savedAt))
    .limit(1);
  return newest ? Date.parse(newest.savedAt) : 0;
}

/** Every SHA-256 that stands in a document or in a list of files that is named: more than is named, at little cost. */
async function mentioned(rows: Rows, store: string): Promise<Set<string>> {
  const found = new Set<string>();
  for await (const { document } of storedRevisions(rows))
    for (const [, sha256] of document.matchAll(/"([0-9a-f]{64})"/g)) found.add(sha256!);
  await closeOver(found, store);
  return found;
}

/** Adds the files of every list of files among these. */
async function closeOver(found: Set<string>, store: string): Promise<void> {
  for (const sha256 of [...found])
    for (const file of storedOf((await readStoredTree(store, sha256)) ?? [])) found.add(file.sha256);
}

/** What a sweep came to. */
export interface Swept extends Amount {
  /** Why some that nothing seems to name was left. */
  readonly doubts: readonly string[];
}

const NOTHING: Swept = { number: 0, bytes: 0, doubts: [] };

/** The contents that nothing seems to name: old enough, and not needed by what is young. */
async function candidates(keeping: Keeping, now: number): Promise<StoredFile[]> {
  const { store } = keeping.folder;
  const last = await lastSave(keeping);
  const kept = await mentioned(keeping.db.raw, store);
  const unnamed: StoredFile[] = [];
  const young = new Set<string>();
  for await (const one of storedFiles(store)) {
    if (kept.has(one.sha256)) continue;
    // What came after the last save may belong to one that this database does not know.
    if (now - one.since < KEPT_UNNAMED || one.since > last - FILE_TIME_SLACK) young.add(one.sha256);
    else unnamed.push(one);
  }
  await closeOver(young, store);
  return unnamed.filter(({ sha256 }) => !young.has(sha256));
}

interface Sweepable {
  readonly files: readonly StoredFile[];
  readonly doubts: readonly string[];
}

/** What could go, and why it does not. */
async function lookedThrough(keeping: Keeping, byHand: boolean): Promise<Sweepable> {
  const now = Date.parse(keeping.now());
  const files = await candidates(keeping, now);
  if (files.length === 0) return { files, doubts: [] };
  const aboutDatabase = byHand ? undefined : await doubtOfDatabase(keeping);
  const named = await namedBy(storedRevisions(keeping.db.raw), keeping.folder);
  const isBehind = now < (await lastSave(keeping)) - CLOCK_SLACK;
  const doubts = [
    ...(aboutDatabase !== undefined ? [aboutDatabase] : []),
    ...(isBehind && !byHand ? ['The clock of this machine is behind the last save.'] : []),
    ...named.doubts.filter(({ kind }) => kind === 'damaged' || !byHand).map(({ sentence }) => sentence),
  ];
  return { files: files.filter(({ sha256 }) => !named.users.has(sha256)), doubts };
}

const amountOf = (files: readonly StoredFile[]) => ({
  number: files.length,
  bytes: files.reduce((sum, { size }) => sum + size, 0),
});

/** What a sweep would find now, and why it would leave it. */
export async function sweepable(keeping: Keeping): Promise<{ unnamed: Amount; doubts: readonly string[] }> {
  const { files, doubts } = await lookedThrough(keeping, false);
  return { unnamed: amountOf(files), doubts };
}

/**
 * Moves to the trash what no revision names. By itself (`byHand` false) it does nothing while
 * there is any doubt; by hand, what is only missing, or a database that is new or older than the
 * contents, is no hindrance any more, but what cannot be read is.
 */
export async function sweep(keeping: Keeping, { byHand = false }: { byHand?: boolean } = {}): Promise<Swept> {
  // What the contents belong to has to be known from before.
  if ((await markFirst(keeping)) && !byHand) return NOTHING;
  const { files, doubts } = await lookedThrough(keeping, byHand);
  if (doubts.length > 0) return { ...NOTHING, doubts };
  await moveToTrash(keeping.folder, files, keeping.now());
  if (files.length > 0) forgetTrees();
  if (byHand && files.length > 0) await takeAsOwn(keeping);
  else await markContents(keeping);
  return { ...amountOf(files), doubts };
}

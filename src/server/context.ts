/** Everything a use case needs from its surroundings, made once per process. */
import { existsSync } from 'node:fs';
import { rm, stat } from 'node:fs/promises';
import path from 'node:path';
import type { CheckReport } from '@/contract/keeping';
import type { VolumeCheckView } from '@/contract/surveys';
import type { Device } from '@/core/medium/device';
import { type DataFolder, openDataFolder } from '../files/data-folder';
import { writeSmallFile } from '../files/durable';
import { strangeness } from '../files/plain-file';
import { Reading } from '../files/reading/reading';
import { ifThere } from '../files/system-errors';
import { Database } from '../keeping/database';
import type { Keeping } from '../keeping/keeping';
import { lockDataFolder } from '../keeping/lock';
import { markContents } from '../keeping/sweep';
import { JobQueue } from './jobs';
import { log } from './log';

/** What the last check of the data folder came to. */
export interface LastCheck {
  report: CheckReport | null;
  failure: string | null;
}

/** What is known of the check of a volume, and of which bytes of its image that is. */
export interface KnownCheck {
  readonly image: string;
  readonly outcome?: Pick<VolumeCheckView, 'report' | 'failure'>;
}

export interface Context extends Keeping {
  readonly buildQueue: JobQueue;
  readonly digestQueue: JobQueue;
  readonly checkQueue: JobQueue;
  /** The thread that reads images, whoever made them. */
  readonly reading: Reading;
  /** Ids of the images that are ordered and not made yet, by what makes two orders the same. */
  readonly orders: Map<string, Promise<string>>;
  readonly lastCheck: LastCheck;
  /** Checks of volumes in images, and what is known of the last ones. */
  readonly volumeQueue: JobQueue;
  readonly volumeChecks: Map<string, KnownCheck>;
  /** Reads the machine's block devices. It comes in, so that the web framework never looks into what it reads. */
  readonly devices: () => Promise<Device[]>;
  /** Most bytes per second that a build writes; unlimited if undefined. */
  readonly writeRate: number | undefined;
  readonly close: () => Promise<void>;
}

export interface ContextOptions {
  readonly data: string;
  readonly migrations?: string;
  readonly writeRate?: number | undefined;
  readonly devices?: () => Promise<Device[]>;
  readonly now?: () => string;
}

/** Opens the database of a folder that this process has locked; behind an unclean end all of it is looked at. */
async function openDatabase(folder: DataFolder, migrations: string): Promise<Database> {
  const looksAtAll = existsSync(openedFile(folder));
  const db = await Database.open(folder.database, { migrations, backups: folder.backups, looksAtAll });
  if (!looksAtAll)
    await writeSmallFile(openedFile(folder), 'A server has this folder open, or did not end as it should.\n');
  return db;
}

/** Refuses a database in whose place stands something else than a file, with what it is. */
async function refuseStrange(file: string): Promise<void> {
  const found = await ifThere(stat(/* turbopackIgnore: true */ file));
  const what = found && strangeness(found);
  if (what !== undefined)
    throw new Error(
      `${file} is ${what}, and the database needs a file there. Mend that, or name another folder in LOESS_DATA.`,
    );
}

/** A file that is there while a server has the folder open, and after one that did not end as it should. */
const openedFile = ({ root }: DataFolder) => path.join(/* turbopackIgnore: true */ root, 'open');

/** Opens folder and database. Throws an Error whose message tells people what to do, or what the system refused. */
export async function openContext(options: ContextOptions): Promise<Context> {
  const folder = await openDataFolder(options.data);
  await refuseStrange(folder.database);
  const unlock = await lockDataFolder(folder);
  const migrations = options.migrations ?? path.join(/* turbopackIgnore: true */ process.cwd(), 'drizzle');
  const db = await openDatabase(folder, migrations).catch((error: unknown) => {
    unlock();
    throw error;
  });
  const queues = {
    ...{ buildQueue: new JobQueue(), digestQueue: new JobQueue() },
    ...{ checkQueue: new JobQueue(), volumeQueue: new JobQueue() },
  };
  const reading = new Reading();
  let closing: Promise<void> | undefined;
  const close = async () => {
    for (const queue of Object.values(queues)) queue.cancelAll();
    reading.end();
    await Promise.all(Object.values(queues).map((queue) => queue.idle()));
    try {
      await markContents(keeping);
      await db.close();
      await rm(openedFile(folder), { force: true });
    } catch (error) {
      // The next start looks at all of it.
      log.error('The data folder could not be closed as it should.', { error });
    } finally {
      unlock();
    }
  };
  const keeping: Keeping = { db, folder, now: options.now ?? (() => new Date().toISOString()) };
  return {
    ...keeping,
    ...queues,
    reading,
    orders: new Map(),
    volumeChecks: new Map(),
    lastCheck: { report: null, failure: null },
    devices: options.devices ?? (() => Promise.resolve([])),
    writeRate: options.writeRate,
    close: () => (closing ??= close()),
  };
}

// The web framework bundles its routes apart from the program that starts it, so that each
// would have a module instance of its own; the process has one.
const KEY = Symbol.for('loess.context');
type Holder = { [KEY]?: Context };

/** Makes a context the one of this process. */
export function installContext(context: Context): void {
  (globalThis as Holder)[KEY] = context;
}

/** The context of this process; throws when the server was not started by its start script. */
export function currentContext(): Context {
  const context = (globalThis as Holder)[KEY];
  if (!context) throw new Error('The server was not started by its start script.');
  return context;
}

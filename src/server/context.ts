/** Everything a use case needs from its surroundings, made once per process. */
import path from 'node:path';
import type { Device } from '@/core/medium/device';
import { type DataFolder, lockDataFolder, openDataFolder } from '../files/data-folder';
import { Database } from './db/database';
import { JobQueue } from './jobs';

export interface Context {
  readonly db: Database;
  readonly folder: DataFolder;
  readonly buildQueue: JobQueue;
  readonly digestQueue: JobQueue;
  /** Reads the machine's block devices. It comes in, so that the web framework never looks into what it reads. */
  readonly devices: () => Promise<Device[]>;
  /** Most bytes per second that a build writes; unlimited if undefined. */
  readonly writeRate: number | undefined;
  readonly now: () => string;
  readonly close: () => Promise<void>;
}

export interface ContextOptions {
  readonly data: string;
  readonly migrations?: string;
  readonly writeRate?: number | undefined;
  readonly devices?: () => Promise<Device[]>;
}

/** Opens folder and database. */
export async function openContext(options: ContextOptions): Promise<Context> {
  const folder = await openDataFolder(options.data);
  const unlock = await lockDataFolder(folder);
  const db = await Database.open(
    folder.database,
    options.migrations ?? path.join(/* turbopackIgnore: true */ process.cwd(), 'drizzle'),
  );
  const buildQueue = new JobQueue();
  const digestQueue = new JobQueue();
  return {
    db,
    folder,
    buildQueue,
    digestQueue,
    devices: options.devices ?? (() => Promise.resolve([])),
    writeRate: options.writeRate,
    now: () => new Date().toISOString(),
    close: async () => {
      buildQueue.cancelAll();
      digestQueue.cancelAll();
      await Promise.all([buildQueue.idle(), digestQueue.idle()]);
      db.close();
      await unlock();
    },
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

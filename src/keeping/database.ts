/**
 * The SQLite file through libSQL. Reads go straight to it; writes go through one queue,
 * because interactive transactions of one process on one file would otherwise collide.
 *
 * It is brought to the newest migration only after a copy was made, never from a schema that is
 * newer than this program, and never when it is damaged.
 */
import { existsSync, statSync } from 'node:fs';
import { readFile, rm } from 'node:fs/promises';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { type Client, createClient } from '@libsql/client';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import { moveFile, syncFile, syncFolder } from '../files/durable';
import { LogSync } from './log-sync';
import * as schema from './schema';

export type Drizzle = LibSQLDatabase<typeof schema>;
/** What the function given to `write` gets: the database, inside a transaction. */
export type Transaction = Parameters<Parameters<Drizzle['transaction']>[0]>[0];

/** How long one waits for another program that uses the file, a backup say, in milliseconds. */
const BUSY_WAIT = 5000;

/**
 * The address of a file, whatever characters its path has. It names SQLite's own way to files: the one
 * that libSQL takes by itself, made for encryption, passes over an error in reading a page, and goes
 * on with whatever stood in the buffer, also to write it back. The client takes no such parameter in
 * an address, but hands the path on as it is, and SQLite reads that as an address.
 */
export function urlOf(file: string): string {
  return `file:${encodeURIComponent(`${pathToFileURL(file).href}?vfs=unix`)}`;
}

/** A database that is not opened: damaged, or of a newer program. Its message says what to do. */
export class DatabaseRefused extends Error {
  readonly code = 'database-refused';
}

export interface OpenOptions {
  /** Folder of the migrations. */
  readonly migrations: string;
  /** Folder for the copies from before migrations. */
  readonly backups: string;
  /** Whether all of it is looked at first, which a start behind an unclean end does. */
  readonly looksAtAll?: boolean | undefined;
}

/**
 * Transactions as they are wanted here. One that has failed may be over already: that it cannot be undone is not to be told
 * instead of why. None waits for the disk by itself: whoever writes waits for that beside other work.
 */
function prepared(client: Client): Client {
  const begin = client.transaction.bind(client) as () => ReturnType<Client['transaction']>;
  client.transaction = async (...mode: []) => {
    await client.execute('PRAGMA synchronous = NORMAL');
    const transaction = await begin(...mode);
    const rollback = transaction.rollback.bind(transaction);
    transaction.rollback = () => rollback().catch(() => undefined);
    return transaction;
  };
  return client;
}

/** What SQLite finds wrong with a file; empty where it is sound. */
async function damagesOf(client: Pick<Client, 'execute'>): Promise<string[]> {
  const { rows } = await client.execute('PRAGMA integrity_check(20)');
  const lines = rows.map((row) => String(row[0]));
  return lines.length === 1 && lines[0] === 'ok' ? [] : lines;
}

/** Throws DatabaseRefused for an error that says that a file is no sound database; gives back every other one. */
function asDamage(file: string, error: unknown): unknown {
  const { code, message } = error as { code?: string; message: string };
  return /^SQLITE_(CORRUPT|NOTADB)/.test(code ?? '') ? damaged(file, message) : error;
}

function damaged(file: string, what: string): DatabaseRefused {
  return new DatabaseRefused(
    `The database ${file} is damaged, or its disk cannot read it (${what.replace(/\.$/, '')}). Nothing was changed. Start again; if it says so again, restore a backup into another folder and start with that: docs/operating.md says how.`,
  );
}

interface Migration {
  readonly tag: string;
  readonly when: number;
}

async function migrationsIn(folder: string): Promise<Migration[]> {
  const journal = path.join(/* turbopackIgnore: true */ folder, 'meta', '_journal.json');
  return (JSON.parse(await readFile(journal, 'utf8')) as { entries: Migration[] }).entries;
}

/** When the migrations were made that a database has had. */
async function migrationsOf(client: Client): Promise<number[]> {
  const { rows: tables } = await client.execute(
    "SELECT name FROM sqlite_master WHERE type = 'table' AND name = '__drizzle_migrations'",
  );
  if (tables.length === 0) return [];
  const { rows } = await client.execute('SELECT created_at FROM __drizzle_migrations');
  return rows.map((row) => Number(row[0]));
}

/** Writes a whole copy of a database to a new file, for good, while others use it. */
export async function copyDatabase(client: Pick<Client, 'execute'>, to: string): Promise<void> {
  const temporary = `${to}.new`;
  await rm(temporary, { force: true });
  await client.execute({ sql: 'VACUUM INTO ?', args: [temporary] });
  await syncFile(temporary);
  await moveFile(temporary, to);
}

/** Refuses a newer schema, and copies the database before an older one is changed. */
async function prepareMigration(client: Client, file: string, { migrations, backups }: OpenOptions): Promise<void> {
  const had = await migrationsOf(client);
  const known = await migrationsIn(migrations);
  if (had.some((when) => !known.some((one) => one.when === when)))
    throw new DatabaseRefused(
      `The database ${file} was made by a newer version of Loess than this one. Nothing was changed. Start that version, or name another folder in LOESS_DATA.`,
    );
  const next = known.find(({ when }) => !had.includes(when));
  if (!next || had.length === 0) return;
  await copyDatabase(client, path.join(/* turbopackIgnore: true */ backups, `before-${next.tag}.db`));
}

/** Opens a file that exists, to read it: as it is, whatever its schema. */
export function openToRead(file: string): Client {
  return createClient({ url: urlOf(file), timeout: BUSY_WAIT });
}

/** What is wrong with a database file, in SQLite's words; empty where it is sound. */
export async function damagesIn(client: Pick<Client, 'execute'>): Promise<string[]> {
  try {
    return await damagesOf(client);
  } catch (error) {
    if (asDamage('', error) === error) throw error;
    return [(error as Error).message];
  }
}

export class Database {
  private tail: Promise<unknown> = Promise.resolve();
  private turn: Promise<unknown> = Promise.resolve();
  private readonly log: LogSync;

  private constructor(
    file: string,
    /** The same file for statements as text. */
    readonly raw: Client,
    readonly read: Drizzle,
    /** Whether the file was made just now. */
    readonly isNew: boolean,
  ) {
    this.log = new LogSync(file);
  }

  /** Opens the file and brings it to the newest migration. Throws DatabaseRefused, or what the system refused. */
  static async open(file: string, options: OpenOptions): Promise<Database> {
    const isNew = !existsSync(file) || statSync(file).size === 0;
    const client = prepared(createClient({ url: urlOf(file), timeout: BUSY_WAIT }));
    try {
      const [damage] = options.looksAtAll && !isNew ? await damagesOf(client) : [];
      if (damage !== undefined) throw damaged(file, damage);
      await client.execute('PRAGMA journal_mode = WAL');
      await prepareMigration(client, file, options);
      const db = drizzle(client, { schema });
      await migrate(db, { migrationsFolder: options.migrations });
      // The names of the file and of its log are there for good before anything is said to be saved.
      await syncFolder(path.dirname(file));
      return new Database(file, client, db, isNew);
    } catch (error) {
      client.close();
      throw asDamage(file, error);
    }
  }

  /** Runs `work` in a transaction after all writes asked for before it; resolves when what it wrote is there for good. */
  async write<T>(work: (tx: Transaction) => Promise<T>): Promise<T> {
    const done = this.tail.then(async () => {
      if (this.log.isBroken) await this.beginLogAnew();
      return this.read.transaction(work);
    });
    this.tail = done.catch(() => undefined);
    const result = await done;
    await this.log.done();
    return result;
  }

  /** Brings all that was committed into the file, which is synced with that, and empties the log. */
  private async beginLogAnew(): Promise<void> {
    const { rows } = await this.raw.execute('PRAGMA wal_checkpoint(TRUNCATE)');
    if (Number(rows[0]?.[0]) !== 0) throw new Error('The log of the database is in use, and could not be begun anew.');
    this.log.begunAnew();
  }

  /** Does work on files that belong to the database, one after the other. */
  inTurn<T>(work: () => Promise<T>): Promise<T> {
    const done = this.turn.then(work);
    this.turn = done.catch(() => undefined);
    return done;
  }

  /** Brings what stands in the log into the file, so that the file alone is the database, and closes it after all that was asked for. */
  async close(): Promise<void> {
    await this.tail;
    try {
      await this.raw.execute('PRAGMA wal_checkpoint(TRUNCATE)');
    } finally {
      this.raw.close();
    }
  }
}

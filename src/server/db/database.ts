/**
 * The SQLite file through libSQL. Reads go straight to it; writes go through one queue,
 * because interactive transactions of one process on one file would otherwise collide.
 */
import { type Client, createClient } from '@libsql/client';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import * as schema from './schema';

export type Drizzle = LibSQLDatabase<typeof schema>;
/** What the function given to `write` gets: the database, inside a transaction. */
export type Transaction = Parameters<Parameters<Drizzle['transaction']>[0]>[0];

export class Database {
  private tail: Promise<unknown> = Promise.resolve();

  private constructor(
    private readonly client: Client,
    readonly read: Drizzle,
  ) {}

  /** Opens the file (or `:memory:`) and brings it to the newest migration. */
  static async open(file: string, migrations: string): Promise<Database> {
    const client = createClient({ url: file === ':memory:' ? file : `file:${file}` });
    if (file !== ':memory:') await client.execute('PRAGMA journal_mode = WAL');
    await client.execute('PRAGMA foreign_keys = ON');
    const db = drizzle(client, { schema });
    await migrate(db, { migrationsFolder: migrations });
    return new Database(client, db);
  }

  /** Runs `work` in a transaction after all writes asked for before it. */
  write<T>(work: (tx: Transaction) => Promise<T>): Promise<T> {
    const done = this.tail.then(() => this.read.transaction(work));
    this.tail = done.catch(() => undefined);
    return done;
  }

  close(): void {
    this.client.close();
  }
}

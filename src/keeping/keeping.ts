/** What the parts of this room work on: a data folder and its open database. */
import type { Client } from '@libsql/client';
import { count } from 'drizzle-orm';
import type { DataFolder } from '../files/data-folder';
import type { Database } from './database';
import { revisions } from './schema';

export interface Keeping {
  readonly folder: DataFolder;
  readonly db: Database;
  /** ISO 8601, UTC. */
  readonly now: () => string;
}

/** Anything that runs one statement, so that a database of any version can be asked. */
export type Rows = Pick<Client, 'execute'>;

/** A revision as it is stored. */
export interface StoredRevision {
  readonly layoutId: string;
  readonly number: number;
  readonly document: string;
}

/** All revisions, read a page at a time, because documents are long. */
export async function* storedRevisions(rows: Rows): AsyncGenerator<StoredRevision> {
  const PAGE = 200;
  for (let after = 0; ;) {
    const { rows: page } = await rows.execute({
      sql: 'SELECT rowid, layout_id, number, document FROM revisions WHERE rowid > ? ORDER BY rowid LIMIT ?',
      args: [after, PAGE],
    });
    for (const row of page) yield { layoutId: String(row[1]), number: Number(row[2]), document: String(row[3]) };
    if (page.length < PAGE) return;
    after = Number(page.at(-1)![0]);
  }
}

/** How many revisions there are. They are never removed, so that the number only grows. */
export async function revisionCount(db: Database): Promise<number> {
  const [row] = await db.read.select({ n: count() }).from(revisions);
  return row!.n;
}

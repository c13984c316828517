/** The demo layouts: put on the shelf of a new database, once. */
import { readdir, readFile } from 'node:fs/promises';
import path from 'node:path';
import { count } from 'drizzle-orm';
import type { Context } from './context';
import { layouts } from './db/schema';
import { createLayout } from './layouts';

/** Adds every document of `folder` when there has never been a layout. */
export async function addDemoLayouts(context: Context, folder: string): Promise<void> {
  const [found] = await context.db.read.select({ n: count() }).from(layouts);
  if (found!.n > 0) return;
  const files = (await readdir(folder))
    .filter((name) => name.endsWith('.json'))
    .sort()
    .reverse();
  for (const file of files) await createLayout(context, await readFile(path.join(folder, file), 'utf8'), 'Demo layout');
}

/** The demo layouts, and the contents that they name: put on the shelf of a new database, once. */
import { createReadStream } from 'node:fs';
import { readdir, readFile } from 'node:fs/promises';
import path from 'node:path';
import { count } from 'drizzle-orm';
import type { Context } from './context';
import { addDemoImages } from './demo-images';
import { layouts } from '../keeping/schema';
import { uploading } from './uploading';
import { createLayout } from './layouts';

/** Stores every file below a folder; texts of trees are files like all others. */
export async function addDemoContents(context: Context, folder: string): Promise<void> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  await uploading(context, async (upload) => {
    for (const entry of entries)
      if (entry.isFile()) await upload.add(createReadStream(path.join(entry.parentPath, entry.name)));
  });
}

/** Adds every document and image of `folder` when there has never been a layout. */
export async function addDemoLayouts(context: Context, folder: string): Promise<void> {
  const [found] = await context.db.read.select({ n: count() }).from(layouts);
  if (found!.n > 0) return;
  await addDemoContents(context, path.join(folder, 'contents'));
  const files = (await readdir(folder))
    .filter((name) => name.endsWith('.json'))
    .sort()
    .reverse();
  for (const file of files) await createLayout(context, await readFile(path.join(folder, file), 'utf8'), 'Demo layout');
  await addDemoImages(context, path.join(folder, 'images'));
}

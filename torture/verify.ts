/** Looking at a data folder after it was ill-treated: everything acknowledged is there, and nothing torn is shown. */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { storedOf } from '@/core/filesystems/tree';
import { treeAsWritten } from '@/core/filesystems/tree-text';
import { imagePath } from '@/files/data-folder';
import { storedPath } from '@/files/stored';
import { checkFolder } from '@/keeping/check';
import { sweep } from '@/keeping/sweep';
import { bringBackDay, trashDays } from '@/keeping/trash';
import { finishedImage, getBuild, recoverBuilds } from '@/server/builds';
import { type Context, openContext } from '@/server/context';
import { getDocument, shelf } from '@/server/layouts';
import { getTree } from '@/server/store';
import type { Acknowledged } from './work';

const sumOf = (file: string) => createHash('sha256').update(readFileSync(file)).digest('hex');

/** Throws unless one thing that was acknowledged is there as it was. */
async function demand(context: Context, what: Acknowledged): Promise<void> {
  switch (what.kind) {
    case 'opened':
      return;
    case 'save': {
      const { name } = await getDocument(context, what.layout, what.revision);
      if (name !== what.name) throw new Error(`revision ${what.revision} says “${name}”, not “${what.name}”`);
      return;
    }
    case 'contents': {
      const tree = treeAsWritten(await getTree(context, what.tree));
      for (const { sha256 } of storedOf(tree))
        if (sumOf(storedPath(context.folder.store, sha256)) !== sha256) throw new Error(`${sha256} is torn`);
      return;
    }
    case 'image': {
      const { state } = await getBuild(context, what.build);
      if (state !== 'done') throw new Error(`build ${what.build} is ${state}`);
      await finishedImage(context, what.build);
      if (sumOf(imagePath(context.folder, what.build)) !== what.sha256) throw new Error('the image is another');
    }
  }
}

/** Everything that is wrong with a folder in which this was acknowledged; empty where nothing is. */
export async function faultsOf(data: string, acknowledged: readonly Acknowledged[]): Promise<string[]> {
  const faults: string[] = [];
  let context: Context;
  try {
    context = await openContext({ data });
  } catch (error) {
    return [`it does not open: ${(error as Error).message}`];
  }
  try {
    await recoverBuilds(context);
    await sweep(context);
    // What nothing names may lie in the trash, and must be as sound there.
    for (const { day } of await trashDays(context.folder)) await bringBackDay(context.folder, day);
    for (const what of acknowledged)
      await demand(context, what).catch((error: Error) =>
        faults.push(`lost: ${JSON.stringify(what)}: ${error.message}`),
      );
    const { damages } = await checkFolder({
      folder: context.folder,
      rows: context.db.raw,
      now: context.now,
      signal: new AbortController().signal,
      onProgress: () => undefined,
      quarantines: false,
    });
    faults.push(...damages.map(({ sentence, what }) => `torn: ${sentence} ${what}`));
    faults.push(...(await shelf(context)).damaged.map(({ damaged }) => `torn: ${damaged}`));
  } catch (error) {
    faults.push(`looking at it failed: ${(error as Error).stack}`);
  } finally {
    await context.close();
  }
  return faults;
}

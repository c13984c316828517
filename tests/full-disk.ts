/** Builds on a disk that is too small, and says as JSON what came of it. */
import { readdirSync } from 'node:fs';
import { getBuild, startBuild } from '@/server/builds';
import { openContext } from '@/server/context';
import { createLayout, listLayouts } from '@/server/layouts';
import { fatPart, layoutOn } from './samples';

async function main(): Promise<void> {
  const context = await openContext({ data: process.argv[2]! });
  const layout = layoutOn('8 GB', [fatPart('a', '2 GiB'), fatPart('b', '2 GiB'), fatPart('c', 'rest')]);
  const { id: layoutId } = await createLayout(context, layout, 'New');
  const { id } = await startBuild(context, { layoutId, revision: 1 });
  await context.buildQueue.idle();
  const { state, failure } = await getBuild(context, id);
  const files = readdirSync(context.folder.builds);
  console.log(JSON.stringify({ state, code: failure?.code, files, layouts: (await listLayouts(context)).length }));
  await context.close();
}

void main();

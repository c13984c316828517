/** Begins a build that takes long, says its id when it has begun to write, and waits to be killed. */
import { once } from 'node:events';
import { watch } from 'node:fs';
import { getBuild, startBuild } from '@/server/builds';
import { openContext } from '@/server/context';

async function main(): Promise<void> {
  const context = await openContext({ data: process.argv[2]!, writeRate: 200 });
  const { id } = await startBuild(context, { layoutId: 'test-gauge', revision: 1 });
  const folder = watch(context.folder.builds);
  while (((await getBuild(context, id)).progress?.done ?? 0) === 0) await once(folder, 'change');
  console.log(id);
}

void main();

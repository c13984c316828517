/** Begins a build that takes long, says its id when it has begun to write, and waits to be killed. */
import { getBuild, startBuild } from '@/server/builds';
import { openContext } from '@/server/context';

async function main(): Promise<void> {
  const context = await openContext({ data: process.argv[2]!, writeRate: 200 });
  const { id } = await startBuild(context, { layoutId: 'test-gauge', revision: 1 });
  const timer = setInterval(() => {
    void getBuild(context, id).then(({ progress }) => {
      if (!progress || progress.done === 0) return;
      clearInterval(timer);
      console.log(id);
    });
  }, 10);
}

void main();

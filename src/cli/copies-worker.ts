/** The program of a thread that makes copies: orders come as messages, what came of each goes back; nothing ends it. */
import { parentPort, workerData } from 'node:worker_threads';
import { copyMaker, type CopyOrder } from './copies';
import { Ended } from './exit';
import type { CopyAnswer } from './series';
import type { Gathered } from './supplies';

const make = copyMaker(workerData as Gathered, new AbortController().signal);

async function answer(order: CopyOrder): Promise<CopyAnswer> {
  try {
    return { made: await make(order) };
  } catch (error) {
    const { message, code } = error as NodeJS.ErrnoException;
    const ended = error instanceof Ended ? { exit: error.exit, lines: error.lines } : undefined;
    return { failed: { name: (error as Error).constructor.name, message, code, ...ended } };
  }
}

parentPort!.on('message', (order: CopyOrder | undefined) => {
  if (order) void answer(order).then((one) => parentPort!.postMessage(one));
  else parentPort!.close();
});

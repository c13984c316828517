/** The program of a thread that makes copies: orders come as messages, what came of each goes back; nothing ends it. */
import { parentPort, workerData } from 'node:worker_threads';
import { type CopiesJob, type CopyOrder, makeCopy } from './copies';
import { Ended } from './exit';
import type { CopyAnswer } from './series';

const job = workerData as CopiesJob;
const never = new AbortController().signal;

async function answer(order: CopyOrder): Promise<CopyAnswer> {
  try {
    return { made: await makeCopy(job, order, never) };
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

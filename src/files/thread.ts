/** Threads that answer one message at a time; their programs are bundled, and end when nothing is sent. */
import path from 'node:path';
import { type ResourceLimits, Worker } from 'node:worker_threads';

/** The bundled program of a thread: in the build folder, unless the environment names another. */
export function workerFile(name: 'write-worker' | 'read-worker'): string {
  const folder = process.env.LOESS_WORKERS ?? path.join(/* turbopackIgnore: true */ process.cwd(), 'build');
  return path.join(/* turbopackIgnore: true */ folder, `${name}.mjs`);
}

export interface Thread<Order, Answer> {
  /** Asks it; the answer before has come. Rejects where it ends instead. */
  readonly ask: (order: Order) => Promise<Answer>;
  /** Lets it end, and waits for that. */
  readonly close: () => Promise<void>;
}

/** Starts a thread; `ended` says that it ended without an answer, `resourceLimits` how much memory it may have. */
export function startThread<Order, Answer>(
  program: string,
  workerData: unknown,
  ended: string,
  resourceLimits: ResourceLimits = {},
): Thread<Order, Answer> {
  const thread = new Worker(program, { workerData, resourceLimits });
  const gone = new Promise<void>((resolve) => thread.once('exit', () => resolve()));
  let failure: Error | undefined;
  thread.on('error', (error: Error) => (failure = error));
  return {
    ask: (order) =>
      new Promise((resolve, reject) => {
        const refuse = () => reject(failure ?? new Error(ended));
        thread.once('exit', refuse);
        thread.once('message', (answer: Answer) => {
          thread.off('exit', refuse);
          resolve(answer);
        });
        thread.postMessage(order);
      }),
    close: () => {
      thread.postMessage(undefined);
      return gone;
    },
  };
}

/** Threads that answer messages in the order in which they come; their programs are bundled, and end when nothing is sent. */
import path from 'node:path';
import { type ResourceLimits, Worker } from 'node:worker_threads';

/** The bundled program of a thread: in the build folder, unless the environment names another. */
export function workerFile(name: 'write-worker' | 'read-worker'): string {
  const folder = process.env.LOESS_WORKERS ?? path.join(/* turbopackIgnore: true */ process.cwd(), 'build');
  return path.join(/* turbopackIgnore: true */ folder, `${name}.mjs`);
}

export interface Thread<Order, Answer> {
  /** Asks it; what was asked before is answered first. Rejects where it ends instead. */
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
  const waiting: { readonly resolve: (answer: Answer) => void; readonly reject: (error: Error) => void }[] = [];
  let failure: Error | undefined;
  let hasEnded = false;
  thread.on('message', (answer: Answer) => waiting.shift()?.resolve(answer));
  thread.on('error', (error: Error) => (failure = error));
  const gone = new Promise<void>((resolve) =>
    thread.once('exit', () => {
      hasEnded = true;
      for (const { reject } of waiting.splice(0)) reject(failure ?? new Error(ended));
      resolve();
    }),
  );
  return {
    ask: (order) =>
      new Promise((resolve, reject) => {
        if (hasEnded) return reject(failure ?? new Error(ended));
        waiting.push({ resolve, reject });
        thread.postMessage(order);
      }),
    close: () => {
      thread.postMessage(undefined);
      return gone;
    },
  };
}

/** The program of a thread that reads what others wrote: orders come as messages, many at a time; nothing ends it but its owner. */
import { setPriority } from 'node:os';
import { parentPort, workerData } from 'node:worker_threads';
import type { FromThread, ReadProgress, ToThread } from './orders';
import { carryOut } from './work';

const port = parentPort!;
// Of a thread that asks, the system takes this thread alone.
const { niceness } = workerData as { readonly niceness: number };
if (niceness > 0) setPriority(niceness);
/** Milliseconds between two words on how far an order is. */
const TELL = 25;
const unwanted = new Set<number>();

const send = (message: FromThread) => port.postMessage(message);

port.on('message', (message: ToThread) => {
  const { id } = message;
  if ('cancelled' in message) return void unwanted.add(id);
  const isWanted = () => !unwanted.has(id);
  let told = 0;
  const onProgress = (progress: ReadProgress) => {
    if (performance.now() - told < TELL) return;
    told = performance.now();
    send({ id, progress });
  };
  void carryOut(message.kind, message.file, message.asked as never, isWanted, onProgress, niceness > 0)
    .then(
      (answer) => send({ id, answer }),
      (error: NodeJS.ErrnoException) =>
        send({ id, failure: { name: error.constructor.name, message: error.message, code: error.code } }),
    )
    .finally(() => unwanted.delete(id));
});

/** The program of a thread that writes blocks: batches come as messages, what came of each goes back; nothing ends it. */
import { parentPort, workerData } from 'node:worker_threads';
import { type Block, BlockWriter, Turn, type WriteWorkerData } from './block-writer';

const { descriptor, most, turn } = workerData as WriteWorkerData;
const writer = new BlockWriter(descriptor, most, new Turn(turn));

parentPort!.on('message', (batch: readonly Block[] | undefined) => {
  if (batch) return parentPort!.postMessage(writer.write(batch));
  writer.close();
  parentPort!.close();
});

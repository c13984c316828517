/** The terminal program in a real terminal; in a thread of itself, what makes copies. */
import { isMainThread } from 'node:worker_threads';
import { EXIT, type Exit, SIGNALS } from './exit';
import { run } from './program';

async function stdin(): Promise<string> {
  const chunks: Buffer[] = [];
  for await (const chunk of process.stdin) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks).toString('utf8');
}

/** Runs the program on the arguments of the process, and ends that. */
function main(): void {
  const abort = new AbortController();
  for (const [signal, exit] of Object.entries(SIGNALS)) process.once(signal, () => abort.abort(exit));
  let isReaderGone = false;
  for (const stream of [process.stdout, process.stderr])
    stream.on('error', (error: NodeJS.ErrnoException) => {
      if (error.code !== 'EPIPE') throw error;
      if (stream === process.stdout) isReaderGone = true;
    });
  process.on('uncaughtException', fault);
  /** Ends when what was written has been taken, or whoever should take it is known to be gone. */
  const end = (exit: Exit) =>
    process.stdout.write('', () =>
      setImmediate(() => process.exit(exit === EXIT.done && isReaderGone ? EXIT.readerGone : exit)),
    );
  void run(process.argv.slice(2), {
    out: (text) => void process.stdout.write(text),
    error: (text) => void process.stderr.write(text),
    stdin,
    signal: abort.signal,
    isTerminal: process.stderr.isTTY === true,
  }).then(end, fault);
}

/** A fault of the program is none of the layout, and must not look like one. */
function fault(error: unknown): void {
  process.stderr.write(
    `This is a fault of the program. Please report it, with how it was called.\n${error instanceof Error ? error.stack : String(error)}\n`,
  );
  process.exit(EXIT.fault);
}

if (isMainThread) main();
else void import('./copies-worker');

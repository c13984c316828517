/** The terminal program in a real terminal. */
import { run } from './program';

async function stdin(): Promise<string> {
  const chunks: Buffer[] = [];
  for await (const chunk of process.stdin) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks).toString('utf8');
}

const abort = new AbortController();
process.once('SIGINT', () => abort.abort());
process.once('SIGTERM', () => abort.abort());
// Whoever reads the output may stop reading: that is no error.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
});

void run(process.argv.slice(2), {
  out: (text) => void process.stdout.write(text),
  error: (text) => void process.stderr.write(text),
  stdin,
  signal: abort.signal,
  isTerminal: process.stderr.isTTY === true,
}).then((exit) => {
  process.exitCode = exit;
});

/** How long the terminal program takes to its first output, as a process of its own. */
import { spawn } from 'node:child_process';
import { median, type Row } from './row';

const RUNS = 9;

function firstOutput(args: readonly string[]): Promise<number> {
  return new Promise((resolve, reject) => {
    const started = performance.now();
    const child = spawn(process.execPath, ['bin/loess.mjs', ...args], { stdio: ['ignore', 'pipe', 'inherit'] });
    child.stdout.once('data', () => resolve(performance.now() - started));
    child.once('error', reject);
  });
}

export async function benchTerminal(): Promise<Row[]> {
  const args = ['check', 'demo/gauge-logger.json'];
  // The first run may bundle the program.
  await firstOutput(args);
  const times: number[] = [];
  for (let i = 0; i < RUNS; i++) times.push(await firstOutput(args));
  const detail = `“check” of a demo layout, slowest of ${RUNS} ${Math.max(...times).toFixed(0)} ms`;
  return [{ name: 'terminal: start to first output, median', measured: median(times), limit: 500, unit: 'ms', detail }];
}

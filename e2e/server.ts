/** A production server for each of the workers that run tests side by side, started as a person would, on data of its own. */
import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { test as base } from '@playwright/test';

const FIRST_PORT = 4319;
/** Ports between those of two servers: some tests start one more. */
const APART = 10;

/** Starts a server, and waits until it serves. Rejects with what it said where it ends instead. */
export function startServer(
  port: number,
  data: string,
  env: Readonly<Record<string, string>> = {},
): Promise<ChildProcess> {
  const server = spawn(process.execPath, ['scripts/start.mjs'], {
    env: { ...process.env, PORT: String(port), LOESS_DATA: data, ...env },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let said = '';
  return new Promise((resolve, reject) => {
    const hear = (chunk: Buffer) => {
      said += String(chunk);
      if (said.includes('Loess is at')) resolve(server);
    };
    server.stdout.on('data', hear);
    server.stderr.on('data', hear);
    server.once('exit', () => reject(new Error(`The server ended: ${said}`)));
  });
}

/** Ends a server, and waits until it has; one that ended by itself is not waited for. */
export async function endServer(server: ChildProcess, signal: NodeJS.Signals): Promise<void> {
  if (server.exitCode !== null || server.signalCode !== null) return;
  const gone = new Promise((resolve) => server.once('exit', resolve));
  server.kill(signal);
  await gone;
}

export const test = base.extend<object, { port: number }>({
  port: [
    async ({}, use, { parallelIndex }) => {
      const port = FIRST_PORT + APART * parallelIndex;
      const data = mkdtempSync(path.join(tmpdir(), 'loess-e2e-'));
      const server = await startServer(port, data);
      await use(port);
      await endServer(server, 'SIGTERM');
      rmSync(data, { recursive: true, force: true });
    },
    { scope: 'worker' },
  ],
  baseURL: ({ port }, provide) => provide(`http://127.0.0.1:${port}`),
});

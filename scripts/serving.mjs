/** A server of Loess beside whoever measures, tests or pictures it: started as a person would, on a data folder of its own. */
import { spawn } from 'node:child_process';
import { createServer } from 'node:net';
import path from 'node:path';
import { ROOT } from './prepare.mjs';

/**
 * A port of this machine that is free now.
 * @returns {Promise<number>}
 */
export function freePort() {
  return new Promise((resolve, reject) => {
    const server = createServer();
    server.on('error', reject);
    server.listen(0, '127.0.0.1', () => {
      const { port } = server.address();
      server.close(() => resolve(port));
    });
  });
}

/**
 * Starts a server, and waits until it serves. Rejects with what it said where it ends instead.
 * @param {number} port
 * @param {string} data its data folder
 * @param {Readonly<Record<string, string>>} env what is said to it beside that
 * @returns {Promise<import('node:child_process').ChildProcess>}
 */
export function startServer(port, data, env = {}) {
  const server = spawn(process.execPath, [path.join(ROOT, 'scripts/start.mjs')], {
    env: { ...process.env, PORT: String(port), LOESS_DATA: data, ...env },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let said = '';
  return new Promise((resolve, reject) => {
    const hear = (chunk) => {
      said += String(chunk);
      if (said.includes('Loess is at')) resolve(server);
    };
    server.stdout.on('data', hear);
    server.stderr.on('data', hear);
    server.once('exit', () => reject(new Error(`The server ended: ${said}`)));
  });
}

/**
 * Ends a server, and waits until it has; one that ended by itself is not waited for.
 * @param {import('node:child_process').ChildProcess} server
 * @param {NodeJS.Signals} signal
 */
export async function endServer(server, signal) {
  if (server.exitCode !== null || server.signalCode !== null) return;
  const gone = new Promise((resolve) => server.once('exit', resolve));
  server.kill(signal);
  await gone;
}

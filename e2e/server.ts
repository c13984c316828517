/** A production server for each of the workers that run tests side by side, started as a person would, on data of its own. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { test as base } from '@playwright/test';
import { endServer, freePort, startServer } from '../scripts/serving.mjs';

/** `port` has the server of the worker; `sparePort` is free for a server that a test starts. */
export const test = base.extend<object, { port: number; sparePort: number }>({
  port: [
    async ({}, use) => {
      const port = await freePort();
      const data = mkdtempSync(path.join(tmpdir(), 'loess-e2e-'));
      const server = await startServer(port, data);
      await use(port);
      await endServer(server, 'SIGTERM');
      rmSync(data, { recursive: true, force: true });
    },
    { scope: 'worker' },
  ],
  sparePort: [
    async ({ port }, use) => {
      const spare = await freePort();
      if (spare === port) throw new Error(`Port ${port} has a server, and is said to be free.`);
      await use(spare);
    },
    { scope: 'worker' },
  ],
  baseURL: ({ port }, provide) => provide(`http://127.0.0.1:${port}`),
});

/** A production server for each of the workers that run tests side by side, started as a person would, on data of its own. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { test as base } from '@playwright/test';
import { endServer, startServer } from '../scripts/serving.mjs';

const FIRST_PORT = 4319;
/** Ports between those of two servers: some tests start one more. */
const APART = 10;

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

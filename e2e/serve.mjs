/** Starts the production server as a person would, on a data folder of its own. */
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';

process.env.LOESS_DATA = mkdtempSync(path.join(tmpdir(), 'loess-e2e-'));
await import('../scripts/start.mjs');

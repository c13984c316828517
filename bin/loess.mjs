#!/usr/bin/env node
/** The terminal program: in a clone bundled when its sources changed, in a package as it is. */
import { existsSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { runCached } from './cached.mjs';
import { growHeapSlowly } from './memory.mjs';

growHeapSlowly();

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
const prepare = path.join(root, 'scripts', 'prepare.mjs');
if (existsSync(prepare)) {
  const { bundleTerminal, installDependencies } = await import(pathToFileURL(prepare).href);
  installDependencies();
  bundleTerminal();
}
const program = path.join(root, 'build', 'terminal', 'main.cjs');
process.env.LOESS_WORKERS ??= path.join(root, 'build');
process.env.LOESS_COPIES_WORKER ??= program;
process.env.LOESS_MIGRATIONS ??= path.join(root, 'drizzle');
runCached(program);

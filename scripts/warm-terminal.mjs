/** Runs the bundled terminal program once, and keeps what the engine compiled of it. */
import { rmSync, writeFileSync } from 'node:fs';
import { cacheOf, runCached } from '../bin/cached.mjs';

const [program, document] = process.argv.slice(2);
rmSync(cacheOf(program), { force: true });
process.argv = [process.argv[0], program, 'check', document];
const script = runCached(program);
process.on('exit', () => writeFileSync(cacheOf(program), script.createCachedData()));

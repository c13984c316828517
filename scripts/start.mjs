/** `npm start`: sets up what is missing, then serves. */
import { pathToFileURL } from 'node:url';
import { growHeapSlowly } from '../bin/memory.mjs';
import { buildApplication, installDependencies, ROOT, SERVER } from './prepare.mjs';

growHeapSlowly();
process.chdir(ROOT);
installDependencies();
buildApplication();
process.env.NODE_ENV = 'production';
process.env.NEXT_TELEMETRY_DISABLED = '1';
await import(pathToFileURL(SERVER).href);

/** `npm start`: sets up what is missing, then serves. */
import { pathToFileURL } from 'node:url';
import { buildApplication, installDependencies, ROOT, SERVER } from './prepare.mjs';

process.chdir(ROOT);
installDependencies();
buildApplication();
process.env.NODE_ENV = 'production';
process.env.NEXT_TELEMETRY_DISABLED = '1';
await import(pathToFileURL(SERVER).href);

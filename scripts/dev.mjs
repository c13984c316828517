/** `npm run dev`: serves with reloading, for work on the interface. */
import { pathToFileURL } from 'node:url';
import { bundleServer, installDependencies, ROOT, SERVER } from './prepare.mjs';

process.chdir(ROOT);
installDependencies();
bundleServer();
process.argv.push('--development');
await import(pathToFileURL(SERVER).href);

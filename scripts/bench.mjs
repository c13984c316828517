/** `npm run bench`: measures speed and memory, prints a table, and writes it as JSON to bench-results/. With names, only those (`npm run bench -- filling`). */
import { spawnSync } from 'node:child_process';
import { buildApplication, bundleBench, installDependencies, installTestMachines, ROOT } from './prepare.mjs';

process.chdir(ROOT);
installDependencies();
installTestMachines();
buildApplication();
// Bundled like the programs that are measured, not translated on the way.
process.exit(spawnSync(process.execPath, [bundleBench(), ...process.argv.slice(2)], { stdio: 'inherit' }).status ?? 1);

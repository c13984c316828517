/** `npm run bench`: measures speed and memory, prints a table, and writes it as JSON to bench-results/. */
import { spawnSync } from 'node:child_process';
import { bin, buildApplication, installDependencies, installTestMachines, ROOT } from './prepare.mjs';

process.chdir(ROOT);
installDependencies();
installTestMachines();
buildApplication();
process.exit(spawnSync(bin('tsx'), ['bench/main.ts'], { stdio: 'inherit' }).status ?? 1);

/** `npm run machine:all`: every legal combination of what ext can be, through a real kernel. It takes long, and is run once for a change. */
import { spawnSync } from 'node:child_process';
import { bin, installDependencies, installTestMachines, ROOT } from './prepare.mjs';

process.chdir(ROOT);
installDependencies();
installTestMachines();
const args = ['--selectProjects', 'matrix', '--runInBand', ...process.argv.slice(2)];
process.exit(spawnSync(bin('jest'), args, { stdio: 'inherit' }).status ?? 1);

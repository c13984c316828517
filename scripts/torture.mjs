/** `npm run torture`: ill-treats data folders. Arguments: how many rounds, and a seed. */
import { spawnSync } from 'node:child_process';
import { bundleTorture, installDependencies, ROOT } from './prepare.mjs';

process.chdir(ROOT);
installDependencies();
const { status } = spawnSync(process.execPath, [bundleTorture(), ...process.argv.slice(2)], { stdio: 'inherit' });
process.exit(status ?? 1);

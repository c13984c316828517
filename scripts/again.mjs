/** `npm run again [times]`: every property of the tests runs so many times over (100), each time with new seeds. */
import { spawnSync } from 'node:child_process';
import { readdirSync, readFileSync, statSync } from 'node:fs';
import path from 'node:path';
import { bin, installDependencies, ROOT } from './prepare.mjs';

process.chdir(ROOT);
installDependencies();

function testsBelow(folder) {
  return readdirSync(folder).flatMap((name) => {
    const file = path.join(folder, name);
    if (statSync(file).isDirectory()) return testsBelow(file);
    return name.endsWith('.test.ts') && readFileSync(file, 'utf8').includes('fc.assert') ? [file] : [];
  });
}

const times = process.argv[2] ?? '100';
const { status } = spawnSync(bin('jest'), ['--runTestsByPath', ...testsBelow('src')], {
  stdio: 'inherit',
  env: { ...process.env, LOESS_AGAIN: times },
});
process.exit(status ?? 1);

import { spawnSync } from 'node:child_process';
import { fuzz } from '@tests/fuzz';
import { cases, SEED } from '@tests/tier';

test('mutants are surveyed, kept and changed without a crash, a hang, or a read beyond the budget', async () => {
  await fuzz(cases(120, 3000), SEED);
});

test('mutants of every kind, guided by what of the code ran, end soon and are told, in little memory', () => {
  const options = ['--max-old-space-size=512', '--import', 'tsx', 'tests/fuzz-readers.ts', String(cases(80, 1500))];
  const run = spawnSync(process.execPath, options, { encoding: 'utf8' });
  expect(run.stderr).toBe('');
  expect(run.stdout).toMatch(/\n\d+ passed, 0 failed\n$/);
  expect(run.status).toBe(0);
});

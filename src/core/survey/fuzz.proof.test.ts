import { spawnSync } from 'node:child_process';
import { fuzz } from '@tests/fuzz';

test('3,000 mutants are surveyed without a crash, a hang, or much memory', async () => {
  const before = process.memoryUsage().heapUsed;
  await fuzz(3000, 20_260_301);
  expect(process.memoryUsage().heapUsed - before).toBeLessThan(300 * 2 ** 20);
}, 120_000);

test('1,500 mutants of every kind, guided by what of the code ran, end soon and are told', () => {
  const run = spawnSync(process.execPath, ['--import', 'tsx', 'tests/fuzz-readers.ts', '1500', '20260301'], {
    encoding: 'utf8',
    timeout: 240_000,
  });
  expect(run.stderr).toBe('');
  expect(run.stdout).toMatch(/1500 mutants in \d+ s/);
  expect(run.status).toBe(0);
}, 250_000);

import { fuzz } from '@tests/fuzz';

test('3,000 mutants are surveyed without a crash, a hang, or much memory', async () => {
  const before = process.memoryUsage().heapUsed;
  await fuzz(3000, 20_260_301);
  expect(process.memoryUsage().heapUsed - before).toBeLessThan(300 * 2 ** 20);
}, 120_000);

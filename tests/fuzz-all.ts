/** `npm run fuzz [mutants] [seed]`: many more mutants than the tests have time for. */
import { fuzz } from './fuzz';

const count = Number(process.argv[2] ?? 200_000);
const seed = Number(process.argv[3] ?? 1);
const started = performance.now();

fuzz(count, seed, (n) => {
  if (n % 10_000 === 0 || n === count) {
    const seconds = (performance.now() - started) / 1000;
    const memory = process.memoryUsage().rss / 2 ** 20;
    console.log(`${n} mutants, ${(n / seconds).toFixed(0)} a second, ${memory.toFixed(0)} MiB resident`);
  }
}).catch((error: Error) => {
  console.error(error.message);
  process.exit(1);
});

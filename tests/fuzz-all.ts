/**
 * `npm run fuzz [minutes] [seed]`: the three properties, for an hour where nobody says how long:
 * any layout keeps the promise; every edit that the program proposes gives a valid document; surveys
 * of damaged images end soon and agree with a second reader of tables. A seed gives the same run.
 */
import './properties';
import fc from 'fast-check';
import { everything } from './any/contents';
import { anyLayout } from './any/layout';
import { fuzz } from './fuzz';
import { checkGestures } from './gestures';
import { keepsPromise } from './promise';

const minutes = Number(process.argv[2] ?? 60);
const seed = Number(process.argv[3] ?? Date.now() % 2 ** 31);
const ROUND = { layouts: 2000, gestured: 60, mutants: 1000 };

/** What was broken, with the layout that breaks it. */
function told(what: string, layout: unknown, error: unknown): Error {
  return new Error(`${what}: ${(error as Error).message}\n${JSON.stringify(layout)}`);
}

async function round(of: number): Promise<{ built: number; gestures: number }> {
  const contents = await everything();
  let [built, gestures] = [0, 0];
  for (const [i, layout] of fc.sample(anyLayout, { numRuns: ROUND.layouts, seed: of }).entries()) {
    const kept = await keepsPromise(layout, contents, i % 2 === 0 ? 'noise' : 'old marks').catch((error: unknown) => {
      throw told('a promise is broken', layout, error);
    });
    if (kept === 'built') built += 1;
    if (i >= ROUND.gestured) continue;
    try {
      gestures += checkGestures(layout, contents);
    } catch (error) {
      throw told('an edit gives no document', layout, error);
    }
  }
  await fuzz(ROUND.mutants, of);
  return { built, gestures };
}

async function main(): Promise<void> {
  console.log(`seed ${seed}, for ${minutes} minutes`);
  const started = performance.now();
  const sums = { rounds: 0, layouts: 0, built: 0, gestures: 0, mutants: 0 };
  while (performance.now() - started < minutes * 60_000) {
    const { built, gestures } = await round(seed + sums.rounds);
    sums.rounds += 1;
    sums.layouts += ROUND.layouts;
    sums.built += built;
    sums.gestures += gestures;
    sums.mutants += ROUND.mutants;
    const memory = process.memoryUsage().rss / 2 ** 20;
    console.log(
      `${Math.round((performance.now() - started) / 1000)} s: ${sums.layouts} layouts, ${sums.built} of them built; ${sums.gestures} edits; ${sums.mutants} damaged images; ${memory.toFixed(0)} MiB resident`,
    );
  }
}

main().catch((error: Error) => {
  console.error(error.message);
  process.exit(1);
});

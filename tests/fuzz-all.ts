/**
 * fuzz-all.ts ROUNDS: three properties, with the seed of the run: any layout keeps the promise; every edit that the program
 * proposes gives a valid document; surveys of damaged images end soon and agree with a second reader of tables.
 */
import './properties';
import fc from 'fast-check';
import { everything } from './any/contents';
import { anyLayout } from './any/layout';
import { fuzz } from './fuzz';
import { checkGestures } from './gestures';
import { keepsPromise } from './promise';
import { SEED } from './tier';

const ROUNDS = Number(process.argv[2] ?? 20);
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
  console.log(`${ROUNDS} rounds from seed ${SEED}`);
  const sums = { built: 0, gestures: 0 };
  for (let i = 1; i <= ROUNDS; i++) {
    const { built, gestures } = await round(SEED + i - 1);
    sums.built += built;
    sums.gestures += gestures;
    console.log(
      `round ${i}: ${i * ROUND.layouts} layouts, ${sums.built} of them built; ${sums.gestures} edits; ${i * ROUND.mutants} damaged images`,
    );
  }
  console.log(`${ROUNDS} passed, 0 failed`);
}

main().catch((error: Error) => {
  console.error(error.message);
  console.log('0 passed, 1 failed');
  process.exit(1);
});

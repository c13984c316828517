/** A layout without a stop composes, builds, reads back equal, and a second reader of tables agrees. */
import fc from 'fast-check';
import { everything } from '@tests/any/contents';
import { anyLayout } from '@tests/any/layout';
import { keepsPromise } from '@tests/promise';
import { cases } from '@tests/tier';

test('any layout either has a stop, or builds onto old bytes and is surveyed as it was meant', async () => {
  const contents = await everything();
  let [built, turn] = [0, 0];
  await fc.assert(
    fc.asyncProperty(anyLayout, async (layout) => {
      const kept = await keepsPromise(layout, contents, turn++ % 2 === 0 ? 'noise' : 'old marks');
      if (kept === 'built') built += 1;
    }),
    { numRuns: cases(200, 6000) },
  );
  // Most of what is drawn is stopped: the others are what the promise is about.
  expect(built).toBeGreaterThan(cases(30, 1000));
});

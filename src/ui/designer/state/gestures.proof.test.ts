/** Every remedy, gesture and key of the designer, applied to any layout, yields a valid document. The part `layouts` of the second tier has many more. */
import { everything } from '@tests/any/contents';
import { anyLayout } from '@tests/any/layout';
import { checkGestures } from '@tests/gestures';
import { cases } from '@tests/tier';
import fc from 'fast-check';

test('what the program itself proposes or makes is a valid document', async () => {
  const contents = await everything();
  let gestures = 0;
  fc.assert(
    fc.property(anyLayout, (layout) => {
      gestures += checkGestures(layout, contents);
    }),
    { numRuns: cases(15, 150) },
  );
  expect(gestures).toBeGreaterThan(cases(1500, 15_000));
});

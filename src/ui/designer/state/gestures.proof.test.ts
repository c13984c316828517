/** Every remedy, gesture and key of the designer, applied to any layout, yields a valid document. `npm run fuzz` has many more. */
import { everything } from '@tests/any/contents';
import { anyLayout } from '@tests/any/layout';
import { checkGestures } from '@tests/gestures';
import { PATIENCE } from '@tests/patience';
import fc from 'fast-check';

test(
  'what the program itself proposes or makes is a valid document',
  async () => {
    const contents = await everything();
    let gestures = 0;
    fc.assert(
      fc.property(anyLayout, (layout) => {
        gestures += checkGestures(layout, contents);
      }),
      { numRuns: 150 },
    );
    expect(gestures).toBeGreaterThan(15_000);
  },
  PATIENCE,
);

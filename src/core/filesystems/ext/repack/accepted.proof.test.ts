/** What the check accepts is repacked as it is: volumes with changed structures are refused, or come out sound with every fact. */
import { inMemory } from '@tests/filled';
import { mutantOf } from '@tests/ext-mutants';
import { factsOf, laidOver } from '@tests/repacked';
import { SEED, cases, numbersFrom } from '@tests/tier';
import { checkExt } from '../check/check';
import { orderRepack } from './order';

const MUTANTS = cases(12, 700);

test('a volume with changed structures is refused, or comes out sound with every fact that it had', async () => {
  const draw = numbersFrom(SEED);
  const counts = { refused: 0, equal: 0 };
  for (let i = 0; i < MUTANTS; i++) {
    const { one, which, changes } = mutantOf(draw);
    const what = [which, ...changes].join('; ');
    const numbering = draw(2) === 0 ? 'kept' : 'renumbered';
    const source = inMemory(one.bytes);
    const wish = { bytes: draw(2) === 0 ? undefined : one.bytes.length, numbering } as const;
    const order = await orderRepack(source, 0, one.bytes.length, wish);
    if (!order.ok || (await order.value.sound())) {
      counts.refused += 1;
      continue;
    }
    const bytes = await laidOver(source, order.value);
    const { faults } = await checkExt(inMemory(bytes), 0, bytes.length);
    expect([what, faults]).toEqual([what, []]);
    // What was left to be worked off is no fact of it: then there is nothing to hold it against.
    const { faults: before } = await checkExt(source, 0, one.bytes.length);
    if (before.length > 0) continue;
    expect([what, await factsOf(bytes)]).toEqual([what, await factsOf(one.bytes)]);
    counts.equal += 1;
  }
  expect(counts.refused).toBeGreaterThan(MUTANTS / 6);
  expect(counts.equal).toBeGreaterThan(MUTANTS / 6);
});

import fc from 'fast-check';
import { type Claim, divide } from './share';

const units = (space: number, claims: readonly Claim[]) => divide(space, claims).map((share) => share.units);
const claim = (weight: number, least = 0, most = 1e12): Claim => ({ weight, least, most });

test.each<[string, number, Claim[], number[]]>([
  ['one takes all', 100, [claim(1)], [100]],
  ['equal shares, the remainder to the first', 100, [claim(1), claim(1), claim(1)], [34, 33, 33]],
  ['by weight', 90, [claim(1), claim(2)], [30, 60]],
  ['a least above the even share', 100, [claim(1, 80), claim(1)], [80, 20]],
  ['a most below the even share', 100, [claim(1, 0, 10), claim(1)], [10, 90]],
  ['both at once', 100, [claim(1, 60), claim(1, 0, 10), claim(1)], [60, 10, 30]],
  ['all at their most: some is left', 100, [claim(1, 0, 10), claim(1, 0, 20)], [10, 20]],
  ['the leasts do not fit', 10, [claim(1, 8), claim(1, 8)], [8, 8]],
  ['no space', 0, [claim(1), claim(3)], [0, 0]],
  ['nobody asks', 50, [], []],
])('%s', (_, space, claims, expected) => {
  expect(units(space, claims)).toEqual(expected);
});

test('a space of 8 PiB in sectors stays exact', () => {
  const [large, small] = units(2 ** 44, [claim(999, 0, 2 ** 44), claim(1, 0, 2 ** 44)]) as [number, number];
  expect(large + small).toBe(2 ** 44);
  expect(Math.abs(small - 2 ** 44 / 1000)).toBeLessThan(1);
});

const claims = fc
  .array(fc.record({ weight: fc.integer({ min: 1, max: 1000 }), least: fc.nat(50), room: fc.nat(500) }), {
    minLength: 1,
    maxLength: 8,
  })
  .map((list) => list.map(({ weight, least, room }): Claim => ({ weight, least, most: least + room })));

test('the sum is the space to the unit, within bounds, and nobody open could be more even', () => {
  fc.assert(
    fc.property(fc.nat(3000), claims, (space, list) => {
      const shares = divide(space, list);
      const sum = shares.reduce((total, share) => total + share.units, 0);
      const leasts = list.reduce((total, one) => total + one.least, 0);
      const mosts = list.reduce((total, one) => total + one.most, 0);
      expect(sum).toBe(Math.max(leasts, Math.min(space, mosts)));
      shares.forEach((share, i) => {
        expect(share.units).toBeGreaterThanOrEqual(list[i]!.least);
        expect(share.units).toBeLessThanOrEqual(list[i]!.most);
      });
      if (space <= leasts || space >= mosts) return;
      // The common level: who is above it stands on its least, who is below it is at its most.
      const level = (i: number) => shares[i]!.units / list[i]!.weight;
      for (let a = 0; a < list.length; a++)
        for (let b = 0; b < list.length; b++) {
          const slack = 1 / list[a]!.weight + 1 / list[b]!.weight;
          if (level(a) > level(b) + slack)
            expect(shares[a]!.units === list[a]!.least || shares[b]!.units === list[b]!.most).toBe(true);
        }
    }),
    { numRuns: 2000 },
  );
});

/**
 * Tier and seed of a test run. `npm test` runs a few cases of each property with a fixed seed, so that two runs do the same;
 * `npm run test:deep` runs all cases with a new seed, which it prints.
 */

/** True in `npm run test:deep`. */
export const IS_DEEP = process.env.LOESS_TIER === 'deep';

/** Seed of everything that is generated in this run. */
export const SEED = Number(process.env.LOESS_SEED ?? 20_260_301);

/** Chooses a number of cases, or the cases themselves: `few` in `npm test`, `all` in `npm run test:deep`. */
export function cases<T>(few: T, all: T): T {
  return IS_DEEP ? all : few;
}

/** A source of whole numbers from 0 to `below` − 1 that follow from a seed (xorshift32). */
export function numbersFrom(seed: number): (below: number) => number {
  let state = seed >>> 0 || 1;
  return (below) => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) % below;
  };
}

/** One of every `n` of a list in `npm test`, all of it in `npm run test:deep`. */
export function oneOf<T>(n: number, all: readonly T[]): readonly T[] {
  return cases(
    all.filter((_, i) => i % n === 0),
    all,
  );
}

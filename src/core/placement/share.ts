/**
 * Water-filling: dividing a space among slots by weight, within bounds, to the last unit.
 *
 * Pour water into vessels whose widths are the weights: each fills to one common level,
 * except that none holds less than its least or more than its most. The sum of the shares is
 * the space, unless every vessel is full (then some is left) or the leasts alone do not fit.
 */

/** One claim on the space; `least` and `most` in units, `least <= most`. */
export interface Claim {
  readonly weight: number;
  readonly least: number;
  readonly most: number;
}

/** What a claim got and which bound, if any, decided. */
export interface Share {
  readonly units: number;
  readonly bound: 'least' | 'most' | undefined;
}

/** `space × weight / total`, rounded down, without leaving safe integers. */
function proportion(space: number, weight: number, total: number): number {
  return Math.floor(space / total) * weight + Math.floor(((space % total) * weight) / total);
}

/**
 * Divides `space` units. When the leasts alone exceed the space, every claim gets its least
 * and the caller sees the sum exceed the space.
 */
export function divide(space: number, claims: readonly Claim[]): Share[] {
  const bounds: (Share['bound'] | 'open')[] = claims.map(() => 'open');
  for (;;) {
    const open = claims.filter((_, i) => bounds[i] === 'open');
    const taken = claims.reduce((sum, claim, i) => {
      const bound = bounds[i];
      return bound === 'least' ? sum + claim.least : bound === 'most' ? sum + claim.most : sum;
    }, 0);
    const left = Math.max(0, space - taken);
    const weights = open.reduce((sum, claim) => sum + claim.weight, 0);
    const ideal = claims.map((claim) => (weights === 0 ? 0 : (left * claim.weight) / weights));
    const under = claims.map((claim, i) => bounds[i] === 'open' && ideal[i]! < claim.least);
    const over = claims.map((claim, i) => bounds[i] === 'open' && ideal[i]! > claim.most);
    // Fix the side that is violated more: only then is fixing it certain to be right.
    const lack = claims.reduce((sum, claim, i) => (under[i] ? sum + claim.least - ideal[i]! : sum), 0);
    const surplus = claims.reduce((sum, claim, i) => (over[i] ? sum + ideal[i]! - claim.most : sum), 0);
    if (lack === 0 && surplus === 0) return settle(left, weights, claims, bounds);
    claims.forEach((_, i) => {
      if (lack >= surplus && under[i]) bounds[i] = 'least';
      if (surplus >= lack && over[i]) bounds[i] = 'most';
    });
  }
}

/** Whole units for the open claims: rounded down, then the remainder one by one to the first that may take more. */
function settle(
  left: number,
  weights: number,
  claims: readonly Claim[],
  bounds: readonly (Share['bound'] | 'open')[],
): Share[] {
  const units = claims.map((claim, i) => {
    if (bounds[i] === 'least') return claim.least;
    if (bounds[i] === 'most') return claim.most;
    return Math.max(claim.least, proportion(left, claim.weight, weights));
  });
  let remainder = left - units.reduce((sum, n, i) => (bounds[i] === 'open' ? sum + n : sum), 0);
  for (let i = 0; i < claims.length && remainder > 0; i++) {
    if (bounds[i] !== 'open' || units[i]! >= claims[i]!.most) continue;
    units[i]! += 1;
    remainder -= 1;
  }
  return units.map((n, i) => ({ units: n, bound: bounds[i] === 'open' ? undefined : (bounds[i] as Share['bound']) }));
}

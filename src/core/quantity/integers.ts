/**
 * Whole-number arithmetic on sectors and bytes. Both are plain numbers that must stay
 * safe integers (up to 2^53 - 1, some 8 PiB in bytes); every border checks that here.
 */

/** Returns `n` when it is a safe whole number of zero or more, else throws a RangeError that names it. */
export function whole(n: number, what: string): number {
  if (!Number.isSafeInteger(n) || n < 0) throw new RangeError(`${what} is not a safe whole number: ${n}`);
  return n;
}

/** Smallest multiple of `unit` that is not below `n`. */
export function alignUp(n: number, unit: number): number {
  return Math.ceil(n / unit) * unit;
}

/** Largest multiple of `unit` that is not above `n`. */
export function alignDown(n: number, unit: number): number {
  return Math.floor(n / unit) * unit;
}

/** Greatest common divisor of two positive whole numbers. */
export function gcd(a: number, b: number): number {
  while (b !== 0) [a, b] = [b, a % b];
  return a;
}

/** Least common multiple of two positive whole numbers. */
export function lcm(a: number, b: number): number {
  return (a / gcd(a, b)) * b;
}

/** True for 1, 2, 4, 8 and so on. */
export function isPowerOfTwo(n: number): boolean {
  return Number.isSafeInteger(n) && n > 0 && Number.isInteger(Math.log2(n));
}

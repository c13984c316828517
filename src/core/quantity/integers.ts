/**
 * Whole-number arithmetic on sectors and bytes. Both are plain numbers that stay safe
 * integers (up to 2^53 - 1, some 8 PiB in bytes): the size language lets no larger ones in.
 */

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

/** The low 32 bits of a whole number from 0 on. */
export const low32 = (value: number): number => value % 2 ** 32;

/** What is above the low 32 bits of a whole number from 0 on. */
export const high32 = (value: number): number => Math.floor(value / 2 ** 32);

/**
 * Outcome of a computation that a person's input can make fail.
 * Errors that a person can cause are values; exceptions are left for defects.
 */
export type Result<T, E> = { ok: true; value: T } | { ok: false; error: E };

/** Wraps a value as a success. */
export function ok<T>(value: T): { ok: true; value: T } {
  return { ok: true, value };
}

/** Wraps an error as a failure. */
export function fail<E>(error: E): { ok: false; error: E } {
  return { ok: false, error };
}

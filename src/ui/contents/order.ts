/** One order for all changes of the files of a slot: each begins from what the one before it left. */

const tails = new Map<string, Promise<unknown>>();

/** Does `work` after everything that was asked for before it for the same slot. */
export function inOrder<T>(slot: string, work: () => Promise<T>): Promise<T> {
  const done = (tails.get(slot) ?? Promise.resolve()).then(work);
  const settled = done.catch(() => undefined);
  tails.set(slot, settled);
  void settled.then(() => tails.get(slot) === settled && tails.delete(slot));
  return done;
}

/** Waits of tests: a wait ends with its event, or fails with the test that waits. No time decides anything. */

/** Tests of this file that have ended. */
let ended = 0;
afterEach(() => void (ended += 1));

/** Runs everything that is ready in this process once. */
export const turn = () => new Promise<void>((resume) => setImmediate(resume));

/** Looks in quick succession, and after those so many milliseconds apart, so that other processes have the processor. */
const [QUICK_LOOKS, PAUSE] = [200, 4];
// eslint-disable-next-line tests/no-sleep -- between two looks; decides nothing
const pause = () => new Promise<void>((resume) => setTimeout(resume, PAUSE));

/** Waits until `isSo` holds. A test that ends before that, because of its limit, ends the wait too. */
export async function until(isSo: () => boolean | Promise<boolean>): Promise<void> {
  const before = ended;
  for (let looks = 0; !(await isSo()); looks++) {
    if (ended !== before) throw new Error(`The test ended before this held: ${isSo.toString()}`);
    await (looks < QUICK_LOOKS ? turn() : pause());
  }
}

/** A promise, and the function that resolves it. */
export function gate(): { readonly opened: Promise<void>; readonly open: () => void } {
  let open: () => void = () => undefined;
  const opened = new Promise<void>((resolve) => (open = resolve));
  return { opened, open };
}

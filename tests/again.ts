/** Stands in for fast-check where LOESS_AGAIN says so: each property runs so many times over, with new seeds. */
import * as real from '../node_modules/fast-check/lib/cjs/fast-check.js';

export * from '../node_modules/fast-check/lib/cjs/fast-check.js';

const times = Number(process.env.LOESS_AGAIN);

export function assert(...args: Parameters<typeof real.assert>): Promise<void> | void {
  let running: Promise<void> | undefined;
  for (let i = 0; i < times; i++) {
    if (running) running = running.then(() => real.assert(...args));
    else {
      const result = real.assert(...args) as Promise<void> | void;
      if (result instanceof Promise) running = result;
    }
  }
  return running;
}

export default { ...real, assert };

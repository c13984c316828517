/** Stands in for fast-check where LOESS_ROUNDS is set: each property runs so many times, each time with the next seed. */
import * as real from '../node_modules/fast-check/lib/cjs/fast-check.js';
import { SEED } from './tier';

export * from '../node_modules/fast-check/lib/cjs/fast-check.js';

const rounds = Number(process.env.LOESS_ROUNDS);

export function assert(...[property, options]: Parameters<typeof real.assert>): Promise<void> | void {
  const round = (i: number) => real.assert(property, { ...options, seed: SEED + i }) as Promise<void> | void;
  let running: Promise<void> | undefined;
  for (let i = 0; i < rounds; i++) {
    if (running) running = running.then(() => round(i));
    else {
      const result = round(i);
      if (result instanceof Promise) running = result;
    }
  }
  return running;
}

export default { ...real, assert };

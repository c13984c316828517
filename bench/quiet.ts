/**
 * Whether the machine is quiet: nothing else uses its processors, and they are as fast as they were at the start. Figures that
 * were measured while it was not are marked.
 */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { setTimeout as sleep } from 'node:timers/promises';
import { median } from './row';

/** Share of the processors that others may use while nothing is measured. */
const MOST_BUSY = 0.08;
/** How much slower than at the start the same work may be. */
const MOST_SLOWER = 1.15;
/** For so many milliseconds it is looked what others do. */
const LOOK = 1500;

const WORK = Buffer.alloc(4 * 2 ** 20, 'tide');

/** Milliseconds of a fixed piece of work, the middle of seven. */
function paceNow(): number {
  return median(
    Array.from({ length: 7 }, () => {
      const begun = performance.now();
      createHash('sha256').update(WORK).digest();
      return performance.now() - begun;
    }),
  );
}

/** Clock ticks of all processors: those with something to do, and all (proc_stat(5)). */
function ticks(): { busy: number; all: number } {
  const [user, nice, system, idle, wait, irq, soft, steal] = readFileSync('/proc/stat', 'utf8')
    .split('\n')[0]!
    .trim()
    .split(/\s+/)
    .slice(1)
    .map(Number) as [number, number, number, number, number, number, number, number];
  const busy = user + nice + system + irq + soft + steal;
  return { busy, all: busy + idle + wait };
}

/** Share of the processors that is in use while this process does nothing. */
async function busyShare(): Promise<number> {
  const before = ticks();
  await sleep(LOOK);
  const after = ticks();
  return (after.busy - before.busy) / Math.max(1, after.all - before.all);
}

export class QuietCheck {
  private pace: number | undefined;

  /** Looks for a moment; a sentence for each reason why the machine is not quiet. */
  async reasons(): Promise<string[]> {
    const busy = await busyShare();
    const pace = paceNow();
    this.pace ??= pace;
    const slower = pace / this.pace;
    return [
      ...(busy > MOST_BUSY ? [`others use ${(busy * 100).toFixed(0)} % of the processors`] : []),
      ...(slower > MOST_SLOWER ? [`the processor is ${slower.toFixed(2)} × slower than at the start`] : []),
    ];
  }
}

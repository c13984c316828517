/**
 * Counts steps: how often the blocks of Loess's own code ran, by V8's precise coverage. The same work has the same count on
 * every machine, however busy. Code of the engine itself, a regular expression for example, is not counted.
 */
import { type Profiler, Session } from 'node:inspector/promises';

/** Code whose blocks count. */
export const OWN = /\/src\/core\/|\/src\/files\//;

/** How often blocks of our own code ran, in all. */
export const stepsIn = (result: readonly Profiler.ScriptCoverage[]) =>
  result
    .filter(({ url }) => OWN.test(url))
    .flatMap(({ functions }) => functions)
    .reduce((sum, { ranges }) => sum + ranges.reduce((all, { count }) => all + count, 0), 0);

export class StepCounter {
  private readonly session = new Session();

  /** Starts to count. Loaded code runs about a third slower from then on. */
  async start(): Promise<void> {
    this.session.connect();
    await this.session.post('Profiler.enable');
    await this.session.post('Profiler.startPreciseCoverage', { callCount: true, detailed: true });
  }

  /** Steps since the last call. */
  async taken(): Promise<number> {
    return stepsIn((await this.session.post('Profiler.takePreciseCoverage')).result);
  }

  stop(): void {
    this.session.disconnect();
  }
}

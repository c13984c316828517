/** What of the program's own code ran, by V8's own counting: so that a search keeps what came where nothing came before. */
import { type Profiler, Session } from 'node:inspector/promises';
import { OWN, stepsIn } from './steps';

export class Coverage {
  private readonly session = new Session();
  private readonly seen = new Set<string>();

  async start(): Promise<void> {
    this.session.connect();
    await this.session.post('Profiler.enable');
    await this.countCalls(false);
  }

  private async countCalls(callCount: boolean): Promise<void> {
    await this.session.post('Profiler.startPreciseCoverage', { callCount, detailed: true });
  }

  /** Steps of some work. The mode of counting is one for the whole process: a second session would take it from this one. */
  async stepsOf(work: () => Promise<unknown>): Promise<number> {
    await this.countCalls(true);
    await work();
    const { result } = await this.session.post('Profiler.takePreciseCoverage');
    await this.countCalls(false);
    return stepsIn(result);
  }

  /** Blocks that ran since the last question and never before. */
  async fresh(): Promise<number> {
    const { result } = await this.session.post('Profiler.takePreciseCoverage');
    return result.filter(({ url }) => OWN.test(url)).reduce((sum, script) => sum + this.added(script), 0);
  }

  private added({ scriptId, functions }: Profiler.ScriptCoverage): number {
    let added = 0;
    for (const { ranges } of functions)
      for (const { startOffset, endOffset, count } of ranges) {
        const key = `${scriptId} ${startOffset} ${endOffset} ${count > 0}`;
        if (this.seen.has(key)) continue;
        this.seen.add(key);
        added += 1;
      }
    return added;
  }

  stop(): void {
    this.session.disconnect();
  }
}

/** Long work: in each queue one thing at a time, and one short one beside it; with progress, rate, time left, and cancel. */

import type { JobProgress } from '@/contract/builds';
import { log } from './log';

interface Running {
  readonly abort: AbortController;
  progress: JobProgress;
  phaseStarted: number;
}

const WAITING: JobProgress = { phase: 'waiting', done: 0, total: 0, rate: 0, secondsLeft: null };

/** How long a job will be: short ones do not wait for long ones. */
export type Lane = 'short' | 'long';

/** Jobs of one sort, by id; those of a lane run one after the other in the order they came. */
export class JobQueue {
  private readonly jobs = new Map<string, Running>();
  private readonly tails: Record<Lane, Promise<void>> = { short: Promise.resolve(), long: Promise.resolve() };

  /**
   * Starts `work` after all jobs of its lane before it. `work` settles its own outcome. A job that is cancelled while it waits still runs, with its signal aborted.
   */
  add(
    id: string,
    work: (signal: AbortSignal, report: (phase: string, done: number, total: number) => void) => Promise<void>,
    lane: Lane = 'long',
  ): void {
    const job: Running = { abort: new AbortController(), progress: WAITING, phaseStarted: 0 };
    this.jobs.set(id, job);
    const report = (phase: string, done: number, total: number) => {
      const now = performance.now();
      if (job.progress.phase !== phase) job.phaseStarted = now;
      const seconds = (now - job.phaseStarted) / 1000;
      const rate = seconds > 0.05 ? done / seconds : 0;
      job.progress = { phase, done, total, rate, secondsLeft: rate > 0 ? (total - done) / rate : null };
    };
    this.tails[lane] = this.tails[lane]
      .then(() => work(job.abort.signal, report))
      // A job that could not even settle its own failure must not stop the ones behind it.
      .catch((error: unknown) => log.error('A job ended with what it does not know.', { jobId: id, error }))
      .finally(() => this.jobs.delete(id));
  }

  /** Asks a job to stop; false when there is no such job. */
  cancel(id: string): boolean {
    const job = this.jobs.get(id);
    job?.abort.abort();
    return job !== undefined;
  }

  /** Where a job stands; undefined when it is over. */
  progress(id: string): JobProgress | undefined {
    return this.jobs.get(id)?.progress;
  }

  /** Jobs that run or wait. */
  get length(): number {
    return this.jobs.size;
  }

  /** Resolves when everything added so far is over. */
  async idle(): Promise<void> {
    await Promise.all(Object.values(this.tails));
  }

  /** Asks every job to stop. */
  cancelAll(): void {
    for (const job of this.jobs.values()) job.abort.abort();
  }
}

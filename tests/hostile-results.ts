/** Runs all hostile media or archives in a process of their own, whose heap has a limit; reads what it prints. */
import { spawn } from 'node:child_process';
import { EventEmitter, once } from 'node:events';
import { createInterface } from 'node:readline';

export interface MediumResult {
  readonly name: string;
  /** What the survey takes the partitions for. */
  readonly kinds: readonly string[];
  /** Reads outside of the medium. */
  readonly outside: number;
  readonly steps: number;
}

export interface ArchiveResult {
  readonly name: string;
  /** The sentence with which it is refused, if it is. */
  readonly refusal?: string | undefined;
  readonly steps: number;
}

export interface HostileRun<T> {
  /**
   * The result of one by its name, as soon as it is there. Rejects if the process ends before, a heap beyond its limit among the
   * reasons, with the last name that it printed.
   */
  readonly of: (name: string) => Promise<T>;
  /** Exit code of the process once it has ended; null where a signal ended it. */
  readonly exit: Promise<number | null>;
  readonly end: () => void;
}

/** Starts a process that goes through all of them, with a heap of so many MiB. */
export function hostileResults<T extends MediumResult | ArchiveResult>(
  args: readonly string[],
  heap: number,
): HostileRun<T> {
  const options = [`--max-old-space-size=${heap}`, '--import', 'tsx', 'tests/hostile-run.ts', ...args];
  const child = spawn(process.execPath, options, { stdio: ['ignore', 'pipe', 'pipe'] });
  const results = new Map<string, T>();
  const news = new EventEmitter().setMaxListeners(0);
  let [last, error, end] = ['', '', ''];
  createInterface(child.stdout).on('line', (line) => {
    if (!line.endsWith('}')) return;
    const one = JSON.parse(line) as T;
    last = one.name;
    results.set(last, one);
    news.emit('news');
  });
  child.stderr.on('data', (chunk: Buffer) => (error += String(chunk)));
  // Where it cannot be started, `close` follows.
  child.on('error', ({ message }) => (error += message));
  const exit = new Promise<number | null>((resolve) => {
    child.on('close', (code) => {
      end = `It ended with ${code} after “${last}”: ${error.slice(0, 3000)}`;
      news.emit('news');
      resolve(code);
    });
  });
  const of = async (name: string) => {
    for (;;) {
      const result = results.get(name);
      if (result) return result;
      if (end) throw new Error(end);
      await once(news, 'news');
    }
  };
  return { of, exit, end: () => child.kill('SIGKILL') };
}

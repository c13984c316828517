/** Runs all hostile media or archives in a process of their own, whose heap has a limit; reads what it prints. */
import { spawn } from 'node:child_process';

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

/**
 * Results by name. Rejects if the process ends early, a heap beyond `heap` MiB among the reasons, with the last name that it
 * printed.
 */
export function hostileResults<T extends MediumResult | ArchiveResult>(
  args: readonly string[],
  heap: number,
): Promise<ReadonlyMap<string, T>> {
  return new Promise((resolve, reject) => {
    const options = [`--max-old-space-size=${heap}`, '--import', 'tsx', 'tests/hostile-run.ts', ...args];
    const child = spawn(process.execPath, options, { stdio: ['ignore', 'pipe', 'pipe'] });
    let [out, error] = ['', ''];
    child.stdout.on('data', (chunk: Buffer) => (out += String(chunk)));
    child.stderr.on('data', (chunk: Buffer) => (error += String(chunk)));
    child.on('error', reject);
    child.on('close', (code) => {
      const results = out.split('\n').filter((line) => line.endsWith('}'));
      const all = results.map((line) => JSON.parse(line) as T);
      if (code === 0) resolve(new Map(all.map((one) => [one.name, one])));
      else reject(new Error(`It ended with ${code} after “${all.at(-1)?.name}”: ${error.slice(0, 3000)}`));
    });
  });
}

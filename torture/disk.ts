/** The library of the disk that can fail: made from its source, and given orders by a program that runs on it. */
import { spawnSync } from 'node:child_process';
import { mkdirSync, openSync, closeSync } from 'node:fs';
import path from 'node:path';

/** Compiles the library; returns where it lies. */
export function compileDisk(root: string): string {
  const library = path.join(root, 'build', 'disk.so');
  mkdirSync(path.dirname(library), { recursive: true });
  const source = path.join(root, 'torture', 'disk.c');
  const args = ['-shared', '-fPIC', '-O2', '-Wall', '-Wextra', '-Werror', '-o', library, source, '-ldl', '-lpthread'];
  const { status, stderr } = spawnSync('cc', args, { encoding: 'utf8' });
  if (status !== 0) throw new Error(`The library of the disk could not be compiled: ${stderr}`);
  return library;
}

/** What a program that runs on the disk needs in its environment. */
export function diskEnvironment(library: string, folder: string, log: string): NodeJS.ProcessEnv {
  return { ...process.env, LD_PRELOAD: library, LOESS_DISK_ROOT: folder, LOESS_DISK_LOG: log };
}

/** Gives an order; true where the answer is yes. */
function order(text: string): boolean {
  try {
    closeSync(openSync(`/.loess-disk/${text}`, 'r'));
    return true;
  } catch {
    return false;
  }
}

/** What goes wrong: the number of the error that the system gives, or 0 for a write that is cut short. */
export const FAULTS = { EIO: 5, EMFILE: 24, ENOSPC: 28, short: 0 } as const;
export type Fault = keyof typeof FAULTS;

/** Writes something into the log, in the order of what is done. */
export const mark = (what: object): void => void order(`mark/${JSON.stringify(what)}`);
/** Lets the n-th call from now on that can fail so fail. */
export const failAt = (fault: Fault, n: number): void => void order(`fail/${FAULTS[fault]}/${n}`);
export const calm = (): void => void order('calm');
/** Whether the fault that was ordered last has happened. */
export const hasFailed = (): boolean => order('fired');

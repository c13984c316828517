/** Hostile media and archives: the longest that one of them keeps a reader busy, and the memory of going through all. */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import path from 'node:path';
import type { Row } from './row';
import { peakMemory } from './server';

/** Runs all of one kind; the time between two results of each, and the peak memory. */
function run(args: readonly string[]): Promise<{ slowest: { name: string; time: number }; memory: number }> {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, ['--import', 'tsx', 'tests/hostile-run.ts', ...args], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    let [last, memory] = [performance.now(), 0];
    let isFirst = true;
    let slowest = { name: '', time: 0 };
    let rest = '';
    child.stdout.on('data', (chunk: Buffer) => {
      const lines = (rest + String(chunk)).split('\n');
      rest = lines.pop()!;
      const now = performance.now();
      for (const line of lines) {
        const { name } = JSON.parse(line) as { name: string };
        const time = now - last;
        // With the first comes the start of the program.
        if (!isFirst && time > slowest.time) slowest = { name, time };
        isFirst = false;
        last = now;
      }
      memory = Math.max(memory, peakMemory(child.pid!));
    });
    child.on('error', reject);
    child.on('close', (code) =>
      code === 0 ? resolve({ slowest, memory }) : reject(new Error(`it ended with ${code}`)),
    );
  });
}

export async function benchHostile(folder: string): Promise<Row[]> {
  const scratch = mkdtempSync(path.join(folder, 'bench-'));
  try {
    const rows: Row[] = [];
    for (const [kind, args] of [
      ['media', ['media']],
      ['archives', ['archives', scratch]],
    ] as const) {
      const runs = [await run(args), await run(args), await run(args)];
      rows.push(
        {
          name: `hostile ${kind}: the slowest, made and read`,
          runs: runs.map(({ slowest }) => slowest.time / 1000),
          limit: 4,
          unit: 's',
          detail: `${runs.at(-1)!.slowest.name}; its steps are counted, which takes a third longer`,
        },
        {
          name: `hostile ${kind}: peak memory of all, one after another`,
          runs: runs.map(({ memory }) => memory),
          of: 'the largest',
          limit: 400,
          unit: 'MB',
          detail: 'VmHWM, the media among it',
        },
      );
    }
    return rows;
  } finally {
    rmSync(scratch, { recursive: true, force: true });
  }
}

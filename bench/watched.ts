/** The terminal program as people call it: how long it takes, and the most memory of it. */
import { spawn } from 'node:child_process';
import { peakMemory } from './server';

/** Runs `loess` with these words. Rejects where it does not end well. */
export function watched(words: readonly string[]): Promise<{ time: number; memory: number }> {
  return new Promise((resolve, reject) => {
    const started = performance.now();
    const child = spawn(process.execPath, ['bin/loess.mjs', ...words], { stdio: ['ignore', 'ignore', 'inherit'] });
    let memory = 0;
    const watching = setInterval(() => {
      try {
        memory = Math.max(memory, peakMemory(child.pid!));
      } catch {
        // It is over.
      }
    }, 50);
    child.on('error', reject);
    child.on('close', (code) => {
      clearInterval(watching);
      if (code === 0) resolve({ time: performance.now() - started, memory });
      else reject(new Error(`“loess ${words[0]}” ended with ${code}`));
    });
  });
}

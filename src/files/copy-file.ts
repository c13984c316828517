/**
 * Copies of large sparse files. Node cannot ask a file system where the holes of a file are; the `cp` of GNU can, and it
 * shares the bytes with the old file where the file system offers that. Where there is none, or it is another one, the file
 * is read through, and windows of zeros become holes.
 */
import { spawn } from 'node:child_process';
import { open, rm, stat } from 'node:fs/promises';
import { MIB } from '@/core/quantity/units';
import { writeWhole } from './durable';
import { ifThere } from './system-errors';

export interface CopyJob {
  readonly from: string;
  readonly to: string;
  /** Bytes of the file. */
  readonly size: number;
  readonly signal: AbortSignal;
  readonly onProgress: (progress: { phase: string; done: number; total: number }) => void;
}

const PHASE = 'copying';
/** How often it is looked how far a copy is, in milliseconds. */
const LOOK = 250;
const BLOCK = 512;

/** True where `cp` has made the copy; false where there is none that can. */
function copiedByTool({ from, to, signal, onProgress }: CopyJob): Promise<boolean> {
  return new Promise((resolve, reject) => {
    const child = spawn('cp', ['--reflink=auto', '--sparse=always', '--', from, to], { stdio: 'ignore', signal });
    const timer = setInterval(() => {
      void Promise.all([ifThere(stat(to)), ifThere(stat(from))])
        .then(([made, old]) => {
          if (made && old) onProgress({ phase: PHASE, done: made.blocks * BLOCK, total: old.blocks * BLOCK });
        })
        .catch(() => undefined);
    }, LOOK);
    timer.unref();
    const end = (work: () => void) => {
      clearInterval(timer);
      work();
    };
    child.once('error', (error) => {
      end(() => (signal.aborted ? reject(error) : resolve(false)));
    });
    child.once('close', (code) => {
      end(() => resolve(code === 0));
    });
  });
}

async function copiedByReading({ from, to, size, signal, onProgress }: CopyJob): Promise<void> {
  const zeros = Buffer.alloc(MIB);
  const window = Buffer.allocUnsafeSlow(MIB);
  const input = await open(/* turbopackIgnore: true */ from, 'r');
  const output = await open(/* turbopackIgnore: true */ to, 'wx');
  try {
    await output.truncate(size);
    for (let at = 0; at < size;) {
      signal.throwIfAborted();
      const { bytesRead } = await input.read(window, 0, Math.min(MIB, size - at), at);
      if (bytesRead === 0) throw new Error(`“${from}” became shorter while it was copied.`);
      const bytes = window.subarray(0, bytesRead);
      if (!bytes.equals(zeros.subarray(0, bytesRead))) await writeWhole(output, bytes, at);
      at += bytesRead;
      onProgress({ phase: PHASE, done: at, total: size });
    }
  } finally {
    await input.close();
    await output.close();
  }
}

/** Copies a file to one that is not there yet, holes as holes. */
export async function copyWithHoles(job: CopyJob): Promise<void> {
  if (await copiedByTool(job)) return;
  job.signal.throwIfAborted();
  await rm(job.to, { force: true });
  await copiedByReading(job);
}

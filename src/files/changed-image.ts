/**
 * A changed image: a new file that is the old one with a plan applied. Ranges of zeros stay holes; what is read back is
 * compared with the old file and the plan, byte by byte. The old file is only read, and a plan that was made of other
 * bytes than lie there is refused.
 */
import { type FileHandle, open, rm, stat } from 'node:fs/promises';
import { alike, type Plan } from '@/core/change/plan';
import { MIB } from '@/core/quantity/units';
import { moveFile, moveNewFile, writeWhole } from './durable';
import { fileSource } from './file-source';

/** The image is not what the plan was made of. */
export class ImageChanged extends Error {}
/** The new file reads back differently. */
export class ChangedReadBackError extends Error {}

export interface ChangedImageJob {
  readonly from: string;
  readonly plan: Plan;
  readonly path: string;
  readonly temporary: string;
  readonly isNew: boolean;
  readonly signal: AbortSignal;
  readonly onProgress: (progress: { phase: string; done: number; total: number }) => void;
}

export interface ChangedImageReport {
  readonly size: number;
  /** Bytes of the plan's ranges. */
  readonly changed: number;
  /** Bytes that were compared with the old file, and found equal. */
  readonly equal: number;
  /** Bytes of windows of zeros, which stayed holes. */
  readonly holes: number;
}

const WINDOW = MIB;
const ZEROS = Buffer.alloc(WINDOW);

/** Puts what a plan has for a window into it. */
function apply({ ranges }: Plan, at: number, window: Buffer): void {
  for (const range of ranges) {
    const [from, to] = [Math.max(range.at, at), Math.min(range.at + range.after.length, at + window.length)];
    if (from < to) window.set(range.after.subarray(from - range.at, to - range.at), from - at);
  }
}

/** Says what has changed since the plan was made; nothing where it still holds. */
async function refuseOther(handle: FileHandle, { size, ranges }: Plan, image: string): Promise<void> {
  const { size: now } = await handle.stat();
  if (now !== size) throw new ImageChanged(`“${image}” has ${now} bytes now, and had ${size} when it was looked at.`);
  const source = fileSource(handle, size);
  for (const { what, at, before } of ranges) {
    const found = await source.read(at, before.length);
    if (!alike(before, found))
      throw new ImageChanged(`“${what}” at byte ${at} of “${image}” is not what it was when it was looked at.`);
  }
}

/** Goes over a file window by window. */
async function over(
  job: ChangedImageJob,
  phase: string,
  work: (at: number, length: number) => Promise<void>,
): Promise<void> {
  const { size } = job.plan;
  for (let at = 0; at < size; at += WINDOW) {
    job.signal.throwIfAborted();
    await work(at, Math.min(WINDOW, size - at));
    job.onProgress({ phase, done: Math.min(size, at + WINDOW), total: size });
  }
}

/** Makes the new image, whole or not at all. Rejects with an ImageChanged, a ChangedReadBackError, or as the system does. */
export async function writeChanged(job: ChangedImageJob): Promise<ChangedImageReport> {
  const { from, plan, path, temporary } = job;
  const input = await open(/* turbopackIgnore: true */ from, 'r');
  try {
    await refuseOther(input, plan, from);
    const before = await stat(/* turbopackIgnore: true */ from);
    const output = await open(/* turbopackIgnore: true */ temporary, 'wx+');
    try {
      await output.truncate(plan.size);
      const [old, made] = [fileSource(input, plan.size), fileSource(output, plan.size)];
      const [window, other] = [Buffer.allocUnsafeSlow(WINDOW), Buffer.allocUnsafeSlow(WINDOW)];
      let holes = 0;
      const planned = async (at: number, length: number) => {
        const bytes = window.subarray(0, length);
        await old.read(at, length, bytes);
        apply(plan, at, bytes);
        return bytes;
      };
      await over(job, 'copying', async (at, length) => {
        const bytes = await planned(at, length);
        if (bytes.equals(ZEROS.subarray(0, length))) holes += length;
        else await writeWhole(output, bytes, at);
      });
      await output.sync();
      await over(job, 'comparing', async (at, length) => {
        const bytes = await planned(at, length);
        const found = await made.read(at, length, other);
        if (!bytes.equals(found))
          throw new ChangedReadBackError(`The new image reads back differently behind byte ${at}.`);
      });
      const after = await stat(/* turbopackIgnore: true */ from);
      if (after.mtimeMs !== before.mtimeMs || after.size !== before.size)
        throw new ImageChanged(`“${from}” was written to while it was copied.`);
      await (job.isNew ? moveNewFile : moveFile)(temporary, path);
      const changed = plan.ranges.reduce((sum, range) => sum + range.after.length, 0);
      return { size: plan.size, changed, equal: plan.size - changed, holes };
    } catch (error) {
      await rm(temporary, { force: true });
      throw error;
    } finally {
      await output.close();
    }
  } finally {
    await input.close();
  }
}

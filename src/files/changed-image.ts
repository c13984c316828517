/**
 * A changed image: a new file that is the old one with a plan applied. It begins as a copy of the old file, with its holes,
 * and shares the bytes of it where the file system offers that; then the ranges of the plan are written, and what is read
 * back is compared with the old file and the plan, byte by byte. The old file is only read, and a plan that was made of
 * other bytes than lie there is refused.
 */
import { createHash } from 'node:crypto';
import { type FileHandle, open, rm, stat } from 'node:fs/promises';
import { crc32 } from 'node:zlib';
import { changedSource, eachWindow, type Plan, plannedEnd, plannedLength } from '@/core/change/plan';
import type { BlockSource } from '@/core/bytes/blocks';
import type { Span } from '@/core/bytes/extents';
import type { ReadStored } from '@/core/compose/source';
import { MIB } from '@/core/quantity/units';
import { copyWithHoles } from './copy-file';
import { moveFile, moveNewFile, writeWhole } from './durable';
import { fileSource } from './file-source';
import { dataOf } from './holes';
import { StoredGone } from './stored';

/** The image is not what the plan was made of. */
export class ImageChanged extends Error {}
/** The new file reads back differently. */
export class ChangedReadBackError extends Error {}

export interface ChangedImageJob {
  readonly from: string;
  readonly plan: Plan;
  /** Reads stored content, where the plan copies some. */
  readonly readStored?: ReadStored | undefined;
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
  /** Of those, bytes of windows that are all zero in both. */
  readonly zeros: number;
  /** Bytes that the files take on the disk. */
  readonly allocated: { readonly old: number; readonly made: number };
}

const ZEROS = Buffer.alloc(MIB);

/** SHA-256 of a range, as a plan has it, by the faster program of the platform. */
async function sumOf(source: BlockSource, at: number, length: number): Promise<string> {
  const sum = createHash('sha256');
  await eachWindow(at, length, async (from, size) => {
    sum.update(await source.read(from, size));
  });
  return sum.digest('hex');
}

/** Says what has changed since the plan was made; nothing where it still holds. */
async function refuseOther(handle: FileHandle, { size, ranges }: Plan, image: string): Promise<void> {
  const { size: now } = await handle.stat();
  if (now !== size) throw new ImageChanged(`“${image}” has ${now} bytes now, and had ${size} when it was looked at.`);
  const source = fileSource(handle, size);
  for (const { what, extent, sum } of ranges)
    if ((await sumOf(source, extent.offset, plannedLength(extent))) !== sum)
      throw new ImageChanged(
        `“${what}” at byte ${extent.offset} of “${image}” is not what it was when it was looked at.`,
      );
}

/** What is done with an image window by window: tells progress, and stops when it is asked to. */
async function over(
  { signal, onProgress }: ChangedImageJob,
  phase: string,
  total: number,
  work: (tell: (bytes: number) => void) => Promise<void>,
): Promise<void> {
  let done = 0;
  await work((bytes) => {
    signal.throwIfAborted();
    done += bytes;
    onProgress({ phase, done, total });
  });
}

/** Writes the ranges of the plan. */
function writeRanges(job: ChangedImageJob, planned: BlockSource, output: FileHandle): Promise<void> {
  const total = job.plan.ranges.reduce((sum, { extent }) => sum + plannedLength(extent), 0);
  return over(job, 'writing', total, async (tell) => {
    for (const { extent } of job.plan.ranges) {
      let sum = 0;
      await eachWindow(extent.offset, plannedLength(extent), async (at, length) => {
        const bytes = Buffer.from(await planned.read(at, length));
        if ('copied' in extent && extent.copied.crc32 !== undefined) sum = crc32(bytes, sum);
        await writeWhole(output, bytes, at);
        tell(length);
      });
      if ('copied' in extent && extent.copied.crc32 !== undefined && extent.copied.crc32 !== sum)
        throw new StoredGone('The bytes of a stored file are not those that were supplied: their sum is another one.');
    }
  });
}

/** Spans in which a byte may be no zero: data of both files, and the ranges of the plan; the whole where that is not known. */
async function spansToCompare({ from, temporary, plan }: ChangedImageJob): Promise<Span[]> {
  const [old, made] = [await dataOf(from), await dataOf(temporary)];
  if (!old || !made) return [{ start: 0, end: plan.becomes }];
  const spans = [
    ...[...old, ...made].map(([at, length]) => ({ start: at, end: Math.min(at + length, plan.becomes) })),
    ...plan.ranges.map(({ extent }) => ({ start: extent.offset, end: plannedEnd(extent) })),
  ].sort((a, b) => a.start - b.start);
  const merged: { start: number; end: number }[] = [];
  for (const span of spans) {
    const last = merged.at(-1);
    if (last && span.start <= last.end) last.end = Math.max(last.end, span.end);
    else if (span.start < span.end) merged.push({ ...span });
  }
  return merged;
}

/** Compares the new file with the old one and the plan, holes with holes; gives the bytes that are zero in both. */
async function compare(job: ChangedImageJob, planned: BlockSource, output: FileHandle): Promise<number> {
  const made = fileSource(output, planned.size);
  const other = Buffer.allocUnsafeSlow(MIB);
  const spans = await spansToCompare(job);
  const total = spans.reduce((sum, { start, end }) => sum + end - start, 0);
  let zeros = planned.size - total;
  await over(job, 'comparing', total, async (tell) => {
    for (const { start, end } of spans)
      await eachWindow(start, end - start, async (at, length) => {
        const [meant, found] = [await planned.read(at, length), await made.read(at, length, other)];
        if (Buffer.compare(meant, found) !== 0)
          throw new ChangedReadBackError(`The new image reads back differently behind byte ${at}.`);
        if (ZEROS.subarray(0, length).equals(found)) zeros += length;
        tell(length);
      });
  });
  return zeros;
}

const BLOCK = 512;

/** Makes the new image, whole or not at all. Rejects with an ImageChanged, a ChangedReadBackError, or as the system does. */
export async function writeChanged(job: ChangedImageJob): Promise<ChangedImageReport> {
  const { from, plan, path, temporary } = job;
  const input = await open(/* turbopackIgnore: true */ from, 'r');
  try {
    await refuseOther(input, plan, from);
    const before = await input.stat();
    await copyWithHoles({ ...job, to: temporary, size: plan.size });
    const output = await open(/* turbopackIgnore: true */ temporary, 'r+');
    try {
      await output.truncate(plan.becomes);
      const planned = changedSource(fileSource(input, plan.size), plan, job.readStored);
      await writeRanges(job, planned, output);
      await output.sync();
      const zeros = await compare(job, planned, output);
      const after = await stat(/* turbopackIgnore: true */ from);
      if (after.mtimeMs !== before.mtimeMs || after.size !== before.size)
        throw new ImageChanged(`“${from}” was written to while it was copied.`);
      const { blocks } = await output.stat();
      await (job.isNew ? moveNewFile : moveFile)(temporary, path);
      const changed = plan.ranges.reduce((sum, { extent }) => sum + plannedLength(extent), 0);
      return {
        size: plan.becomes,
        changed,
        equal: plan.becomes - changed,
        zeros,
        allocated: { old: before.blocks * BLOCK, made: blocks * BLOCK },
      };
    } finally {
      await output.close();
    }
  } catch (error) {
    await rm(temporary, { force: true });
    throw error;
  } finally {
    await input.close();
  }
}

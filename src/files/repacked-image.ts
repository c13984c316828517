/**
 * A repacked volume in a new file of its own: what is made anew is written, what files hold is copied out of the image that it
 * lies in, each byte is read back and compared, and the file appears whole or not at all. The image is only read.
 */
import { type FileHandle, open, rm, stat } from 'node:fs/promises';
import { setImmediate as otherWork } from 'node:timers/promises';
import { Coverage, type Extent } from '@/core/bytes/extents';
import { checkExt } from '@/core/filesystems/ext/check/check';
import type { Ordered, RepackRefusal } from '@/core/filesystems/ext/repack/order';
import type { RepackedRange } from '@/core/filesystems/ext/repack/repack';
import { BrokenChain } from '@/core/filesystems/volume';
import { MIB } from '@/core/quantity/units';
import { ChangedReadBackError, ImageChanged } from './changed-image';
import { moveFile, moveNewFile } from './durable';
import { fileSource } from './file-source';
import { dataOf } from './holes';
import { writeExtents } from './image-writer';

export interface RepackJob {
  /** The image that the volume lies in. */
  readonly from: string;
  readonly order: Ordered;
  readonly path: string;
  readonly temporary: string;
  /** True where a file at `path` is another one's, and stays. */
  readonly isNew: boolean;
  readonly signal: AbortSignal;
  readonly onProgress: (progress: { phase: string; done: number; total: number }) => void;
}

export interface RepackReport {
  readonly size: number;
  /** Bytes that were written and compared. */
  readonly written: number;
}

/** What is written at once: bytes that are made anew and held until then, and bytes in all. */
const [HELD_BYTES, LOT_BYTES] = [16 * MIB, 256 * MIB];

/** Ranges of an image that hold data, ascending; all of it where that is not known. */
type Data = readonly (readonly [at: number, length: number])[];

/** The parts of a moved range that lie in data: holes stay holes. */
function* inData(offset: number, at: number, length: number, data: Data): Generator<Extent> {
  let [low, high] = [0, data.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (data[middle]![0] + data[middle]![1] <= at) low = middle + 1;
    else high = middle;
  }
  for (let i = low; i < data.length && data[i]![0] < at + length; i++) {
    const from = Math.max(at, data[i]![0]);
    const end = Math.min(at + length, data[i]![0] + data[i]![1]);
    yield { offset: offset + from - at, copied: { from: 'the image', at: from, length: end - from } };
  }
}

/** Ranges in lots that are small enough to be held, each in ascending order. */
async function* lots(ranges: AsyncIterable<RepackedRange>, data: Data): AsyncGenerator<Extent[]> {
  let lot: Extent[] = [];
  let [held, all] = [0, 0];
  const ordered = () => lot.sort((a, b) => a.offset - b.offset);
  for await (const { extent } of ranges) {
    if ('zeros' in extent) continue;
    if ('moved' in extent) lot.push(...inData(extent.offset, extent.moved.at, extent.moved.length, data));
    else lot.push(extent);
    held += 'bytes' in extent ? extent.bytes.length : 0;
    all += 'moved' in extent ? extent.moved.length : 0;
    if (held < HELD_BYTES && all < LOT_BYTES) continue;
    yield ordered();
    [lot, held, all] = [[], 0, 0];
  }
  if (lot.length > 0) yield ordered();
}

async function writeVolume(
  job: RepackJob,
  handle: FileHandle,
  data: Data,
  signal: AbortSignal,
  onBegun: () => void,
): Promise<number> {
  const { from, order, onProgress } = job;
  const total = order.bytes - order.free;
  let done = 0;
  await writeExtents(lots(order.ranges(), data), {
    handle,
    written: new Coverage(),
    fileOf: () => from,
    onWritten(bytes) {
      onBegun();
      done = Math.min(total, done + bytes);
      onProgress({ phase: 'writing', done, total });
    },
    checkpoint: () => signal.throwIfAborted(),
    failed: (trouble) =>
      trouble.kind === 'differs'
        ? new ChangedReadBackError(`The new file reads back differently at byte ${trouble.offset}.`)
        : new ImageChanged(`“${from}” is not as long as it was when it was looked at.`),
  });
  return done;
}

/** Writes the volume, and checks the one that it is made of beside that: where one fails the other is stopped, and waited for. */
async function writtenIfSound(job: RepackJob, handle: FileHandle, data: Data): Promise<number> {
  const stop = new AbortController();
  const signal = AbortSignal.any([job.signal, stop.signal]);
  // What the bytes of the volume are to blame for is told by the check, which goes on to its end then.
  const orStop = <T>(work: Promise<T>) =>
    work.catch((error: unknown) => {
      if (!(error instanceof BrokenChain || error instanceof RangeError)) stop.abort();
      throw error;
    });
  // Whoever writes has to be given something first: what comes ahead is read bit by bit, and would wait for the check each time.
  let begin = () => undefined as void;
  const begun = new Promise<void>((resolve) => (begin = resolve));
  const check = async () => {
    await begun;
    const refusal = await job.order.sound({
      async checkpoint() {
        signal.throwIfAborted();
        // Whoever writes is not kept waiting.
        await otherWork();
      },
    });
    if (refusal) throw new NotSound(refusal);
  };
  const [written, checked] = await Promise.allSettled([
    orStop(writeVolume(job, handle, data, signal, begin).finally(begin)),
    orStop(check()),
  ]);
  // What was not sound was the reason, where both failed.
  if (checked.status === 'rejected' && (checked.reason instanceof NotSound || written.status === 'fulfilled'))
    throw checked.reason;
  if (written.status === 'rejected') throw written.reason;
  return written.value;
}

/** Of what faults were left out the rest is checked, before it appears. */
async function refuseFaulty(handle: FileHandle, { order, signal, onProgress }: RepackJob): Promise<void> {
  if (order.leftOut.length === 0) return;
  const { faults } = await checkExt(fileSource(handle, order.bytes), 0, order.bytes, {
    checkpoint: () => signal.throwIfAborted(),
    onProgress: (phase, done, total) => onProgress({ phase, done, total }),
  });
  const [fault] = faults.filter(({ code }) => code !== 'lost+found/missing');
  if (fault)
    throw new StillFaulty(
      `Without these files it would still have faults: ${fault.where}, ${fault.code}: ${fault.says}.`,
    );
}

/** The volume has faults: nothing is made of it. */
export class NotSound extends Error {
  constructor(readonly refusal: RepackRefusal) {
    super(refusal.why);
  }
}

/** What is left of a volume without its faulty files still has faults. */
export class StillFaulty extends Error {}

/** Makes the new file, whole or not at all. Rejects with a NotSound, an ImageChanged, a ChangedReadBackError, a StillFaulty, or as the system does. */
export async function writeRepacked(job: RepackJob): Promise<RepackReport> {
  const { from, order, path, temporary } = job;
  const before = await stat(from);
  const output = await open(temporary, 'wx+');
  try {
    await output.truncate(order.bytes);
    const written = await writtenIfSound(job, output, (await dataOf(from)) ?? [[0, before.size]]);
    await output.sync();
    await refuseFaulty(output, job);
    const after = await stat(from);
    if (after.mtimeMs !== before.mtimeMs || after.size !== before.size)
      throw new ImageChanged(`“${from}” was written to while it was read.`);
    await (job.isNew ? moveNewFile : moveFile)(temporary, path);
    return { size: order.bytes, written };
  } catch (error) {
    await rm(temporary, { force: true });
    throw error;
  } finally {
    await output.close();
  }
}

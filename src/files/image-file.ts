/**
 * Writing an image: a sparse temporary file, read back in full, renamed when it is right.
 * The result appears whole or not at all.
 */
import { MIB } from '@/core/quantity/units';
import { createHash } from 'node:crypto';
import { type FileHandle, open, rm } from 'node:fs/promises';
import type { BuildReport, ReadBackRange } from '@/contract/builds';
import type { BlockSource } from '@/core/bytes/blocks';
import { Coverage, lengthOf } from '@/core/bytes/extents';
import { compare } from '@/core/compose/compare';
import { compose } from '@/core/compose/compose';
import type { DefinedRange } from '@/core/compose/contents';
import type { Placement } from '@/core/placement/placement';
import { isBrowsable, named } from '@/core/survey/structures';
import { surveyMedium } from '@/core/survey/survey';
import { UNFINISHED } from './data-folder';
import { moveFile, moveNewFile } from './durable';
import { fileSource } from './file-source';
import { writeExtents } from './image-writer';
import { ifThere } from './system-errors';
import { isSound, StoredGone } from './stored';

/** Where a build stands, in bytes of the phase. */
export interface Progress {
  readonly phase: 'writing' | 'reading back';
  readonly done: number;
  readonly total: number;
}

export interface ImageJob {
  readonly placement: Placement;
  /** Where the finished image shall lie. */
  readonly path: string;
  /** Where it lies until then, in the same folder; beside it under a name that says so, if missing. */
  readonly temporary?: string;
  /** True where a file at `path` is another one's, and stays: the job rejects with `EEXIST` then. */
  readonly isNew?: boolean;
  readonly signal: AbortSignal;
  readonly onProgress: (progress: Progress) => void;
  /** Most bytes to write per second; unlimited if missing. */
  readonly writeRate?: number | undefined;
  /** Where the contents lie that the layout names. */
  readonly fileOf?: ((sha256: string) => string) | undefined;
}

/** The image that was read back is not the one that was meant. */
export class ReadBackError extends Error {}

const WINDOW = MIB;
const ZEROS = Buffer.alloc(WINDOW);

/** Bytes that will be written: of a new file the zeros need not be, unless they are few between others. */
export function plannedBytes(ranges: readonly DefinedRange[]): number {
  return ranges.reduce((sum, { extent }) => sum + ('zeros' in extent ? 0 : lengthOf(extent)), 0);
}

/** What people call some stored content, or what of an archive lies at a byte of it: the path of a file, or the name of what was supplied. */
function calledBy({ layout }: Placement, ranges: readonly DefinedRange[], sha256: string, at = 0): string {
  const holds = ({ extent }: DefinedRange) =>
    'copied' in extent &&
    extent.copied.from === sha256 &&
    at >= extent.copied.at &&
    at < extent.copied.at + Math.max(1, extent.copied.length);
  const range = ranges.find(holds) ?? ranges.find(({ extent }) => 'copied' in extent && extent.copied.from === sha256);
  const owner = layout.slots.find(({ id }) => id === range?.owner);
  if (range?.file !== undefined) return `“${range.file}” of ${owner?.name ?? 'a volume'}`;
  return owner ? `the file for ${owner.name}` : 'the code for sector 0';
}

/** Where some content lies; throws StoredGone where nobody said. */
function placeOf(job: ImageJob, sha256: string): string {
  if (job.fileOf) return job.fileOf(sha256);
  throw new StoredGone('This layout names stored contents, and nobody said where they lie.');
}

const changedText = (what: string) =>
  `The bytes that are stored of ${what} are not those that were supplied: their sum is another one.`;

/**
 * Checks the contents of whose parts no sums are known, each as a whole: what was supplied for a
 * slot, and files of trees from before sums were kept.
 */
async function checkSums(ranges: readonly DefinedRange[], job: ImageJob, signal: AbortSignal): Promise<void> {
  const names = new Set<string>();
  for (const { extent } of ranges)
    if ('copied' in extent && extent.copied.crc32 === undefined) names.add(extent.copied.from);
  for (const sha256 of names) {
    signal.throwIfAborted();
    // What is gone or cut is told where it is copied.
    const sound = await ifThere(isSound(placeOf(job, sha256), sha256, signal));
    if (sound === false) throw new StoredGone(changedText(calledBy(job.placement, ranges, sha256)));
  }
}

/** Both at once; where one fails the other is stopped, and waited for. */
async function together<T>(work: Promise<T>, check: (signal: AbortSignal) => Promise<void>): Promise<T> {
  const stop = new AbortController();
  const [worked, checked] = await Promise.allSettled([
    work.catch((error: unknown) => {
      stop.abort();
      throw error;
    }),
    check(stop.signal),
  ]);
  if (worked.status === 'rejected') throw worked.reason;
  if (checked.status === 'rejected') throw checked.reason;
  return worked.value;
}

/** Writes all ranges and compares what was written, block by block; `written` learns where. */
async function writeAll(
  handle: FileHandle,
  ranges: readonly DefinedRange[],
  written: Coverage,
  job: ImageJob,
): Promise<number> {
  const total = plannedBytes(ranges);
  const started = performance.now();
  const lying = new Map<string, string>();
  const called = (file: string, at?: number) => calledBy(job.placement, ranges, lying.get(file) ?? '', at);
  let done = 0;
  return writeExtents(
    ranges.map((range) => range.extent),
    {
      handle,
      written,
      // Where the rate is held down, a step takes half a second at most.
      step: job.writeRate === undefined ? undefined : Math.max(512, Math.floor(job.writeRate / 2)),
      fileOf: (sha256) => {
        const file = placeOf(job, sha256);
        lying.set(file, sha256);
        return file;
      },
      onWritten: (bytes) => {
        done = Math.min(total, done + bytes);
        job.onProgress({ phase: 'writing', done, total });
      },
      checkpoint: async () => {
        job.signal.throwIfAborted();
        if (job.writeRate === undefined) return;
        const ahead = (done / job.writeRate) * 1000 - (performance.now() - started);
        if (ahead > 0) await new Promise((resume) => setTimeout(resume, ahead));
        job.signal.throwIfAborted();
      },
      failed: (trouble) => {
        if (trouble.kind === 'gone') return new StoredGone(`${called(trouble.file)} is not stored here any more.`);
        if (trouble.kind === 'changed') return new StoredGone(changedText(called(trouble.file, trouble.at)));
        if (trouble.kind === 'short')
          return new StoredGone(
            `What is stored of ${called(trouble.file, trouble.at)} ends at byte ${trouble.end}; ${trouble.wanted} were stored.`,
          );
        const range = ranges.findLast((one) => one.extent.offset <= trouble.offset);
        return new ReadBackError(
          `“${range?.file ?? range?.what}” at byte ${trouble.offset} reads back differently from what was written.`,
        );
      },
    },
  );
}

/**
 * Reads a range again and compares it, byte for byte, with what was meant. A range that was
 * written gets a checksum of what was read; a hole of the new file is zeros without a look.
 */
async function readBack(
  source: BlockSource,
  range: DefinedRange,
  lent: Uint8Array,
  onRead: (bytes: number) => void,
): Promise<ReadBackRange> {
  const { owner, what, extent } = range;
  const length = lengthOf(extent);
  const place = { ...(owner !== undefined && { owner }), what, offset: extent.offset, length };
  if ('zeros' in extent && source.isHole?.(extent.offset, length)) {
    onRead(length);
    return place;
  }
  const hash = 'bytes' in extent ? createHash('sha256') : undefined;
  for (let at = 0; at < length; at += WINDOW) {
    const found = await source.read(extent.offset + at, Math.min(WINDOW, length - at), lent);
    const meant = 'bytes' in extent ? extent.bytes.subarray(at, at + found.length) : ZEROS.subarray(0, found.length);
    if (Buffer.compare(found, meant) !== 0)
      throw new ReadBackError(`“${what}” at byte ${extent.offset} reads back differently from what was written.`);
    hash?.update(found);
    onRead(found.length);
  }
  return hash ? { ...place, sha256: hash.digest('hex') } : place;
}

/** What was compared while it was written, summed up: folders and files of each slot, and supplied files. */
function comparedAtOnce(ranges: readonly DefinedRange[]): ReadBackRange[] {
  const groups = new Map<string, { first: ReadBackRange; files: Set<string>; end: number }>();
  for (const { owner, what, file, extent } of ranges) {
    if (file === undefined && !('copied' in extent)) continue;
    const key = `${owner} ${what}`;
    const end = extent.offset + lengthOf(extent);
    const group = groups.get(key) ?? {
      first: { ...(owner !== undefined && { owner }), what, offset: extent.offset, length: 0 },
      files: new Set<string>(),
      end,
    };
    if (file !== undefined) group.files.add(file);
    group.end = end;
    groups.set(key, group);
  }
  return [...groups.values()].map(({ first, files, end }) => ({
    ...first,
    length: end - first.offset,
    ...(files.size > 0 && { files: files.size }),
  }));
}

async function readBackAll(
  source: BlockSource,
  ranges: readonly DefinedRange[],
  job: ImageJob,
): Promise<ReadBackRange[]> {
  // Folders and files were compared while they were written; the structures get a checksum each.
  const structures = ranges.filter((range) => range.file === undefined && !('copied' in range.extent));
  const total = structures.reduce((sum, { extent }) => sum + lengthOf(extent), 0);
  const report: ReadBackRange[] = [];
  const lent = Buffer.allocUnsafeSlow(WINDOW);
  let done = 0;
  for (const range of structures) {
    job.signal.throwIfAborted();
    const read = await readBack(source, range, lent, (bytes) => {
      job.signal.throwIfAborted();
      job.onProgress({ phase: 'reading back', done: (done += bytes), total });
    });
    report.push(read);
  }
  return [...report, ...comparedAtOnce(ranges)].sort((a, b) => a.offset - b.offset);
}

/** Name of the slot that begins with a sector. */
function slotNameAt({ placed }: Placement, sector: number): string | undefined {
  return placed.find((one) => one.start === sector)?.slot.name;
}

/**
 * Makes the image. On any failure the temporary file is removed and the error thrown on:
 * the abort reason, a system error, or a ReadBackError.
 */
export async function writeImage(job: ImageJob): Promise<BuildReport> {
  const { placement } = job;
  const size = placement.medium.capacity;
  const ranges = compose(placement);
  const temporary = job.temporary ?? job.path + UNFINISHED;
  const handle = await open(/* turbopackIgnore: true */ temporary, 'wx+');
  try {
    const started = performance.now();
    await handle.truncate(size);
    const written = new Coverage();
    const writtenBytes = await together(writeAll(handle, ranges, written, job), (signal) =>
      checkSums(ranges, job, signal),
    );
    await handle.sync();
    // What was never written to a new sparse file is a hole.
    const source = fileSource(handle, size, (offset, length) => !written.touches(offset, length));
    const report = await readBackAll(source, ranges, job);
    const survey = await surveyMedium(source, { sectorSize: placement.sectorSize, isFull: true });
    const comparisons = compare(placement, survey);
    const wrong = comparisons.find((one) => !one.agrees);
    if (wrong) throw new ReadBackError(`${wrong.fact}: meant ${wrong.meant}, found ${wrong.found}.`);
    job.signal.throwIfAborted();
    await (job.isNew ? moveNewFile : moveFile)(temporary, job.path);
    const milliseconds = performance.now() - started;
    return {
      size,
      writtenBytes,
      ranges: report,
      comparisons,
      accepted: placement.layout.accepted ?? [],
      volumes: survey.partitions
        .filter(isBrowsable)
        .map((one) => ({ partition: one.key, name: slotNameAt(placement, one.start) ?? named(one) })),
      milliseconds,
    };
  } catch (error) {
    await rm(temporary, { force: true });
    throw error;
  } finally {
    await handle.close();
  }
}

/** Use cases of builds: start, watch, cancel, digest, remove. */
import { randomUUID } from 'node:crypto';
import { rm, stat } from 'node:fs/promises';
import { desc, eq, inArray } from 'drizzle-orm';
import type { BuildReport, BuildView, Failure } from '@/contract/builds';
import { openRisks } from '@/core/findings/layout/acceptance';
import { compose } from '@/core/compose/compose';
import { inBoth, MIB } from '@/core/quantity/units';
import { checkedCopy } from '@/core/findings/layout/copies';
import { type Finding, stopsAmong } from '@/core/findings/layout/finding';
import type { Placement } from '@/core/placement/placement';
import type { Layout } from '@/core/layout/document';
import { notFromNothing } from '@/core/layout/kept';
import type { Context } from './context';
import { imagePath, removeUnfinished } from '../files/data-folder';
import { openPlain } from '../files/plain-file';
import { Reading } from '../files/reading/reading';
import { ifThere, systemTrouble } from '../files/system-errors';
import { roomForBuilds } from '../keeping/limits';
import { builds } from '../keeping/schema';
import { ChangedReadBackError, ImageChanged } from '../files/changed-image';
import { plannedBytes, ReadBackError, writeImage } from '../files/image-file';
import { getDocument, slugOf } from './layouts';
import { log } from './log';
import { Refusal } from './refusal';
import { contentsFor, StoredGone, storedPath } from '../files/stored';

/** Most images that the shelf lists. */
const IMAGES_LISTED = 20;

type Row = typeof builds.$inferSelect;

function viewOf(context: Context, row: Row): BuildView {
  return {
    id: row.id,
    layoutId: row.layoutId,
    revision: row.revision,
    name: row.name,
    size: row.size,
    state: row.state,
    failure: row.failure === null ? null : (JSON.parse(row.failure) as Failure),
    report: row.report === null ? null : (JSON.parse(row.report) as BuildReport),
    progress: context.buildQueue.progress(row.id) ?? null,
    digest: { state: row.digestState, sha256: row.digest, progress: context.digestQueue.progress(row.id) ?? null },
    startedAt: row.startedAt,
    endedAt: row.endedAt,
  };
}

async function rowOf(context: Context, id: string): Promise<Row> {
  const [row] = await context.db.read.select().from(builds).where(eq(builds.id, id));
  if (!row) throw new Refusal(404, 'build-unknown', `There is no build “${id}”.`, 'id');
  return row;
}

async function update(context: Context, id: string, values: Partial<Row>): Promise<void> {
  await context.db.write((tx) => tx.update(builds).set(values).where(eq(builds.id, id)));
}

/** One build. */
export async function getBuild(context: Context, id: string): Promise<BuildView> {
  return viewOf(context, await rowOf(context, id));
}

/** The builds of a layout, the newest first. */
export async function listBuilds(context: Context, layoutId: string): Promise<BuildView[]> {
  const rows = await context.db.read
    .select()
    .from(builds)
    .where(eq(builds.layoutId, layoutId))
    .orderBy(desc(builds.startedAt));
  return rows.map((row) => viewOf(context, row));
}

/** Finished images of all layouts, the newest first. */
export async function listImages(context: Context): Promise<BuildView[]> {
  const rows = await context.db.read
    .select()
    .from(builds)
    .where(eq(builds.state, 'done'))
    .orderBy(desc(builds.startedAt))
    .limit(IMAGES_LISTED);
  return rows.map((row) => viewOf(context, row));
}

function refuse(code: string, word: string, what: readonly Finding[], advice: string): void {
  const [first, ...more] = what;
  if (!first) return;
  const others =
    more.length > 0
      ? ` There ${more.length === 1 ? 'is 1 more' : `are ${more.length} more`} ${word}${more.length === 1 ? '' : 's'}.`
      : '';
  throw new Refusal(409, code, `${first.sentence}${others} ${advice}`, 'revision');
}

/** Places a document and refuses if anything stops a build, or a risk was not accepted. */
async function placeForBuild(context: Context, document: Layout, copy: number): Promise<Placement> {
  const contents = await contentsFor(context.folder.store, document);
  const { placement, findings } = checkedCopy(document, copy, contents);
  refuse('layout-has-stops', 'stop', stopsAmong(findings), 'Mend it in the designer, then build.');
  refuse(
    'layout-has-risks',
    'risk',
    openRisks(findings),
    'Mend it in the designer, or accept it there with a reason, then build.',
  );
  return placement;
}

function describeError(error: unknown): Failure {
  const { code, message } = error as NodeJS.ErrnoException;
  if (code === 'EFBIG' || code === 'EINVAL')
    return {
      code: 'file-too-large',
      sentence:
        'The file system of the data folder cannot hold a file of this size. Name another folder in LOESS_DATA.',
    };
  if (error instanceof StoredGone)
    return {
      code: 'content-gone',
      sentence: `${message} Add it again among the contents, then build; nothing partial was left.`,
    };
  if (error instanceof Refusal) return { code: error.code, sentence: `${error.message} Nothing was left.` };
  if (error instanceof ImageChanged)
    return { code: 'image-changed', sentence: `${message} Look at before and after again; nothing was left.` };
  if (error instanceof ReadBackError || error instanceof ChangedReadBackError)
    return {
      code: 'read-back-differs',
      sentence: `${message} The layout is not at fault: this is a fault of the program, or of the disk that was written to. Nothing was left.`,
    };
  return (
    systemTrouble(error) ?? {
      code: 'system-error',
      sentence: `The system refused: ${message.replace(/\.$/, '')}. Nothing partial was left.`,
    }
  );
}

/** Makes the image of a build, and says what came of it. */
type Make = (signal: AbortSignal, report: (phase: string, done: number, total: number) => void) => Promise<BuildReport>;

async function runBuild(
  context: Context,
  id: string,
  make: Make,
  signal: AbortSignal,
  report: (phase: string, done: number, total: number) => void,
) {
  try {
    signal.throwIfAborted();
    await update(context, id, { state: 'running' });
    const result = await make(signal, report);
    const { size } = result;
    await update(context, id, { state: 'done', size, report: JSON.stringify(result), endedAt: context.now() });
  } catch (error) {
    if (!signal.aborted) log.error('A build failed.', { jobId: id, error });
    const end = signal.aborted
      ? ({ state: 'cancelled' } as const)
      : ({ state: 'failed', failure: JSON.stringify(describeError(error)) } as const);
    await rm(imagePath(context.folder, id), { force: true });
    await update(context, id, { ...end, endedAt: context.now() });
  }
}

/** Refuses an image of so many bytes on the disk that would lie over the limit of built images. */
async function refuseOverLimit(context: Context, bytes: number): Promise<void> {
  const room = await roomForBuilds(context);
  if (room !== undefined && bytes > room)
    throw new Refusal(
      409,
      'limit-of-images',
      `The image takes ${inBoth(bytes)} on the disk; the limit that was set for built images leaves ${inBoth(room)}. Remove older builds, or raise it on the page of the data folder.`,
      'revision',
    );
}

/** A build that is ordered: what its image is called, how large it is, and what it takes on the disk. */
interface Ordered {
  readonly layoutId: string;
  readonly revision: number;
  readonly name: string;
  readonly size: number;
  readonly takes: number;
  /** The same for two orders of the same image: the second is answered with the first, while that is under way. */
  readonly key: string;
}

/** Images up to so many bytes on the disk do not wait for larger ones. */
const SHORT = 256 * MIB;

/** Puts an image into the queue; `make` makes it, for the build of this id. What is under way already is not made twice. */
export async function orderImage(context: Context, order: Ordered, make: (id: string) => Make): Promise<BuildView> {
  const { orders } = context;
  const id = orders.get(order.key) ?? putIntoQueue(context, order, make, () => orders.delete(order.key));
  orders.set(order.key, id);
  id.catch(() => orders.delete(order.key));
  return getBuild(context, await id);
}

async function putIntoQueue(
  context: Context,
  { takes, key: _, ...ordered }: Ordered,
  make: (id: string) => Make,
  onOver: () => void,
): Promise<string> {
  await refuseOverLimit(context, takes);
  const id = randomUUID();
  const row = { id, ...ordered, state: 'waiting' as const, startedAt: context.now() };
  await context.db.write((tx) => tx.insert(builds).values(row));
  const work = (signal: AbortSignal, report: (phase: string, done: number, total: number) => void) =>
    runBuild(context, id, make(id), signal, report).finally(onOver);
  context.buildQueue.add(id, work, takes <= SHORT ? 'short' : 'long');
  return id;
}

/** Starts a build of one revision. Refuses when the layout has stops. */
export async function startBuild(
  context: Context,
  { copy = 0, ...order }: { layoutId: string; revision: number; copy?: number | undefined },
): Promise<BuildView> {
  const document = await getDocument(context, order.layoutId, order.revision);
  const kept = notFromNothing(document);
  if (kept) throw new Refusal(409, 'layout-keeps', `${kept} Look at before and after.`, 'layoutId');
  const placement = await placeForBuild(context, document, copy);
  const ordered: Ordered = {
    ...order,
    name: `${slugOf(document.name)}-r${order.revision}${copy > 0 ? `-copy-${copy}` : ''}.img`,
    size: placement.medium.capacity,
    takes: plannedBytes(compose(placement)),
    key: JSON.stringify([order.layoutId, order.revision, copy]),
  };
  return orderImage(context, ordered, (id) => (signal, report) => {
    return writeImage({
      placement,
      path: imagePath(context.folder, id),
      signal,
      onProgress: ({ phase, done, total }) => report(phase, done, total),
      writeRate: context.writeRate,
      fileOf: (sha256) => storedPath(context.folder.store, sha256),
    });
  });
}

/** Asks a running or waiting build to stop. */
export async function cancelBuild(context: Context, id: string): Promise<void> {
  await rowOf(context, id);
  if (!context.buildQueue.cancel(id))
    throw new Refusal(409, 'build-over', 'This build is over; there is nothing to cancel.', 'id');
}

/** Removes a build that is over, with its image. */
export async function removeBuild(context: Context, id: string): Promise<void> {
  await rowOf(context, id);
  if (context.buildQueue.progress(id))
    throw new Refusal(409, 'build-running', 'This build still runs. Cancel it first.', 'id');
  context.digestQueue.cancel(id);
  await rm(imagePath(context.folder, id), { force: true });
  await context.db.write((tx) => tx.delete(builds).where(eq(builds.id, id)));
}

/** The image of a finished build: its path, size and name for the download. */
export async function finishedImage(
  context: Context,
  id: string,
): Promise<{ path: string; size: number; name: string }> {
  const row = await rowOf(context, id);
  if (row.state !== 'done')
    throw new Refusal(409, 'build-not-done', `This build is ${row.state}; it has no image.`, 'id');
  const path = imagePath(context.folder, id);
  const found = await ifThere(stat(path));
  if (found?.size !== row.size)
    throw new Refusal(
      410,
      'image-gone',
      'The image was removed from the data folder, or changed there. Build again.',
      'id',
    );
  return { path, size: row.size, name: row.name };
}

async function runDigest(
  context: Context,
  id: string,
  image: { path: string; size: number },
  signal: AbortSignal,
  report: (phase: string, done: number, total: number) => void,
) {
  const reading = Reading.inBackground();
  try {
    signal.throwIfAborted();
    await update(context, id, { digestState: 'running' });
    const handle = await openPlain(image.path);
    try {
      const file = { descriptor: handle.fd, size: image.size, key: id };
      // Requests are answered meanwhile: a thread of its own sums.
      const digest = await reading.ask(
        'digest',
        file,
        {},
        () => !signal.aborted,
        ({ phase, done, total }) => report(phase, done, total),
      );
      await update(context, id, { digestState: 'done', digest });
    } finally {
      await handle.close();
    }
  } catch (error) {
    if (!signal.aborted) log.error('A checksum failed.', { jobId: id, error });
    await update(context, id, { digestState: signal.aborted ? 'cancelled' : 'failed' });
  } finally {
    reading.end();
  }
}

/** Starts the SHA-256 of a finished image, as a step of its own. */
export async function startDigest(context: Context, id: string): Promise<BuildView> {
  const image = await finishedImage(context, id);
  if (context.digestQueue.progress(id))
    throw new Refusal(409, 'digest-running', 'The checksum is being computed already.', 'id');
  await update(context, id, { digestState: 'waiting', digest: null });
  context.digestQueue.add(id, (signal, report) => runDigest(context, id, image, signal, report));
  return getBuild(context, id);
}

/** Asks a checksum to stop. */
export async function cancelDigest(context: Context, id: string): Promise<void> {
  await rowOf(context, id);
  if (!context.digestQueue.cancel(id)) throw new Refusal(409, 'digest-over', 'No checksum is being computed.', 'id');
}

/**
 * After a start: what ran when the last server ended is marked interrupted and its files go.
 * Returns how many builds that were.
 */
export async function recoverBuilds(context: Context): Promise<number> {
  const open = await context.db.read
    .select()
    .from(builds)
    .where(inArray(builds.state, ['waiting', 'running']));
  await removeUnfinished(context.folder);
  for (const { id } of open) {
    await rm(imagePath(context.folder, id), { force: true });
    await update(context, id, {
      state: 'interrupted',
      endedAt: context.now(),
      failure: JSON.stringify({
        code: 'interrupted',
        sentence: 'The server ended while this was being built. Nothing partial was left; build again.',
      }),
    });
  }
  await context.db.write((tx) =>
    tx
      .update(builds)
      .set({ digestState: 'interrupted' })
      .where(inArray(builds.digestState, ['waiting', 'running'])),
  );
  return open.length;
}

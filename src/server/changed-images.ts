/** Images that are made of others: what their plans are known by, what is shown of them, and their jobs. */
import { createHash } from 'node:crypto';
import { stat } from 'node:fs/promises';
import type { BuildReport, BuildView } from '@/contract/builds';
import type { WrittenRange } from '@/contract/changes';
import { gathered } from '@/core/change/before-after';
import { type Plan, plannedLength } from '@/core/change/plan';
import { fieldChanges } from '@/core/change/told';
import type { Survey } from '@/core/survey/found';
import { structureAt, structuresOf } from '@/core/survey/structures';
import { writeChanged } from '@/files/changed-image';
import { imagePath, UNFINISHED } from '@/files/data-folder';
import { storedPath } from '@/files/stored';
import { StoredReader } from '@/files/stored-reader';
import { orderImage } from './builds';
import type { Context } from './context';
import { Refusal } from './refusal';
import { placeOfImage } from './surveys';

/** What tells a plan from every other one; `of` is what it was made of beside the image. */
export function markOf({ size, becomes, ranges }: Plan, of: string): string {
  const facts = ranges.map(({ what, extent, sum }) => [what, extent.offset, plannedLength(extent), sum]);
  return createHash('sha256')
    .update(JSON.stringify([of, size, becomes, facts]))
    .digest('hex');
}

const SHOWN = 8;
const BLOCK = 512;

/** The ranges of a plan, gathered, each with what lies there now; `after` is a survey of the medium with the plan. */
export function writtenRanges(plan: Plan, survey: Survey, after: Survey): WrittenRange[] {
  const structures = structuresOf(survey);
  const made = structuresOf(after);
  return gathered(plan).map((one) => {
    const range = plan.ranges.find(({ extent }) => extent.offset === one.at);
    const sector = Math.floor(one.at / survey.sectorSize);
    const isEmpty = range?.head.every((byte) => byte === 0) === true;
    const what = structureAt(structures, sector)?.what ?? 'nothing that is known';
    return {
      ...one,
      there: isEmpty ? `${what}, zeros` : what,
      bytesThere: Buffer.from(range?.head.subarray(0, SHOWN) ?? []).toString('hex'),
      fields: range ? fieldChanges(range, survey.sectorSize, [made, structures]) : [],
    };
  });
}

/** Refuses an order whose plan is not the one that was shown. */
export function refuseUnseen(plan: Plan, of: string, mark: string): void {
  if (markOf(plan, of) === mark) return;
  throw new Refusal(
    409,
    'change-not-seen',
    'What would be written is not what was shown: the image or the layout has changed since. Look at it again.',
    'mark',
  );
}

/** Makes the changed image of a build. */
async function written(
  context: Context,
  id: string,
  { path, name, plan }: { readonly path: string; readonly name: string; readonly plan: Plan },
  signal: AbortSignal,
  report: (phase: string, done: number, total: number) => void,
): Promise<BuildReport> {
  const started = performance.now();
  const stored = new StoredReader((sha256) => storedPath(context.folder.store, sha256));
  try {
    const into = imagePath(context.folder, id);
    const { size, changed, equal, zeros, allocated } = await writeChanged({
      from: path,
      plan,
      readStored: stored.read,
      path: into,
      temporary: into + UNFINISHED,
      isNew: false,
      signal,
      onProgress: ({ phase, done, total }) => report(phase, done, total),
    });
    return {
      size,
      writtenBytes: changed,
      ranges: [],
      comparisons: [],
      change: { from: name, changed, equal, zeros, allocated },
      milliseconds: performance.now() - started,
    };
  } finally {
    await stored.close();
  }
}

/** An order for a changed image; `called` is what it will be called, `from` what the old one is called. */
interface Order {
  readonly layoutId: string;
  readonly revision: number;
  readonly called: string;
  readonly of: string;
  readonly from: string;
  readonly plan: Plan;
}

/** Puts the making of a changed image into the queue. */
export async function orderChanged(
  context: Context,
  { layoutId, revision, called, of, from, plan }: Order,
): Promise<BuildView> {
  const { path } = await placeOfImage(context, of);
  const { blocks } = await stat(/* turbopackIgnore: true */ path);
  const planned = plan.ranges.reduce((sum, { extent }) => sum + plannedLength(extent), 0);
  const takes = blocks * BLOCK + planned;
  const key = JSON.stringify([layoutId, revision, of, called, markOf(plan, '')]);
  const ordered = { layoutId, revision, name: called, size: plan.becomes, takes, key };
  return orderImage(
    context,
    ordered,
    (id) => (signal, report) => written(context, id, { path, name: from, plan }, signal, report),
  );
}

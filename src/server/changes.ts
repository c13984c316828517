/** Use cases of changes: a layout that keeps what an image holds, that image before and after, and the new image. */
import { createHash } from 'node:crypto';
import { stat } from 'node:fs/promises';
import { desc, eq } from 'drizzle-orm';
import type { BuildReport, BuildView } from '@/contract/builds';
import type { Candidate, ChangeView, WrittenRange } from '@/contract/changes';
import type { LayoutView } from '@/contract/layouts';
import type { BlockSource } from '@/core/bytes/blocks';
import { alteration } from '@/core/change/alter';
import { becomings, gathered } from '@/core/change/before-after';
import { layoutKeeping } from '@/core/change/keep';
import { changedSource, type Plan, plannedLength } from '@/core/change/plan';
import { check } from '@/core/findings/layout/check';
import { openRisks } from '@/core/findings/layout/acceptance';
import { stopsAmong } from '@/core/findings/layout/finding';
import { checkSurvey } from '@/core/findings/survey/check';
import type { Layout } from '@/core/layout/document';
import { placeWritten } from '@/core/naming/written';
import type { Placement } from '@/core/placement/placement';
import type { Survey } from '@/core/survey/found';
import { structureAt, structuresOf } from '@/core/survey/structures';
import { surveyMedium } from '@/core/survey/survey';
import { writeChanged } from '@/files/changed-image';
import { imagePath, UNFINISHED } from '@/files/data-folder';
import { contentsFor, storedPath } from '@/files/stored';
import { StoredReader } from '@/files/stored-reader';
import { builds } from '../keeping/schema';
import { listBench } from './bench';
import type { Context } from './context';
import { listImageFiles } from './image-folder';
import { orderImage } from './builds';
import { createLayout, getDocument, getLayout, slugOf } from './layouts';
import { Refusal } from './refusal';
import { placeOfImage, type SurveyAsked, withSurvey } from './surveys';

/** Makes a layout that keeps everything that an image holds. */
export function keepInLayout(context: Context, asked: SurveyAsked): Promise<LayoutView> {
  return withSurvey(context, asked, async ({ survey, name }) => {
    const date = context.now().slice(0, 19);
    const made = layoutKeeping(survey, { name: name.replace(/\.[a-z0-9]{1,5}$/i, ''), date });
    if (!made.ok) throw new Refusal(409, 'not-kept', `No layout can be made of “${name}”: ${made.error}.`, 'of');
    return createLayout(context, made.value, `Kept from ${name}`);
  });
}

/** Images that have the size of the medium that a layout was made from. */
export async function candidatesFor(context: Context, { found }: Layout): Promise<Candidate[]> {
  if (!found) return [];
  const files = (await listImageFiles(context)).filter(({ size }) => size === found.size);
  const built = await context.db.read
    .select({ id: builds.id, name: builds.name, size: builds.size })
    .from(builds)
    .where(eq(builds.state, 'done'))
    .orderBy(desc(builds.startedAt));
  const { media } = await listBench(context);
  const bench = media.flatMap(({ device: { key, model, size, simulated } }) =>
    simulated && size === found.size ? [{ of: `bench:${key.replace(/^simulated:/, '')}`, name: model }] : [],
  );
  return [
    ...files.map(({ name }) => ({ of: `file:${name}`, name })),
    ...built.filter(({ size }) => size === found.size).map(({ id, name }) => ({ of: `build:${id}`, name })),
    ...bench,
  ];
}

/** What tells a plan from every other one. */
function markOf({ size, becomes, ranges }: Plan, { revision }: { revision: number }): string {
  const facts = ranges.map(({ what, extent, sum }) => [what, extent.offset, plannedLength(extent), sum]);
  return createHash('sha256')
    .update(JSON.stringify([revision, size, becomes, facts]))
    .digest('hex');
}

const SHOWN = 16;
const BLOCK = 512;

function writtenRanges(plan: Plan, survey: Survey): WrittenRange[] {
  const structures = structuresOf(survey);
  return gathered(plan).map((one) => {
    const range = plan.ranges.find(({ extent }) => extent.offset === one.at);
    const sector = Math.floor(one.at / survey.sectorSize);
    const isEmpty = range?.head.every((byte) => byte === 0) === true;
    const what = structureAt(structures, sector)?.what ?? 'nothing that is known';
    return {
      ...one,
      there: isEmpty ? `${what}, zeros` : what,
      bytesThere: Buffer.from(range?.head.subarray(0, SHOWN) ?? []).toString('hex'),
    };
  });
}

/** Everything that a change needs, while its image is open. */
interface Opened {
  readonly placement: Placement;
  readonly survey: Survey;
  readonly source: BlockSource;
  readonly name: string;
  readonly stored: StoredReader;
  readonly revision: number;
}

export interface ChangeAsked {
  readonly layoutId: string;
  readonly of: string;
  readonly revision?: number | undefined;
}

async function withChange<T>(context: Context, asked: ChangeAsked, work: (opened: Opened) => Promise<T>): Promise<T> {
  const revision = asked.revision ?? (await getLayout(context, asked.layoutId)).revision;
  const document = await getDocument(context, asked.layoutId, revision);
  if (!document.found)
    throw new Refusal(
      409,
      'keeps-nothing',
      'This layout keeps nothing: build it, or survey the image and keep that.',
      'layoutId',
    );
  const { store } = context.folder;
  const placement = placeWritten(document, await contentsFor(store, document));
  const stored = new StoredReader((sha256) => storedPath(store, sha256));
  const { sectorSize } = placement;
  try {
    return await withSurvey(context, { of: asked.of, sectorSize }, ({ survey, source, name }) =>
      work({ placement, survey, source, name, stored, revision }),
    );
  } finally {
    await stored.close();
  }
}

/** An image before and after a revision of a layout. Reads, and writes nothing. */
export function beforeAndAfter(context: Context, asked: ChangeAsked): Promise<ChangeView> {
  return withChange(context, asked, async ({ placement, survey, source, name, stored, revision }) => {
    const findings = check(placement);
    const view = {
      layoutId: asked.layoutId,
      revision,
      of: asked.of,
      name,
      survey,
      findings,
      rows: becomings(placement),
    };
    const nothing = { ranges: [], left: [], mark: '' };
    if (stopsAmong(findings).length > 0) return { ...view, ...nothing, refused: [] };
    const plan = await alteration(placement, survey, source);
    if (!plan.ok) return { ...view, ...nothing, refused: plan.error };
    const { sectorSize } = placement;
    const after = await surveyMedium(changedSource(source, plan.value, stored.read), { sectorSize });
    return {
      ...view,
      refused: [],
      ranges: writtenRanges(plan.value, survey),
      left: checkSurvey(after),
      mark: markOf(plan.value, { revision }),
    };
  });
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

/** Orders the changed image; refused where what would be written is not what was seen. */
export async function startChange(
  context: Context,
  asked: ChangeAsked & { readonly revision: number; readonly mark: string },
): Promise<BuildView> {
  return withChange(context, asked, async ({ placement, survey, source, name, revision }) => {
    const findings = check(placement);
    const against = stopsAmong(findings)[0] ?? openRisks(findings)[0];
    if (against)
      throw new Refusal(
        409,
        'change-has-objections',
        `${against.sentence} Mend it, or accept it with a reason.`,
        'revision',
      );
    const plan = await alteration(placement, survey, source);
    if (!plan.ok)
      throw new Refusal(
        409,
        'not-the-medium',
        `“${name}” is not what the layout was made from: ${plan.error.join('; ')}.`,
        'of',
      );
    if (markOf(plan.value, { revision }) !== asked.mark)
      throw new Refusal(
        409,
        'change-not-seen',
        'What would be written is not what was shown: the image or the layout has changed since. Look at before and after again.',
        'mark',
      );
    const { path } = await placeOfImage(context, asked.of);
    const { blocks } = await stat(/* turbopackIgnore: true */ path);
    const planned = plan.value.ranges.reduce((sum, { extent }) => sum + plannedLength(extent), 0);
    const ordered = {
      layoutId: asked.layoutId,
      revision,
      name: `${slugOf(placement.layout.name)}-r${revision}-changed.img`,
      size: plan.value.becomes,
      takes: () => blocks * BLOCK + planned,
    };
    return orderImage(
      context,
      ordered,
      (id) => (signal, report) => written(context, id, { path, name, plan: plan.value }, signal, report),
    );
  });
}

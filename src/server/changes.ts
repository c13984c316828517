/** Use cases of changes: a layout that keeps what an image holds, that image before and after, and the new image. */
import { desc, eq } from 'drizzle-orm';
import type { BuildView } from '@/contract/builds';
import type { Candidate, ChangeView } from '@/contract/changes';
import type { LayoutView } from '@/contract/layouts';
import type { BlockSource } from '@/core/bytes/blocks';
import { alteration } from '@/core/change/alter';
import { becomings } from '@/core/change/before-after';
import { layoutKeeping } from '@/core/change/keep';
import { changedSource } from '@/core/change/plan';
import { check } from '@/core/findings/layout/check';
import { openRisks } from '@/core/findings/layout/acceptance';
import { stopsAmong } from '@/core/findings/layout/finding';
import { checkSurvey } from '@/core/findings/survey/check';
import type { Layout } from '@/core/layout/document';
import { placeWritten } from '@/core/naming/written';
import type { Placement } from '@/core/placement/placement';
import type { Survey } from '@/core/survey/found';
import { surveyMedium } from '@/core/survey/survey';
import { contentsFor, storedPath } from '@/files/stored';
import { StoredReader } from '@/files/stored-reader';
import { Reading } from '../files/reading/reading';
import { builds } from '../keeping/schema';
import { listBench } from './bench';
import { markOf, orderChanged, refuseUnseen, writtenRanges } from './changed-images';
import type { Context } from './context';
import { listImageFiles } from './image-folder';
import { createLayout, getDocument, getLayout, slugOf } from './layouts';
import { isClientGone } from './log';
import { Refusal } from './refusal';
import { type AskOf, type SurveyAsked, withSurvey } from './surveys';

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

/** Everything that a change needs, while its image is open. */
interface Opened {
  readonly placement: Placement;
  readonly survey: Survey;
  readonly source: BlockSource;
  readonly name: string;
  readonly stored: StoredReader;
  readonly revision: number;
  readonly askOf: AskOf;
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
    return await withSurvey(context, { of: asked.of, sectorSize }, ({ survey, source, name, askOf }) =>
      work({ placement, survey, source, name, stored, revision, askOf }),
    );
  } finally {
    await stored.close();
  }
}

/** The plan of a change; volumes are laid anew in a thread of their own, as long as somebody waits for that. */
async function planned({ placement, survey, source, askOf }: Opened): ReturnType<typeof alteration> {
  const reading = Reading.inBackground();
  try {
    return await alteration(placement, survey, source, (at, available, wish) =>
      askOf(
        reading,
        'anew',
        { at, available, wish },
        () => !isClientGone(),
        () => undefined,
      ),
    );
  } finally {
    reading.end();
  }
}

/** An image before and after a revision of a layout. Reads, and writes nothing. */
export function beforeAndAfter(context: Context, asked: ChangeAsked): Promise<ChangeView> {
  return withChange(context, asked, async (opened) => {
    const { placement, survey, source, name, stored, revision } = opened;
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
    const nothing = { ranges: [], left: [], mark: '', isOther: false };
    if (stopsAmong(findings).length > 0) return { ...view, ...nothing, refused: [] };
    const plan = await planned(opened);
    if (!plan.ok) return { ...view, ...nothing, refused: plan.error.lines, isOther: plan.error.isOther };
    const { sectorSize } = placement;
    const after = await surveyMedium(changedSource(source, plan.value, stored.read), { sectorSize });
    return {
      ...view,
      ...nothing,
      refused: [],
      ranges: writtenRanges(plan.value, survey, after),
      left: checkSurvey(after),
      mark: markOf(plan.value, String(revision)),
    };
  });
}

/** Orders the changed image; refused where what would be written is not what was seen. */
export async function startChange(
  context: Context,
  asked: ChangeAsked & { readonly revision: number; readonly mark: string },
): Promise<BuildView> {
  return withChange(context, asked, async (opened) => {
    const { placement, name, revision } = opened;
    const findings = check(placement);
    const against = stopsAmong(findings)[0] ?? openRisks(findings)[0];
    if (against)
      throw new Refusal(
        409,
        'change-has-objections',
        `${against.sentence} Mend it, or accept it with a reason.`,
        'revision',
      );
    const plan = await planned(opened);
    if (!plan.ok) {
      const { isOther, lines } = plan.error;
      const what = isOther ? 'is not what the layout was made from' : 'cannot become what the layout says';
      const code = isOther ? 'not-the-medium' : 'not-changed';
      throw new Refusal(409, code, `“${name}” ${what}: ${lines.join('; ')}.`, 'of');
    }
    refuseUnseen(plan.value, String(revision), asked.mark);
    const called = `${slugOf(placement.layout.name)}-r${revision}-changed.img`;
    return orderChanged(context, {
      layoutId: asked.layoutId,
      revision,
      called,
      of: asked.of,
      from: name,
      plan: plan.value,
    });
  });
}

/** Use cases of changes: a layout that keeps what an image holds, that image before and after, and the new image. */
import { desc, eq } from 'drizzle-orm';
import type { BuildView } from '@/contract/builds';
import type { Candidate, ChangeView } from '@/contract/changes';
import type { LayoutView } from '@/contract/layouts';
import { becomings } from '@/core/change/before-after';
import { layoutKeeping } from '@/core/change/keep';
import { check } from '@/core/findings/layout/check';
import { openRisks } from '@/core/findings/layout/acceptance';
import { stopsAmong } from '@/core/findings/layout/finding';
import { checkSurvey } from '@/core/findings/survey/check';
import type { Layout } from '@/core/layout/document';
import { placeWritten } from '@/core/naming/written';
import type { Placement } from '@/core/placement/placement';
import type { Survey } from '@/core/survey/found';
import { contentsFor } from '@/files/stored';
import type { Orders } from '../files/reading/orders';
import { COMPOSING_MEMORY } from '../files/reading/reading';
import { builds } from '../keeping/schema';
import { listBench } from './bench';
import { markOf, orderChanged, refuseUnseen, writtenRanges } from './changed-images';
import type { Context } from './context';
import { listImageFiles } from './image-folder';
import { createLayout, getDocument, getLayout, slugOf } from './layouts';
import { Refusal } from './refusal';
import { askAside, type SurveyAsked, withSurvey } from './surveys';

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
  readonly name: string;
  readonly revision: number;
  /** The plan, and what a survey would find then, thought out beside all other requests. */
  readonly planned: () => Promise<Orders['alteration']['answer']>;
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
  const { sectorSize } = placement;
  return withSurvey(context, { of: asked.of, sectorSize }, (opened) => {
    const { survey, name } = opened;
    const planned = () =>
      askAside(opened, 'alteration', { from: opened.path, survey, document, store }, COMPOSING_MEMORY);
    return work({ placement, survey, name, revision, planned });
  });
}

/** An image before and after a revision of a layout. Reads, and writes nothing. */
export function beforeAndAfter(context: Context, asked: ChangeAsked): Promise<ChangeView> {
  return withChange(context, asked, async (opened) => {
    const { placement, survey, name, revision, planned } = opened;
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
    const made = await planned();
    if (!made.ok) return { ...view, ...nothing, refused: made.error.lines, isOther: made.error.isOther };
    const { plan, after } = made.value;
    return {
      ...view,
      ...nothing,
      refused: [],
      ranges: writtenRanges(plan, survey, after),
      left: checkSurvey(after),
      mark: markOf(plan, String(revision)),
    };
  });
}

/** Orders the changed image; refused where what would be written is not what was seen. */
export async function startChange(
  context: Context,
  asked: ChangeAsked & { readonly revision: number; readonly mark: string },
): Promise<BuildView> {
  return withChange(context, asked, async (opened) => {
    const { placement, name, revision, planned } = opened;
    const findings = check(placement);
    const against = stopsAmong(findings)[0] ?? openRisks(findings)[0];
    if (against)
      throw new Refusal(
        409,
        'change-has-objections',
        `${against.sentence} Mend it, or accept it with a reason.`,
        'revision',
      );
    const made = await planned();
    if (!made.ok) {
      const { isOther, lines } = made.error;
      const what = isOther ? 'is not what the layout was made from' : 'cannot become what the layout says';
      const code = isOther ? 'not-the-medium' : 'not-changed';
      throw new Refusal(409, code, `“${name}” ${what}: ${lines.join('; ')}.`, 'of');
    }
    const { plan } = made.value;
    refuseUnseen(plan, String(revision), asked.mark);
    const called = `${slugOf(placement.layout.name)}-r${revision}-changed.img`;
    return orderChanged(context, {
      layoutId: asked.layoutId,
      revision,
      called,
      of: asked.of,
      from: name,
      plan,
    });
  });
}

/** Use cases of an image by itself: what would mend, cut or clear it, and the new image. */
import type { BuildView } from '@/contract/builds';
import type { Does, ProposalView } from '@/contract/changes';
import type { BlockSource } from '@/core/bytes/blocks';
import { clearing } from '@/core/change/clear';
import { cutting } from '@/core/change/cut';
import { changedSource, type Plan } from '@/core/change/plan';
import { REPAIRS, repaired } from '@/core/change/repair';
import { checkSurvey } from '@/core/findings/survey/check';
import type { Survey } from '@/core/survey/found';
import { surveyMedium } from '@/core/survey/survey';
import { markOf, orderChanged, refuseUnseen, writtenRanges } from './changed-images';
import type { Context } from './context';
import { Refusal } from './refusal';
import { type SurveyAsked, withSurvey } from './surveys';

/** What is asked of an image: to mend it, by one repair or by all that are called for, to cut or to clear it. */
export interface ProposalAsked extends SurveyAsked {
  readonly does: Does;
  readonly only?: string | undefined;
}

/** A plan, what it means, and what could not be done. */
interface Proposed {
  readonly plan: Plan;
  readonly words: readonly string[];
  readonly refused: readonly string[];
  readonly onRequest?: ProposalView['onRequest'];
}

const NOTHING = (survey: Survey, ...refused: string[]): Proposed => ({
  plan: { size: survey.size, becomes: survey.size, ranges: [] },
  words: [],
  refused,
});

async function mended(survey: Survey, source: BlockSource, only: string | undefined): Promise<Proposed> {
  if (only !== undefined && !REPAIRS.some(({ id }) => id === only))
    throw new Refusal(400, 'repair-unknown', `There is no repair “${only}”.`, 'only');
  const {
    draft,
    tried,
    onRequest: some,
  } = await repaired(
    source,
    (medium) => surveyMedium(medium, { sectorSize: survey.sectorSize }),
    (rule, found) => checkSurvey(found).some((one) => one.rule === rule),
    only === undefined ? undefined : [only],
  );
  const onRequest = some.map(({ id, label }) => ({ id, label }));
  if (tried.length === 0) return { ...NOTHING(survey), words: ['Nothing is to be mended.'], onRequest };
  return {
    plan: await draft.plan(),
    onRequest,
    words: tried.flatMap(({ repair, refused, says }) => [
      ...(refused === undefined ? [`${repair.label}: ${repair.why}`] : []),
      ...says,
    ]),
    refused: tried.flatMap(({ repair, refused }) =>
      refused === undefined ? [] : [`${repair.label}: cannot be done: ${refused}.`],
    ),
  };
}

async function proposed(survey: Survey, source: BlockSource, { does, only }: ProposalAsked): Promise<Proposed> {
  if (does === 'repair') return mended(survey, source, only);
  if (does === 'clear') return { ...(await clearing(survey, source)), refused: [] };
  const cut = await cutting(survey, source, 'MiB');
  return cut.ok ? { ...cut.value, refused: [] } : NOTHING(survey, `It cannot be cut: ${cut.error}.`);
}

const saltOf = ({ does, only = '' }: ProposalAsked) => `${does} ${only}`;

/** What would be done to an image. Reads, and writes nothing. */
export function proposal(context: Context, asked: ProposalAsked): Promise<ProposalView> {
  return withSurvey(context, asked, async ({ survey, source, name }) => {
    const { plan, words, refused, onRequest = [] } = await proposed(survey, source, asked);
    const after = await surveyMedium(changedSource(source, plan), { sectorSize: survey.sectorSize });
    return {
      of: asked.of,
      name,
      does: asked.does,
      only: asked.only ?? null,
      sectorSize: survey.sectorSize,
      size: plan.size,
      becomes: plan.becomes,
      words,
      onRequest,
      refused,
      ranges: writtenRanges(plan, survey, after),
      left: checkSurvey(after),
      mark: markOf(plan, saltOf(asked)),
    };
  });
}

const ENDINGS: Readonly<Record<Does, string>> = { repair: 'mended', cut: 'cut', clear: 'cleared' };

/** Orders the image; refused where what would be written is not what was seen. */
export function startProposal(context: Context, asked: ProposalAsked & { readonly mark: string }): Promise<BuildView> {
  return withSurvey(context, asked, async ({ survey, source, name }) => {
    const { plan } = await proposed(survey, source, asked);
    refuseUnseen(plan, saltOf(asked), asked.mark);
    if (plan.ranges.length === 0 && plan.becomes === plan.size)
      throw new Refusal(409, 'nothing-to-do', `Nothing of “${name}” would change.`, 'of');
    const called = `${name.replace(/\.[a-z0-9]{1,5}$/i, '')}-${ENDINGS[asked.does]}.img`;
    return orderChanged(context, { layoutId: '', revision: 0, called, of: asked.of, from: name, plan });
  });
}

/** Use cases of an image by itself: what would mend, cut or clear it, and the new image. */
import type { BuildView } from '@/contract/builds';
import type { ProposalView } from '@/contract/changes';
import type { Does, ProposalWish } from '@/core/change/proposal';
import { REPAIRS } from '@/core/change/repair';
import { checkSurvey } from '@/core/findings/survey/check';
import { markOf, orderChanged, refuseUnseen, writtenRanges } from './changed-images';
import type { Context } from './context';
import { Refusal } from './refusal';
import { askAside, type SurveyAsked, type Surveyed, withSurvey } from './surveys';

/** What is asked of an image: to mend it, by one repair or by all that are called for, to cut or to clear it. */
export interface ProposalAsked extends SurveyAsked, ProposalWish {}

/** What would be done, thought out beside all other requests, and what a survey would find then. */
function proposed(opened: Surveyed, { does, only }: ProposalAsked) {
  if (only !== undefined && !REPAIRS.some(({ id }) => id === only))
    throw new Refusal(400, 'repair-unknown', `There is no repair “${only}”.`, 'only');
  return askAside(opened, 'proposal', { from: opened.path, survey: opened.survey, wish: { does, only } });
}

const saltOf = ({ does, only = '' }: ProposalAsked) => `${does} ${only}`;

/** What would be done to an image. Reads, and writes nothing. */
export function proposal(context: Context, asked: ProposalAsked): Promise<ProposalView> {
  return withSurvey(context, asked, async (opened) => {
    const { survey, name } = opened;
    const { plan, words, refused, onRequest, after } = await proposed(opened, asked);
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
  return withSurvey(context, asked, async (opened) => {
    const { name } = opened;
    const { plan } = await proposed(opened, asked);
    refuseUnseen(plan, saltOf(asked), asked.mark);
    if (plan.ranges.length === 0 && plan.becomes === plan.size)
      throw new Refusal(409, 'nothing-to-do', `Nothing of “${name}” would change.`, 'of');
    const called = `${name.replace(/\.[a-z0-9]{1,5}$/i, '')}-${ENDINGS[asked.does]}.img`;
    return orderChanged(context, { layoutId: '', revision: 0, called, of: asked.of, from: name, plan });
  });
}

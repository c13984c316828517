/** `cut` and `clear`: an image without what lies behind its last partition, or without anything that is recognised in it. */
import { gathered } from '@/core/change/before-after';
import { clearing } from '@/core/change/clear';
import { cutting, type CutTo } from '@/core/change/cut';
import { changedSource, type Plan } from '@/core/change/plan';
import type { BlockSource } from '@/core/bytes/blocks';
import { checkSurvey } from '@/core/findings/survey/check';
import { inBoth } from '@/core/quantity/units';
import type { Survey } from '@/core/survey/found';
import { surveyMedium } from '@/core/survey/survey';
import { answerText } from './answering';
import { gatheredText, imageChanged, type IntoArguments, leftData, leftText } from './changed';
import { Ended, EXIT, type Exit } from './exit';
import type { Io } from './io';
import { surveyed, withWholeImage } from './open-image';
import { printable } from './text';

export interface ClearArguments extends IntoArguments {
  readonly sectorSize?: 512 | 4096;
}
export interface CutArguments extends ClearArguments {
  readonly to: CutTo;
}

/** A plan with what it means in words, and what a survey would find after it. */
interface Proposal {
  readonly plan: Plan;
  readonly words: readonly string[];
  readonly left: ReturnType<typeof checkSurvey>;
}

type Propose = (
  survey: Survey,
  source: BlockSource,
) => Promise<{ readonly plan: Plan; readonly words: readonly string[] }>;

function proposed(image: string, { sectorSize }: ClearArguments, propose: Propose): Promise<Proposal> {
  return withWholeImage(image, async (source) => {
    const survey = await surveyed(source, sectorSize);
    const { plan, words } = await propose(survey, source);
    const after = await surveyMedium(changedSource(source, plan), { sectorSize: survey.sectorSize });
    return { plan, words, left: checkSurvey(after) };
  });
}

function proposalText({ plan, words, left }: Proposal): string {
  const ranges = gathered(plan).map((one) => gatheredText(one));
  const size = plan.becomes === plan.size ? '' : `It has ${inBoth(plan.becomes)} afterwards.\n`;
  return `${words.map((one) => `${one}\n`).join('')}${size}\nWould be written:\n${ranges.join('') || 'nothing\n'}\nA survey would find afterwards:\n${leftText(left)}`;
}

async function carriedOut(
  io: Io,
  name: 'cut' | 'clear',
  image: string,
  proposal: Proposal,
  options: IntoArguments,
): Promise<Exit> {
  const { plan, words, left } = proposal;
  const { into } = options;
  const said = into === undefined ? '' : await imageChanged(io, image, into, plan, options);
  const data = {
    words: [...words],
    becomes: plan.becomes,
    ranges: gathered(plan).map(({ what, at, ranges, bytes }) => ({ what, at, ranges, bytes })),
    left: leftData(left),
    image: into,
  };
  io.out(options.json ? answerText(name, data) : printable(proposalText(proposal) + said));
  return EXIT.done;
}

/** `cut`: the image up to the end of its last partition. */
export async function cut(io: Io, image: string, options: CutArguments): Promise<Exit> {
  const proposal = await proposed(image, options, async (survey, source) => {
    const made = await cutting(survey, source, options.to);
    if (!made.ok) throw new Ended(EXIT.stop, 'not-cut', `“${image}” cannot be cut: ${made.error}.`);
    return made.value;
  });
  return carriedOut(io, 'cut', image, proposal, options);
}

/** `clear`: the image without its table and without every mark by which a system would recognise something. */
export async function clear(io: Io, image: string, options: ClearArguments): Promise<Exit> {
  return carriedOut(io, 'clear', image, await proposed(image, options, clearing), options);
}

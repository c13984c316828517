/** What can be done to a medium by itself: it is mended, cut or cleared. Each is a plan, with what it means. */
import type { BlockSource } from '../bytes/blocks';
import { checkSurvey } from '../findings/survey/check';
import type { Survey } from '../survey/found';
import { surveyMedium } from '../survey/survey';
import { clearing } from './clear';
import { cutting } from './cut';
import type { Plan } from './plan';
import { repaired, type Repaired } from './repair';

export const DOES = ['repair', 'cut', 'clear'] as const;
/** What is done to a medium by itself. */
export type Does = (typeof DOES)[number];

/** What is asked for; a repair may be one alone, by its id. */
export interface ProposalWish {
  readonly does: Does;
  readonly only?: string | undefined;
}

/** A plan, what it means, and what could not be done. */
export interface Proposed {
  readonly plan: Plan;
  readonly words: readonly string[];
  readonly refused: readonly string[];
  /** What could be mended too, and is only where somebody asks for it. */
  readonly onRequest: readonly { readonly id: string; readonly label: string }[];
}

/** Makes repairs on a draft of a medium: those named, or all that are called for and not made on request alone. */
export function repairs(source: BlockSource, survey: Survey, wanted?: readonly string[]): Promise<Repaired> {
  return repaired(
    source,
    (medium) => surveyMedium(medium, { sectorSize: survey.sectorSize }),
    (rule, found) => checkSurvey(found).some((one) => one.rule === rule),
    wanted,
  );
}

async function mended(survey: Survey, source: BlockSource, only: string | undefined): Promise<Proposed> {
  const { draft, tried, onRequest } = await repairs(source, survey, only === undefined ? undefined : [only]);
  return {
    plan: await draft.plan(),
    onRequest: onRequest.map(({ id, label }) => ({ id, label })),
    words:
      tried.length === 0
        ? ['Nothing is to be mended.']
        : tried.flatMap(({ repair, refused, says }) => [
            ...(refused === undefined ? [`${repair.label}: ${repair.why}`] : []),
            ...says,
          ]),
    refused: tried.flatMap(({ repair, refused }) =>
      refused === undefined ? [] : [`${repair.label}: cannot be done: ${refused}.`],
    ),
  };
}

/** What would be done to a medium. Reads it, and writes nothing. */
export async function proposed(survey: Survey, source: BlockSource, { does, only }: ProposalWish): Promise<Proposed> {
  if (does === 'repair') return mended(survey, source, only);
  const nothing = { refused: [], onRequest: [] };
  if (does === 'clear') return { ...(await clearing(survey, source)), ...nothing };
  const cut = await cutting(survey, source, 'MiB');
  if (cut.ok) return { ...cut.value, ...nothing };
  const { size } = survey;
  return {
    ...nothing,
    plan: { size, becomes: size, ranges: [] },
    words: [],
    refused: [`It cannot be cut: ${cut.error}.`],
  };
}

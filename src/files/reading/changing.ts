/** Thinking out what would change an image. Loaded where it is asked for: it is most of the program, and whoever only reads starts without it. */
import { createHash } from 'node:crypto';
import type { BlockSource } from '@/core/bytes/blocks';
import { alteration as planned } from '@/core/change/alter';
import { changedSource } from '@/core/change/plan';
import { proposed } from '@/core/change/proposal';
import { placeWritten } from '@/core/naming/written';
import { ok } from '@/core/quantity/result';
import type { Survey } from '@/core/survey/found';
import { surveyMedium } from '@/core/survey/survey';
import { withHoles } from '../holes';
import { contentsFor, storedPath } from '../stored';
import { StoredReader } from '../stored-reader';
import { after } from './deadline';
import { DEADLINE, type Orders } from './orders';

/** What a survey would find on a medium as it would be. */
const foreseen = (changed: BlockSource, { sectorSize }: Survey): Promise<Survey> =>
  surveyMedium(changed, { sectorSize, isOver: after(DEADLINE) });

export async function proposal(
  plain: BlockSource,
  { from, survey, wish }: Orders['proposal']['asked'],
): Promise<Orders['proposal']['answer']> {
  const source = await withHoles(plain, from);
  const made = await proposed(survey, source, wish);
  return { ...made, after: await foreseen(changedSource(source, made.plan), survey) };
}

export async function alteration(
  plain: BlockSource,
  { from, survey, document, store }: Orders['alteration']['asked'],
): Promise<Orders['alteration']['answer']> {
  const source = await withHoles(plain, from);
  const placement = placeWritten(document, await contentsFor(store, document));
  const plan = await planned(placement, survey, source, () => createHash('sha256'));
  if (!plan.ok) return plan;
  const stored = new StoredReader((sha256) => storedPath(store, sha256));
  try {
    return ok({ plan: plan.value, after: await foreseen(changedSource(source, plan.value, stored.read), survey) });
  } finally {
    await stored.close();
  }
}

/** Use cases of checking a volume in an image: start, watch, stop. Nothing is written; what a check came to is kept in memory. */
import type { VolumeCheckView } from '@/contract/surveys';
import { BudgetSpent } from '@/core/bytes/budget';
import { SourceShrank } from '@/core/bytes/blocks';
import { isExt } from '@/core/filesystems/readers';
import { NoLongerAsked } from '../files/reading/orders';
import { Reading } from '../files/reading/reading';
import { systemTrouble } from '../files/system-errors';
import type { VolumeAsked } from './browsing';
import type { Context, KnownCheck } from './context';
import { forJob, log } from './log';
import { Refusal } from './refusal';
import { withSurvey } from './surveys';

/** Checks that are remembered. */
const REMEMBERED = 20;

const idOf = ({ of, partition }: VolumeAsked) => `${of} ${partition}`;

function remember({ volumeChecks }: Context, asked: VolumeAsked, known: KnownCheck): void {
  volumeChecks.delete(idOf(asked));
  volumeChecks.set(idOf(asked), known);
  if (volumeChecks.size > REMEMBERED) volumeChecks.delete(volumeChecks.keys().next().value!);
}

const NOTHING = { report: null, failure: null };

/** Where the check of a volume stands. What was found of an image that has changed since is not told. */
export function volumeCheck(context: Context, asked: VolumeAsked): Promise<VolumeCheckView> {
  return withSurvey(context, asked, ({ key }) => {
    const known = context.volumeChecks.get(idOf(asked));
    const outcome = known?.image === key ? known.outcome : undefined;
    const progress = context.volumeQueue.progress(idOf(asked)) ?? null;
    return Promise.resolve({ ...NOTHING, ...outcome, progress });
  });
}

/** Starts the check of all of a volume, in a thread of its own. */
export async function startVolumeCheck(context: Context, asked: VolumeAsked): Promise<VolumeCheckView> {
  await withSurvey(context, asked, ({ survey, name, key }) => {
    const found = survey.partitions.find((one) => one.key === asked.partition);
    if (!found)
      throw new Refusal(404, 'partition-unknown', `“${name}” has no partition “${asked.partition}”.`, 'partition');
    if (found.inside.kind !== 'known' || !isExt(found.inside.content))
      throw new Refusal(422, 'not-checked', 'Only ext2, ext3 and ext4 are checked as a whole.', 'partition');
    if (context.volumeQueue.progress(idOf(asked)))
      throw new Refusal(409, 'check-running', 'This volume is being checked already.', 'partition');
    remember(context, asked, { image: key });
    return Promise.resolve();
  });
  context.volumeQueue.add(idOf(asked), (signal, report) => forJob(() => run(context, asked, signal, report)));
  return volumeCheck(context, asked);
}

async function run(
  context: Context,
  asked: VolumeAsked,
  signal: AbortSignal,
  report: (phase: string, done: number, total: number) => void,
): Promise<void> {
  const reading = Reading.inBackground();
  try {
    await withSurvey(context, asked, async ({ survey, key, askOf }) => {
      const found = survey.partitions.find((one) => one.key === asked.partition)!;
      const place = { at: found.start * survey.sectorSize, available: found.sectors * survey.sectorSize };
      const check = await askOf(
        reading,
        'check',
        place,
        () => !signal.aborted,
        ({ phase, done, total }) => report(phase, done, total),
      );
      remember(context, asked, { image: key, outcome: { report: check, failure: null } });
    });
  } catch (error) {
    const image = context.volumeChecks.get(idOf(asked))?.image ?? '';
    if (!signal.aborted) log.warn('The check of a volume did not come to its end.', { volume: idOf(asked), error });
    remember(context, asked, { image, outcome: { report: null, failure: failureWords(error, signal.aborted) } });
  } finally {
    reading.end();
  }
}

function failureWords(error: unknown, isStopped: boolean): string {
  if (isStopped || error instanceof NoLongerAsked) return 'The check was stopped. Nothing was changed.';
  if (error instanceof SourceShrank)
    return 'The image became shorter while it was read. Check it again when nothing writes to it.';
  if (error instanceof BudgetSpent) return `The check needed more memory than it may have: ${error.message}`;
  return systemTrouble(error)?.sentence ?? `The check could not go on: ${(error as Error).message}`;
}

/** Asks the check of a volume to stop. */
export async function stopVolumeCheck(context: Context, asked: VolumeAsked): Promise<VolumeCheckView> {
  if (!context.volumeQueue.cancel(idOf(asked)))
    throw new Refusal(409, 'check-over', 'This volume is not being checked.', 'partition');
  return volumeCheck(context, asked);
}

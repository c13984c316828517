/** Every fault of a disk at every call: each piece of work is done whole, or is refused with a sentence and leaves nothing. */
import { appendFileSync } from 'node:fs';
import { checkFolder } from '@/keeping/check';
import { errorAnswer } from '@/server/http';
import { type Context, openContext } from '@/server/context';
import { calm, FAULTS, failAt, type Fault, hasFailed, mark } from './disk';
import { type Acknowledged, begin, WORK } from './work';

/** More calls than any piece of work makes. */
const MOST_CALLS = 5000;
/** Codes that say what the disk did; a fault in reading back is told as such too. */
const TOLD = new Set([
  'disk-full',
  'disk-fault',
  'too-many-open-files',
  'read-only',
  'cannot-open',
  'database-damaged',
  'database-refused',
  'read-back-differs',
]);

/** What a person is told of an error of a piece of work; undefined where it is only “something went wrong inside”. */
function toldOf(error: unknown): string | undefined {
  const log = console.error;
  console.error = () => undefined;
  const { code } = errorAnswer(error).answer.error;
  console.error = log;
  const own = (error as { code?: string }).code;
  return TOLD.has(code) ? code : own !== undefined && TOLD.has(own) ? own : undefined;
}

/** What is wrong with the folder, looked at in quiet. */
async function damages({ folder, db, now }: Context): Promise<string[]> {
  const signal = new AbortController().signal;
  const report = await checkFolder({
    folder,
    rows: db.raw,
    now,
    signal,
    onProgress: () => undefined,
    quarantines: false,
  });
  return report.damages.map(({ sentence, what }) => `${sentence} ${what}`);
}

interface Trial {
  readonly context: Context;
  readonly layout: string;
  readonly name: string;
  readonly fault: Fault;
}

/** One piece of work whose n-th call fails; false when it made fewer calls. */
async function failOnce(trial: Trial, n: number, round: number): Promise<{ hasFired: boolean; wrong: string[] }> {
  const { context, layout, name, fault } = trial;
  const told: Acknowledged[] = [];
  const wrong: string[] = [];
  failAt(fault, n);
  try {
    await WORK[name]!(context, (what) => (mark(what), told.push(what)), layout, round);
    calm();
  } catch (error) {
    calm();
    if (toldOf(error) === undefined) wrong.push(`is told as ${(error as Error).stack}`);
  }
  const hasFired = hasFailed();
  // The same work goes well when the disk does.
  if (hasFired)
    await WORK[name]!(context, mark, layout, round + 0.5).catch((error: Error) =>
      wrong.push(`cannot be done again: ${error.stack}`),
    );
  return { hasFired, wrong };
}

/** Opening a folder while a call fails: it opens, or says why, and opens in quiet. */
async function openOnce(data: string, fault: Fault, n: number): Promise<{ hasFired: boolean; wrong: string[] }> {
  failAt(fault, n);
  const wrong: string[] = [];
  try {
    const context = await openContext({ data });
    calm();
    await context.close();
  } catch (error) {
    calm();
    if (toldOf(error) === undefined) wrong.push(`is told as ${(error as Error).stack}`);
  }
  const hasFired = hasFailed();
  const context = await openContext({ data }).catch((error: Error) => void wrong.push(`does not open: ${error.stack}`));
  await context?.close();
  return { hasFired, wrong };
}

/**
 * Tries every fault at every call of every piece of work, or at a share of them, and writes a line
 * of JSON for each into `result`.
 */
export async function failEverywhere(data: string, result: string, share: number, random: () => number): Promise<void> {
  const say = (what: string, wrong: readonly string[]) =>
    appendFileSync(result, `${JSON.stringify({ what, wrong })}\n`);
  const quiet = console.error;
  console.error = () => undefined;
  let { context, layout } = await begin(data, mark);
  let round = 1;
  for (const name of Object.keys(WORK)) {
    for (const fault of Object.keys(FAULTS) as Fault[]) {
      for (let n = 1; n < MOST_CALLS; n++) {
        if (share < 1 && random() > share && n > 1) continue;
        const { hasFired, wrong } = await failOnce({ context, layout, name, fault }, n, round++);
        if (!hasFired) break;
        say(`${fault} at call ${n} of ${name}`, wrong);
      }
      say(`after ${fault} in ${name}`, await damages(context));
    }
  }
  await context.close();
  for (const fault of Object.keys(FAULTS) as Fault[])
    for (let n = 1; n < MOST_CALLS; n++) {
      if (share < 1 && random() > share && n > 1) continue;
      const { hasFired, wrong } = await openOnce(data, fault, n);
      if (!hasFired) break;
      say(`${fault} at call ${n} of opening`, wrong);
    }
  ({ context, layout } = await begin(data, mark));
  say('in the end', await damages(context));
  await context.close();
  console.error = quiet;
}

/** New images that are made of old ones, with a plan: what the commands have in common that make some. */
import { stat } from 'node:fs/promises';
import type { Gathered } from '@/core/change/before-after';
import type { Plan } from '@/core/change/plan';
import type { ReadStored } from '@/core/compose/source';
import type { SurveyFinding } from '@/core/findings/survey/finding';
import { counted, grouped, inBoth } from '@/core/quantity/units';
import { ChangedReadBackError, ImageChanged, writeChanged } from '@/files/changed-image';
import { ifThere } from '@/files/system-errors';
import { buildTrouble, refuseExisting } from './build';
import { Ended, EXIT, interrupted } from './exit';
import type { Io } from './io';
import { partFile } from './part-files';

/** What every command takes that makes an image of another one. */
export interface IntoArguments {
  readonly into?: string;
  readonly replace?: boolean;
  readonly json?: boolean;
}

/** An image is changed into another file, never in its place; and of a device none is made. */
async function refuseItself(from: string, into: string): Promise<void> {
  const [old, made] = [await stat(from), await ifThere(stat(into))];
  if (!old.isFile())
    throw new Ended(EXIT.file, 'not-a-file', `“${from}” is no plain file; a new image is made of one.`);
  if (made?.ino === old.ino && made.dev === old.dev)
    throw new Ended(EXIT.usage, 'usage-into', 'An image is not changed in its place: say another file with --into.');
}

/** What whoever makes the new file is told. */
interface NewFile {
  readonly path: string;
  readonly temporary: string;
  readonly isNew: boolean;
  readonly signal: AbortSignal;
  readonly onProgress: (progress: { phase: string; done: number; total: number }) => void;
}

/** Makes a new file of an image, whole or not at all; `ended` knows what else may be in the way. */
export async function madeOf<T>(
  io: Io,
  from: string,
  into: string,
  { replace, json }: IntoArguments,
  work: (file: NewFile) => Promise<T>,
  ended: (error: unknown) => Ended | undefined = () => undefined,
): Promise<T> {
  await refuseItself(from, into);
  await refuseExisting(into, replace === true);
  const { file } = await partFile(into);
  try {
    const made = await io.whole(() =>
      work({
        ...{ path: into, temporary: file, isNew: replace !== true, signal: io.signal },
        onProgress: ({ phase, done, total }) =>
          io.isTerminal && !json && io.error(`\r${phase}: ${inBoth(done)} of ${inBoth(total)}   `),
      }),
    );
    if (io.isTerminal && !json) io.error('\r\u001b[K');
    return made;
  } catch (error) {
    if (io.signal.aborted) throw interrupted(io.signal, 'Interrupted; nothing of the new file was left.');
    if (error instanceof ImageChanged) throw new Ended(EXIT.file, 'image-changed', error.message);
    if (error instanceof ChangedReadBackError) throw new Ended(EXIT.readBack, 'read-back-differs', error.message);
    throw ended(error) ?? (await buildTrouble(into, error));
  }
}

/** Makes the new image, and says what was written and compared. */
export async function imageChanged(
  io: Io,
  from: string,
  into: string,
  plan: Plan,
  options: IntoArguments,
  readStored?: ReadStored,
): Promise<string> {
  const { changed, equal, zeros } = await madeOf(io, from, into, options, (file) =>
    writeChanged({ from, plan, readStored, ...file }),
  );
  return `${into}: ${counted(changed, 'byte')} changed, ${grouped(equal)} equal to those of ${from}, compared one by one (${inBoth(zeros)} are zeros in both).\n`;
}

/** What a survey would find afterwards, in text. */
export function leftText(left: readonly SurveyFinding[]): string {
  return left.map((one) => `${one.severity}: ${one.sentence}\n`).join('') || 'nothing\n';
}

/** The same for machines. */
export function leftData(left: readonly SurveyFinding[]) {
  return left.map(({ rule, severity, sentence }) => ({ rule, severity, sentence }));
}

/** Ranges that are one thing, on a line; `whose` says who has them. */
export function gatheredText({ what, at, bytes, ranges }: Gathered, whose = ''): string {
  const many = ranges === 1 ? '' : ` in ${grouped(ranges)} ranges`;
  return `${whose}${what}: from byte ${grouped(at)}, ${inBoth(bytes)}${many}\n`;
}

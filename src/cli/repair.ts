/** `repair`: what is wrong with an image, what would mend it, range by range; with `--into`, a new image that is mended. */
import { stat } from 'node:fs/promises';
import type { PlannedRange } from '@/core/change/plan';
import { REPAIRS, repaired, type Tried } from '@/core/change/repair';
import { fieldChanges } from '@/core/change/told';
import { checkSurvey } from '@/core/findings/survey/check';
import { counted, grouped, inBoth } from '@/core/quantity/units';
import type { Survey } from '@/core/survey/found';
import { structuresOf } from '@/core/survey/structures';
import { surveyFitting, surveyMedium } from '@/core/survey/survey';
import { ChangedReadBackError, ImageChanged, writeChanged } from '@/files/changed-image';
import { ifThere } from '@/files/system-errors';
import { answerText } from './answering';
import { buildTrouble, refuseExisting } from './build';
import { Ended, EXIT, type Exit, interrupted } from './exit';
import type { Io } from './io';
import { withImage } from './open-image';
import { partFile } from './part-files';
import { printable } from './text';

export interface RepairArguments {
  readonly only?: readonly string[];
  readonly into?: string;
  readonly replace?: boolean;
  readonly sectorSize?: 512 | 4096;
  readonly json?: boolean;
}

/** What was found out about an image, and what would mend it. */
interface Proposal {
  readonly before: Survey;
  readonly after: Survey;
  readonly tried: readonly Tried[];
  readonly ranges: readonly PlannedRange[];
  readonly size: number;
}

function proposed(image: string, options: RepairArguments): Promise<Proposal> {
  return withImage(image, async (source, size) => {
    const at = (sectorSize: 512 | 4096) => surveyMedium(source, { sectorSize });
    const before = await (options.sectorSize ? at(options.sectorSize) : surveyFitting(at));
    const { draft, tried, after } = await repaired(
      source,
      (medium) => surveyMedium(medium, { sectorSize: before.sectorSize }),
      (rule, survey) => checkSurvey(survey).some((one) => one.rule === rule),
      options.only,
    );
    return { before, after, tried, size, ranges: (await draft.plan()).ranges };
  });
}

const changesOf = (range: PlannedRange, { before, after }: Proposal) =>
  fieldChanges(range, after.sectorSize, [structuresOf(after), structuresOf(before)]);

function proposalText(proposal: Proposal): string {
  const { tried, ranges, after } = proposal;
  if (tried.length === 0) return 'Nothing is to be mended.\n';
  const repairs = tried.map(({ repair, refused }) =>
    refused === undefined
      ? `${repair.id}: ${repair.label}\n    ${repair.why}\n`
      : `${repair.id}: cannot be done: ${refused}.\n`,
  );
  const written = ranges.map((range) => {
    const { what, at, after: bytes } = range;
    const fields = changesOf(range, proposal).map(
      (one) => `    sector ${grouped(one.sector)}, ${one.field}: ${one.before} becomes ${one.after}\n`,
    );
    return `${what}: byte ${grouped(at)}, ${inBoth(bytes.length)}\n${fields.join('')}`;
  });
  const left = checkSurvey(after).map((one) => `${one.severity}: ${one.sentence}\n`);
  return `${repairs.join('')}\nWould be written:\n${written.join('') || 'nothing\n'}\nFound afterwards:\n${left.join('') || 'nothing\n'}`;
}

function proposalData(proposal: Proposal, image: string | undefined) {
  const { tried, ranges, after } = proposal;
  return {
    repairs: tried.map(({ repair, refused }) => ({ id: repair.id, rules: repair.rules, label: repair.label, refused })),
    ranges: ranges.map((range) => ({
      what: range.what,
      offset: range.at,
      length: range.after.length,
      changes: changesOf(range, proposal),
    })),
    left: checkSurvey(after).map(({ rule, severity, sentence }) => ({ rule, severity, sentence })),
    image,
  };
}

/** An image is changed into another file, never in its place; and of a device none is made. */
async function refuseItself(from: string, into: string): Promise<void> {
  const [old, made] = [await stat(from), await ifThere(stat(into))];
  if (!old.isFile())
    throw new Ended(EXIT.file, 'not-a-file', `“${from}” is no plain file; a new image is made of one.`);
  if (made?.ino === old.ino && made.dev === old.dev)
    throw new Ended(EXIT.usage, 'usage-into', 'An image is not changed in its place: say another file with --into.');
}

async function written(
  io: Io,
  from: string,
  into: string,
  proposal: Proposal,
  options: RepairArguments,
): Promise<string> {
  await refuseItself(from, into);
  await refuseExisting(into, options.replace === true);
  const part = await partFile(into);
  try {
    const { changed, equal } = await io.whole(async () =>
      writeChanged({
        from,
        plan: { size: proposal.size, ranges: proposal.ranges },
        path: into,
        temporary: part.file,
        isNew: options.replace !== true,
        signal: io.signal,
        onProgress: ({ phase, done, total }) =>
          io.isTerminal && !options.json && io.error(`\r${phase}: ${inBoth(done)} of ${inBoth(total)}   `),
      }),
    );
    if (io.isTerminal && !options.json) io.error('\r\u001b[K');
    return `${into}: ${counted(changed, 'byte')} changed, ${grouped(equal)} equal to those of ${from}, compared one by one.\n`;
  } catch (error) {
    if (io.signal.aborted) throw interrupted(io.signal, 'Interrupted; nothing of the image was left.');
    if (error instanceof ImageChanged) throw new Ended(EXIT.file, 'image-changed', error.message);
    if (error instanceof ChangedReadBackError) throw new Ended(EXIT.readBack, 'read-back-differs', error.message);
    throw await buildTrouble(into, error);
  }
}

/** `repair`: shows what would mend the table of an image; makes a new image of it where that is asked. */
export async function repair(io: Io, image: string, options: RepairArguments): Promise<Exit> {
  const unknown = options.only?.find((one) => !REPAIRS.some(({ id }) => id === one));
  if (unknown !== undefined)
    throw new Ended(EXIT.usage, 'usage-repair', `There is no repair “${unknown}”.`, [
      `There are: ${REPAIRS.map(({ id }) => id).join(', ')}.`,
    ]);
  const proposal = await proposed(image, options);
  const { into } = options;
  const isMade = into !== undefined && proposal.ranges.length > 0;
  const said = isMade ? await written(io, image, into, proposal, options) : '';
  if (into !== undefined && !isMade) io.remark('Nothing is to be written: no image was made.');
  io.out(
    options.json
      ? answerText('repair', proposalData(proposal, isMade ? into : undefined))
      : printable(proposalText(proposal) + said),
  );
  if (proposal.tried.some(({ refused }) => refused !== undefined)) return EXIT.stop;
  return proposal.ranges.length > 0 && !isMade ? EXIT.risk : EXIT.done;
}

/** `repair`: what is wrong with an image, what would mend it, range by range; with `--into`, a new image that is mended. */
import { type Plan, plannedLength, type PlannedRange } from '@/core/change/plan';
import { repairs } from '@/core/change/proposal';
import { REPAIRS, type Repaired } from '@/core/change/repair';
import { fieldChanges } from '@/core/change/told';
import { checkSurvey } from '@/core/findings/survey/check';
import { grouped, inBoth } from '@/core/quantity/units';
import type { Survey } from '@/core/survey/found';
import { structuresOf } from '@/core/survey/structures';
import { answerText } from './answering';
import { imageChanged, type IntoArguments, leftData, leftText } from './changed';
import { Ended, EXIT, type Exit } from './exit';
import type { Io } from './io';
import { surveyed, withWholeImage } from './open-image';
import { printable } from './text';

export interface RepairArguments extends IntoArguments {
  readonly only?: readonly string[];
  readonly sectorSize?: 512 | 4096;
}

/** What was found out about an image, and what would mend it. */
interface Proposal extends Omit<Repaired, 'draft'> {
  readonly before: Survey;
  readonly plan: Plan;
}

function proposed(image: string, options: RepairArguments): Promise<Proposal> {
  return withWholeImage(image, async (source) => {
    const before = await surveyed(source, options.sectorSize);
    const { draft, ...found } = await repairs(source, before, options.only);
    return { ...found, before, plan: await draft.plan() };
  });
}

const changesOf = (range: PlannedRange, { before, after }: Proposal) =>
  fieldChanges(range, after.sectorSize, [structuresOf(after), structuresOf(before)]);

const onRequestText = ({ onRequest }: Proposal) =>
  onRequest.length === 0
    ? ''
    : `\nOnly where it is asked for (--only NAME):\n${onRequest.map(({ id, label }) => `    ${id}: ${label}\n`).join('')}`;

function proposalText(proposal: Proposal): string {
  const {
    tried,
    after,
    plan: { ranges },
  } = proposal;
  if (tried.length === 0) return `Nothing is to be mended.\n${onRequestText(proposal)}`;
  const repairs = tried.map(
    ({ repair, refused, says }) =>
      (refused === undefined
        ? `${repair.id}: ${repair.label}\n    ${repair.why}\n`
        : `${repair.id}: cannot be done: ${refused}.\n`) + says.map((one) => `    ${one}\n`).join(''),
  );
  const written = ranges.map((range) => {
    const { what, extent } = range;
    const fields = changesOf(range, proposal).map(
      (one) => `    sector ${grouped(one.sector)}, ${one.field}: ${one.before} becomes ${one.after}\n`,
    );
    return `${what}: byte ${grouped(extent.offset)}, ${inBoth(plannedLength(extent))}\n${fields.join('')}`;
  });
  return `${repairs.join('')}\nWould be written:\n${written.join('') || 'nothing\n'}\nFound afterwards:\n${leftText(checkSurvey(after))}${onRequestText(proposal)}`;
}

function proposalData(proposal: Proposal, image: string | undefined) {
  const {
    tried,
    onRequest,
    after,
    plan: { ranges },
  } = proposal;
  return {
    repairs: tried.map(({ repair: { id, rules, label }, refused, says }) => ({ id, rules, label, refused, says })),
    onRequest: onRequest.map(({ id, rules, label }) => ({ id, rules, label })),
    ranges: ranges.map((range) => ({
      what: range.what,
      offset: range.extent.offset,
      length: plannedLength(range.extent),
      changes: changesOf(range, proposal),
    })),
    left: leftData(checkSurvey(after)),
    image,
  };
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
  const isMade = into !== undefined && proposal.plan.ranges.length > 0;
  const said = isMade ? await imageChanged(io, image, into, proposal.plan, options) : '';
  if (into !== undefined && !isMade) io.remark('Nothing is to be written: no image was made.');
  io.out(
    options.json
      ? answerText('repair', proposalData(proposal, isMade ? into : undefined))
      : printable(proposalText(proposal) + said),
  );
  if (proposal.tried.some(({ refused }) => refused !== undefined)) return EXIT.stop;
  return proposal.plan.ranges.length > 0 && !isMade ? EXIT.risk : EXIT.done;
}

/** `accept`: a risk is taken, with a reason, in the document itself. */
import { acceptingAll, openRisks } from '@/core/findings/layout/acceptance';
import { check } from '@/core/findings/layout/check';
import type { Finding } from '@/core/findings/layout/finding';
import { applyEdit } from '@/core/layout/edits';
import { placeWritten } from '@/core/naming/written';
import { REASON_LIMIT } from '@/core/layout/vocabulary';
import { withAcceptedRisks } from '@/core/layout/written';
import { answerText } from './answering';
import { type DocumentOptions, supplied } from './commands';
import { Ended, EXIT, type Exit } from './exit';
import { type Io, replaceText } from './io';
import { printable } from './text';

export interface AcceptArguments extends DocumentOptions {
  readonly rule?: string;
  readonly slot?: string;
  readonly all?: boolean;
  readonly reason: string;
}

const slotOf = ({ place }: Finding) => (place.kind === 'slot' ? place.id : undefined);
const named = (finding: Finding) => [finding.rule, slotOf(finding)].filter(Boolean).join(' of ');

function chosen(open: readonly Finding[], { rule, slot, all = false }: AcceptArguments): readonly Finding[] {
  if (all === (rule !== undefined))
    throw new Ended(EXIT.usage, 'usage-what', 'Say which risk: --rule, where it is about one --slot, or --all.');
  const found = open.filter(
    (one) => (rule === undefined || one.rule === rule) && (slot === undefined || slotOf(one) === slot),
  );
  if (found.length > 0) return found;
  const sentence = open.length === 0 ? 'No risk is open.' : 'No open risk is that one. Open are:';
  throw new Ended(
    EXIT.usage,
    'no-such-risk',
    sentence,
    open.map((one) => `${named(one)}: ${one.sentence}`),
  );
}

/** `accept`: writes the reason into the document; through the standard input, the document to the output. */
export async function accept(io: Io, name: string, options: AcceptArguments): Promise<Exit> {
  const reason = options.reason.trim();
  if (reason === '' || reason.length > REASON_LIMIT || /[\p{Cc}\p{Zl}\p{Zp}]/u.test(reason))
    throw new Ended(EXIT.usage, 'usage-reason', `A reason is one line of 1 to ${REASON_LIMIT} characters.`);
  const { layout, contents, isOlder, text } = await supplied(io, name, options);
  if (isOlder)
    throw new Ended(
      EXIT.document,
      'document-older',
      `“${name}” is of an older version; bring it to this one first (import it, and export it).`,
    );
  const risks = chosen(openRisks(check(placeWritten(layout, contents))), options);
  const after = applyEdit(layout, acceptingAll(layout, risks, reason));
  const next = withAcceptedRisks(text, layout.accepted, after.accepted);
  if (name === '-') {
    io.out(next);
    return EXIT.done;
  }
  await replaceText(io, name, next);
  const accepted = risks.map((one) => ({ rule: one.rule, slot: slotOf(one), sentence: one.sentence, reason }));
  const lines = risks.map((one) => `accepted: ${named(one)}: ${one.sentence}\n`);
  io.out(options.json ? answerText('accept', { accepted }) : printable(lines.join('')));
  return EXIT.done;
}

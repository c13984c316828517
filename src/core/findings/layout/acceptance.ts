/**
 * Accepted risks: a risk that a person took, with the reason, stands in the document. It holds
 * for the sentence as it was then: when the figures in it change, the risk comes back.
 */
import type { RuleDeclaration } from '../severity';
import type { Accepted, Layout } from '../../layout/document';
import { type Edit, editsInTurn } from '../../layout/edits';
import { type Finding } from './finding';

function slotOf({ place }: Finding): string | undefined {
  return place.kind === 'slot' ? place.id : undefined;
}

/** Longest sentence that a document keeps, in characters. */
const SENTENCE_LIMIT = 600;

/** A sentence as a document keeps it. */
function kept({ sentence }: Pick<Finding, 'sentence'>): string {
  return sentence.length > SENTENCE_LIMIT ? `${sentence.slice(0, SENTENCE_LIMIT - 1)}…` : sentence;
}

function isAbout(one: Accepted, finding: Finding): boolean {
  return finding.severity === 'risk' && one.rule === finding.rule && one.slot === slotOf(finding);
}

/** A finding with its reason, or with one that was given for older figures and holds for no other finding; `used` hold. */
function withReason(finding: Finding, accepted: readonly Accepted[], used: ReadonlySet<Accepted>): Finding {
  const about = accepted.filter((one) => isAbout(one, finding));
  const exact = about.find((one) => one.sentence === kept(finding));
  if (exact) return { ...finding, accepted: exact.reason };
  const before = about.find((one) => !used.has(one));
  return before ? { ...finding, acceptedBefore: before } : finding;
}

/** What is found in the document's accepted risks, and by no rule about the placement. */
export const RISK_IS_GONE: RuleDeclaration = { id: 'acceptance/risk-is-gone', severity: 'note' };

function goneRisk(layout: Layout, one: Accepted): Finding {
  return {
    rule: RISK_IS_GONE.id,
    severity: RISK_IS_GONE.severity,
    place: one.slot === undefined ? { kind: 'medium' } : { kind: 'slot', id: one.slot },
    sentence: `A risk was accepted that does not stand any more: “${one.sentence}”`,
    why: `The reason was: ${one.reason}`,
    remedies: [{ label: 'Forget it', edit: withAccepted(layout, (other) => other !== one) }],
  };
}

function withAccepted(layout: Layout, keep: (one: Accepted) => boolean, added: readonly Accepted[] = []): Edit {
  const accepted = [...(layout.accepted ?? []).filter(keep), ...added];
  return { do: 'change layout', patch: { accepted: accepted.length > 0 ? accepted : undefined } };
}

/** Findings with the reasons for the risks that were accepted, and a note for each reason without a risk. */
export function withAcceptance(findings: readonly Finding[], layout: Layout): Finding[] {
  const accepted = layout.accepted ?? [];
  if (accepted.length === 0) return [...findings];
  const gone = accepted.filter((one) => !findings.some((finding) => isAbout(one, finding)));
  const used = new Set(
    accepted.filter((one) => findings.some((finding) => isAbout(one, finding) && one.sentence === kept(finding))),
  );
  return [
    ...findings.map((finding) => withReason(finding, accepted, used)),
    ...gone.map((one) => goneRisk(layout, one)),
  ];
}

/** The edit that accepts a risk for this reason; a reason for its older figures is replaced. */
export function accepting(layout: Layout, finding: Finding, reason: string): Edit {
  const slot = slotOf(finding);
  const added: Accepted = {
    rule: finding.rule,
    ...(slot !== undefined && { slot }),
    sentence: kept(finding),
    reason,
  };
  const isReplaced = (one: Accepted) =>
    one === finding.acceptedBefore || (isAbout(one, finding) && one.sentence === kept(finding));
  return withAccepted(layout, (one) => !isReplaced(one), [added]);
}

/** The edit that accepts several risks for one reason. */
export function acceptingAll(layout: Layout, findings: readonly Finding[], reason: string): Edit {
  const edits = editsInTurn(layout, findings, (so, finding) => accepting(so, finding, reason));
  return { do: 'several', edits };
}

/** The edit that takes an acceptance back. */
export function unaccepting(layout: Layout, finding: Finding): Edit {
  return withAccepted(layout, (one) => !(isAbout(one, finding) && one.sentence === kept(finding)));
}

/** Risks that nobody has accepted yet. */
export function openRisks(findings: readonly Finding[]): Finding[] {
  return findings.filter((one) => one.severity === 'risk' && one.accepted === undefined);
}

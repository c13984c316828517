/** How grave a finding is, about a layout or about a survey. */

/** `stop`: no build. `risk`: works here, may fail there. `note`: advice. */
export type Severity = 'stop' | 'risk' | 'note';

const ORDER: Readonly<Record<Severity, number>> = { stop: 0, risk: 1, note: 2 };

/** The gravest first; those of one severity stay in their order. */
export function byGravity<F extends { readonly severity: Severity }>(findings: readonly F[]): F[] {
  return [...findings].sort((a, b) => ORDER[a.severity] - ORDER[b.severity]);
}

/** What a rule is known by, before it finds anything. */
export interface RuleDeclaration {
  /** Area and name, as in `fat/too-small`: a document that accepts a risk names it so. */
  readonly id: string;
  /** How grave its findings are; the gravest, where that depends on the case. */
  readonly severity: Severity;
}

/** What a rule finds in one case: everything of a finding that the declaration does not say. */
export type CaseOf<F extends { readonly rule: string; readonly severity: Severity }> = Omit<F, 'rule' | 'severity'> & {
  /** Where this case is less grave than the rule. */
  readonly severity?: Severity;
};

/** A rule of findings `F` about `T`: a function that knows its own declaration. */
export type DeclaredRule<T, F> = RuleDeclaration & ((about: T) => readonly F[]);

const NONE: readonly never[] = [];

/** Declares a rule; its cases become findings with its id and severity. */
export function declared<T, F extends { readonly rule: string; readonly severity: Severity }>(
  id: string,
  severity: Severity,
  find: (about: T) => readonly CaseOf<F>[],
): DeclaredRule<T, F> {
  const run = (about: T): readonly F[] => {
    const cases = find(about);
    // Most rules find nothing, with every move of a hand.
    return cases.length === 0 ? NONE : cases.map((one) => ({ rule: id, severity, ...one }) as unknown as F);
  };
  return Object.assign(run, { id, severity });
}

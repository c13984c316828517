/** How many findings there are, in words: as every screen and the terminal say it. */
import { counted } from '../quantity/units';
import type { Severity } from './severity';

interface Counted {
  readonly severity: Severity;
  readonly accepted?: string;
}

/** How many findings of each severity; risks that were accepted are counted apart. */
export function tally(findings: readonly Counted[]): string {
  const of = (severity: Severity) => findings.filter((one) => one.severity === severity);
  const accepted = of('risk').filter((one) => one.accepted !== undefined).length;
  const apart = accepted > 0 ? ` (${accepted} accepted)` : '';
  return `${counted(of('stop').length, 'stop')}, ${counted(of('risk').length, 'risk')}${apart}, ${counted(of('note').length, 'note')}`;
}

/** How findings end a command, and what keeps a build from beginning. */
import { openRisks } from '@/core/findings/layout/acceptance';
import { type Finding, stopsAmong } from '@/core/findings/layout/finding';
import { Ended, EXIT, type Exit } from './exit';

/** The number that findings end with. */
export function exitFor(findings: readonly Finding[]): Exit {
  if (stopsAmong(findings).length > 0) return EXIT.stop;
  return openRisks(findings).length > 0 ? EXIT.risk : EXIT.done;
}

/** Ends the program where a stop, or a risk that nobody accepted, stands against a build. */
export function refuseBuild(findings: readonly Finding[]): void {
  const exit = exitFor(findings);
  if (exit === EXIT.done) return;
  const against = exit === EXIT.stop ? stopsAmong(findings) : openRisks(findings);
  const sentence =
    exit === EXIT.stop
      ? 'A stop prevents the build.'
      : 'A risk stands that is not accepted in the document, with a reason.';
  throw new Ended(
    exit,
    exit === EXIT.stop ? 'layout-has-stops' : 'layout-has-risks',
    sentence,
    against.map((one) => `${one.rule}: ${one.sentence}`),
  );
}

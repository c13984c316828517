/** How findings end a command, and what keeps a build from beginning. */
import { openRisks } from '@/core/findings/layout/acceptance';
import { type Finding, stopsAmong } from '@/core/findings/layout/finding';
import type { Layout } from '@/core/layout/document';
import { notFromNothing } from '@/core/layout/kept';
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

/** A layout that keeps something is not built from nothing. */
export function refuseKept(layout: Layout): void {
  const sentence = notFromNothing(layout);
  if (sentence)
    throw new Ended(EXIT.stop, 'layout-keeps', sentence, [
      'Make it of that image: loess change … --on IMAGE --into NEW.',
    ]);
}

'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { LayoutView } from '@/contract/layouts';
import { acceptingAll, openRisks } from '@/core/findings/layout/acceptance';
import { type Finding, stopsAmong } from '@/core/findings/layout/finding';
import { describeEdit } from '@/core/layout/describe';
import { applyEdit } from '@/core/layout/edits';
import { saveRevision } from '../api';
import { tellOthers } from '../designer/state/windows';
import { type Accept, useAskReason } from '../kit/AskReason';
import { FindingLine } from '../kit/FindingList';

/** A stop or a risk; a risk can be accepted where it stands. */
function Objection({ finding, open, accept }: { finding: Finding; open: number; accept: Accept }) {
  const { button, question } = useAskReason(finding, open, accept);
  return (
    <FindingLine finding={finding} below={question}>
      {button}
    </FindingLine>
  );
}

/** What stands against an image: stops and risks, each where it can be accepted. */
export function Objections({ view, findings }: { view: LayoutView; findings: readonly Finding[] }) {
  const router = useRouter();
  const [refused, setRefused] = useState<string>();
  const objections = findings.filter((one) => one.severity !== 'note');
  const open = openRisks(findings);
  const accept = (accepted: readonly Finding[], reason: string) => {
    const edit = acceptingAll(view.document, accepted, reason);
    const change = {
      base: view.revision,
      document: applyEdit(view.document, edit),
      note: describeEdit(view.document, edit),
      step: crypto.randomUUID(),
    };
    void saveRevision(view.id, change).then((answer) => {
      setRefused(answer.ok ? undefined : answer.error.sentence);
      if (answer.ok) tellOthers(answer.value);
      router.refresh();
    });
  };
  if (objections.length === 0) return <p className="mt-2 text-soft">No stop and no risk stands against a build.</p>;
  return (
    <ul className="mt-2" aria-live="polite">
      {objections.map((finding) => (
        <Objection
          key={finding.rule + JSON.stringify(finding.place) + finding.sentence}
          finding={finding}
          open={open.length}
          accept={(reason, all) => accept(all ? open : [finding], reason)}
        />
      ))}
      {refused && (
        <li role="alert" className="py-1 text-stop">
          {refused}
        </li>
      )}
      {stopsAmong(findings).length + open.length > 0 && (
        <li className="border-t border-hair py-1">
          Stops and open risks prevent a build.{' '}
          <Link className="underline" href={`/layouts/${view.id}`}>
            Back to the designer
          </Link>
          , where most have a remedy.
        </li>
      )}
    </ul>
  );
}

/** What prevents a build, said at the button. */
export function obstacleText(stops: number, risks: number): string | undefined {
  if (stops > 0) return `${stops === 1 ? 'A stop prevents' : `${stops} stops prevent`} it.`;
  if (risks === 0) return undefined;
  return `${risks === 1 ? 'A risk waits' : `${risks} risks wait`} to be mended, or accepted with a reason.`;
}

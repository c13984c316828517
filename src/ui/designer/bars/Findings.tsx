'use client';

import { acceptingAll, openRisks, unaccepting } from '@/core/findings/layout/acceptance';
import type { FileRemedy } from '@/core/findings/layout/file-remedies';
import type { Finding, Place } from '@/core/findings/layout/finding';
import { useAskReason } from '../../kit/AskReason';
import { Button } from '../../kit/Button';
import { FindingBar, FindingLine } from '../../kit/FindingList';
import type { ListPlace } from '../../kit/useLongRows';
import { useDesigner, useDesignerNow } from '../state/context';
import { focusColumn } from '../state/focus';

/** Findings below the column: each goes to its place, and offers its remedies. */
export function Findings() {
  const findings = useDesigner((state) => state.findings);
  return (
    <FindingBar
      findings={findings}
      none="Nothing was found: the layout fits, and every rule is kept. Build when you are ready."
      line={(finding, at) => <Line key={`${finding.rule}-${at.index}`} finding={finding} at={at} />}
    />
  );
}

function useNameOf(place: Place): string {
  const slots = useDesigner((state) => state.document.slots);
  if (place.kind !== 'slot') return PLACE_NAMES[place.kind];
  return slots.find((slot) => slot.id === place.id)?.name ?? place.id;
}

function Line({ finding, at }: { readonly finding: Finding; readonly at: ListPlace }) {
  const select = useDesigner((state) => state.select);
  const commit = useDesigner((state) => state.commit);
  const layout = useDesigner((state) => state.document);
  const findings = useDesigner((state) => state.findings);
  const risks = openRisks(findings);
  const { button, question } = useAskReason(finding, risks.length, (reason, all) =>
    commit(acceptingAll(layout, all ? risks : [finding], reason)),
  );
  const { place, accepted } = finding;
  const name = useNameOf(place);
  const go = () => select(place.kind === 'slot' ? place : { kind: place.kind === 'table' ? 'table' : 'layout' });
  return (
    <FindingLine
      finding={finding}
      at={at}
      place={{ text: name, go }}
      more={accepted === undefined && <Before finding={finding} />}
      below={question}
    >
      {accepted === undefined && <Remedies finding={finding} />}
      {button}
      {accepted !== undefined && <TakeBack finding={finding} />}
    </FindingLine>
  );
}

/** The remedies of a finding, each a button that changes the layout. */
export function Remedies({ finding }: { readonly finding: Finding }) {
  const commit = useDesigner((state) => state.commit);
  const now = useDesignerNow();
  // The button goes with its finding: the focus goes back to the column.
  const done = (work: () => void) => {
    work();
    focusColumn();
  };
  const mend = (remedy: FileRemedy) =>
    void import('../../contents/mend-files').then(({ mendFiles }) => mendFiles(now, remedy));
  return (
    <>
      {finding.remedies.map(({ label, edit }) => (
        <Button key={label} onClick={() => done(() => commit(edit))} className="py-0.5">
          {label}
        </Button>
      ))}
      {finding.fileRemedies?.map((remedy) => (
        <Button key={remedy.label} onClick={() => done(() => mend(remedy))} className="py-0.5">
          {remedy.label}
        </Button>
      ))}
    </>
  );
}

/** Why a risk was accepted when its figures were others. */
function Before({ finding: { acceptedBefore } }: { finding: Finding }) {
  if (!acceptedBefore) return null;
  return (
    <span className="block text-risk">
      It was accepted (“{acceptedBefore.reason}”) when it said: {acceptedBefore.sentence}
    </span>
  );
}

function TakeBack({ finding }: { finding: Finding }) {
  const layout = useDesigner((state) => state.document);
  const commit = useDesigner((state) => state.commit);
  return (
    <Button look="quiet" onClick={() => commit(unaccepting(layout, finding))} className="py-0.5">
      Take it back
    </Button>
  );
}

const PLACE_NAMES = { medium: 'Medium', table: 'Table', boots: 'Starting' } as const;

'use client';

import { useState } from 'react';
import { accepting, unaccepting } from '@/core/findings/layout/acceptance';
import type { Finding, Place } from '@/core/findings/layout/finding';
import { REASON_LIMIT } from '@/core/layout/vocabulary';
import { Button } from '../../kit/Button';
import { FindingBar, FindingLine, type ListPlace } from '../../kit/FindingList';
import { useDesigner } from '../state/context';

/** Findings below the column: each goes to its place, and offers its remedies. */
export function Findings() {
  const findings = useDesigner((state) => state.findings);
  return (
    <FindingBar
      findings={findings}
      none="Nothing to say: the layout fits, and no rule objects. Build when you are ready."
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
  const [asking, setAsking] = useState(false);
  const { place, accepted } = finding;
  const name = useNameOf(place);
  const go = () => select(place.kind === 'slot' ? place : { kind: place.kind === 'table' ? 'table' : 'layout' });
  const isOpen = finding.severity === 'risk' && accepted === undefined;
  return (
    <FindingLine
      finding={finding}
      at={at}
      place={{ text: name, go }}
      more={accepted === undefined && <Before finding={finding} />}
      below={asking && isOpen && <AskReason finding={finding} onDone={() => setAsking(false)} />}
    >
      {accepted === undefined && <Remedies finding={finding} />}
      {isOpen && !asking && (
        <Button look="quiet" onClick={() => setAsking(true)} className="py-0.5">
          Accept with a reason
        </Button>
      )}
      {accepted !== undefined && <TakeBack finding={finding} />}
    </FindingLine>
  );
}

/** The remedies of a finding, each a button that changes the layout. */
export function Remedies({ finding }: { readonly finding: Finding }) {
  const commit = useDesigner((state) => state.commit);
  return finding.remedies.map(({ label, edit }) => (
    <Button key={label} onClick={() => commit(edit)} className="py-0.5">
      {label}
    </Button>
  ));
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

/** Asks for the reason; Enter accepts, Escape gives up. */
function AskReason({ finding, onDone }: { finding: Finding; onDone: () => void }) {
  const layout = useDesigner((state) => state.document);
  const commit = useDesigner((state) => state.commit);
  const [reason, setReason] = useState(finding.acceptedBefore?.reason ?? '');
  const accept = () => {
    if (reason.trim() === '') return;
    commit(accepting(layout, finding, reason.trim()));
    onDone();
  };
  return (
    <form
      className="col-span-3 col-start-2 flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        accept();
      }}
    >
      <label className="flex flex-1 items-center gap-2">
        <span className="text-soft">Reason</span>
        <input
          autoFocus
          value={reason}
          maxLength={REASON_LIMIT}
          onChange={(event) => setReason(event.target.value)}
          onKeyDown={(event) => event.key === 'Escape' && onDone()}
          placeholder="it becomes part of the document and of the build’s report"
          className="w-full rounded-[5px] border border-edge bg-paper px-2 py-[2px]"
        />
      </label>
      <Button type="submit" disabled={reason.trim() === ''} className="py-0.5">
        Accept
      </Button>
      <Button look="quiet" onClick={onDone} className="py-0.5">
        Leave it
      </Button>
    </form>
  );
}

const PLACE_NAMES = { medium: 'Medium', table: 'Table', boots: 'Starting' } as const;

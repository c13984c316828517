'use client';

import { useState } from 'react';
import { accepting, openRisks, unaccepting } from '@/core/findings/layout/acceptance';
import type { Finding, Place } from '@/core/findings/layout/finding';
import type { Severity } from '@/core/findings/severity';
import { REASON_LIMIT } from '@/core/layout/vocabulary';
import { Button } from '../kit/Button';
import { Mark } from '../kit/Mark';
import { useDesigner } from './context';

/** How many findings of each severity, in words; risks that were accepted are counted apart. */
export function tally(findings: readonly Finding[]): string {
  const count = (severity: Severity) => findings.filter((one) => one.severity === severity).length;
  const say = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`;
  const accepted = count('risk') - openRisks(findings).length;
  const told = accepted > 0 ? ` (${accepted} accepted)` : '';
  return `${say(count('stop'), 'stop')}, ${say(count('risk'), 'risk')}${told}, ${say(count('note'), 'note')}`;
}

/** Findings below the column: each goes to its place, and offers its remedies. */
export function Findings() {
  const findings = useDesigner((state) => state.findings);
  return (
    <section aria-label="Findings" className="flex max-h-[134px] flex-col border-t border-line bg-card px-4 py-1.5">
      <h2 className="flex gap-3 pb-1 text-sm">
        <b className="font-semibold">Findings</b>
        <span className="text-soft" aria-live="polite">
          {tally(findings)}
        </span>
      </h2>
      <ul className="min-h-0 flex-1 overflow-y-auto">
        {findings.map((finding, i) => (
          <Line key={`${finding.rule}-${i}`} finding={finding} />
        ))}
        {findings.length === 0 && (
          <li className="border-t border-hair py-2 text-soft">
            Nothing to say: the layout fits, and no rule objects. Build when you are ready.
          </li>
        )}
      </ul>
    </section>
  );
}

function useNameOf(place: Place): string {
  const slots = useDesigner((state) => state.document.slots);
  if (place.kind !== 'slot') return PLACE_NAMES[place.kind];
  return slots.find((slot) => slot.id === place.id)?.name ?? place.id;
}

function Line({ finding }: { finding: Finding }) {
  const commit = useDesigner((state) => state.commit);
  const select = useDesigner((state) => state.select);
  const [asking, setAsking] = useState(false);
  const { place, accepted } = finding;
  const name = useNameOf(place);
  const go = () => select(place.kind === 'slot' ? place : { kind: place.kind === 'table' ? 'table' : 'layout' });
  const isOpen = finding.severity === 'risk' && accepted === undefined;
  return (
    <li className="grid grid-cols-[14px_118px_1fr_auto] items-center gap-2.5 border-t border-hair py-1">
      <Mark severity={finding.severity} hollow={accepted !== undefined} />
      <button type="button" onClick={go} className="truncate text-left font-semibold hover:underline">
        {name}
      </button>
      <span className={accepted === undefined ? '' : 'text-soft'}>
        {finding.sentence} <span className="text-soft">{finding.why}</span>
        <Reason finding={finding} />
      </span>
      <span className="flex flex-wrap justify-end gap-1.5">
        {accepted === undefined &&
          finding.remedies.map((remedy) => (
            <Button key={remedy.label} onClick={() => commit(remedy.edit)} className="py-0.5">
              {remedy.label}
            </Button>
          ))}
        {isOpen && !asking && (
          <Button look="quiet" onClick={() => setAsking(true)} className="py-0.5">
            Accept with a reason
          </Button>
        )}
        {accepted !== undefined && <TakeBack finding={finding} />}
      </span>
      {asking && isOpen && <AskReason finding={finding} onDone={() => setAsking(false)} />}
    </li>
  );
}

/** Why a risk was accepted; or why it once was, when its figures were others. */
function Reason({ finding: { accepted, acceptedBefore } }: { finding: Finding }) {
  if (accepted !== undefined) return <b className="block font-semibold text-moss">Accepted: {accepted}</b>;
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

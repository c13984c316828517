'use client';

import type { Finding, Severity } from '@/core/findings/finding';
import { Button } from '../kit/Button';
import { Mark } from '../kit/Mark';
import { useDesigner } from './context';

/** How many findings of each severity, in words. */
export function tally(findings: readonly Finding[]): string {
  const count = (severity: Severity) => findings.filter((one) => one.severity === severity).length;
  const say = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`;
  return `${say(count('stop'), 'stop')}, ${say(count('risk'), 'risk')}, ${say(count('note'), 'note')}`;
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

function Line({ finding }: { finding: Finding }) {
  const commit = useDesigner((state) => state.commit);
  const select = useDesigner((state) => state.select);
  const slots = useDesigner((state) => state.document.slots);
  const { place } = finding;
  const name =
    place.kind === 'slot' ? (slots.find((slot) => slot.id === place.id)?.name ?? place.id) : PLACE_NAMES[place.kind];
  const go = () => select(place.kind === 'slot' ? place : { kind: place.kind === 'table' ? 'table' : 'layout' });
  return (
    <li className="grid grid-cols-[14px_118px_1fr_auto] items-center gap-2.5 border-t border-hair py-1">
      <Mark severity={finding.severity} />
      <button type="button" onClick={go} className="truncate text-left font-semibold hover:underline">
        {name}
      </button>
      <span>
        {finding.sentence} <span className="text-soft">{finding.why}</span>
      </span>
      <span className="flex gap-1.5">
        {finding.remedies.map((remedy) => (
          <Button key={remedy.label} onClick={() => commit(remedy.edit)} className="py-0.5">
            {remedy.label}
          </Button>
        ))}
      </span>
    </li>
  );
}

const PLACE_NAMES = { medium: 'Medium', table: 'Table', boots: 'Starting' } as const;

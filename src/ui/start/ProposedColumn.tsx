'use client';

import type { Proposal } from '@/core/advice/propose';
import { check } from '@/core/findings/layout/check';
import { TABLE_NAMES } from '@/core/layout/vocabulary';
import { place } from '@/core/placement/place';
import { grouped, inBoth } from '@/core/quantity/units';
import { FindingLine } from '../kit/FindingList';
import { MiniColumn } from '../column/MiniColumn';
import { tally } from '@/core/findings/tally';

const QUESTION_NAMES = {
  boots: 'What boots it',
  use: 'What it is for',
  medium: 'How big',
  memory: 'Memory',
  hibernates: 'Hibernation',
  readers: 'Who reads it',
  existing: 'What is on it',
  table: 'Its table',
  apart: 'Kept apart',
} as const;

export function ProposedColumn({ proposal }: { proposal: Proposal }) {
  const placement = place(proposal.layout);
  const findings = check(placement);
  const reasonOf = (id: string) =>
    proposal.lines.find((one) => one.about.kind === 'slot' && one.about.id === id)?.reason;
  const table = proposal.lines.find((one) => one.about.kind === 'table');
  return (
    <section aria-label="Proposed layout" className="rounded-[6px] border border-line bg-card p-4">
      <h2 className="text-base font-semibold">What is proposed</h2>
      <p className="text-soft" aria-live="polite">
        {tally(findings)}
      </p>
      <div className="mt-3 flex gap-4">
        <MiniColumn placement={placement} width={54} height={Math.max(240, placement.placed.length * 52)} />
        <ol className="min-w-0 flex-1">
          <li className="border-b border-hair pb-1.5">
            <b className="font-semibold">{TABLE_NAMES[proposal.layout.table.kind]}</b>
            <span className="block text-soft">{table?.reason}</span>
          </li>
          {placement.placed.map(({ slot, span, sectors }) => (
            <li key={slot.id} className="border-b border-hair py-1.5">
              <span className="flex flex-wrap justify-between gap-x-3">
                <b className="truncate font-semibold">{slot.name}</b>
                <span className="font-mono text-sm whitespace-nowrap">
                  {inBoth(span.end - span.start)} · {grouped(sectors)} sec
                </span>
              </span>
              <span className="block text-soft">{reasonOf(slot.id)}</span>
            </li>
          ))}
        </ol>
      </div>
      {findings.length > 0 && (
        <div className="mt-3">
          <h3 className="font-semibold">What is found in it</h3>
          <ul aria-label="Findings">
            {findings.map((finding) => (
              <FindingLine key={finding.rule + finding.sentence} finding={finding} />
            ))}
          </ul>
        </div>
      )}
      {proposal.leftOut.length > 0 && (
        <div className="mt-3">
          <h3 className="font-semibold">What it leaves out</h3>
          <ul>
            {proposal.leftOut.map((one, i) => (
              <li key={i} className="grid grid-cols-[110px_1fr] gap-2 border-b border-hair py-1">
                <span className="text-soft">{QUESTION_NAMES[one.question]}</span>
                <span>{one.why}</span>
              </li>
            ))}
          </ul>
        </div>
      )}
    </section>
  );
}

'use client';

import type { SurveyFinding } from '@/core/findings/survey/finding';
import { grouped } from '@/core/quantity/units';
import type { FoundPartition } from '@/core/survey/found';
import { named } from '@/core/survey/structures';
import { Mark } from '../kit/Mark';

interface Props {
  readonly findings: readonly SurveyFinding[];
  readonly partitions: readonly FoundPartition[];
  readonly onPartition: (key: string) => void;
  readonly onSector: (sector: number) => void;
}

function counted(findings: readonly SurveyFinding[]): string {
  const say = (word: SurveyFinding['severity']) => {
    const n = findings.filter((one) => one.severity === word).length;
    return `${n} ${word}${n === 1 ? '' : 's'}`;
  };
  return `${say('stop')}, ${say('risk')}, ${say('note')}`;
}

/** Findings about what was found: each goes to its place. They block no build. */
export function FoundFindings({ findings, partitions, onPartition, onSector }: Props) {
  const place = ({ place: at }: SurveyFinding) => {
    if (at.kind === 'medium') return { text: 'Image', go: () => onSector(0) };
    if (at.kind === 'sector') return { text: `Sector ${grouped(at.sector)}`, go: () => onSector(at.sector) };
    const partition = partitions.find((one) => one.key === at.key);
    return { text: partition ? named(partition) : at.key, go: () => onPartition(at.key) };
  };
  return (
    <section aria-label="Findings" className="flex max-h-[150px] flex-col border-t border-line bg-card px-4 py-1.5">
      <h2 className="flex gap-3 pb-1 text-sm">
        <b className="font-semibold">Findings</b>
        <span className="text-soft">{counted(findings)}; about what is there, so they stop no build</span>
      </h2>
      <ul className="min-h-0 flex-1 overflow-y-auto">
        {findings.map((finding, i) => {
          const { text, go } = place(finding);
          return (
            <li key={i} className="grid grid-cols-[14px_150px_1fr] items-baseline gap-2.5 border-t border-hair py-1">
              <Mark severity={finding.severity} />
              <button type="button" onClick={go} className="truncate text-left font-semibold hover:underline">
                {text}
              </button>
              <span>
                {finding.sentence} <span className="text-soft">{finding.why}</span>
              </span>
            </li>
          );
        })}
        {findings.length === 0 && (
          <li className="border-t border-hair py-2 text-soft">Nothing to say: table and file systems are sound.</li>
        )}
      </ul>
    </section>
  );
}

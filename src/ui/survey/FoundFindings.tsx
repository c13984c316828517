'use client';

import Link from 'next/link';
import { REPAIRS } from '@/core/change/repair';
import type { SurveyFinding } from '@/core/findings/survey/finding';
import { grouped } from '@/core/quantity/units';
import type { FoundPartition } from '@/core/survey/found';
import { named } from '@/core/survey/structures';
import { proposalUrl } from '../api';
import { buttonClass } from '../kit/Button';
import { FindingBar, FindingLine } from '../kit/FindingList';

interface Props {
  readonly of: string;
  readonly sectorSize: number;
  readonly findings: readonly SurveyFinding[];
  readonly partitions: readonly FoundPartition[];
  readonly onPartition: (key: string) => void;
  readonly onSector: (sector: number) => void;
}

/** Findings about what was found: each goes to its place. They block no build. */
export function FoundFindings({ of, sectorSize, findings, partitions, onPartition, onSector }: Props) {
  const place = ({ place: at }: SurveyFinding) => {
    if (at.kind === 'medium') return { text: 'Image', go: () => onSector(0) };
    if (at.kind === 'sector') return { text: `Sector ${grouped(at.sector)}`, go: () => onSector(at.sector) };
    const partition = partitions.find((one) => one.key === at.key);
    return { text: partition ? named(partition) : at.key, go: () => onPartition(at.key) };
  };
  return (
    <FindingBar
      findings={findings}
      remark="; about what is there, so they stop no build"
      none="Nothing to say: table and file systems are sound."
      line={(finding, at) => {
        const repairs = REPAIRS.filter(({ rules }) => rules.includes(finding.rule));
        return (
          <FindingLine key={at.index} finding={finding} at={at} place={place(finding)}>
            {repairs.map(({ id, label }) => (
              <Link key={id} className={buttonClass()} href={proposalUrl({ of, sectorSize, does: 'repair', only: id })}>
                {label}
              </Link>
            ))}
          </FindingLine>
        );
      }}
    />
  );
}

import type { ReactNode } from 'react';
import type { Severity } from '@/core/findings/severity';
import { tally } from '@/core/findings/tally';
import { Mark } from './Mark';

/** What every finding says, about a layout or about a survey. */
interface Said {
  readonly severity: Severity;
  readonly sentence: string;
  readonly why: string;
  readonly accepted?: string;
}

interface LineProps {
  readonly finding: Said;
  /** Where it belongs, and how to get there. */
  readonly place?: { readonly text: string; readonly go: () => void };
  /** More that is said of it. */
  readonly more?: ReactNode;
  /** What can be done about it, behind the sentence. */
  readonly children?: ReactNode;
  /** What is asked about it, below the sentence. */
  readonly below?: ReactNode;
}

/** One finding: its sign, its place, what is wrong and why it matters, and what can be done. */
export function FindingLine({ finding, place, more, children, below }: LineProps) {
  const { severity, sentence, why, accepted } = finding;
  const columns = place ? 'grid-cols-[14px_118px_1fr_auto]' : 'grid-cols-[14px_1fr_auto]';
  return (
    <li className={`grid ${columns} items-center gap-2.5 border-t border-hair py-1 first:border-t-0`}>
      <Mark severity={severity} hollow={accepted !== undefined} />
      {place && (
        <button type="button" onClick={place.go} className="truncate text-left font-semibold hover:underline">
          {place.text}
        </button>
      )}
      <span className={accepted === undefined ? '' : 'text-soft'}>
        {sentence} <span className="text-soft">{why}</span>
        {accepted !== undefined && <b className="block font-semibold text-moss">Accepted: {accepted}</b>}
        {more}
      </span>
      <span className="flex flex-wrap justify-end gap-1.5">{children}</span>
      {below}
    </li>
  );
}

interface BarProps {
  readonly findings: readonly Said[];
  /** Said behind the count. */
  readonly remark?: string;
  /** Said where there are none. */
  readonly none: string;
  readonly children: ReactNode;
}

/** The findings at the foot of a screen. */
export function FindingBar({ findings, remark = '', none, children }: BarProps) {
  return (
    <section aria-label="Findings" className="flex max-h-[134px] flex-col border-t border-line bg-card px-4 py-1.5">
      <h2 className="flex gap-3 pb-1 text-sm">
        <b className="font-semibold">Findings</b>
        <span className="text-soft" aria-live="polite">
          {tally(findings)}
          {remark}
        </span>
      </h2>
      <ul className="min-h-0 flex-1 overflow-y-auto border-t border-hair">
        {children}
        {findings.length === 0 && <li className="py-2 text-soft">{none}</li>}
      </ul>
    </section>
  );
}

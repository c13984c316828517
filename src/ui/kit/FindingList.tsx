'use client';

import dynamic from 'next/dynamic';
import type { ReactNode } from 'react';
import type { Severity } from '@/core/findings/severity';
import { tally } from '@/core/findings/tally';
import { Mark } from './Mark';
import type { ListPlace } from './useLongRows';

/** What every finding says, about a layout or about a survey. */
interface Said {
  readonly severity: Severity;
  readonly sentence: string;
  readonly why: string;
  readonly accepted?: string;
}

/** In a narrow window what can be done stands below the sentence. */
const BELOW = 'max-[1180px]:col-start-3 max-[1180px]:justify-start';

/** So many stand in the page as they are; what shows more of them comes when there are more. */
const MANY = 100;
const LongFindings = dynamic(() => import('./LongFindings').then((file) => file.LongFindings), {
  loading: () => null,
});

interface LineProps {
  readonly finding: Said;
  readonly at?: ListPlace;
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
export function FindingLine({ finding, at, place, more, children, below }: LineProps) {
  const { severity, sentence, why, accepted } = finding;
  const columns = place
    ? 'grid-cols-[14px_118px_1fr_auto] max-[1180px]:grid-cols-[14px_118px_1fr]'
    : 'grid-cols-[14px_1fr_auto]';
  return (
    <li
      ref={at?.measure}
      data-index={at?.index}
      className={`grid ${columns} items-center gap-2.5 border-t border-hair py-1 first:border-t-0`}
    >
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
      <span className={`flex flex-wrap justify-end gap-1.5 empty:hidden ${place ? BELOW : ''}`}>{children}</span>
      {below}
    </li>
  );
}

interface BarProps<F extends Said> {
  readonly findings: readonly F[];
  /** Said behind the count. */
  readonly remark?: string;
  /** Said where there are none. */
  readonly none: string;
  /** One of them, as a line. */
  readonly line: (finding: F, at: ListPlace) => ReactNode;
}

/** So many are seen at a glance. */
const GLANCE = 3;

/** The findings at the foot of a screen. */
export function FindingBar<F extends Said>({ findings, remark = '', none, line }: BarProps<F>) {
  return (
    <section
      aria-label="Findings"
      className="flex max-h-[min(178px,26vh)] flex-col border-t border-line bg-card px-4 py-1.5"
    >
      <h2 className="flex gap-3 pb-1 text-sm">
        <b className="font-semibold">Findings</b>
        <span className="text-soft" aria-live="polite">
          {tally(findings)}
          {remark}
          {findings.length === 0 && `. ${none}`}
          {findings.length > GLANCE && `; ${findings.length - GLANCE} more below these ${GLANCE}`}
        </span>
      </h2>
      <div className={`min-h-0 flex-1 overflow-y-auto border-t border-hair ${findings.length === 0 ? 'hidden' : ''}`}>
        {findings.length > MANY ? (
          <LongFindings count={findings.length} line={(at) => line(findings[at.index]!, at)} />
        ) : (
          <ul>{findings.map((one, index) => line(one, { index, measure: undefined }))}</ul>
        )}
      </div>
    </section>
  );
}

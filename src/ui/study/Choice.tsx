import type { ReactNode } from 'react';
import { counted, grouped, inBinary } from '@/core/quantity/units';
import { Button } from '../kit/Button';

interface ChoiceProps {
  readonly name: string;
  readonly isNow: boolean;
  /** What else is true of it. */
  readonly marks: readonly (string | false)[];
  readonly onChoose: () => void;
  readonly children: ReactNode;
}

/** A choice of a study: its name, its figures, and the button that takes it. */
export function Choice({ name, isNow, marks, onChoose, children }: ChoiceProps) {
  return (
    <tr className={`border-b border-hair text-right font-mono text-sm ${isNow ? 'bg-selected' : ''}`}>
      <th scope="row" className="py-0.5 text-left font-sans font-semibold">
        {name} <span className="font-normal text-soft">{[isNow && 'now', ...marks].filter(Boolean).join(', ')}</span>
      </th>
      {children}
      <td className="py-0.5 font-sans">
        <Button onClick={onChoose} disabled={isNow} aria-label={`Use ${name}`}>
          {isNow ? 'In use' : 'Use it'}
        </Button>
      </td>
    </tr>
  );
}

/** What last clusters or blocks lose, with its share of all that files take. */
export function LostCell({ slack, taken }: { readonly slack: number; readonly taken: number }) {
  return (
    <td className="px-2" title={`${grouped(slack)} bytes`}>
      {inBinary(slack)}
      {taken > 0 && ` ${((100 * slack) / taken).toFixed(1)} %`}
    </td>
  );
}

/** Choices that cannot be here, each with its reason. */
export function Gaps({ gaps }: { readonly gaps: readonly { readonly name: string; readonly why: string }[] }) {
  return (
    <details className="mt-3">
      <summary className="cursor-pointer text-soft">
        {counted(gaps.length, 'combination')} that cannot be here, and why
      </summary>
      <ul className="columns-2 gap-6 text-sm text-soft">
        {gaps.map(({ name, why }) => (
          <li key={name}>
            {name}: {why}
          </li>
        ))}
      </ul>
    </details>
  );
}

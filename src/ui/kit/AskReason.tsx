'use client';

import { type ReactNode, useState } from 'react';
import type { Finding } from '@/core/findings/layout/finding';
import { REASON_LIMIT } from '@/core/layout/vocabulary';
import { Button } from './Button';

/** Takes the reason for a risk, or for all that are open. */
export type Accept = (reason: string, all: boolean) => void;

interface Props {
  /** The reason that stood before, where one did. */
  readonly first?: string | undefined;
  /** How many risks are open in all. */
  readonly open: number;
  readonly onAccept: Accept;
  readonly onDone: () => void;
}

/** Asks for the reason of an accepted risk, or of all that are open; Enter accepts, Escape gives up. */
function AskReason({ first = '', open, onAccept, onDone }: Props) {
  const [reason, setReason] = useState(first);
  const [isAll, setAll] = useState(false);
  const isSaid = reason.trim() !== '';
  return (
    <form
      className="col-span-full flex flex-wrap items-center gap-2 pl-6"
      onSubmit={(event) => {
        event.preventDefault();
        if (!isSaid) return;
        onAccept(reason.trim(), isAll);
        onDone();
      }}
    >
      <label className="flex min-w-[220px] flex-1 items-center gap-2">
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
      {open > 1 && (
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={isAll} onChange={(event) => setAll(event.target.checked)} />
          for all {open} open risks
        </label>
      )}
      <Button type="submit" disabled={!isSaid} className="py-0.5">
        Accept
      </Button>
      <Button look="quiet" onClick={onDone} className="py-0.5">
        Leave it
      </Button>
    </form>
  );
}

/** What accepts a risk where it stands: a button, and below it the question that it opens; nothing where no risk is open. */
export function useAskReason(
  { severity, accepted, acceptedBefore }: Finding,
  open: number,
  accept: Accept,
): { readonly button: ReactNode; readonly question: ReactNode } {
  const [isAsking, setAsking] = useState(false);
  const isOpen = severity === 'risk' && accepted === undefined;
  return {
    button: isOpen && !isAsking && (
      <Button look="quiet" onClick={() => setAsking(true)} className="py-0.5">
        Accept with a reason
      </Button>
    ),
    question: isOpen && isAsking && (
      <AskReason first={acceptedBefore?.reason} open={open} onAccept={accept} onDone={() => setAsking(false)} />
    ),
  };
}

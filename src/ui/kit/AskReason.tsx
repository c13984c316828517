'use client';

import { useState } from 'react';
import { Button } from './Button';

interface Props {
  /** The reason that stood before, where one did. */
  readonly first?: string | undefined;
  /** How many risks are open in all. */
  readonly open: number;
  readonly limit: number;
  readonly onAccept: (reason: string, all: boolean) => void;
  readonly onDone: () => void;
}

/** Asks for the reason of an accepted risk, or of all that are open; Enter accepts, Escape gives up. */
export function AskReason({ first = '', open, limit, onAccept, onDone }: Props) {
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
          maxLength={limit}
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

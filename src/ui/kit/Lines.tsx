'use client';

import { useState } from 'react';

interface Props {
  readonly label: string;
  readonly value: string;
  /** What is wrong with a draft, if anything. */
  readonly wrong: (draft: string) => string | undefined;
  readonly onCommit: (value: string) => void;
}

/** A field of several lines, committed as one change when it is left; Escape gives the old text back. */
export function Lines({ label, value, wrong, onCommit }: Props) {
  const [draft, setDraft] = useState<string>();
  const text = draft ?? value;
  const why = wrong(text);
  const finish = () => {
    if (draft === undefined || why !== undefined) return;
    setDraft(undefined);
    if (draft !== value) onCommit(draft);
  };
  return (
    <div className="min-w-0">
      <textarea
        aria-label={label}
        rows={Math.min(8, Math.max(2, text.split('\n').length))}
        value={text}
        spellCheck={false}
        aria-invalid={why !== undefined}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={finish}
        onKeyDown={(event) => {
          if (event.key !== 'Escape') return;
          event.stopPropagation();
          setDraft(undefined);
        }}
        className={`w-full rounded-[5px] border bg-paper px-2 py-[2px] font-mono text-sm ${why === undefined ? 'border-edge' : 'border-stop'}`}
      />
      {why && <p className="text-sm text-stop">{why}</p>}
    </div>
  );
}

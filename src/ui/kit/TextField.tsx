'use client';

import { type KeyboardEvent, type ReactNode, useEffect, useId, useRef, useState } from 'react';

/** What a field says about its text while it is typed. */
export interface Echo {
  readonly text: ReactNode;
  /** A text that cannot be used is not committed. */
  readonly wrong: boolean;
}

interface Props {
  readonly label: string;
  readonly value: string;
  /** Judges a draft: what it means, or what is wrong with it. */
  readonly echo?: (draft: string) => Echo | undefined;
  /** Called on every change with a usable draft, and with undefined when the draft is dropped. */
  readonly onDraft?: (draft: string | undefined) => void;
  /** Called once when the field is left, or Enter pressed, with a changed and usable text. */
  readonly onCommit: (value: string) => void;
  readonly placeholder?: string;
  readonly mono?: boolean;
  readonly fieldId?: string;
}

/**
 * A labelled field of one line. The text is committed as one change when the field is left or
 * Enter is pressed; Escape gives the old text back.
 */
export function TextField({ label, value, echo, onDraft, onCommit, placeholder, mono = false, fieldId }: Props) {
  const [draft, setDraft] = useState(value);
  const [known, setKnown] = useState(value);
  const [shaken, setShaken] = useState(false);
  const dropping = useRef(false);
  const madeId = useId();
  const id = fieldId ?? madeId;
  if (known !== value) {
    setKnown(value);
    setDraft(value);
  }
  const said = echo?.(draft);
  // What was typed is not lost when the field vanishes, for instance because another slot is chosen.
  const latest = useRef<() => void>(() => undefined);
  useEffect(() => {
    latest.current = () => {
      if (draft !== value && !said?.wrong) onCommit(draft);
    };
  });
  useEffect(() => () => latest.current(), []);

  const change = (text: string) => {
    setDraft(text);
    setShaken(false);
    onDraft?.(echo?.(text)?.wrong ? undefined : text);
  };
  const leave = () => {
    onDraft?.(undefined);
    if (dropping.current) {
      dropping.current = false;
      setDraft(value);
      return;
    }
    if (draft === value) return;
    if (said?.wrong) setShaken(true);
    else onCommit(draft);
  };
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === 'Enter') leave();
    if (event.key !== 'Escape') return;
    event.stopPropagation();
    dropping.current = true;
    setDraft(value);
    event.currentTarget.blur();
  };
  return (
    <>
      <label htmlFor={id} className="self-start pt-0.5 text-soft">
        {label}
      </label>
      <div className="min-w-0">
        <input
          id={id}
          value={draft}
          placeholder={placeholder}
          spellCheck={false}
          autoComplete="off"
          aria-invalid={said?.wrong ?? false}
          aria-describedby={said ? `${id}-echo` : undefined}
          onChange={(event) => change(event.target.value)}
          onBlur={leave}
          onKeyDown={onKeyDown}
          className={`w-full rounded-[5px] border bg-paper px-2 py-[2px] ${mono ? 'font-mono text-sm' : ''} ${said?.wrong ? 'border-stop' : 'border-edge'}`}
        />
        {said && (
          <p
            id={`${id}-echo`}
            role={shaken ? 'alert' : undefined}
            className={`mt-0.5 text-sm ${said.wrong ? 'text-stop' : 'text-soft'}`}
          >
            {said.text}
          </p>
        )}
      </div>
    </>
  );
}

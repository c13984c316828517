'use client';

import { type KeyboardEvent, type ReactNode, useEffect, useEffectEvent, useId, useRef, useState } from 'react';
import { useDraft } from './drafts';
import { useGoHome } from './home';
import { useSelectedWhole } from './useSelectedWhole';

/** What a field says about its text while it is typed. */
export interface Echo {
  readonly text: ReactNode;
  /** A text that cannot be used is not committed. */
  readonly wrong: boolean;
}

interface Props {
  readonly label: string;
  readonly value: string;
  /** The value before a gesture that is not finished, where `value` already shows the gesture. */
  readonly settled?: string;
  /** Judges a draft: what it means, or what is wrong with it. */
  readonly echo?: (draft: string) => Echo | undefined;
  /** Called on every change with a usable draft, and with undefined when the draft is dropped. */
  readonly onDraft?: (draft: string | undefined) => void;
  /** Called once when the field is left, or Enter pressed, with a changed and usable text. */
  readonly onCommit: (value: string) => void;
  /** Called with what is being typed, whenever that changes, and whether it can be used; undefined when nothing is. */
  readonly onTyped?: (draft: string | undefined, isUsable: boolean) => void;
  readonly placeholder?: string;
  /** Texts to choose from while typing. */
  readonly suggestions?: readonly { readonly value: string; readonly text: string }[];
  readonly mono?: boolean;
  readonly fieldId?: string;
  /** It was asked for: what is typed next belongs to it. */
  readonly autoFocus?: boolean;
  /** Help with what can be typed: a button beside the label, and what it opens below the field. */
  readonly help?: { readonly name: string; readonly card: () => ReactNode };
}

/** What the text in the field means, or what is wrong with it. */
function FieldEcho({ id, echo, isUrgent }: { readonly id: string; readonly echo: Echo; readonly isUrgent: boolean }) {
  return (
    <p
      id={id}
      role={isUrgent ? 'alert' : undefined}
      className={`mt-0.5 text-sm ${echo.wrong ? 'text-stop' : 'text-soft'}`}
    >
      {echo.text}
    </p>
  );
}

/**
 * A labelled field of one line. The text is committed as one change when the field is left or
 * Enter is pressed; Escape gives the old text back.
 */
export function TextField({
  label,
  value,
  settled = value,
  echo,
  onDraft,
  onTyped,
  onCommit,
  placeholder,
  suggestions,
  mono = false,
  fieldId,
  autoFocus = false,
  help,
}: Props) {
  // While nothing is typed the field shows its value, whatever changes it.
  const { draft, setDraft, keep, tellLeft } = useDraft(label);
  const [shaken, setShaken] = useState(false);
  const [isHelping, setHelping] = useState(false);
  const madeId = useId();
  const id = fieldId ?? madeId;
  const text = draft ?? value;
  const selected = useSelectedWhole(text, draft !== undefined);
  const message = echo?.(text);
  const isUsable = message?.wrong !== true;
  const tell = useEffectEvent(() => onTyped?.(draft, isUsable));
  useEffect(() => tell(), [draft, isUsable]);

  const change = (typed: string) => {
    given.current = false;
    setDraft(typed);
    setShaken(false);
    const isWrong = echo?.(typed)?.wrong === true;
    keep(isWrong ? typed : undefined);
    onDraft?.(isWrong ? undefined : typed);
  };
  const dropping = useRef(false);
  const given = useRef(false);
  const goHome = useGoHome();
  /** Gives what is typed; false where it cannot be taken. */
  const finish = (): boolean => {
    if (draft === undefined || given.current) return true;
    const isDropped = dropping.current;
    if (message?.wrong && !isDropped) {
      setShaken(true);
      return false;
    }
    setDraft(undefined);
    keep(undefined);
    setShaken(false);
    onDraft?.(undefined);
    // The field may vanish with this: what it held is given once.
    given.current = true;
    if (draft !== settled && !isDropped) onCommit(draft);
    return true;
  };
  // What was typed is not lost when the field vanishes, for instance because another slot is chosen.
  const onVanish = useEffectEvent(() => {
    if (given.current) return;
    if (draft !== undefined && message?.wrong) tellLeft(draft);
    finish();
  });
  useEffect(() => () => onVanish(), []);

  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === 'Enter' && finish()) goHome();
    if (event.key !== 'Escape') return;
    event.stopPropagation();
    dropping.current = true;
    event.currentTarget.blur();
    dropping.current = false;
    goHome();
  };
  return (
    <>
      <span className="flex items-start gap-1 self-start pt-0.5 text-soft">
        <label htmlFor={id}>{label}</label>
        {help && (
          <button
            type="button"
            aria-label={help.name}
            title={help.name}
            aria-expanded={isHelping}
            onClick={() => setHelping(!isHelping)}
            className="rounded-[4px] border border-line px-1 text-xs hover:border-clay aria-expanded:bg-selected"
          >
            ?
          </button>
        )}
      </span>
      <div className="min-w-0">
        <input
          {...selected}
          id={id}
          autoFocus={autoFocus}
          value={text}
          placeholder={placeholder}
          spellCheck={false}
          autoComplete="off"
          list={suggestions && `${id}-list`}
          aria-invalid={message?.wrong ?? false}
          aria-describedby={message ? `${id}-echo` : undefined}
          onChange={(event) => change(event.target.value)}
          onBlur={finish}
          onKeyDown={onKeyDown}
          className={`w-full rounded-[5px] border bg-paper px-2 py-[2px] ${mono ? 'font-mono text-sm' : ''} ${message?.wrong ? 'border-stop' : 'border-edge'}`}
        />
        {suggestions && (
          <datalist id={`${id}-list`}>
            {suggestions.map(({ value: one, text: name }) => (
              <option key={one} value={one} label={name} />
            ))}
          </datalist>
        )}
        {message && <FieldEcho id={`${id}-echo`} echo={message} isUrgent={shaken} />}
        {isHelping && help?.card()}
      </div>
    </>
  );
}

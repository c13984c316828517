'use client';

import { type KeyboardEvent, useEffect, useEffectEvent, useId, useState } from 'react';
import type { Slot } from '@/core/layout/document';
import { freshIdFor } from '@/core/layout/edits';
import type * as Line from '@/core/layout/line';
import type * as LineHelp from '@/core/layout/line-help';
import { writeLine } from '@/core/layout/line-write';
import { useDraft } from '../../kit/drafts';
import { useSelectedWhole } from '../../kit/useSelectedWhole';
import { Pointed } from '../../kit/size-echo';
import { useDesigner } from '../state/context';
import { focusColumn } from '../state/focus';
import { useSizeFacts, LINE_FIELD } from '../state/editing';

/** Reading a line, what it means, and how it could go on: they come a moment after the field. */
type Reading = Pick<typeof Line, 'readLine' | 'slotOf'> & Pick<typeof LineHelp, 'completions' | 'describeLine'>;
let known: Reading | undefined;

async function loaded(): Promise<Reading> {
  const [{ readLine, slotOf }, { completions, describeLine }] = await Promise.all([
    import('@/core/layout/line'),
    import('@/core/layout/line-help'),
  ]);
  known ??= { readLine, slotOf, completions, describeLine };
  return known;
}

function useReading(): Reading | undefined {
  const [reading, setReading] = useState(known);
  useEffect(() => {
    let isHere = true;
    void loaded().then((one) => isHere && setReading(one));
    return () => {
      isHere = false;
    };
  }, []);
  return reading;
}

interface OfferedProps {
  readonly list: string;
  readonly texts: readonly string[];
  readonly chosen: number;
  readonly onTake: (index: number) => void;
}

/** How the line could go on. */
function Offered({ list, texts, chosen, onTake }: OfferedProps) {
  return (
    <ul id={list} role="listbox" aria-label="What could follow" className="flex flex-wrap gap-1 empty:hidden">
      {texts.map((text, i) => (
        <li
          key={text}
          id={`${list}-${i}`}
          role="option"
          aria-selected={i === chosen}
          // The field keeps the focus, so that typing goes on.
          onMouseDown={(event) => event.preventDefault()}
          onClick={() => onTake(i)}
          className={`mt-1 cursor-default rounded-[4px] border px-1.5 font-mono text-sm ${i === chosen ? 'border-clay bg-selected' : 'border-line'}`}
        >
          {text.trim()}
        </li>
      ))}
    </ul>
  );
}

/** One slot as one line of text: what is typed is echoed, completed, and takes the place of the slot. */
export function LineField({ slot }: { slot: Slot }) {
  const layout = useDesigner((state) => state.document);
  const sectorSize = useDesigner((state) => state.placement.sectorSize);
  const commit = useDesigner((state) => state.commit);
  const preview = useDesigner((state) => state.preview);
  const { draft, setDraft, keep, tellLeft } = useDraft('In one line');
  const [chosen, setChosen] = useState(-1);
  const list = useId();
  const canonical = writeLine(slot);
  const text = draft ?? canonical;
  const selected = useSelectedWhole(text, draft !== undefined);
  const facts = useSizeFacts();
  const reading = useReading();
  const read = reading?.readLine(text, layout.table.kind);
  const isBad = read?.ok === false;
  const offered = (draft !== undefined && reading?.completions(text, text.length, layout)) || [];
  const meant = (line: string, { readLine, slotOf }: Reading) => {
    const parsed = readLine(line, layout.table.kind);
    return parsed.ok ? slotOf(parsed.value, slot.id, freshIdFor(layout, slot.id), slot) : undefined;
  };
  const type = (next: string) => {
    setDraft(next);
    setChosen(-1);
    const changed = reading && meant(next, reading);
    keep(changed ? undefined : next);
    preview(changed && { do: 'put slot', slot: changed });
  };
  const take = (index: number) => {
    const one = offered[index];
    if (one) type(text.slice(0, one.from) + one.text);
  };
  const drop = () => {
    setDraft(undefined);
    keep(undefined);
    preview(undefined);
  };
  /** Gives what is typed; false where it cannot be read. */
  const finish = async (): Promise<boolean> => {
    if (draft === undefined) return true;
    const changed = meant(text, reading ?? (await loaded()));
    if (!changed) return false;
    drop();
    if (writeLine(changed) !== canonical) commit({ do: 'put slot', slot: changed });
    return true;
  };
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (step !== 0 && offered.length > 0) {
      event.preventDefault();
      setChosen((chosen + step + offered.length) % offered.length);
    } else if (event.key === 'Enter') {
      event.preventDefault();
      if (chosen >= 0) take(chosen);
      else void finish().then((isTaken) => isTaken && focusColumn());
    } else if (event.key === 'Escape') {
      event.stopPropagation();
      drop();
    }
  };
  // What can be read is given when the field vanishes; what cannot stays for when it comes back.
  const onVanish = useEffectEvent(() => {
    if (draft !== undefined && reading && !meant(text, reading)) tellLeft(draft);
    else void finish();
  });
  useEffect(() => () => onVanish(), []);
  return (
    <div className="mt-2 grid grid-cols-[76px_1fr] gap-x-2.5 border-t border-hair pt-2">
      <label htmlFor={LINE_FIELD} className="pt-0.5 text-soft">
        In one line
      </label>
      <div className="min-w-0">
        <input
          {...selected}
          id={LINE_FIELD}
          role="combobox"
          aria-expanded={offered.length > 0}
          aria-controls={list}
          aria-autocomplete="list"
          aria-activedescendant={chosen >= 0 ? `${list}-${chosen}` : undefined}
          aria-invalid={isBad}
          aria-describedby={`${list}-echo`}
          value={text}
          spellCheck={false}
          autoComplete="off"
          onChange={(event) => type(event.target.value)}
          onBlur={() => void finish()}
          onKeyDown={onKeyDown}
          className={`w-full rounded-[5px] border bg-paper px-2 py-[2px] font-mono text-sm ${isBad ? 'border-stop' : 'border-edge'}`}
        />
        <Offered list={list} texts={offered.map((one) => one.text)} chosen={chosen} onTake={take} />
        <p
          id={`${list}-echo`}
          aria-live="polite"
          className={`mt-0.5 text-sm empty:hidden ${isBad ? 'text-stop' : 'text-soft'}`}
        >
          {draft === undefined || !read ? null : read.ok ? (
            reading?.describeLine(read.value, sectorSize, facts)
          ) : (
            <Pointed text={text} error={read.error} />
          )}
        </p>
      </div>
    </div>
  );
}

'use client';

import { type KeyboardEvent, useId, useState } from 'react';
import type { Slot } from '@/core/layout/document';
import { derivedVolumeId } from '@/core/layout/edits';
import { readLine, slotOf } from '@/core/layout/line';
import { writeLine } from '@/core/layout/line-write';
import { completions, describeLine } from '@/core/layout/line-help';
import { memoryOf } from '@/core/layout/medium-spec';
import { Pointed } from '../../kit/size-echo';
import { useDesigner } from '../state/context';
import { LINE_FIELD } from '../state/editing';

/** One slot as one line of text: what is typed is echoed, completed, and takes the place of the slot. */
export function LineField({ slot }: { slot: Slot }) {
  const layout = useDesigner((state) => state.document);
  const { sectorSize, usable } = useDesigner((state) => state.placement);
  const commit = useDesigner((state) => state.commit);
  const preview = useDesigner((state) => state.preview);
  const [draft, setDraft] = useState<string>();
  const [chosen, setChosen] = useState(-1);
  const list = useId();
  const canonical = writeLine(slot);
  const text = draft ?? canonical;
  const read = readLine(text);
  const offered = draft === undefined ? [] : completions(text, text.length, layout);
  const meant = (line: string) => {
    const said = readLine(line);
    return said.ok ? slotOf(said.value, slot.id, derivedVolumeId(layout, slot.id), slot) : undefined;
  };
  const type = (next: string) => {
    setDraft(next);
    setChosen(-1);
    const changed = meant(next);
    preview(changed && { do: 'put slot', slot: changed });
  };
  const take = (index: number) => {
    const one = offered[index];
    if (one) type(text.slice(0, one.from) + one.text);
  };
  const finish = () => {
    const changed = meant(text);
    if (draft === undefined || !changed) return;
    setDraft(undefined);
    preview(undefined);
    if (writeLine(changed) !== canonical) commit({ do: 'put slot', slot: changed });
  };
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (step !== 0 && offered.length > 0) {
      event.preventDefault();
      setChosen((chosen + step + offered.length) % offered.length);
    } else if (event.key === 'Enter') {
      event.preventDefault();
      if (chosen >= 0) take(chosen);
      else finish();
    } else if (event.key === 'Escape') {
      event.stopPropagation();
      setDraft(undefined);
      preview(undefined);
    }
  };
  return (
    <div className="mt-2 border-t border-hair pt-2">
      <label htmlFor={LINE_FIELD} className="text-soft">
        In one line
      </label>
      <input
        id={LINE_FIELD}
        role="combobox"
        aria-expanded={offered.length > 0}
        aria-controls={list}
        aria-autocomplete="list"
        aria-activedescendant={chosen >= 0 ? `${list}-${chosen}` : undefined}
        aria-invalid={!read.ok}
        aria-describedby={`${list}-echo`}
        value={text}
        spellCheck={false}
        autoComplete="off"
        onChange={(event) => type(event.target.value)}
        onBlur={finish}
        onKeyDown={onKeyDown}
        className={`mt-0.5 w-full rounded-[5px] border bg-paper px-2 py-[2px] font-mono text-sm ${read.ok ? 'border-edge' : 'border-stop'}`}
      />
      <ul id={list} role="listbox" aria-label="What could follow" className="flex flex-wrap gap-1 empty:hidden">
        {offered.map((one, i) => (
          <li
            key={one.text}
            id={`${list}-${i}`}
            role="option"
            aria-selected={i === chosen}
            // The field keeps the focus, so that typing goes on.
            onMouseDown={(event) => event.preventDefault()}
            onClick={() => take(i)}
            className={`mt-1 cursor-default rounded-[4px] border px-1.5 font-mono text-sm ${i === chosen ? 'border-clay bg-selected' : 'border-line'}`}
          >
            {one.text.trim()}
          </li>
        ))}
      </ul>
      <p
        id={`${list}-echo`}
        aria-live="polite"
        className={`mt-0.5 text-sm empty:hidden ${read.ok ? 'text-soft' : 'text-stop'}`}
      >
        {draft === undefined ? null : read.ok ? (
          describeLine(read.value, sectorSize, { memory: memoryOf(layout), space: usable.end - usable.first })
        ) : (
          <Pointed text={text} error={read.error} />
        )}
      </p>
    </div>
  );
}

'use client';

import { useRouter } from 'next/navigation';
import { type KeyboardEvent, useEffect } from 'react';
import type { Edit } from '@/core/layout/edits';
import { SLOT_LIMIT } from '@/core/layout/vocabulary';
import { adding, type NewKind } from './adding';
import { focusField } from './awaiting';
import { linesOf } from './clipboard';
import { useDesigner } from './context';
import { LINE_FIELD, SIZE_FIELD } from './editing';
import { movingSeveral } from './SeveralPanel';
import type { Selection } from './store';
import { isTaken, useUndoKeys } from './undo-keys';

/** Ids of the slots that are selected. */
export function idsOf(selection: Selection): readonly string[] {
  if (selection.kind === 'slot') return [selection.id];
  return selection.kind === 'several' ? selection.ids : [];
}

/** The part of an address that names the selected slot; empty where none is. */
export function slotQuery(selection: Selection): string {
  const id = idsOf(selection).at(-1);
  return id === undefined ? '' : `?slot=${id}`;
}

/** Adds a slot behind the selected one, or in a gap: there it takes what is free. */
export function useAdding() {
  const layout = useDesigner((state) => state.document);
  const selection = useDesigner((state) => state.selection);
  const commit = useDesigner((state) => state.commit);
  const select = useDesigner((state) => state.select);
  const tell = useDesigner((state) => state.tell);
  return (kind: NewKind, behind?: Selection) => {
    const added = adding(layout, behind ?? selection, kind, behind && 'rest');
    if (!added) return tell(`A layout has at most ${SLOT_LIMIT} slots.`);
    commit(added.edit);
    select({ kind: 'slot', id: added.id });
  };
}

/** Opens the ledger at the first sector of what is selected. */
export function useLedger(): () => void {
  const selection = useDesigner((state) => state.selection);
  const { placed } = useDesigner((state) => state.placement);
  const select = useDesigner((state) => state.select);
  return () => {
    const id = idsOf(selection).at(-1);
    const slot = placed.find((one) => one.slot.id === id);
    const start = selection.kind === 'gap' || selection.kind === 'table' ? (selection.start ?? 0) : 0;
    select({ kind: 'ledger', sector: slot?.start ?? start });
  };
}

/** Copying and pasting slots as lines, between layouts and from any text. */
function useClipboard() {
  const layout = useDesigner((state) => state.document);
  const selection = useDesigner((state) => state.selection);
  const commit = useDesigner((state) => state.commit);
  const select = useDesigner((state) => state.select);
  const tell = useDesigner((state) => state.tell);
  useEffect(() => {
    const copy = (event: ClipboardEvent) => {
      const text = linesOf(layout, idsOf(selection));
      if (isTaken(event) || text === '' || String(document.getSelection()) !== '') return;
      event.preventDefault();
      event.clipboardData?.setData('text/plain', text);
      if (event.type === 'cut')
        commit({ do: 'several', edits: idsOf(selection).map((id): Edit => ({ do: 'remove slot', id })) });
    };
    const paste = (event: ClipboardEvent) => {
      const text = event.clipboardData?.getData('text/plain') ?? '';
      if (isTaken(event) || text.trim() === '') return;
      event.preventDefault();
      void takeLines(text);
    };
    // Reading lines comes with the first that are pasted.
    const takeLines = async (text: string) => {
      const { addingSlots, readLines, slotsOf } = await import('@/core/layout/line-help');
      const lines = readLines(text);
      const slots = slotsOf(
        layout,
        lines.flatMap((one) => one.said ?? []),
      );
      const last = idsOf(selection).at(-1);
      const index = last ? layout.slots.findIndex((slot) => slot.id === last) + 1 : layout.slots.length;
      if (slots.length > 0) commit(addingSlots(layout, slots, index));
      const bad = lines.filter((one) => one.error);
      if (bad.length > 0) {
        select({ kind: 'lines', begun: bad.map((one) => one.text).join('\n') });
        tell(`${slots.length} of ${lines.length} pasted lines became slots; the others are marked at the side.`);
      } else if (slots.length > 0) select({ kind: 'slot', id: slots.at(-1)!.id });
    };
    window.addEventListener('copy', copy);
    window.addEventListener('cut', copy);
    window.addEventListener('paste', paste);
    return () => {
      window.removeEventListener('copy', copy);
      window.removeEventListener('cut', copy);
      window.removeEventListener('paste', paste);
    };
  });
}

interface Screens {
  readonly showSheet: () => void;
  readonly showPalette: () => void;
  /** What is typed between the key for the palette and its appearance; undefined while none is awaited. */
  readonly typedAheadRef: { current: string | undefined };
}

/** Keys that work everywhere on the screen but in fields and dialogs. */
export function useScreenKeys({ showSheet, showPalette, typedAheadRef }: Screens) {
  const scale = useDesigner((state) => state.scale);
  const setScale = useDesigner((state) => state.setScale);
  const select = useDesigner((state) => state.select);
  const id = useDesigner((state) => state.view.id);
  const isOneSlot = useDesigner((state) => state.selection.kind === 'slot');
  const router = useRouter();
  const add = useAdding();
  const openLedger = useLedger();
  const slot = useDesigner((state) => slotQuery(state.selection));
  useClipboard();
  useUndoKeys();
  useEffect(() => {
    const letters: Readonly<Record<string, () => void>> = {
      '?': showSheet,
      '/': () => focusField(LINE_FIELD, isOneSlot),
      s: () => setScale(scale === 'true' ? 'legible' : 'true'),
      b: () => router.push(`/layouts/${id}/build`),
      i: () => router.push(`/layouts/${id}/fit`),
      w: () => router.push(`/layouts/${id}/contents${slot}`),
      v: () => router.push(`/layouts/${id}/study${slot}`),
      n: () => add('partition'),
      r: () => add('raw'),
      f: () => add('free'),
      p: () => select({ kind: 'lines' }),
      m: () => select({ kind: 'machine' }),
      t: () => select({ kind: 'table' }),
      h: () => select({ kind: 'history' }),
      c: () => select({ kind: 'chart' }),
      l: openLedger,
    };
    const onKey = (event: globalThis.KeyboardEvent) => {
      const key = event.key.toLowerCase();
      const control = event.ctrlKey || event.metaKey;
      if (control && key === 'k') {
        event.preventDefault();
        typedAheadRef.current ??= '';
        showPalette();
        return;
      }
      // The palette is on its way: what is typed belongs to it.
      if (typedAheadRef.current !== undefined) {
        event.preventDefault();
        if (event.key.length === 1 && !control) typedAheadRef.current += event.key;
        return;
      }
      if (isTaken(event)) return;
      if (!control && !event.altKey && letters[key]) {
        event.preventDefault();
        letters[key]();
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
}

/** Keys on the column that act on what is selected. */
export function useSlotKeys() {
  const selection = useDesigner((state) => state.selection);
  const slots = useDesigner((state) => state.document.slots);
  const commit = useDesigner((state) => state.commit);
  return (event: KeyboardEvent<HTMLElement>) => {
    const ids = idsOf(selection);
    if (ids.length === 0) return;
    const step = event.key === 'ArrowUp' ? -1 : event.key === 'ArrowDown' ? 1 : 0;
    if (event.altKey && step !== 0) {
      event.preventDefault();
      const edit = movingSeveral(
        slots.map((slot) => slot.id),
        ids,
        step,
      );
      if (edit) commit(edit);
    } else if (event.key === 'Delete')
      commit(
        ids.length === 1
          ? { do: 'remove slot', id: ids[0]! }
          : { do: 'several', edits: ids.map((id): Edit => ({ do: 'remove slot', id })) },
      );
    else if (event.key === 'Enter') {
      event.preventDefault();
      focusField(SIZE_FIELD, ids.length === 1);
    }
  };
}

'use client';

import { slotQuery } from '../state/selection';
import { useAdding, useLedger } from '../state/actions';
import { useClipboard } from './useClipboard';
import { useRouter } from 'next/navigation';
import { useEffect, useEffectEvent } from 'react';
import { focusField } from './focus';
import { useDesigner } from '../state/context';
import { LINE_FIELD } from '../state/editing';
import { isTaken, useUndoKeys } from './undo-keys';

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
  const router = useRouter();
  const add = useAdding();
  const openLedger = useLedger();
  const slot = useDesigner((state) => slotQuery(state.selection));
  useClipboard();
  useUndoKeys();
  const letters: Readonly<Record<string, () => void>> = {
    '?': showSheet,
    '/': () => focusField(LINE_FIELD),
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
  const onKey = useEffectEvent((event: KeyboardEvent) => {
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
  });
  useEffect(() => {
    const listener = (event: KeyboardEvent) => onKey(event);
    window.addEventListener('keydown', listener);
    return () => window.removeEventListener('keydown', listener);
  }, []);
}

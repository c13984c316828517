'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useEffectEvent, useState } from 'react';
import { hasLetters, isLetter, isTaken } from '../../kit/keys/letters';
import { useScreenOffers } from '../../kit/keys/screen';
import { addSlot, openLedger } from '../state/actions';
import { useDesigner, useDesignerNow } from '../state/context';
import { LINE_FIELD } from '../state/editing';
import { focusAfter } from '../state/focus';
import { slotQuery } from '../state/selection';
import { useClipboard } from './useClipboard';
import { useUndoKeys } from './useUndoKeys';

/** Keys of the designer: letters in the column and in lists, the slash everywhere but in fields. */
export function useScreenKeys() {
  const now = useDesignerNow();
  const id = useDesigner((state) => state.view.id);
  const router = useRouter();
  useClipboard();
  useUndoKeys();
  const [offered] = useState(() => ({
    orders: () => import('./orders').then(({ ordersOf }) => ordersOf(now(), (path) => router.push(path))),
    sheet: () => import('./shortcuts').then((file) => file.SHORTCUTS),
  }));
  useScreenOffers(offered);
  const letters: Readonly<Record<string, () => void>> = {
    s: () => now().setScale(now().scale === 'true' ? 'legible' : 'true'),
    b: () => router.push(`/layouts/${id}/build`),
    i: () => router.push(`/layouts/${id}/fit`),
    w: () => router.push(`/layouts/${id}/contents${slotQuery(now().selection)}`),
    o: () => router.push(`/layouts/${id}/hand-over`),
    v: () => router.push(`/layouts/${id}/study${slotQuery(now().selection)}`),
    a: () => addSlot(now(), 'partition'),
    r: () => addSlot(now(), 'raw'),
    f: () => addSlot(now(), 'free'),
    p: () => now().select({ kind: 'lines' }),
    m: () => now().select({ kind: 'machine' }),
    t: () => now().select({ kind: 'table' }),
    h: () => now().select({ kind: 'history' }),
    c: () => now().select({ kind: 'chart' }),
    l: () => openLedger(now()),
  };
  const onKey = useEffectEvent((event: KeyboardEvent) => {
    const letter = letters[event.key.toLowerCase()];
    if (letter && isLetter(event)) {
      event.preventDefault();
      letter();
    } else if (event.key === '/' && !isTaken(event) && hasLetters()) {
      event.preventDefault();
      focusAfter(() => now().fold(false), LINE_FIELD);
    }
  });
  useEffect(() => {
    const listener = (event: KeyboardEvent) => onKey(event);
    window.addEventListener('keydown', listener);
    return () => window.removeEventListener('keydown', listener);
  }, []);
}

'use client';

import { useEffect } from 'react';
import { useDesigner } from '../state/context';

/** True while a person types into a field, where letters are no shortcuts. */
function isTyping(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && (target.matches('input, textarea, select') || target.isContentEditable);
}

/** True where a key belongs to something else: a field, a dialog, a menu. */
export function isTaken(event: Event): boolean {
  return isTyping(event.target) || document.querySelector('[role="dialog"], [role="menu"]') !== null;
}

/** Undo and redo by keys, on every screen that changes the layout. */
export function useUndoKeys() {
  const undo = useDesigner((state) => state.undo);
  const redo = useDesigner((state) => state.redo);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z' || isTaken(event)) return;
      event.preventDefault();
      if (event.shiftKey) redo();
      else undo();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [undo, redo]);
}

'use client';

import { useEffect } from 'react';
import { isTaken } from '../../kit/keys/letters';
import { useDesigner } from '../state/context';

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

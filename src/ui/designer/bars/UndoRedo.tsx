'use client';

import { Button } from '../../kit/Button';
import { useDesigner } from '../state/context';

/** One step back or forward, on every screen that changes the layout. */
export function UndoRedo() {
  const canUndo = useDesigner(({ view, steps }) => view.canUndo || steps.length > 0);
  const canRedo = useDesigner(({ view, steps }) => view.canRedo || steps.at(-1)?.kind === 'move');
  const undo = useDesigner((state) => state.undo);
  const redo = useDesigner((state) => state.redo);
  return (
    <>
      <Button onClick={undo} disabled={!canUndo}>
        Undo
      </Button>
      <Button onClick={redo} disabled={!canRedo}>
        Redo
      </Button>
    </>
  );
}

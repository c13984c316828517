'use client';

import type { KeyboardEvent } from 'react';
import type { Edit } from '@/core/layout/edits';
import { useDesigner } from '../state/context';
import { SIZE_FIELD } from '../state/editing';
import { idsOf } from '../state/selection';
import { movingSeveral } from '../state/several';
import { focusAfter } from '../state/focus';

/** Keys on the column that act on what is selected. */
export function useSlotKeys() {
  const selection = useDesigner((state) => state.selection);
  const slots = useDesigner((state) => state.document.slots);
  const commit = useDesigner((state) => state.commit);
  const fold = useDesigner((state) => state.fold);
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
      focusAfter(() => fold(false), SIZE_FIELD);
    }
  };
}

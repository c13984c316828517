'use client';

/** What several parts of the screen can do. */
import { SLOT_LIMIT } from '@/core/layout/vocabulary';
import { adding, type NewKind } from './adding';
import { useDesigner } from './context';
import { idsOf, type DesignerSelection } from './selection';

/** Adds a slot behind the selected one, or in a gap: there it takes what is free. */
export function useAdding() {
  const layout = useDesigner((state) => state.document);
  const selection = useDesigner((state) => state.selection);
  const commit = useDesigner((state) => state.commit);
  const select = useDesigner((state) => state.select);
  const notify = useDesigner((state) => state.notify);
  return (kind: NewKind, behind?: DesignerSelection) => {
    const added = adding(layout, behind ?? selection, kind, behind && 'rest');
    if (!added) return notify(`A layout has at most ${SLOT_LIMIT} slots.`);
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

/** What several parts of the screen can do. */
import { adding, type NewKind, type Wanted } from '@/core/advice/adding';
import { SLOT_LIMIT } from '@/core/layout/vocabulary';
import type { DesignerState } from './designer';
import { SIZE_FIELD } from './editing';
import { focusAfter } from './focus';
import { idsOf, type DesignerSelection } from './selection';

/** Where a slot is wanted that is added now: in the selected free space, or behind what is selected. */
function wantedAt(selection: DesignerSelection): Wanted {
  if (selection.kind === 'gap') return selection;
  const id = idsOf(selection).at(-1);
  return id === undefined ? { kind: 'anywhere' } : { kind: 'behind', id };
}

/** Adds a slot: it takes the free space where it is wanted, and its size waits to be typed. */
export function addSlot({ base, selection, commit, select, fold, notify }: DesignerState, kind: NewKind): void {
  const added = adding(base, wantedAt(selection), kind);
  if (!added) return notify(`A layout has at most ${SLOT_LIMIT} slots.`);
  const show = () => {
    commit(added.edit);
    select({ kind: 'slot', id: added.id });
    fold(false);
  };
  focusAfter(show, SIZE_FIELD);
}

/** Opens the ledger at the first sector of what is selected. */
export function openLedger({ selection, placement, select }: DesignerState): void {
  const id = idsOf(selection).at(-1);
  const slot = placement.placed.find((one) => one.slot.id === id);
  const start = selection.kind === 'gap' || selection.kind === 'table' ? (selection.start ?? 0) : 0;
  select({ kind: 'ledger', sector: slot?.start ?? start });
}

import type { TableKind } from '@/core/layout/vocabulary';
import { translation } from '@/core/layout/translate';
import { layoutScreens, type Order } from '../../kit/keys/screen';
import { addSlot, openLedger } from '../state/actions';
import { copiedText, copyText, linesOf } from '../state/clipboard';
import type { DesignerState } from '../state/designer';
import { slotQuery } from '../state/selection';

/** The placement as text comes with its first use. */
const tabular = () => import('@/core/placement/tabular');

/** Everything that the palette offers in a designer, as it is now; `go` leads to another screen. */
export function ordersOf(state: DesignerState, go: (path: string) => void): Order[] {
  const { document: layout, placement, scale, select, setScale, commit, undo, redo, notify } = state;
  const { id } = state.view;
  const copy = (text: string, what: string) => void copyText(text).then((done) => notify(copiedText(what, done)));
  const table = (kind: TableKind, name: string): Order => ({
    name,
    group: 'Table',
    run: () => {
      const { edit, remarks } = translation(layout, kind);
      commit(edit);
      if (remarks.length > 0) notify(remarks.join(' '));
    },
  });
  return [
    { name: 'Add a partition', group: 'Slots', keys: 'A', run: () => addSlot(state, 'partition') },
    { name: 'Add a raw range', group: 'Slots', keys: 'R', run: () => addSlot(state, 'raw') },
    { name: 'Add free space on purpose', group: 'Slots', keys: 'F', run: () => addSlot(state, 'free') },
    { name: 'Add slots as lines of text', group: 'Slots', keys: 'P', run: () => select({ kind: 'lines' }) },
    ...layout.slots.map((slot): Order => ({
      name: `Go to ${slot.name}`,
      group: 'Slots',
      run: () => select({ kind: 'slot', id: slot.id }),
    })),
    { name: 'Medium and layout', group: 'Panels', run: () => select({ kind: 'layout' }) },
    { name: 'Machine, firmware and board', group: 'Panels', keys: 'M', run: () => select({ kind: 'machine' }) },
    { name: 'Table and its entries', group: 'Panels', keys: 'T', run: () => select({ kind: 'table' }) },
    { name: 'Revisions', group: 'Panels', keys: 'H', run: () => select({ kind: 'history' }) },
    { name: 'Ledger of what is selected', group: 'Panels', keys: 'L', run: () => openLedger(state) },
    { name: 'How the space divides, as a chart', group: 'Panels', keys: 'C', run: () => select({ kind: 'chart' }) },
    ...(layout.table.kind === 'mbr' ? [] : [table('mbr', 'Change to an MBR')]),
    ...(layout.table.kind === 'gpt' ? [] : [table('gpt', 'Change to a GPT')]),
    ...(layout.table.kind === 'none' ? [] : [table('none', 'Change to no table')]),
    {
      name: 'Copy the placement as text',
      group: 'Take along',
      run: () => void tabular().then(({ placementTable }) => copy(placementTable(placement), 'The placement')),
    },
    {
      name: 'Copy the placement as CSV',
      group: 'Take along',
      run: () => void tabular().then(({ placementCsv }) => copy(placementCsv(placement), 'The placement')),
    },
    {
      name: 'Copy all slots as lines',
      group: 'Take along',
      run: () =>
        copy(
          linesOf(
            layout,
            layout.slots.map((slot) => slot.id),
          ),
          'The layout',
        ),
    },
    { name: 'Undo', group: 'Steps', keys: 'Ctrl Z', run: undo },
    { name: 'Redo', group: 'Steps', keys: 'Ctrl Shift Z', run: redo },
    {
      name: state.isFolded ? 'Show the properties' : 'Fold the properties away',
      group: 'Panels',
      run: () => state.fold(!state.isFolded),
    },
    {
      name: scale === 'true' ? 'Legible scale' : 'True scale',
      group: 'Steps',
      keys: 'S',
      run: () => setScale(scale === 'true' ? 'legible' : 'true'),
    },
    ...layoutScreens(`/layouts/${id}`, go, { slot: slotQuery(state.selection) }),
  ];
}

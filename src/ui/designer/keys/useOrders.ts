'use client';

import { slotQuery } from '../state/selection';
import { useRouter } from 'next/navigation';
import type { TableKind } from '@/core/layout/vocabulary';
import { translation } from '@/core/layout/translate';
import { copiedText, copyText, linesOf } from '../state/clipboard';
import { useDesigner, useDesignerNow } from '../state/context';
import type { Order } from './Palette';
import type { NewKind } from '../state/adding';

/** The placement as text comes with its first use. */
const tabular = () => import('@/core/placement/tabular');

/** Everything that the palette offers, as it is now. */
export function useOrders({
  add,
  openLedger,
  showSheet,
}: {
  add: (kind: NewKind) => void;
  openLedger: () => void;
  showSheet: () => void;
}): Order[] {
  const router = useRouter();
  const layout = useDesigner((state) => state.document);
  const placement = useDesigner((state) => state.placement);
  const { id } = useDesigner((state) => state.view);
  const slot = useDesigner((state) => slotQuery(state.selection));
  const scale = useDesigner((state) => state.scale);
  const { select, setScale, commit, undo, redo, notify } = useDesignerNow()();
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
  const page = (name: string, to: string, keys?: string): Order => ({
    name,
    group: 'Screens',
    run: () => router.push(to),
    ...(keys && { keys }),
  });
  return [
    { name: 'Add a partition', group: 'Slots', keys: 'N', run: () => add('partition') },
    { name: 'Add a raw range', group: 'Slots', keys: 'R', run: () => add('raw') },
    { name: 'Add free space on purpose', group: 'Slots', keys: 'F', run: () => add('free') },
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
    { name: 'Ledger of what is selected', group: 'Panels', keys: 'L', run: openLedger },
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
      name: scale === 'true' ? 'Legible scale' : 'True scale',
      group: 'Steps',
      keys: 'S',
      run: () => setScale(scale === 'true' ? 'legible' : 'true'),
    },
    { name: 'All keys', group: 'Steps', keys: '?', run: showSheet },
    page('What goes in: files, loaders, boot code', `/layouts/${id}/contents${slot}`, 'W'),
    page('Study the variants of a FAT', `/layouts/${id}/study${slot}`, 'V'),
    page('Fit on several media', `/layouts/${id}/fit`, 'I'),
    page('Compare revisions', `/layouts/${id}/compare`),
    page('Build an image', `/layouts/${id}/build`, 'B'),
    page('To the shelf', '/'),
    page('To the bench', '/bench'),
    page('Start a new layout with questions', '/new'),
  ];
}

'use client';

import { Dialog } from 'radix-ui';
import { buttonClass } from '../../kit/Button';
import { Key } from '../../kit/Key';

const SHORTCUTS: readonly (readonly [string, string])[] = [
  ['↑ ↓', 'go from stratum to stratum (in the column)'],
  ['Enter', 'to the size of the selected slot'],
  ['+ −', 'make the selected slot one grain larger or smaller'],
  ['Tab, then ↑ ↓', 'on a boundary: move it by one grain; Shift or Page for 16'],
  ['Alt ↑ ↓', 'move what is selected up or down'],
  ['Shift ↑ ↓', 'select one more slot; Shift or Ctrl with the mouse'],
  ['/', 'to the selected slot in one line'],
  ['P', 'slots as lines: paste or type many'],
  ['Ctrl C X V', 'copy, cut and paste slots, as lines of text'],
  ['N  R  F', 'add a partition, a raw range, free space'],
  ['Del', 'delete what is selected'],
  ['Esc', 'give up what is being typed or dragged'],
  ['Ctrl Z', 'undo'],
  ['Ctrl Shift Z', 'redo'],
  ['L', 'the ledger: the first sector of what is selected, field by field'],
  ['M  T  H  C', 'machine, table, revisions, chart'],
  ['S', 'legible or true scale'],
  ['W  V', 'what goes into the selected slot; the variants of its FAT'],
  ['I  B', 'to the fit, to the build'],
  ['Ctrl K', 'all orders by name'],
  ['?', 'this sheet'],
];

/** All keys of the designer. */
export function ShortcutSheet({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-50 w-[520px] -translate-x-1/2 -translate-y-1/2 rounded-[8px] border border-edge bg-card p-5 shadow-xl"
        >
          <Dialog.Title className="mb-2 text-base font-semibold">Keys</Dialog.Title>
          <dl className="grid grid-cols-[130px_1fr] gap-y-1.5">
            {SHORTCUTS.map(([keys, text]) => (
              <div key={keys} className="contents">
                <dt>
                  <Key>{keys}</Key>
                </dt>
                <dd>{text}</dd>
              </div>
            ))}
          </dl>
          <Dialog.Close className={`${buttonClass()} mt-3`}>Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

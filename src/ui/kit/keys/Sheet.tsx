'use client';

import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { buttonClass } from '../Button';
import { Key } from '../Key';
import { hasLetters, setLetters } from './letters';
import type { Shortcut } from './screen';

const EVERYWHERE: readonly Shortcut[] = [
  ['Ctrl K', 'all orders of this screen by name, and the way to every other one'],
  ['?', 'this sheet'],
  ['Tab', 'the first stop of a page leads past its bars, to the work'],
  ['↑ ↓ ← →', 'choose in a group of choices'],
  ['Enter', 'in a field: take it, and go back to what was selected'],
  ['Esc', 'give up what is being typed, dragged or asked'],
];

function Shortcuts({ shortcuts }: { readonly shortcuts: readonly Shortcut[] }) {
  return (
    <dl className="grid grid-cols-[118px_1fr] content-start gap-y-1">
      {shortcuts.map(([keys, text]) => (
        <div key={keys} className="contents">
          <dt>
            <Key>{keys}</Key>
          </dt>
          <dd>{text}</dd>
        </div>
      ))}
    </dl>
  );
}

/** Letters without Ctrl, which somebody who speaks to the machine may not want. */
function LettersSwitch() {
  const [isOn, setOn] = useState(hasLetters);
  return (
    <label className="flex items-center gap-2">
      <input
        type="checkbox"
        checked={isOn}
        onChange={(event) => {
          setLetters(event.target.checked);
          setOn(event.target.checked);
        }}
      />
      Letters by themselves are keys, in the column and in lists
    </label>
  );
}

/** All keys of a screen, and those of every screen. */
export function Sheet({ shortcuts, close }: { readonly shortcuts: readonly Shortcut[]; readonly close: () => void }) {
  return (
    <Dialog.Root open onOpenChange={close}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <Dialog.Content
          aria-describedby={undefined}
          // Who opened it gives the focus back.
          onCloseAutoFocus={(event) => event.preventDefault()}
          className="fixed top-1/2 left-1/2 z-50 max-h-[calc(100vh-24px)] w-[min(920px,calc(100vw-24px))] -translate-x-1/2 -translate-y-1/2 overflow-y-auto rounded-[8px] border border-edge bg-card p-5 shadow-xl"
        >
          <Dialog.Title className="mb-2 text-base font-semibold">Keys</Dialog.Title>
          <div className={shortcuts.length > 0 ? 'grid grid-cols-2 gap-x-6' : ''}>
            {shortcuts.length > 0 && <Shortcuts shortcuts={shortcuts} />}
            <div>
              {shortcuts.length > 0 && <h3 className="mb-1 text-soft">On every screen</h3>}
              <Shortcuts shortcuts={EVERYWHERE} />
            </div>
          </div>
          <div className="mt-4 flex items-center justify-between gap-4 border-t border-hair pt-3">
            <LettersSwitch />
            <Dialog.Close className={buttonClass()}>Close</Dialog.Close>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

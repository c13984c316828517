'use client';

import { DropdownMenu } from 'radix-ui';
import { Key } from '../../kit/Key';
import type { NewKind } from '@/core/advice/adding';

const ITEM =
  'flex cursor-default items-center justify-between gap-6 rounded px-2 py-1 outline-none data-[highlighted]:bg-selected';

interface Props {
  readonly onAdd: (kind: NewKind) => void;
  readonly disabled: boolean;
  /** Look and text of the button. */
  readonly className: string;
  readonly text: string;
}

/** The button with its menu, which is open at first: it was asked for. */
export function AddChoices({ onAdd, disabled, className, text }: Props) {
  return (
    <DropdownMenu.Root defaultOpen>
      <DropdownMenu.Trigger className={className} disabled={disabled}>
        {text}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          // What was added has the focus.
          onCloseAutoFocus={(event) => event.preventDefault()}
          sideOffset={4}
          className="z-40 rounded-[6px] border border-edge bg-card p-1 shadow-lg"
        >
          <DropdownMenu.Item className={ITEM} onSelect={() => onAdd('partition')}>
            Partition <Key>A</Key>
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={() => onAdd('raw')}>
            Raw range at a fixed place <Key>R</Key>
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={() => onAdd('free')}>
            Free on purpose <Key>F</Key>
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

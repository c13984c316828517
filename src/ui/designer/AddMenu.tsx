'use client';

import { DropdownMenu } from 'radix-ui';
import type { Layout, Slot } from '@/core/layout/document';
import { type Edit, newSlotId } from '@/core/layout/edits';
import { buttonClass } from '../kit/Button';
import { Key } from '../kit/Key';
import { useDesigner } from './context';
import type { Selection } from './store';

export type NewKind = Slot['kind'];

const TEMPLATES: Readonly<Record<NewKind, (id: string) => Slot>> = {
  partition: (id) => ({ id, kind: 'partition', name: 'New partition', role: 'data', size: '1 GiB' }),
  raw: (id) => ({ id, kind: 'raw', name: 'Loader range', at: '32 KiB', length: '480 KiB' }),
  free: (id) => ({ id, kind: 'free', name: 'Free on purpose', size: '256 MiB' }),
};

/**
 * The edit that adds a slot behind the selected one (a raw range: ahead of all), and its id.
 * `size` replaces the usual first size of a partition or of free space.
 */
export function adding(layout: Layout, selection: Selection, kind: NewKind, size?: string): { edit: Edit; id: string } {
  const id = newSlotId(layout);
  const selected = selection.kind === 'slot' ? layout.slots.findIndex((slot) => slot.id === selection.id) : -1;
  const index = kind === 'raw' ? 0 : selected >= 0 ? selected + 1 : layout.slots.length;
  const slot = TEMPLATES[kind](id);
  return { id, edit: { do: 'add slot', index, slot: size && slot.kind !== 'raw' ? { ...slot, size } : slot } };
}

const ITEM =
  'flex cursor-default items-center justify-between gap-6 rounded px-2 py-1 outline-none data-[highlighted]:bg-selected';

/** Adding a slot of one of the three kinds. */
export function AddMenu({ onAdd }: { onAdd: (kind: NewKind) => void }) {
  const full = useDesigner((state) => state.document.slots.length >= 256);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className={`${buttonClass()} py-0.5`} disabled={full}>
        Add a slot
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-40 rounded-[6px] border border-edge bg-card p-1 shadow-lg"
        >
          <DropdownMenu.Item className={ITEM} onSelect={() => onAdd('partition')}>
            Partition <Key>N</Key>
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

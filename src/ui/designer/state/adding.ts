import type { DesignerSelection } from './selection';
import type { Layout, Slot } from '@/core/layout/document';
import { type Edit, newSlotId } from '@/core/layout/edits';
import { SLOT_LIMIT } from '@/core/layout/vocabulary';

export type NewKind = Slot['kind'];

const TEMPLATES: Readonly<Record<NewKind, (id: string) => Slot>> = {
  partition: (id) => ({ id, kind: 'partition', name: 'New partition', role: 'data', size: '1 GiB' }),
  raw: (id) => ({ id, kind: 'raw', name: 'Loader range', at: '32 KiB', length: '480 KiB' }),
  free: (id) => ({ id, kind: 'free', name: 'Free on purpose', size: '256 MiB' }),
};

/**
 * The edit that adds a slot behind the selected one (a raw range: ahead of all), and its id;
 * undefined where a layout cannot have more. `size` replaces the usual first size of a partition or of free space.
 */
export function adding(
  layout: Layout,
  selection: DesignerSelection,
  kind: NewKind,
  size?: string,
): { edit: Edit; id: string } | undefined {
  if (layout.slots.length >= SLOT_LIMIT) return undefined;
  const id = newSlotId(layout);
  const selected = selection.kind === 'slot' ? layout.slots.findIndex((slot) => slot.id === selection.id) : -1;
  const index = kind === 'raw' ? 0 : selected >= 0 ? selected + 1 : layout.slots.length;
  const slot = TEMPLATES[kind](id);
  return { id, edit: { do: 'add slot', index, slot: size && slot.kind !== 'raw' ? { ...slot, size } : slot } };
}

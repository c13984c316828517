/**
 * Edits: every change of a layout, as plain data and one pure function. An edit never
 * mutates; it gives a new layout in which everything untouched is the same object.
 */
import type { FreeSlot, Layout, PartitionSlot, RawSlot, Slot } from './document';

/** New values for fields of a slot; `undefined` removes an optional field. */
export type SlotPatch = Partial<Omit<PartitionSlot, 'id' | 'kind'>> &
  Partial<Omit<RawSlot, 'id' | 'kind'>> &
  Partial<Omit<FreeSlot, 'id' | 'kind'>>;

/** One change. `several` is applied as one, and is one step of undo. */
export type Edit =
  | { readonly do: 'add slot'; readonly slot: Slot; readonly index: number }
  | { readonly do: 'remove slot'; readonly id: string }
  | { readonly do: 'move slot'; readonly id: string; readonly index: number }
  | { readonly do: 'change slot'; readonly id: string; readonly patch: SlotPatch }
  | {
      readonly do: 'change layout';
      readonly patch: Partial<Pick<Layout, 'name' | 'story' | 'medium' | 'boots' | 'table' | 'grain' | 'date'>>;
    }
  | { readonly do: 'several'; readonly edits: readonly Edit[] };

function patched<T extends object>(target: T, patch: object): T {
  const merged = Object.entries({ ...target, ...patch }).filter(([, value]) => value !== undefined);
  return Object.fromEntries(merged) as T;
}

/** Applies an edit. Naming a slot that is not there changes nothing. */
export function applyEdit(layout: Layout, edit: Edit): Layout {
  switch (edit.do) {
    case 'add slot': {
      const index = Math.max(0, Math.min(edit.index, layout.slots.length));
      return { ...layout, slots: layout.slots.toSpliced(index, 0, edit.slot) };
    }
    case 'remove slot':
      return { ...layout, slots: layout.slots.filter((slot) => slot.id !== edit.id) };
    case 'move slot': {
      const slot = layout.slots.find((one) => one.id === edit.id);
      if (!slot) return layout;
      const others = layout.slots.filter((one) => one.id !== edit.id);
      return { ...layout, slots: others.toSpliced(Math.max(0, edit.index), 0, slot) };
    }
    case 'change slot':
      return {
        ...layout,
        slots: layout.slots.map((slot) => (slot.id === edit.id ? patched(slot, edit.patch) : slot)),
      };
    case 'change layout':
      return patched(layout, edit.patch);
    case 'several':
      return edit.edits.reduce(applyEdit, layout);
  }
}

/** An id that no slot of the layout has; the same layout gives the same id. */
export function newSlotId(layout: Layout): string {
  const taken = new Set(layout.slots.map((slot) => slot.id));
  let n = layout.slots.length + 1;
  while (taken.has(`slot-${n}`)) n += 1;
  return `slot-${n}`;
}

/**
 * A volume id for a new FAT volume: follows from the signature and the slot id by the FNV-1a
 * hash, so that the same document always gives the same bytes.
 */
export function derivedVolumeId(layout: Layout, slotId: string): string {
  let hash = 0x811c9dc5;
  for (const c of `${layout.table.signature}/${slotId}`) {
    hash ^= c.charCodeAt(0);
    hash = Math.imul(hash, 0x01000193) >>> 0;
  }
  const digits = hash.toString(16).toUpperCase().padStart(8, '0');
  return `${digits.slice(0, 4)}-${digits.slice(4)}`;
}

/** Marks one partition active and takes the mark from all others. */
export function markOnly(layout: Layout, id: string): Edit {
  const edits = layout.slots
    .filter((slot) => slot.kind === 'partition' && (slot.id === id) !== (slot.active === true))
    .map((slot): Edit => ({
      do: 'change slot',
      id: slot.id,
      patch: { active: slot.id === id ? true : undefined },
    }));
  return { do: 'several', edits };
}

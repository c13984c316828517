/** Edits of what is kept: only acts that say what they cost move, resize or empty it. */
import type { Layout, Slot } from './document';
import type { Edit } from './edits';
import { isLocked, keepsInside } from './kept';

const GEOMETRY = ['at', 'size', 'length', 'grain', 'endsOnGrain', 'logical', 'keeps'];

/** Fields that no edit but an act changes: where it lies, and what is inside as long as that stays. */
const heldIn = (slot: Slot): readonly string[] => (keepsInside(slot) ? [...GEOMETRY, 'content'] : GEOMETRY);

/** The kept slot that an edit would move, resize or empty; undefined where it touches none. Deleting is no such edit. */
export function disturbed(edit: Edit, layout: Layout): Slot | undefined {
  const locked = (id: string) => layout.slots.find((slot) => slot.id === id && isLocked(slot));
  switch (edit.do) {
    case 'several':
      for (const one of edit.edits) {
        const slot = disturbed(one, layout);
        if (slot) return slot;
      }
      return undefined;
    case 'move slot':
      return locked(edit.id);
    case 'put slot': {
      const before = locked(edit.slot.id);
      const isMoved = (key: string) =>
        JSON.stringify((before as unknown as Record<string, unknown>)[key]) !==
        JSON.stringify((edit.slot as unknown as Record<string, unknown>)[key]);
      return before && heldIn(before).some(isMoved) ? before : undefined;
    }
    case 'change slot': {
      const slot = locked(edit.id);
      return slot && Object.keys(edit.patch).some((key) => heldIn(slot).includes(key)) ? slot : undefined;
    }
    default:
      return undefined;
  }
}

/** The kept slots that an edit deletes. */
export function deletedKept(edit: Edit, layout: Layout): Slot[] {
  if (edit.do === 'several') return edit.edits.flatMap((one) => deletedKept(one, layout));
  if (edit.do !== 'remove slot') return [];
  return layout.slots.filter((slot) => slot.id === edit.id && isLocked(slot));
}

/** Slots between layouts: they travel as slot lines, so that they can be pasted into anything. */
import type { Layout } from '@/core/layout/document';
import { writeLine } from '@/core/layout/line-write';

/** The lines of some slots, in the order of the layout. */
export function linesOf(layout: Layout, ids: readonly string[]): string {
  const lines = layout.slots.filter((slot) => ids.includes(slot.id)).map(writeLine);
  return lines.length > 0 ? `${lines.join('\n')}\n` : '';
}

/** Puts a text on the clipboard; browsers that refuse leave it as it was. */
export async function copyText(text: string): Promise<boolean> {
  try {
    await navigator.clipboard.writeText(text);
    return true;
  } catch {
    return false;
  }
}

/** What to say when a text was, or could not be, put on the clipboard. */
export function copiedText(what: string, done: boolean): string {
  return done ? `${what} is on the clipboard.` : 'The browser does not let the clipboard be written.';
}

/** Puts the lines of some slots on the clipboard. */
export function copySlots(layout: Layout, ids: readonly string[]): void {
  void copyText(linesOf(layout, ids));
}

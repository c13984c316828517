/**
 * Pasted lines that become slots in their order. A line that cannot be read holds its place: it is kept
 * with the slot that it stood behind, and goes there when it is mended.
 */
import type { Layout } from './document';
import { applyEdit, type Edit } from './edits';
import { type ReadLine, slotsOf } from './line-help';
import { SLOT_LIMIT } from './vocabulary';

/** Id of the slot that a line stands behind: none at the top, `undefined` where it goes to the end. */
export type Behind = string | null | undefined;

/** What adding lines means: the edit, the lines that are left, and what each of those stands behind. */
export interface PastedLines {
  readonly edit: Edit;
  /** Ids of the slots that are added. */
  readonly added: readonly string[];
  readonly left: readonly ReadLine[];
  readonly behind: readonly Behind[];
}

/** Adds what can be read of these lines; `behind` says for each line what it stands behind. */
export function addingLines(layout: Layout, lines: readonly ReadLine[], behind: readonly Behind[]): PastedLines {
  const room = Math.max(0, SLOT_LIMIT - layout.slots.length);
  const good = lines.filter((one) => one.parsed).slice(0, room);
  const slots = slotsOf(
    layout,
    good.map((one) => one.parsed!),
  );
  const numbers = new Map(good.map((line, n) => [line, n]));
  const edits: Edit[] = [];
  const left: ReadLine[] = [];
  const waiting: Behind[] = [];
  let so = layout;
  // Lines with one place follow each other there: the last one that was added is what the next stands behind.
  const moved = new Map<Behind, string>();
  lines.forEach((line, i) => {
    const place = moved.get(behind[i]) ?? behind[i];
    const n = numbers.get(line);
    if (n === undefined) {
      left.push(line);
      // What goes to the end stands behind what is last now.
      waiting.push(place === undefined ? (so.slots.at(-1)?.id ?? null) : place);
      return;
    }
    const slot = slots[n]!;
    const index =
      place === undefined ? so.slots.length : place === null ? 0 : so.slots.findIndex(({ id }) => id === place) + 1;
    const edit: Edit = { do: 'add slot', slot, index };
    edits.push(edit);
    so = applyEdit(so, edit);
    moved.set(behind[i], slot.id);
  });
  return { edit: { do: 'several', edits }, added: slots.map((slot) => slot.id), left, behind: waiting };
}

/**
 * What the lines of a text stand behind after it was changed: lines that are the same at both ends keep
 * their places, and what was changed between them has those of the lines that it replaced.
 */
export function carriedPlaces(
  before: readonly string[],
  places: readonly Behind[],
  after: readonly string[],
): Behind[] {
  let head = 0;
  while (head < before.length && head < after.length && before[head] === after[head]) head += 1;
  let tail = 0;
  const most = Math.min(before.length, after.length) - head;
  while (tail < most && before[before.length - 1 - tail] === after[after.length - 1 - tail]) tail += 1;
  return after.map((_, i) => {
    if (i < head) return places[i];
    if (i >= after.length - tail) return places[before.length - (after.length - i)];
    // A line that came in stands where the one at its height stood, or behind what precedes it.
    return places[Math.min(i, Math.max(0, before.length - tail - 1))];
  });
}

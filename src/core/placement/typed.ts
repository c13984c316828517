/**
 * Start, last sector and length of a slot as a person types them. Each is a text: a bare
 * number counts sectors, anything else is a size of the size language, read as a position for
 * start and last. What is not typed follows.
 */
import type { Edit } from '../layout/edits';
import { fail, ok, type Result } from '../quantity/result';
import { amountInSectors, parseExact, type SizeError } from '../quantity/size-language';
import { exactText, grouped, sectorCount } from '../quantity/units';
import type { Placed, Placement } from './placement';
import { lastSector } from './placement';

/** Which of the three was typed. */
export type Typed = 'start' | 'last' | 'length';

const BARE = /^\d{1,3}(?:[ ,_]?\d{3})*$|^\d+$/;

/** Sectors that a text means; a bare number is that many. */
export function typedSectors(text: string, sectorSize: number): Result<number, SizeError> {
  const trimmed = text.trim();
  if (BARE.test(trimmed)) {
    const sectors = Number(trimmed.replace(/[ ,_]/g, ''));
    if (Number.isSafeInteger(sectors * sectorSize)) return ok(sectors);
    return fail({ at: 0, length: text.length, message: 'Too large: media stay below 8 PiB.' });
  }
  const amount = parseExact(text);
  return amount.ok ? ok(amountInSectors(amount.value, sectorSize)) : amount;
}

/** What a typed text asks of a slot: the sectors that it would cover, or why it cannot. */
export function typedRange(
  placed: Placed,
  which: Typed,
  text: string,
  sectorSize: number,
): Result<{ readonly start: number; readonly sectors: number }, SizeError> {
  const read = typedSectors(text, sectorSize);
  if (!read.ok) return read;
  const wrong = (message: string) => fail({ at: 0, length: Math.max(1, text.length), message });
  const isPosition = which === 'last' && !BARE.test(text.trim());
  if (which === 'start') return ok({ start: read.value, sectors: placed.sectors });
  if (which === 'length')
    return read.value > 0 ? ok({ start: placed.start, sectors: read.value }) : wrong('A slot has a sector at least.');
  // A position is exclusive: up to 20 GiB the last sector is the one before it.
  const last = isPosition ? read.value - 1 : read.value;
  if (last < placed.start)
    return wrong(`It starts at sector ${grouped(placed.start)}; the last one cannot lie before that.`);
  return ok({ start: placed.start, sectors: last - placed.start + 1 });
}

/** The edit for a typed range. A typed start pins the slot; a typed last sector or length gives it an exact size. */
export function typedEdit(placement: Placement, placed: Placed, which: Typed, text: string): Edit | undefined {
  const { sectorSize } = placement;
  const { slot } = placed;
  const range = typedRange(placed, which, text, sectorSize);
  if (!range.ok) return undefined;
  const format = (sectors: number) => (sectors === 0 ? '0' : exactText(sectors * sectorSize, sectorSize));
  if (slot.kind === 'raw') {
    const patch = which === 'start' ? { at: format(range.value.start) } : { length: format(range.value.sectors) };
    return { do: 'change slot', id: slot.id, patch };
  }
  const patch = which === 'start' ? { at: format(range.value.start) } : { size: format(range.value.sectors) };
  return { do: 'change slot', id: slot.id, patch };
}

/** The range that a typed text means, in one line. */
export function describeRange({ start, sectors }: { readonly start: number; readonly sectors: number }): string {
  return `sectors ${grouped(start)} – ${grouped(lastSector({ start, sectors }))}, ${sectorCount(sectors)}`;
}

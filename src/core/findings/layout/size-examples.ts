/** Sizes to show to somebody whose text could not be read: with each of them the layout goes on landing. */
import { applyEdit } from '../../layout/edits';
import { place } from '../../placement/place';
import type { Placed, Placement } from '../../placement/placement';
import { alignUp } from '../../quantity/integers';
import { exactText } from '../../quantity/units';

/** Shown where nothing is known of the slot, or where nothing lands anyway. */
const ANYWHERE: readonly string[] = ['512 MiB', 'rest', '25 %'];

/** What could be said of a slot, the most telling first. */
function candidates({ sectorSize, grain }: Placement, { start, sectors }: Placed): string[] {
  const bytes = sectors * sectorSize;
  const half = Math.max(sectorSize, 2 ** Math.floor(Math.log2(Math.max(1, bytes / 2))));
  const text = (size: number) => exactText(size, sectorSize);
  return [
    text(half),
    'rest',
    `ending at ${text(alignUp(start * sectorSize + half, grain.bytes))}`,
    `rest, at most ${text(half)}`,
    text(bytes),
    `ending at ${text(start * sectorSize + bytes)}`,
    sectors === 1 ? '1 sector' : `${sectors} sectors`,
  ];
}

/** Three sizes in the size language for the slot with this id. */
export function sizeExamples(placement: Placement, id: string): readonly string[] {
  const one = placement.placed.find((other) => other.slot.id === id);
  if (!one || one.slot.kind === 'raw' || one.sectors === 0 || placement.misfits.length > 0) return ANYWHERE;
  const lands = (size: string) =>
    place(applyEdit(placement.layout, { do: 'change slot', id, patch: { size } }), placement.contents).misfits
      .length === 0;
  return [...new Set(candidates(placement, one))].filter(lands).slice(0, 3);
}

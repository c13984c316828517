/** Composing what is inside: from the contents of slots to byte ranges. */
import type { NamedRange } from '../filesystems/kind';
import { writerOf } from '../filesystems/writers';
import { factsOfSlot, treeOfSlot } from '../layout/contents';
import { isPartition, isRaw, type PlacedPartition, type Placement } from '../placement/placement';
import { siteIn } from '../placement/site';
import { takenOf } from '../placement/supplied';

/** A defined range, and the slot that it belongs to (none for table and medium). */
export interface DefinedRange extends NamedRange {
  readonly owner: string | undefined;
}

function volumeRanges(placement: Placement, placed: PlacedPartition): readonly NamedRange[] {
  const { slot, made } = placed;
  const { content } = slot;
  if (!content) return [];
  const { contents } = placement;
  const tree = treeOfSlot(slot, contents);
  if (!tree) throw new Error(`The files of ${slot.name} are not known here.`);
  return writerOf(content).ranges(content, siteIn(placed, placement), made, {
    tree,
    facts: factsOfSlot(slot, contents),
  });
}

/** Every range that the contents of slots define, each slot's ascending. */
export function contentRanges(placement: Placement): DefinedRange[] {
  return placement.placed.flatMap((placed): DefinedRange[] => {
    const owner = placed.slot.id;
    if (isPartition(placed)) return volumeRanges(placement, placed).map((range) => ({ owner, ...range }));
    if (!isRaw(placed)) return [];
    const copied = takenOf(placed);
    return copied && copied.length > 0
      ? [{ owner, what: 'supplied file', extent: { offset: placed.span.start, copied } }]
      : [];
  });
}

/** What is inside the partitions of a placement: the room of volumes, and where all bytes go. */
import { type Account, accountOfOne } from '../filesystems/account';
import type { VolumeRoom } from '../filesystems/allocation';
import { writerOf } from '../filesystems/writers';
import { factsOfSlot, treeOfSlot } from '../layout/contents';
import type { PlacedPartition, Placement } from './placement';
import { siteIn } from './site';

/** The room of a volume; undefined where none is made, or its files are not known here. */
export function roomOf(
  { made, slot }: PlacedPartition,
  { contents }: Pick<Placement, 'contents'>,
): VolumeRoom | undefined {
  if (!slot.content || !made) return undefined;
  const tree = treeOfSlot(slot, contents);
  return tree && writerOf(slot.content).room?.(slot.content, made, tree);
}

/** Where the bytes of a placed partition go. */
export function accountOf(
  placed: PlacedPartition,
  placement: Pick<Placement, 'contents' | 'layout' | 'sectorSize' | 'dataUnit'>,
): Account {
  const { slot, made, span } = placed;
  const { content } = slot;
  if (!content) return accountOfOne('Left to its system', span.end - span.start);
  const room = roomOf(placed, placement);
  return writerOf(content).account(
    content,
    siteIn(placed, placement),
    made,
    room,
    factsOfSlot(slot, placement.contents),
  );
}

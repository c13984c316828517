/** Composing what is inside: from the contents of slots to byte ranges. */
import type { Extent } from '../bytes/extents';
import { formatExfat } from '../filesystems/exfat/format';
import { formatFat } from '../filesystems/fat/format';
import { formatSwap } from '../filesystems/swap';
import { blobOf, type BlobFacts, fillingOf, treeOfSlot } from '../layout/contents';
import type { ImageContent } from '../layout/document';
import { isPartition, isRaw, type PlacedPartition, type Placement } from '../placement/placement';
import { takenOf, volumeCode } from '../placement/supplied';
import { pageSizeOf } from '../layout/swap';

/** A defined range, what it is, and the slot that it belongs to (none for table and medium). */
export interface DefinedRange {
  readonly owner: string | undefined;
  readonly what: string;
  /** Path of the file or folder in the volume that it belongs to. */
  readonly file?: string;
  readonly extent: Extent;
}

/** The 32-bit volume id of `3A1F-77C0`. */
export function volumeIdNumber(text: string): number {
  return parseInt(text.replace('-', ''), 16);
}

/** A prepared image, with its header saying where it lies if that was asked for. */
function imageRanges(
  { span, start }: PlacedPartition,
  content: ImageContent,
  facts: BlobFacts | undefined,
): { what: string; extent: Extent }[] {
  const image = facts?.image;
  const spots: number[] = [];
  // Behind 2^32 sectors the field has no room for its place.
  if (content.hidden && image?.variant !== undefined && start < 2 ** 32) {
    spots.push(HIDDEN_AT);
    if (image.backupSector) spots.push(image.backupSector * (image.sectorSize ?? 512) + HIDDEN_AT);
  }
  const hidden = new Uint8Array(4);
  new DataView(hidden.buffer).setUint32(0, start, true);
  const ranges: { what: string; extent: Extent }[] = [];
  let at = 0;
  const copy = (end: number) => {
    if (end > at)
      ranges.push({
        what: 'image',
        extent: { offset: span.start + at, copied: { from: content.sha256, at, length: end - at } },
      });
    at = end;
  };
  for (const spot of spots) {
    copy(spot);
    ranges.push({ what: 'place of the volume, in its header', extent: { offset: span.start + spot, bytes: hidden } });
    at = spot + hidden.length;
  }
  copy(content.size);
  return ranges;
}

/** Byte of the field "hidden sectors" in a FAT boot sector. */
const HIDDEN_AT = 28;

function volumeRanges(placement: Placement, placed: PlacedPartition): readonly Omit<DefinedRange, 'owner'>[] {
  const { slot, fat, exfat, span } = placed;
  const { contents, layout } = placement;
  const { fileSystem, content } = slot;
  const filling = fillingOf(slot);
  const tree = treeOfSlot(slot, contents);
  if (filling && !tree) throw new Error(`The files of ${slot.name} are not known here.`);
  const common = { date: layout.date, keepsTimes: filling?.times !== undefined, label: filling?.label ?? '' };
  if (fileSystem && fat?.ok) {
    const code = volumeCode(blobOf(fileSystem.code?.sha256, contents), fat.value.variant);
    return formatFat(fat.value, { ...common, volumeId: volumeIdNumber(fileSystem.volumeId), code }, tree);
  }
  switch (content?.kind) {
    case 'exfat':
      return exfat?.ok ? formatExfat(exfat.value, { ...common, serial: volumeIdNumber(content.volumeId) }, tree) : [];
    case 'swap':
      return formatSwap(span.start, span.end - span.start, {
        uuid: content.uuid,
        label: content.label ?? '',
        pageSize: pageSizeOf(content, layout),
      });
    case 'image':
      return imageRanges(placed, content, blobOf(content.sha256, contents));
    case 'blob':
      return [
        {
          what: 'supplied file',
          extent: { offset: span.start, copied: { from: content.sha256, at: 0, length: content.size } },
        },
      ];
    case 'overwritten':
      return [{ what: 'overwritten with zeros', extent: { offset: span.start, zeros: span.end - span.start } }];
    default:
      return [];
  }
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

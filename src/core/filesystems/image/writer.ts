/** A prepared image as it is written: copied, its header corrected where that was asked for. */
import type { NamedRange, Site, Writer } from '../kind';
import { accountOfFile } from '../account';
import type { BlobFacts } from '../supplied';
import type { ImageContent } from './shape';

/** Byte of the field "hidden sectors" in a FAT boot sector. */
const HIDDEN_AT = 28;

/** The image, with its header saying where it lies if that was asked for. */
function imageRanges(
  content: ImageContent,
  { start, sectorSize }: Site,
  facts: BlobFacts | undefined,
): readonly NamedRange[] {
  const base = start * sectorSize;
  const image = facts?.image;
  const spots: number[] = [];
  // Behind 2^32 sectors the field has no room for its place.
  if (content.hidden && image?.variant !== undefined && start < 2 ** 32) {
    spots.push(HIDDEN_AT);
    if (image.backupSector) spots.push(image.backupSector * (image.sectorSize ?? 512) + HIDDEN_AT);
  }
  const hidden = new Uint8Array(4);
  new DataView(hidden.buffer).setUint32(0, start, true);
  const ranges: NamedRange[] = [];
  let at = 0;
  const copy = (end: number) => {
    if (end > at)
      ranges.push({
        what: 'image',
        extent: { offset: base + at, copied: { from: content.sha256, at, length: end - at } },
      });
    at = end;
  };
  for (const spot of spots) {
    copy(spot);
    ranges.push({ what: 'place of the volume, in its header', extent: { offset: base + spot, bytes: hidden } });
    at = spot + hidden.length;
  }
  copy(content.size);
  return ranges;
}

export const IMAGE_WRITER: Writer<ImageContent> = {
  ranges: (content, site, _made, { facts }) => imageRanges(content, site, facts),
  account({ name, size }, { sectors, sectorSize }, _made, _room, facts) {
    const image = facts?.image;
    return accountOfFile(
      { title: image?.name ?? 'a supplied file', name, size, used: image?.used },
      sectors * sectorSize,
    );
  },
};

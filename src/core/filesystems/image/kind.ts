/** A prepared image of a file system as a kind of content. */
import type { NamedRange, TypeContent, Kind, Site } from '../kind';
import { accountOfFile } from '../account';
import { type BlobFacts, blobOf } from '../supplied';
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

/** What of an image decides a type, by the name of what was recognised. */
const BY_NAME: Readonly<Record<string, TypeContent>> = { exFAT: 'ifs', NTFS: 'ifs' };

export const IMAGE: Kind<ImageContent> = {
  kind: 'image',
  word: 'image',
  summary: ({ name }) => ({ word: 'image', detail: name }),
  ranges: (content, site, _made, { facts }) => imageRanges(content, site, facts),
  account({ name, size }, { sectors, sectorSize }, _made, _room, facts) {
    const image = facts?.image;
    return accountOfFile(
      { title: image?.name ?? 'a supplied file', name, size, used: image?.used },
      sectors * sectorSize,
    );
  },
  typed({ sha256 }, _made, contents) {
    const image = blobOf(sha256, contents)?.image;
    if (!image || image.disk !== undefined) return 'none';
    if (image.name.startsWith('swap')) return 'swap';
    return image.variant ?? BY_NAME[image.name] ?? 'linux';
  },
};

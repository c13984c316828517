/**
 * Header fields that are about the drive and not about the volume (ECMA-107, "Descriptor of
 * the volume"; published FAT32 specification, "BPB_Media"). Volumes of floppy size on a
 * medium without a table keep the values that such media always had.
 */
import { KIB } from '../../quantity/units';

/** Fields that describe a drive. */
export interface Headers {
  readonly media: number;
  readonly drive: number;
  readonly sectorsPerTrack: number;
  readonly heads: number;
}

/** Everything that is not a floppy. */
export const FIXED: Headers = { media: 0xf8, drive: 0x80, sectorsPerTrack: 63, heads: 255 };

interface Classic {
  readonly cluster: number;
  readonly rootEntries: number;
  readonly headers: Headers;
}

/** The classic formats by their size in bytes: 360, 720 and 1,440 KiB. */
export const CLASSIC: ReadonlyMap<number, Classic> = new Map([
  [360 * KIB, { cluster: 1024, rootEntries: 112, headers: { media: 0xfd, drive: 0, sectorsPerTrack: 9, heads: 2 } }],
  [720 * KIB, { cluster: 1024, rootEntries: 112, headers: { media: 0xf9, drive: 0, sectorsPerTrack: 9, heads: 2 } }],
  [1440 * KIB, { cluster: 512, rootEntries: 224, headers: { media: 0xf0, drive: 0, sectorsPerTrack: 18, heads: 2 } }],
]);

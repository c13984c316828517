/** Inodes as they are written (the kernel's documentation, "Index Nodes"). */
import { high32, low32 } from '../../quantity/integers';
import { encodeInto } from '../../bytes/record';
import type { Checksums } from './checksums';
import { EXTRA_BYTES, SHORT_INODE_BYTES } from './numbers';
import { FURTHER_INODE, SHORT_INODE } from './records';

/** A point in time: seconds since 1970, and nanoseconds. */
export interface Instant {
  readonly seconds: number;
  readonly nanoseconds: number;
}

/** First and last second that an inode of 128 bytes can say, and one of 256. */
const SHORT_SECONDS = { first: -(2 ** 31), last: 2 ** 31 - 1 };
const LAST_SECOND = SHORT_SECONDS.last + 3 * 2 ** 32;

/** The point in time of a text `YYYY-MM-DDTHH:MM:SS`, with or without a fraction. */
export function instantOf(text: string): Instant {
  const seconds = Date.UTC(
    Number(text.slice(0, 4)),
    Number(text.slice(5, 7)) - 1,
    Number(text.slice(8, 10)),
    Number(text.slice(11, 13)),
    Number(text.slice(14, 16)),
    Number(text.slice(17, 19)),
  );
  return { seconds: seconds / 1000, nanoseconds: Number(text.slice(20).padEnd(9, '0')) };
}

/** What an inode says; `map` are the 60 bytes of its block map. */
export interface InodeFacts {
  /** Kind and mode. */
  readonly mode: number;
  readonly user: number;
  readonly group: number;
  readonly size: number;
  readonly links: number;
  /** Sectors of 512 bytes. */
  readonly sectors: number;
  readonly flags: number;
  readonly map: Uint8Array;
  /** Block of extended attributes, or 0. */
  readonly attributes: number;
  readonly modified: Instant;
  readonly created: Instant;
}

/** Seconds as the first 32 bits have them. */
function low(seconds: number, isLong: boolean): number {
  const kept = Math.min(Math.max(seconds, SHORT_SECONDS.first), isLong ? LAST_SECOND : SHORT_SECONDS.last);
  return ((kept % 2 ** 32) + 2 ** 32) % 2 ** 32;
}

/** Nanoseconds, and above the first 32 bits of seconds two more. */
function extra({ seconds, nanoseconds }: Instant): number {
  const kept = Math.min(Math.max(seconds, SHORT_SECONDS.first), LAST_SECOND);
  const epoch = Math.floor((kept + 2 ** 31) / 2 ** 32);
  return nanoseconds * 4 + epoch;
}

/** Puts an inode into its bytes, which are zeros before; still without its checksum. */
export function putInode(bytes: Uint8Array, facts: InodeFacts): void {
  const { mode, user, group, size, links, sectors, flags, map, attributes, modified, created } = facts;
  const isLong = bytes.length > SHORT_INODE_BYTES;
  const time = low(modified.seconds, isLong);
  encodeInto(bytes, SHORT_INODE, {
    mode,
    userLow: user % 0x10000,
    sizeLow: low32(size),
    accessed: time,
    changed: time,
    modified: time,
    deleted: 0,
    groupLow: group % 0x10000,
    links,
    sectorsLow: low32(sectors),
    flags,
    version: 0,
    map,
    generation: 0,
    attributesLow: low32(attributes),
    sizeHigh: high32(size),
    fragment: 0,
    sectorsHigh: high32(sectors),
    attributesHigh: high32(attributes),
    userHigh: Math.floor(user / 0x10000),
    groupHigh: Math.floor(group / 0x10000),
    checksumLow: 0,
  });
  if (!isLong) return;
  const more = extra(modified);
  encodeInto(bytes, FURTHER_INODE, {
    extra: EXTRA_BYTES,
    checksumHigh: 0,
    changedExtra: more,
    modifiedExtra: more,
    accessedExtra: more,
    created: low(created.seconds, true),
    createdExtra: extra(created),
    versionHigh: 0,
    project: 0,
  });
}

/** Puts the checksum of an inode in, whatever stood there. */
export function sealInode(bytes: Uint8Array, inode: number, sums: Checksums): void {
  if (!sums.isOn) return;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const { checksumLow, generation } = SHORT_INODE.fields;
  const { checksumHigh, extra } = FURTHER_INODE.fields;
  // Where an inode has hardly more than its first bytes, there is no room for the upper half.
  const isWhole = bytes.length > SHORT_INODE_BYTES && view.getUint16(extra.offset, true) >= 4;
  view.setUint16(checksumLow.offset, 0, true);
  if (isWhole) view.setUint16(checksumHigh.offset, 0, true);
  const sum = sums.ofInodeBytes(inode, bytes, view.getUint32(generation.offset, true));
  view.setUint16(checksumLow.offset, sum & 0xffff, true);
  if (isWhole) view.setUint16(checksumHigh.offset, sum >>> 16, true);
}

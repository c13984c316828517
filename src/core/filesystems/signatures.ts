/**
 * Marks of file systems and containers that are recognised and not made, at the places where
 * their own documentation puts them, with label, id and size where the superblock tells them.
 */

import { dashed } from '../bytes/guid';
import { decode } from '../bytes/record';
import type { LeftState } from './fields';
import type { ExtLooked, ExtPlaces } from './ext/found';
import { SUPERBLOCK_AT } from './ext/numbers';
import { extName } from './ext/read/head';
import { SUPERBLOCK } from './ext/records';

/** What a mark says. Sizes in bytes. */
export interface KnownContent {
  readonly name: string;
  readonly label?: string;
  readonly id?: string;
  readonly size?: number;
  readonly used?: number;
  /** Its system did not let go of it. */
  readonly state?: LeftState;
  /** When it was mounted last, and where, as far as it says. */
  readonly mounted?: string;
  /** Sectors that it was made for, where it can be mounted from no others. */
  readonly sectorSize?: number;
  /** Its block, where it can be mounted from no sectors larger than that. */
  readonly block?: number;
  /** What was found when the structures of an ext were looked at, where there is something to tell. */
  readonly looked?: ExtLooked;
  /** Where the structures of an ext lie. */
  readonly places?: ExtPlaces;
}

/** Bytes at the start of a partition in which marks stand. */
export const HEAD_LENGTH = 136 * 1024;

const upToZero = (bytes: Uint8Array): Uint8Array => {
  const end = bytes.indexOf(0);
  return end < 0 ? bytes : bytes.subarray(0, end);
};

/** Labels of everything but FAT and NTFS are bytes that systems show as UTF-8. */
export const utf8 = (bytes: Uint8Array): string => new TextDecoder('utf-8').decode(upToZero(bytes));

/** Text of the characters that ISO 9660 and LUKS allow, padded with blanks. */
const latin = (bytes: Uint8Array): string => String.fromCharCode(...upToZero(bytes)).trimEnd();

const hex = (bytes: Uint8Array): string => [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('');

/** A UUID stored as it is written. */
export function uuid(bytes: Uint8Array): string {
  return dashed(hex(bytes));
}

/** Reading from the head of a partition; what lies beyond it reads as zeros. */
export class Head {
  private readonly view: DataView;

  constructor(private readonly bytes: Uint8Array) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  has(at: number, mark: string | readonly number[]): boolean {
    for (let i = 0; i < mark.length; i++) {
      const code = typeof mark === 'string' ? mark.charCodeAt(i) : mark[i];
      if (this.bytes[at + i] !== code) return false;
    }
    return true;
  }

  slice(at: number, length: number): Uint8Array {
    return this.bytes.subarray(at, at + length);
  }

  u16(at: number, littleEndian = true): number {
    return at + 2 <= this.bytes.length ? this.view.getUint16(at, littleEndian) : 0;
  }

  u32(at: number, littleEndian = true): number {
    return at + 4 <= this.bytes.length ? this.view.getUint32(at, littleEndian) : 0;
  }

  /** A 64-bit number; undefined where it is no safe integer. */
  u64(at: number, littleEndian = true): number | undefined {
    const [low, high] = littleEndian ? [at, at + 4] : [at + 4, at];
    const value = this.u32(high, littleEndian) * 2 ** 32 + this.u32(low, littleEndian);
    return Number.isSafeInteger(value) ? value : undefined;
  }
}

/** So many units of so many bytes; undefined where that is no safe integer. */
export const times = (count: number | undefined, unit: number): number | undefined => {
  const size = (count ?? NaN) * unit;
  return Number.isSafeInteger(size) ? size : undefined;
};

/** Leaves out what is not known. */
type Told = { [Key in keyof Omit<KnownContent, 'name'>]: KnownContent[Key] | undefined };

/** What a signature says, without what is not known. */
export function content(name: string, more: Told = {}): KnownContent {
  const details = Object.entries(more).filter(([, value]) => value !== undefined && value !== '');
  return { name, ...(Object.fromEntries(details) as Partial<KnownContent>) };
}

/** The state of a volume that was unmounted, and the feature of one whose journal is to be replayed. */
const EXT_CLEAN = 1;
const EXT_TO_REPLAY = 0x4;

/** Block numbers have upper halves. */
const EXT_LONG = 0x80;

/** `YYYY-MM-DDTHH:MM:SS at PLACE` of a mount, in UTC; undefined where there was none. */
function lastMount(seconds: number, place: string): string | undefined {
  if (seconds === 0) return undefined;
  const when = new Date(seconds * 1000).toISOString().slice(0, 19);
  return place === '' ? when : `${when} at ${place}`;
}

function ext(head: Head): KnownContent {
  const superblock = new Uint8Array(SUPERBLOCK.length);
  superblock.set(head.slice(SUPERBLOCK_AT, SUPERBLOCK.length));
  const found = decode(SUPERBLOCK, superblock);
  const block = 1024 * 2 ** Math.min(6, found.logBlock);
  const long = (low: number, high: number) => low + ((found.incompatible & EXT_LONG) !== 0 ? high * 2 ** 32 : 0);
  const blocks = long(found.blocksLow, found.blocksHigh);
  const used = times(blocks - long(found.freeBlocksLow, found.freeBlocksHigh), block);
  return content(extName(found), {
    label: utf8(found.label),
    id: uuid(found.uuid),
    size: times(blocks, block),
    block,
    used: used !== undefined && used >= 0 ? used : undefined,
    mounted: lastMount(found.mounted + found.mountedHigh * 2 ** 32, utf8(found.lastMountedAt)),
    state:
      (found.state & EXT_CLEAN) === 0 || (found.incompatible & EXT_TO_REPLAY) !== 0
        ? 'not cleanly unmounted'
        : undefined,
  });
}

/** Looks for one signature in the first and last bytes of a partition. */
export type Recogniser = (head: Head, tail: Uint8Array) => KnownContent | undefined;

/** A recogniser of a fixed signature at a byte of the head. */
export const marked =
  (at: number, mark: string | readonly number[], describe: (head: Head) => KnownContent): Recogniser =>
  (head) =>
    head.has(at, mark) ? describe(head) : undefined;

const named = (name: string) => () => content(name);

/** Sectors in which the label of a physical volume may stand. */
const LVM_SECTORS = [0, 512, 1024, 1536];
const RAID_MARK = [0xfc, 0x4e, 0x2b, 0xa9];
/** Marks near the end of a partition: RAID metadata lies 8 to 12 KiB, or 64 to 128 KiB, from it. */
const RAID_STEP = 4096;

function raid(head: Head, tail: Uint8Array): KnownContent | undefined {
  const end = new Head(tail);
  const isThere =
    head.has(0, RAID_MARK) ||
    head.has(4096, RAID_MARK) ||
    Array.from({ length: Math.floor(tail.length / RAID_STEP) }, (_, i) => i * RAID_STEP).some((at) =>
      end.has(at, RAID_MARK),
    );
  return isThere ? content('Linux RAID') : undefined;
}

function zfs(head: Head): KnownContent | undefined {
  const uberblocks = 128 * 1024;
  const isThere = [0, 1024, 4096].some(
    (at) =>
      head.has(uberblocks + at, [0x0c, 0xb1, 0xba, 0x00, 0, 0, 0, 0]) ||
      head.has(uberblocks + at, [0, 0, 0, 0, 0x00, 0xba, 0xb1, 0x0c]),
  );
  return isThere ? content('ZFS') : undefined;
}

/** Where the first volume descriptor of ISO 9660 stands (ECMA-119, 8.4). */
const DESCRIPTOR = 32_768;

/** Seventeen digits of a date in a volume descriptor as systems show them for an id; undefined where there is none. */
function isoDate(bytes: Uint8Array): string | undefined {
  const digits = String.fromCharCode(...bytes.subarray(0, 16));
  if (!/^\d{16}$/.test(digits) || /^0+$/.test(digits)) return undefined;
  const parts = [digits.slice(0, 4), ...(digits.slice(4).match(/../g) ?? [])];
  return parts.join('-');
}

/** The id is the time of the last change, or of the making where that is empty, to the hundredth. */
function iso9660(head: Head): KnownContent {
  const block = head.u16(DESCRIPTOR + 128);
  return content('ISO 9660', {
    label: latin(head.slice(DESCRIPTOR + 40, 32)),
    id: isoDate(head.slice(DESCRIPTOR + 830, 17)) ?? isoDate(head.slice(DESCRIPTOR + 813, 17)),
    size: times(head.u32(DESCRIPTOR + 80), block),
    block: block || undefined,
  });
}

/** Containers: they are looked for first, because a file system may show through them. */
export const CONTAINERS: readonly Recogniser[] = [
  marked(0, [...'LUKS'].map((c) => c.charCodeAt(0)).concat(0xba, 0xbe), (head) =>
    content('LUKS', { id: latin(head.slice(168, 40)) }),
  ),
  marked(3, '-FVE-FS-', named('encrypted NTFS')),
  (head) => (LVM_SECTORS.some((at) => head.has(at, 'LABELONE')) ? content('LVM') : undefined),
  raid,
];

/** NTFS. */
export const NTFS: Recogniser = marked(3, 'NTFS    ', (head) =>
  content('NTFS', {
    // A number of 64 bits, its highest digit first.
    id: hex(head.slice(72, 8).slice().reverse()).toUpperCase(),
    size: times(head.u64(40), head.u16(11)),
    sectorSize: head.u16(11) || undefined,
  }),
);

export const EXT: Recogniser = marked(1024 + 56, [0x53, 0xef], ext);

/** What is looked for last. */
export const OTHERS: readonly Recogniser[] = [
  marked(0, 'XFSB', (head) =>
    content('XFS', {
      label: utf8(head.slice(108, 12)),
      id: uuid(head.slice(32, 16)),
      // Its own sectors may be larger than those of the medium, not smaller.
      block: head.u16(102, false) || undefined,
      size: times(head.u64(8, false), head.u32(4, false)),
    }),
  ),
  marked(65_600, '_BHRfS_M', (head) =>
    content('btrfs', {
      label: utf8(head.slice(65_536 + 0x12b, 256)),
      id: uuid(head.slice(65_536 + 0x20, 16)),
      size: head.u64(65_536 + 0x70),
      used: head.u64(65_536 + 0x78),
    }),
  ),
  marked(1024, [0x10, 0x20, 0xf5, 0xf2], (head) => content('F2FS', { id: uuid(head.slice(1024 + 108, 16)) })),
  marked(0, 'hsqs', (head) => content('squashfs', { size: head.u64(40) })),
  marked(1024, [0xe2, 0xe1, 0xf5, 0xe0], (head) =>
    content('EROFS', { id: uuid(head.slice(1024 + 48, 16)), label: utf8(head.slice(1024 + 64, 16)) }),
  ),
  // The primary descriptor, and none of those behind it: those say nothing of where the volume begins.
  marked(32_768, '\u0001CD001', iso9660),
  marked(66_908, [0x19, 0x01, 0x54, 0x19], named('UFS2')),
  marked(1024, 'H+', named('HFS+')),
  marked(32, 'NXSB', named('APFS')),
  zfs,
];

/**
 * The master boot record: sector 0 of a medium, with up to four primary partitions.
 *
 * Layout as long published and as restated in the UEFI specification, section "Legacy Master
 * Boot Record (MBR)": code at 0, disk signature at 440, four 16-byte partition records from
 * 446, 55h AAh at 510. On media of 4096-byte sectors the same 512 bytes, the rest zero.
 */
import { decode, encode, field, record } from '../bytes/record';

/** Bytes of boot code before the signature. */
export const CODE_LENGTH = 440;
/** Bytes of the record proper, at the start of sector 0. */
export const MBR_LENGTH = 512;
/** Primary entries. */
export const PRIMARY_ENTRIES = 4;
/** Number of the first logical partition. */
export const FIRST_LOGICAL = 5;
/** Starts and counts are 32-bit numbers. */
export const SECTOR_LIMIT = 2 ** 32;

/** Status byte of the active entry; every other valid entry has 0. */
const ACTIVE = 0x80;

/** Geometry that cylinder addresses are computed with: 255 heads of 63 sectors. */
const HEADS = 255;
const SECTORS_PER_TRACK = 63;
/** Type code of the entry that protects a GPT. */
export const PROTECTIVE = 0xee;
/** Sectors that cylinders 0 to 1023 can address. */
export const CHS_REACH = 1024 * HEADS * SECTORS_PER_TRACK;

/** Sector 0 as a whole. */
export const MBR_RECORD = record('MBR', MBR_LENGTH, {
  code: field(0, { bytes: CODE_LENGTH }, 'boot code'),
  signature: field(440, 'u32', 'disk signature, from which partition ids are made'),
  copyProtected: field(444, 'u16', 'reserved: 0, or 5A5Ah'),
  entries: field(446, { bytes: 64 }, 'four partition records'),
  mark: field(510, 'u16', 'AA55h: this sector is a boot record'),
});

/** One partition record. */
export const ENTRY_RECORD = record('partition record', 16, {
  status: field(0, 'u8', '80h active, 00h not'),
  chsFirst: field(1, { bytes: 3 }, 'first sector as head, sector, cylinder'),
  type: field(4, 'u8', 'type code'),
  chsLast: field(5, { bytes: 3 }, 'last sector as head, sector, cylinder'),
  first: field(8, 'u32', 'first sector'),
  count: field(12, 'u32', 'number of sectors'),
});

/** A primary partition; `index` 0 to 3 is its place in the table, its number is one more. */
export interface MbrEntry {
  readonly index: number;
  readonly active: boolean;
  readonly type: number;
  readonly first: number;
  readonly count: number;
}

/** A logical partition; sectors count from the start of the medium. */
export interface Logical {
  readonly type: number;
  /** Marked, which means nothing in a chain; a mark that was found stays. */
  readonly active?: boolean;
  /** Sector of the record that describes it. */
  readonly recordAt: number;
  readonly first: number;
  readonly count: number;
}

/** What the table of a master boot record says. `signature` is an unsigned 32-bit number. */
export interface Mbr {
  readonly signature: number;
  readonly entries: readonly MbrEntry[];
}

/**
 * A sector number as the three bytes head, sector + high cylinder bits, low cylinder bits.
 * Beyond cylinder 1023 the fixed value `FE FF FF`, in a protective entry `FF FF FF` ("Protective
 * MBR Partition Record" in the UEFI specification).
 */
export function chs(sector: number, isProtective = false): Uint8Array {
  if (sector >= CHS_REACH) return Uint8Array.of(isProtective ? 0xff : 0xfe, 0xff, 0xff);
  const cylinder = Math.floor(sector / (HEADS * SECTORS_PER_TRACK));
  const head = Math.floor(sector / SECTORS_PER_TRACK) % HEADS;
  return Uint8Array.of(head, (sector % SECTORS_PER_TRACK) + 1 + ((cylinder >> 8) << 6), cylinder & 0xff);
}

/** True when start and count of a partition can be written: both are below 2^32 sectors. */
export function encodable(first: number, count: number): boolean {
  return first < SECTOR_LIMIT && count < SECTOR_LIMIT;
}

/** Byte of a boot record at which its entry `index` begins; the one behind the last is where the mark stands. */
export const entryOffset = (index: number): number => MBR_RECORD.fields.entries.offset + index * ENTRY_RECORD.length;

/** The sixteen bytes of an entry. Throws a RangeError where start or count have no place in it. */
export function mbrEntry({ active, type, first, count }: Omit<MbrEntry, 'index'>): Uint8Array {
  return encode(ENTRY_RECORD, {
    status: active ? ACTIVE : 0,
    chsFirst: chs(first),
    type,
    chsLast: chs(first + count - 1, type === PROTECTIVE),
    first,
    count,
  });
}

/**
 * The bytes of sector 0 (`sectorSize` of them), its code area zeros. Throws a RangeError for an entry that is out of range: placement refuses those before.
 */
export function encodeMbr(mbr: Mbr, sectorSize: number): Uint8Array {
  const entries = new Uint8Array(64);
  for (const { index, ...entry } of mbr.entries) entries.set(mbrEntry(entry), index * 16);
  const code = new Uint8Array(CODE_LENGTH);
  const sector = new Uint8Array(sectorSize);
  sector.set(encode(MBR_RECORD, { code, signature: mbr.signature, copyProtected: 0, entries, mark: 0xaa55 }));
  return sector;
}

/** Type of the link from one record of a chain to the next, whatever the type of the container. */
const LINK = 0x05;

function entryBytes(type: number, first: number, count: number, base: number, active = false): Uint8Array {
  return encode(ENTRY_RECORD, {
    status: active ? ACTIVE : 0,
    chsFirst: chs(first),
    type,
    chsLast: chs(first + count - 1),
    first: first - base,
    count,
  });
}

/**
 * The records of a chain of logical partitions, each in a sector of its own ("extended boot
 * records"). The first entry of a record counts from the record, its link to the next one from
 * the container, whose first sector is the first record; the link's count reaches from the next
 * record to the end of its partition. `chain` is in chain order, which gives the numbers 5 and on.
 */
export function encodeChain(chain: readonly Logical[], sectorSize: number): { sector: number; bytes: Uint8Array }[] {
  const base = chain[0]?.recordAt ?? 0;
  return chain.map((one, i) => {
    const next = chain[i + 1];
    const entries = new Uint8Array(64);
    entries.set(entryBytes(one.type, one.first, one.count, one.recordAt, one.active));
    if (next) entries.set(entryBytes(LINK, next.recordAt, next.first + next.count - next.recordAt, base), 16);
    const bytes = new Uint8Array(sectorSize);
    const code = new Uint8Array(CODE_LENGTH);
    bytes.set(encode(MBR_RECORD, { code, signature: 0, copyProtected: 0, entries, mark: 0xaa55 }));
    return { sector: one.recordAt, bytes };
  });
}

/** Why a sector is not read as a master boot record. */
export type MbrRefusal = 'too short' | 'no boot record mark';

/** A record as it stands in the sector, whatever it means. */
export interface RawEntry {
  readonly index: number;
  /** 80h and 00h are valid. */
  readonly status: number;
  readonly type: number;
  readonly first: number;
  readonly count: number;
}

/** A boot record as it was read: what it says, and its records as they stand. */
export interface DecodedMbr extends Mbr {
  /** The bytes of the code area. */
  readonly code: Uint8Array;
  /** All four. */
  readonly records: readonly RawEntry[];
}

/** True for a status byte that a record may have. */
export function isStatus(status: number): boolean {
  return status === 0 || status === ACTIVE;
}

/** Reads sector 0. Unused entries (type 0) are left out of `entries`. */
export function decodeMbr(sector: Uint8Array): DecodedMbr | MbrRefusal {
  if (sector.length < MBR_LENGTH) return 'too short';
  const values = decode(MBR_RECORD, sector);
  if (values.mark !== 0xaa55) return 'no boot record mark';
  const records: RawEntry[] = [];
  for (let index = 0; index < PRIMARY_ENTRIES; index++) {
    const { status, type, first, count } = decode(ENTRY_RECORD, values.entries.subarray(index * 16));
    records.push({ index, status, type, first, count });
  }
  const entries = records
    .filter(({ type }) => type !== 0)
    .map(({ status, ...entry }) => ({ ...entry, active: status === ACTIVE }));
  return { signature: values.signature, entries, code: values.code, records };
}

/** The id systems make for an MBR partition: signature in hexadecimal, dash, number in hexadecimal. */
export function partitionId(signature: number, number: number): string {
  return `${signature.toString(16).padStart(8, '0')}-${number.toString(16).padStart(2, '0')}`;
}

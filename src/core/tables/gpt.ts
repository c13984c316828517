/**
 * The GUID partition table, by the UEFI specification, chapter "GUID Partition Table (GPT) Disk
 * Layout": a protective record in sector 0, a header in sector 1, an array of entries behind
 * it, and copies of array and header at the end of the medium, the header in the last sector.
 */
import { crc32 } from '../bytes/crc32';
import { GUID } from '../bytes/guid';
import { decode, encode, field, narrow, record } from '../bytes/record';
import { encodeMbr, PROTECTIVE, SECTOR_LIMIT } from './mbr';

/** Entries of the usual array. */
export const GPT_ENTRIES = 128;
/** Bytes that UEFI asks to be reserved for the array at least. */
export const LEAST_ARRAY = 16 * 1024;
/** Bytes of an entry; the only size to write. */
export const GPT_ENTRY_LENGTH = 128;
/** UTF-16 code units of a name. */
export const NAME_UNITS = 36;
/** "EFI PART", at the start of every header. */
const GPT_MARK = 'EFI PART';
/** Bytes of the header that are defined and that its checksum covers. */
const HEADER_LENGTH = 92;
const REVISION = 0x00010000;

/** "GPT Header". */
export const HEADER_RECORD = record('GPT header', HEADER_LENGTH, {
  mark: field(0, { ascii: 8 }, '“EFI PART”'),
  revision: field(8, 'u32', 'revision: 00010000h'),
  headerSize: field(12, 'u32', 'bytes of this header'),
  headerCrc: field(16, 'u32', 'CRC-32 of the header, computed with this field zero'),
  reserved: field(20, 'u32', 'reserved: 0'),
  here: field(24, 'u64', 'sector of this header'),
  other: field(32, 'u64', 'sector of the other copy'),
  firstUsable: field(40, 'u64', 'first sector for partitions'),
  lastUsable: field(48, 'u64', 'last sector for partitions'),
  diskId: field(56, 'guid', 'id of the disk'),
  array: field(72, 'u64', 'first sector of the array of entries'),
  entries: field(80, 'u32', 'entries of the array'),
  entrySize: field(84, 'u32', 'bytes of an entry'),
  arrayCrc: field(88, 'u32', 'CRC-32 of the array'),
});

/** "GPT Partition Entry". */
export const GPT_ENTRY_RECORD = record('GPT entry', GPT_ENTRY_LENGTH, {
  type: field(0, 'guid', 'partition type; all zero: unused'),
  id: field(16, 'guid', 'id of the partition'),
  first: field(32, 'u64', 'first sector'),
  last: field(40, 'u64', 'last sector, inclusive'),
  attributes: field(48, 'u64', 'attributes'),
  name: field(56, { utf16: NAME_UNITS }, 'name'),
});

/** Attribute bits with a word ("GPT Partition Entry: Attributes"; 59, 60 and 63 by the Discoverable Partitions Specification). */
const ATTRIBUTE_BITS = {
  required: 0n,
  'no block io': 1n,
  'legacy boot': 2n,
  grow: 59n,
  'read-only': 60n,
  'no auto mount': 63n,
} as const;
export type Attribute = keyof typeof ATTRIBUTE_BITS;
export const ATTRIBUTES = Object.keys(ATTRIBUTE_BITS) as readonly Attribute[];

/** A partition of a GPT; `index` is its place in the array, its number is one more. Sectors inclusive. */
export interface GptEntry {
  readonly index: number;
  readonly type: string;
  readonly id: string;
  readonly first: number;
  readonly last: number;
  readonly attributes: bigint;
  readonly name: string;
}

/** What a GPT says. */
export interface Gpt {
  readonly diskId: string;
  readonly entries: readonly GptEntry[];
  /** Entries of an MBR that stand beside the protective one, for readers that know nothing else: three at most. */
  readonly hybrid?: readonly {
    readonly active: boolean;
    readonly type: number;
    readonly first: number;
    readonly count: number;
  }[];
  /** The mark in the status byte of the protective entry, which some BIOSes want against the specification. */
  readonly markProtective?: boolean;
}

/** Where the array of entries stands and how long it is, where that is not as usual. */
export interface GptShape {
  readonly entries?: number | undefined;
  /** First sector of the array. */
  readonly array?: number | undefined;
}

/** Where the parts of a GPT lie, in sectors. `lastUsable` is inclusive. */
export interface GptPlaces {
  readonly entries: number;
  readonly arraySectors: number;
  readonly array: number;
  readonly firstUsable: number;
  readonly lastUsable: number;
  readonly backupArray: number;
  readonly backupHeader: number;
}

/**
 * Places of the parts on a medium of `sectors` sectors. With the usual array 34 … size − 34 are
 * usable at 512 bytes, 6 … size − 6 at 4096. An array elsewhere begins in sector 2 at the
 * earliest; what lies before it is no place for partitions then.
 */
export function gptPlaces(sectorSize: number, sectors: number, shape: GptShape = {}): GptPlaces {
  const entries = shape.entries ?? GPT_ENTRIES;
  const arraySectors = Math.ceil((entries * GPT_ENTRY_LENGTH) / sectorSize);
  const array = Math.max(2, shape.array ?? 2);
  return {
    entries,
    arraySectors,
    array,
    firstUsable: array + arraySectors,
    lastUsable: sectors - 2 - arraySectors,
    backupArray: sectors - 1 - arraySectors,
    backupHeader: sectors - 1,
  };
}

/** Whole sectors of an array of entries. */
export const arraySectors = (
  { entries, entrySize }: Pick<GptHeader, 'entries' | 'entrySize'>,
  sectorSize: number,
): number => Math.ceil((entries * entrySize) / sectorSize);

/** Attribute bits of words. */
export function attributeBits(words: readonly Attribute[]): bigint {
  return words.reduce((bits, word) => bits | (1n << ATTRIBUTE_BITS[word]), 0n);
}

/** Words of attribute bits; bits without a word are given as `bit 48`. */
export function attributeWords(bits: bigint): string[] {
  const words: string[] = [];
  for (let bit = 0n; bit < 64n; bit++) {
    if (((bits >> bit) & 1n) === 0n) continue;
    words.push(ATTRIBUTES.find((word) => ATTRIBUTE_BITS[word] === bit) ?? `bit ${bit}`);
  }
  return words;
}

/** The part of a name that fits an entry: 36 code units, a surrogate pair never split. */
export function storedName(name: string): string {
  let units = '';
  for (const character of name) {
    if (units.length + character.length > NAME_UNITS) break;
    units += character;
  }
  return units;
}

/** An entry of the array, 128 bytes. */
export function encodeEntry(entry: GptEntry): Uint8Array {
  return encode(GPT_ENTRY_RECORD, {
    type: entry.type,
    id: entry.id,
    first: BigInt(entry.first),
    last: BigInt(entry.last),
    attributes: entry.attributes,
    name: storedName(entry.name).padEnd(NAME_UNITS, '\0'),
  });
}

/** What a header says, beside its mark, its own length and the checksum of itself. */
export type HeaderFacts = Omit<GptHeader, 'revision' | 'headerSize' | 'sound'>;

/** A header as a whole sector, with its own checksum computed over the first 92 bytes. */
export function encodeHeader(facts: HeaderFacts, sectorSize: number): Uint8Array {
  const bytes = encode(HEADER_RECORD, {
    mark: GPT_MARK,
    revision: REVISION,
    headerSize: HEADER_LENGTH,
    headerCrc: 0,
    reserved: 0,
    here: BigInt(facts.here),
    other: BigInt(facts.other),
    firstUsable: BigInt(facts.firstUsable),
    lastUsable: BigInt(facts.lastUsable),
    diskId: facts.diskId,
    array: BigInt(facts.array),
    entries: facts.entries,
    entrySize: facts.entrySize,
    arrayCrc: facts.arrayCrc,
  });
  new DataView(bytes.buffer).setUint32(HEADER_RECORD.fields.headerCrc.offset, crc32(bytes), true);
  const sector = new Uint8Array(sectorSize);
  sector.set(bytes);
  return sector;
}

/** A part of a table: what it is, its first sector, and its bytes in whole sectors. */
export interface TablePart {
  readonly what: string;
  readonly sector: number;
  readonly bytes: Uint8Array;
}

/**
 * All parts of a GPT on a medium of `sectors` sectors, in the order of their places. Throws a
 * RangeError for entries out of range: findings refuse those before.
 */
export function encodeGpt(gpt: Gpt, sectorSize: 512 | 4096, sectors: number, shape: GptShape = {}): TablePart[] {
  const places = gptPlaces(sectorSize, sectors, shape);
  // The checksum covers the entries; what is left of their last sector stays zero.
  const array = new Uint8Array(places.arraySectors * sectorSize);
  const arrayCrc = () => crc32(array.subarray(0, places.entries * GPT_ENTRY_LENGTH));
  for (const entry of gpt.entries) array.set(encodeEntry(entry), entry.index * GPT_ENTRY_LENGTH);
  const { firstUsable, lastUsable, entries } = places;
  const { diskId } = gpt;
  const header = (here: number, other: number, arrayAt: number) =>
    encodeHeader(
      {
        ...{ here, other, firstUsable, lastUsable, diskId, entries },
        array: arrayAt,
        entrySize: GPT_ENTRY_LENGTH,
        arrayCrc: arrayCrc(),
      },
      sectorSize,
    );
  return [
    { what: 'protective master boot record', sector: 0, bytes: protectiveMbr(gpt, sectorSize, sectors) },
    { what: 'GPT header', sector: 1, bytes: header(1, places.backupHeader, places.array) },
    { what: 'GPT entries', sector: places.array, bytes: array },
    { what: 'GPT entries, copy', sector: places.backupArray, bytes: array },
    {
      what: 'GPT header, copy',
      sector: places.backupHeader,
      bytes: header(places.backupHeader, 1, places.backupArray),
    },
  ];
}

/** Disk signature of the sector beside a hybrid table: from the disk id, so that its partitions have ids there too. */
function hybridSignature(diskId: string): number {
  return parseInt(diskId.slice(0, 8), 16) || 1;
}

/**
 * "Protective MBR": one entry of type EEh over everything, so that old tools see no free space.
 * In a hybrid it covers what lies before the first partition that stands beside it.
 */
function protectiveMbr({ hybrid = [], markProtective = false, diskId }: Gpt, sectorSize: number, sectors: number) {
  const until = Math.min(sectors, ...hybrid.map((one) => one.first));
  const count = Math.min(until - 1, SECTOR_LIMIT - 1);
  const protective = { index: 0, active: markProtective, type: PROTECTIVE, first: 1, count };
  const beside = hybrid.map((one, i) => ({ index: i + 1, ...one }));
  const signature = hybrid.length > 0 ? hybridSignature(diskId) : 0;
  return encodeMbr({ signature, entries: [protective, ...beside] }, sectorSize);
}

/** A header as numbers. A 64-bit field that is no safe integer becomes the largest one: it lies beyond every medium. */
export interface GptHeader {
  readonly revision: number;
  readonly headerSize: number;
  readonly here: number;
  readonly other: number;
  readonly firstUsable: number;
  readonly lastUsable: number;
  readonly diskId: string;
  readonly array: number;
  readonly entries: number;
  readonly entrySize: number;
  readonly arrayCrc: number;
  /** Its own checksum is right. */
  readonly sound: boolean;
}

/** Reads a header; undefined where its mark is missing or its size is impossible for the sector. */
export function decodeHeader(sector: Uint8Array): GptHeader | undefined {
  if (sector.length < HEADER_LENGTH) return undefined;
  const values = decode(HEADER_RECORD, sector);
  if (values.mark !== GPT_MARK) return undefined;
  const covers = values.headerSize >= HEADER_LENGTH && values.headerSize <= sector.length;
  const zeroed = sector.slice(0, covers ? values.headerSize : HEADER_LENGTH);
  zeroed.fill(0, HEADER_RECORD.fields.headerCrc.offset, HEADER_RECORD.fields.headerCrc.offset + 4);
  const number = (value: bigint) => narrow(value) ?? Number.MAX_SAFE_INTEGER;
  return {
    revision: values.revision,
    headerSize: values.headerSize,
    here: number(values.here),
    other: number(values.other),
    firstUsable: number(values.firstUsable),
    lastUsable: number(values.lastUsable),
    diskId: values.diskId,
    array: number(values.array),
    entries: values.entries,
    entrySize: values.entrySize,
    arrayCrc: values.arrayCrc,
    sound: covers && crc32(zeroed) === values.headerCrc,
  };
}

/** Reads the used entries of an array; `entrySize` is what the header says, 128 or more. */
export function decodeEntries(array: Uint8Array, entrySize: number): GptEntry[] {
  const entries: GptEntry[] = [];
  for (let index = 0; (index + 1) * entrySize <= array.length; index++) {
    const bytes = array.subarray(index * entrySize, (index + 1) * entrySize);
    if (bytes.subarray(0, 16).every((byte) => byte === 0)) continue;
    const { type, id, first, last, attributes, name } = decode(GPT_ENTRY_RECORD, bytes);
    const end = name.indexOf('\0');
    entries.push({
      index,
      type,
      id,
      first: narrow(first) ?? Number.MAX_SAFE_INTEGER,
      last: narrow(last) ?? Number.MAX_SAFE_INTEGER,
      attributes,
      name: end < 0 ? name : name.slice(0, end),
    });
  }
  return entries;
}

/** True for a text that can be the type or id of a partition. */
export function isGuid(text: string): boolean {
  return GUID.test(text);
}

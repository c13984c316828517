/** Directory entries: files, folders, long names and the label, as bytes. */
import { encode } from '../../bytes/record';
import { storedLabel } from './label';
import type { FileAttribute } from '../tree';
import { ATTRIBUTE_LONG_NAME, ATTRIBUTE_VOLUME, DIRECTORY_ENTRY, LONG_NAME_ENTRY } from './records';
import { shortChecksum, type ShortName } from './short-names';

/** Bytes of a directory entry. */
export const FAT_ENTRY_LENGTH = 32;
export const ATTRIBUTE_FOLDER = 0x10;
/** Bit of each attribute that a person can choose. */
const ATTRIBUTE_BITS: Readonly<Record<FileAttribute, number>> = {
  'read only': 0x01,
  hidden: 0x02,
  system: 0x04,
  archive: 0x20,
};
/** Characters of a long name in one entry, and the bit of its last piece. */
const PIECE = 13;
const LAST_PIECE = 0x40;

/** The bits of a list of attributes. */
export function attributeByte(attributes: readonly FileAttribute[] = []): number {
  return attributes.reduce((bits, name) => bits | ATTRIBUTE_BITS[name], 0);
}

/** A date as FAT stores it ("Date and Time Formats"): two-second steps from 1980 to 2107; a time outside of that is drawn in. */
export function fatTime(date: string): { date: number; time: number } {
  const [year, month, day, hour, minute, second] = date.split(/[-T:]/).map(Number) as [
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  if (year < 1980) return fatTime('1980-01-01T00:00:00');
  if (year > 2107) return fatTime('2107-12-31T23:59:58');
  return {
    date: ((year - 1980) << 9) | (month << 5) | day,
    time: (hour << 11) | (minute << 5) | (second >> 1),
  };
}

/** A stored date as text; undefined where it is no time of day on a day. */
export function timeText(date: number, time: number): string | undefined {
  const two = (n: number) => String(n).padStart(2, '0');
  const [month, day] = [(date >> 5) & 15, date & 31];
  const [hour, minute, second] = [time >> 11, (time >> 5) & 63, (time & 31) * 2];
  if (month < 1 || month > 12 || day < 1 || hour > 23 || minute > 59 || second > 59) return undefined;
  return `${1980 + (date >> 9)}-${two(month)}-${two(day)}T${two(hour)}:${two(minute)}:${two(second)}`;
}

/** The attributes that are set in a byte. */
export function attributesOf(byte: number): FileAttribute[] {
  return (Object.keys(ATTRIBUTE_BITS) as FileAttribute[]).filter((name) => (byte & ATTRIBUTE_BITS[name]) !== 0);
}

/** What an entry points to. */
export interface EntryTarget {
  readonly name: Uint8Array;
  readonly attributes: number;
  readonly caseBits: number;
  readonly cluster: number;
  readonly size: number;
  readonly date: string;
}

/** One short entry. Created, written and last touched at the same time. */
export function shortEntry({ name, attributes, caseBits, cluster, size, date }: EntryTarget): Uint8Array {
  const at = fatTime(date);
  return encode(DIRECTORY_ENTRY, {
    name,
    attributes,
    caseBits,
    createdTenth: 0,
    createdTime: at.time,
    createdDate: at.date,
    accessedDate: at.date,
    clusterHigh: cluster >>> 16,
    writtenTime: at.time,
    writtenDate: at.date,
    clusterLow: cluster & 0xffff,
    size,
  });
}

/** The entry of the volume label, which has the time of writing alone. */
export function labelEntry(label: string, date: string): Uint8Array {
  const at = fatTime(date);
  return encode(DIRECTORY_ENTRY, {
    name: storedLabel(label).bytes,
    attributes: ATTRIBUTE_VOLUME,
    caseBits: 0,
    createdTenth: 0,
    createdTime: 0,
    createdDate: 0,
    accessedDate: 0,
    clusterHigh: 0,
    writtenTime: at.time,
    writtenDate: at.date,
    clusterLow: 0,
    size: 0,
  });
}

/** The pieces of a long name as they stand before its short entry: the last one first, a zero behind the name, then FFFFh. */
export function longEntries(name: string, short: ShortName): Uint8Array[] {
  const pieces = Math.ceil(name.length / PIECE);
  const padded = (name + (name.length % PIECE === 0 ? '' : '\0')).padEnd(pieces * PIECE, '\uffff');
  const checksum = shortChecksum(short.bytes);
  return Array.from({ length: pieces }, (_, i) => {
    const piece = pieces - 1 - i;
    const text = padded.slice(piece * PIECE, (piece + 1) * PIECE);
    return encode(LONG_NAME_ENTRY, {
      order: (piece + 1) | (i === 0 ? LAST_PIECE : 0),
      first: text.slice(0, 5),
      attributes: ATTRIBUTE_LONG_NAME,
      kind: 0,
      checksum,
      second: text.slice(5, 11),
      cluster: 0,
      third: text.slice(11, 13),
    });
  });
}

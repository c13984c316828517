/**
 * The ledger: one sector decoded field by field, by the records that write such sectors, with
 * every byte beside it.
 */
import { type RecordShape, type ShownField, showRecord } from '../bytes/record';
import { LONG_GROUP, SHORT_GROUP, SUPERBLOCK } from '../filesystems/ext/records';
import { entryOf } from '../filesystems/fat/read-fats';
import {
  ATTRIBUTE_LONG_NAME,
  BOOT_SECTOR,
  DIRECTORY_ENTRY,
  INFO_SECTOR,
  LONG_NAME_ENTRY,
  SMALL_BOOT_SECTOR,
} from '../filesystems/fat/records';
import { grouped } from '../quantity/units';
import { GPT_ENTRY_RECORD, HEADER_RECORD } from '../tables/gpt';
import { ENTRY_RECORD, MBR_RECORD } from '../tables/mbr';
import { typeCode, typeName } from '../tables/types';
import type { Structure } from './structures';

/** Fields that belong together; offsets are from the start of the sector. */
export interface LedgerGroup {
  readonly title: string;
  readonly fields: readonly ShownField[];
}

/** Sixteen bytes of the sector, as hexadecimal digits and as text. */
export interface HexLine {
  readonly offset: number;
  readonly hex: string;
  readonly text: string;
}

export interface Ledger {
  readonly sector: number;
  /** Byte of the medium at which the sector begins. */
  readonly at: number;
  readonly what: string;
  readonly groups: readonly LedgerGroup[];
  readonly lines: readonly HexLine[];
}

function group(
  title: string,
  shape: RecordShape,
  bytes: Uint8Array,
  at: number,
  name?: (field: ShownField) => ShownField,
) {
  const fields = showRecord(shape, bytes.subarray(at)).map((one) => ({ ...one, offset: one.offset + at }));
  return { title, fields: name ? fields.map(name) : fields };
}

const isZero = (bytes: Uint8Array): boolean => bytes.every((byte) => byte === 0);

/** A type with its name behind it. */
function namedType(field: ShownField, type: string): ShownField {
  return field.name === 'type' ? { ...field, text: `${field.text}: ${typeName(type)}` } : field;
}

function bootRecord(bytes: Uint8Array): LedgerGroup[] {
  const whole = group('Boot record', MBR_RECORD, bytes, 0);
  const entries = [0, 1, 2, 3].map((i): LedgerGroup => {
    const at = 446 + 16 * i;
    if (isZero(bytes.subarray(at, at + 16))) return { title: `Entry ${i + 1}: unused, 16 zero bytes`, fields: [] };
    return group(`Entry ${i + 1}`, ENTRY_RECORD, bytes, at, (field) => namedType(field, typeCode(bytes[at + 4]!)));
  });
  return [{ ...whole, fields: whole.fields.filter((one) => one.name !== 'entries') }, ...entries];
}

function gptEntries(bytes: Uint8Array, sector: number, { start, form }: Structure): LedgerGroup[] {
  if (form.kind !== 'gpt entries' || form.entrySize < GPT_ENTRY_RECORD.length) return [];
  const groups: LedgerGroup[] = [];
  const first = ((sector - start) * bytes.length) / form.entrySize;
  let unused = 0;
  for (let i = 0; (i + 1) * form.entrySize <= bytes.length && first + i < form.count; i++) {
    const at = i * form.entrySize;
    if (isZero(bytes.subarray(at, at + 16))) {
      unused += 1;
      continue;
    }
    const entry = group(`Entry ${first + i + 1}`, GPT_ENTRY_RECORD, bytes, at);
    const type = entry.fields.find((one) => one.name === 'type')!.text;
    groups.push({ ...entry, fields: entry.fields.map((field) => namedType(field, type)) });
  }
  if (unused > 0) groups.push({ title: `${unused} unused ${unused === 1 ? 'entry' : 'entries'}`, fields: [] });
  return groups;
}

/** What an entry of a FAT says, in words. */
function fatEntryText(value: number, width: 12 | 16 | 32, clusters: number): string {
  const marks = { 12: 0xff0, 16: 0xfff0, 32: 0x0ffffff0 }[width];
  if (value === 0) return 'free';
  if (value >= marks + 8) return 'end of a chain';
  if (value === marks + 7) return 'bad cluster';
  return value < 2 || value >= clusters + 2
    ? `${grouped(value)}: no cluster of the volume`
    : `then cluster ${grouped(value)}`;
}

/** A 12-bit entry: one with an odd number begins in the middle of its first byte. */
function twelveBits(bytes: Uint8Array, offset: number, index: number): number {
  const pair = bytes[offset]! | (bytes[offset + 1]! << 8);
  return index % 2 === 0 ? pair & 0xfff : pair >> 4;
}

/** Entries of a FAT that lie in this sector whole; runs of free ones are one line. */
function fatEntries(bytes: Uint8Array, sector: number, { start, form }: Structure): LedgerGroup[] {
  if (form.kind !== 'fat') return [];
  const { width, clusters } = form;
  const before = (sector - start) * bytes.length * 8;
  const first = Math.ceil(before / width);
  const end = Math.min(clusters + 2, Math.floor((before + bytes.length * 8) / width));
  const fields: ShownField[] = [];
  let runFrom: number | undefined;
  const closeRun = (to: number) => {
    if (runFrom === undefined) return;
    const name =
      to - runFrom === 1 ? `cluster ${grouped(runFrom)}` : `clusters ${grouped(runFrom)} to ${grouped(to - 1)}`;
    fields.push({
      offset: Math.floor((runFrom * width - before) / 8),
      length: Math.ceil(((to - runFrom) * width) / 8),
      name,
      means: '',
      text: 'free',
    });
    runFrom = undefined;
  };
  for (let i = first; i < end; i++) {
    const offset = Math.floor((i * width - before) / 8);
    const value = width === 12 ? twelveBits(bytes, offset, i) : entryOf(width, bytes.subarray(offset), 0);
    const text = i < 2 ? `${value.toString(16).toUpperCase()}h` : fatEntryText(value, width, clusters);
    if (text === 'free') {
      runFrom ??= i;
      continue;
    }
    closeRun(i);
    const means = i === 0 ? 'media byte under set bits' : i === 1 ? 'end mark, clean, no errors' : '';
    fields.push({
      offset,
      length: Math.ceil(width / 8),
      name: i < 2 ? `FAT[${i}]` : `cluster ${grouped(i)}`,
      means,
      text,
    });
  }
  closeRun(end);
  return [{ title: `Entries of ${width} bits`, fields }];
}

function directory(bytes: Uint8Array): LedgerGroup[] {
  const groups: LedgerGroup[] = [];
  for (let at = 0; at + 32 <= bytes.length; at += 32) {
    const entry = bytes.subarray(at, at + 32);
    if (entry[0] === 0) {
      groups.push({ title: 'The directory ends here', fields: [] });
      break;
    }
    const isPiece = (entry[11]! & 0x3f) === ATTRIBUTE_LONG_NAME;
    const title = entry[0] === 0xe5 ? 'Deleted entry' : isPiece ? 'Piece of a long name' : 'Entry';
    groups.push(group(title, isPiece ? LONG_NAME_ENTRY : DIRECTORY_ENTRY, bytes, at));
  }
  return groups;
}

/** What of a record lies in this sector, which begins at byte `from` of it. */
function partly(title: string, shape: RecordShape, bytes: Uint8Array, from: number): LedgerGroup {
  const whole = new Uint8Array(shape.length);
  const end = Math.min(shape.length, from + bytes.length);
  whole.set(bytes.subarray(Math.max(0, -from), end - from), Math.max(0, from));
  const fields = showRecord(shape, whole).filter(({ offset, length }) => offset >= from && offset + length <= end);
  return { title, fields: fields.map((field) => ({ ...field, offset: field.offset - from })) };
}

/** Descriptors of groups that lie in this sector whole. */
function extGroups(bytes: Uint8Array, sector: number, { start, form }: Structure): LedgerGroup[] {
  if (form.kind !== 'ext groups') return [];
  const before = (sector - start) * bytes.length - form.at;
  const shape = form.bytes >= LONG_GROUP.length ? LONG_GROUP : SHORT_GROUP;
  const found: LedgerGroup[] = [];
  for (let i = Math.max(0, Math.ceil(before / form.bytes)); i < form.groups; i++) {
    const at = i * form.bytes - before;
    if (at + form.bytes > bytes.length) break;
    found.push(group(`Group ${grouped(i)}`, shape, bytes, at));
  }
  return found;
}

function groupsOf(bytes: Uint8Array, sector: number, structure: Structure | undefined): LedgerGroup[] {
  if (!structure || bytes.length < 512) return [];
  const { form } = structure;
  switch (form.kind) {
    case 'boot record':
      return bootRecord(bytes);
    case 'gpt header':
      return [group('GPT header', HEADER_RECORD, bytes, 0)];
    case 'gpt entries':
      return gptEntries(bytes, sector, structure);
    case 'fat boot sector':
      return [group('Boot sector', form.isLarge ? BOOT_SECTOR : SMALL_BOOT_SECTOR, bytes, 0)];
    case 'fsinfo':
      return [group('FSInfo', INFO_SECTOR, bytes, 0)];
    case 'fat':
      return fatEntries(bytes, sector, structure);
    case 'directory':
      return directory(bytes);
    case 'ext superblock':
      return [partly('Superblock', SUPERBLOCK, bytes, (sector - structure.start) * bytes.length - form.at)];
    case 'ext groups':
      return extGroups(bytes, sector, structure);
    case 'unknown':
      return [];
  }
}

function hexLines(bytes: Uint8Array): HexLine[] {
  return Array.from({ length: Math.ceil(bytes.length / 16) }, (_, i) => {
    const line = [...bytes.subarray(16 * i, 16 * i + 16)];
    return {
      offset: 16 * i,
      hex: line.map((byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' '),
      text: line.map((byte) => (byte >= 0x20 && byte < 0x7f ? String.fromCharCode(byte) : '·')).join(''),
    };
  });
}

/** Decodes the bytes of a sector as what the structures say that it is. */
export function ledgerOf(bytes: Uint8Array, sector: number, structure: Structure | undefined): Ledger {
  return {
    sector,
    at: sector * bytes.length,
    what: structure?.what ?? 'Nothing that is known',
    groups: groupsOf(bytes, sector, structure),
    lines: hexLines(bytes),
  };
}

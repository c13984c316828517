/**
 * Records: a structure on a medium, described once as a list of named fields and used for
 * writing it, reading it, and showing it field by field.
 *
 * Numbers have their lowest byte first, unless the record says otherwise.
 */

import { grouped } from '../quantity/units';
import { guidBytes, guidText } from './guid';

/**
 * How a field is stored. `bytes` are opaque; `ascii` is one byte per character, `utf16` two bytes
 * per code unit, both with their padding; a `guid` is text in lower case. A `u64` is a bigint:
 * `narrow` makes a number of it where it can be one.
 */
export type FieldType =
  | 'u8'
  | 'u16'
  | 'u32'
  | 'u64'
  | 'guid'
  | { readonly bytes: number }
  | { readonly ascii: number }
  | { readonly utf16: number };

/** One field: its byte offset in the record and what the specification calls it. */
export interface Field<Type extends FieldType = FieldType> {
  readonly offset: number;
  readonly type: Type;
  readonly means: string;
}

/** A record of fixed length. Bytes that no field covers are written as zeros. */
export interface RecordShape<Fields extends Record<string, Field> = Record<string, Field>> {
  readonly name: string;
  readonly length: number;
  readonly fields: Fields;
  /** Where its numbers have their highest byte first. */
  readonly isBigEndian?: boolean;
}

type ValueOf<Type extends FieldType> = Type extends { readonly bytes: number }
  ? Uint8Array
  : Type extends { readonly ascii: number } | { readonly utf16: number } | 'guid'
    ? string
    : Type extends 'u64'
      ? bigint
      : number;

/** Any value that a field can hold. */
type FieldValue = number | bigint | string | Uint8Array;

/** The values of a record, by field name. */
export type Values<Shape extends RecordShape> = {
  [Name in keyof Shape['fields']]: ValueOf<Shape['fields'][Name]['type']>;
};

/** Bytes that a field of this type takes. */
function widthOf(type: FieldType): number {
  if (type === 'u8') return 1;
  if (type === 'u16') return 2;
  if (type === 'u32') return 4;
  if (type === 'u64') return 8;
  if (type === 'guid') return 16;
  if ('bytes' in type) return type.bytes;
  return 'ascii' in type ? type.ascii : 2 * type.utf16;
}

/** A 64-bit number as a number; undefined where it is no safe integer (8 PiB and more in bytes). */
export function narrow(value: bigint): number | undefined {
  return value <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(value) : undefined;
}

/**
 * Describes a record. Throws a RangeError at start-up if two fields overlap or one leaves the
 * record, so that a wrong description cannot be used at all.
 */
export function record<Fields extends Record<string, Field>>(
  name: string,
  length: number,
  fields: Fields,
  order: 'little-endian' | 'big-endian' = 'little-endian',
): RecordShape<Fields> {
  let end = 0;
  for (const [key, field] of Object.entries(fields).sort(([, a], [, b]) => a.offset - b.offset)) {
    if (field.offset < end) throw new RangeError(`${name}: field ${key} overlaps the one before it`);
    end = field.offset + widthOf(field.type);
  }
  if (end > length) throw new RangeError(`${name}: fields end at ${end}, beyond ${length}`);
  return { name, length, fields, isBigEndian: order === 'big-endian' };
}

/** Shorthand to describe a field. */
export function field<const Type extends FieldType>(offset: number, type: Type, means: string): Field<Type> {
  return { offset, type, means };
}

function putNumber(view: DataView, offset: number, width: number, value: number | bigint, isLittle: boolean): void {
  if (width === 1) view.setUint8(offset, Number(value));
  else if (width === 2) view.setUint16(offset, Number(value), isLittle);
  else if (width === 4) view.setUint32(offset, Number(value), isLittle);
  else view.setBigUint64(offset, BigInt(value), isLittle);
}

function textBytes(type: Exclude<FieldType, 'u8' | 'u16' | 'u32' | 'u64'>, value: string): Uint8Array {
  if (type === 'guid') return guidBytes(value);
  if ('utf16' in type) return utf16Bytes(value);
  return Uint8Array.from(value, (c) => c.charCodeAt(0));
}

function utf16Bytes(text: string): Uint8Array {
  const out = new Uint8Array(2 * text.length);
  for (let i = 0; i < text.length; i++) new DataView(out.buffer).setUint16(2 * i, text.charCodeAt(i), true);
  return out;
}

/** First number that does not fit. */
const MOST = { u8: 2 ** 8, u16: 2 ** 16, u32: 2 ** 32, u64: 1n << 64n } as const;

interface PlacedField {
  readonly name: string;
  readonly offset: number;
  readonly type: FieldType;
  readonly width: number;
}

const FIELDS = new WeakMap<RecordShape, readonly PlacedField[]>();

/** The fields of a record with their widths, listed once. */
function fieldsOf(shape: RecordShape): readonly PlacedField[] {
  let fields = FIELDS.get(shape);
  if (!fields) {
    fields = Object.entries(shape.fields).map(([name, { offset, type }]) => ({
      name,
      offset,
      type,
      width: widthOf(type),
    }));
    FIELDS.set(shape, fields);
  }
  return fields;
}

/** Writes a record. Throws a RangeError when a value does not fit its field: that is a defect, not input. */
export function encode<Shape extends RecordShape>(shape: Shape, values: Values<Shape>): Uint8Array {
  const out = new Uint8Array(shape.length);
  encodeInto(out, shape, values);
  return out;
}

/** Writes the fields of a record into the first bytes of `out`; what no field covers stays as it is. Throws as `encode` does. */
export function encodeInto<Shape extends RecordShape>(out: Uint8Array, shape: Shape, values: Values<Shape>): void {
  const view = new DataView(out.buffer, out.byteOffset, shape.length);
  for (const { name, offset, type, width } of fieldsOf(shape)) {
    const value = values[name as keyof Values<Shape>] as FieldValue;
    if (type === 'u8' || type === 'u16' || type === 'u32' || type === 'u64') {
      const number = value as number | bigint;
      if (!(number >= 0 && number < MOST[type]) || (typeof number === 'number' && !Number.isInteger(number)))
        throw new RangeError(`${shape.name}.${name}: ${number} does not fit ${type}`);
      putNumber(view, offset, width, number, shape.isBigEndian !== true);
      continue;
    }
    const bytes = typeof value === 'string' ? textBytes(type, value) : (value as Uint8Array);
    if (bytes.length !== width) throw new RangeError(`${shape.name}.${name}: ${bytes.length} bytes, not ${width}`);
    out.set(bytes, offset);
  }
}

function valueAt(
  view: DataView,
  bytes: Uint8Array,
  { offset, type }: Pick<Field, 'offset' | 'type'>,
  isLittle: boolean,
): FieldValue {
  if (type === 'u8') return view.getUint8(offset);
  if (type === 'u16') return view.getUint16(offset, isLittle);
  if (type === 'u32') return view.getUint32(offset, isLittle);
  if (type === 'u64') return view.getBigUint64(offset, isLittle);
  const field = bytes.subarray(offset, offset + widthOf(type));
  if (type === 'guid') return guidText(field);
  if ('bytes' in type) return field.slice();
  if ('ascii' in type) return String.fromCharCode(...field);
  return String.fromCharCode(...Array.from({ length: type.utf16 }, (_, i) => view.getUint16(offset + 2 * i, true)));
}

/** Reads a record from the first bytes of `bytes`, which must hold it whole (RangeError otherwise). */
export function decode<Shape extends RecordShape>(shape: Shape, bytes: Uint8Array): Values<Shape> {
  if (bytes.length < shape.length) throw new RangeError(`${shape.name}: ${bytes.length} of ${shape.length} bytes`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const values: Record<string, FieldValue> = {};
  const isLittle = shape.isBigEndian !== true;
  for (const field of fieldsOf(shape)) values[field.name] = valueAt(view, bytes, field, isLittle);
  return values as Values<Shape>;
}

/** One number of a record as it stands in some bytes, where nothing else of it is wanted: faster than reading all of it. */
export function numberIn(shape: RecordShape, { offset, type }: Field<'u8' | 'u16' | 'u32'>, view: DataView): number {
  const isLittle = shape.isBigEndian !== true;
  if (type === 'u8') return view.getUint8(offset);
  return type === 'u16' ? view.getUint16(offset, isLittle) : view.getUint32(offset, isLittle);
}

/** One field of a record as it stands in some bytes, for people. */
export interface ShownField {
  /** Byte offset in the record. */
  readonly offset: number;
  readonly length: number;
  readonly name: string;
  readonly means: string;
  /** The value: numbers in decimal and hexadecimal, text with unprintable characters escaped. */
  readonly text: string;
}

function shown(value: FieldValue, width: number): string {
  if (typeof value === 'string') return visible(value);
  if (typeof value !== 'object') {
    const hex = value
      .toString(16)
      .toUpperCase()
      .padStart(2 * width, '0');
    return value < 10 ? String(value) : `${grouped(value)} (${hex}h)`;
  }
  if (value.every((byte) => byte === 0)) return `${value.length} zero bytes`;
  const hex = [...value.subarray(0, 16)].map((byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' ');
  return value.length > 16 ? `${hex} … (${value.length} bytes)` : hex;
}

/** A text with control characters and lone surrogates escaped as `\\u{7}`; trailing NULs are left out. */
export function visible(text: string): string {
  const hidden = /[\u0000-\u001f\u007f-\u009f\u2028\u2029\u202a-\u202e\u2066-\u2069]|\p{Cs}/gu;
  return text.replace(/\0+$/, '').replace(hidden, (c) => `\\u{${c.codePointAt(0)!.toString(16)}}`);
}

/** Every field of a record as it stands in `bytes`, in the order of their offsets. */
export function showRecord(shape: RecordShape, bytes: Uint8Array): ShownField[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  return Object.entries(shape.fields)
    .map(([name, field]) => ({
      offset: field.offset,
      length: widthOf(field.type),
      name,
      means: field.means,
      text: shown(valueAt(view, bytes, field, shape.isBigEndian !== true), widthOf(field.type)),
    }))
    .sort((a, b) => a.offset - b.offset);
}

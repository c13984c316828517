/**
 * Records: a structure on a medium, described once as a list of named fields and used for
 * writing it, reading it, and showing it field by field.
 *
 * All multi-byte numbers of the formats here are little-endian.
 */

/** How a field is stored. `bytes` are opaque; `ascii` is one byte per character. */
export type FieldType = 'u8' | 'u16' | 'u32' | { readonly bytes: number } | { readonly ascii: number };

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
}

type ValueOf<Type extends FieldType> = Type extends { readonly bytes: number }
  ? Uint8Array
  : Type extends { readonly ascii: number }
    ? string
    : number;

/** The values of a record, by field name. */
export type Values<Shape extends RecordShape> = {
  [Name in keyof Shape['fields']]: ValueOf<Shape['fields'][Name]['type']>;
};

/** Bytes that a field of this type takes. */
function widthOf(type: FieldType): number {
  if (type === 'u8') return 1;
  if (type === 'u16') return 2;
  if (type === 'u32') return 4;
  return 'bytes' in type ? type.bytes : type.ascii;
}

/**
 * Describes a record. Throws a RangeError at start-up if two fields overlap or one leaves the
 * record, so that a wrong description cannot be used at all.
 */
export function record<Fields extends Record<string, Field>>(
  name: string,
  length: number,
  fields: Fields,
): RecordShape<Fields> {
  let end = 0;
  for (const [key, field] of Object.entries(fields).sort(([, a], [, b]) => a.offset - b.offset)) {
    if (field.offset < end) throw new RangeError(`${name}: field ${key} overlaps the one before it`);
    end = field.offset + widthOf(field.type);
  }
  if (end > length) throw new RangeError(`${name}: fields end at ${end}, beyond ${length}`);
  return { name, length, fields };
}

/** Shorthand to describe a field. */
export function field<const Type extends FieldType>(offset: number, type: Type, means: string): Field<Type> {
  return { offset, type, means };
}

/** Writes a record. Throws a RangeError when a value does not fit its field: that is a defect, not input. */
export function encode<Shape extends RecordShape>(shape: Shape, values: Values<Shape>): Uint8Array {
  const out = new Uint8Array(shape.length);
  const view = new DataView(out.buffer);
  for (const [name, { offset, type }] of Object.entries(shape.fields)) {
    const value = values[name as keyof Values<Shape>] as number | string | Uint8Array;
    const width = widthOf(type);
    if (typeof type === 'string') {
      const number = value as number;
      if (!Number.isInteger(number) || number < 0 || number >= 2 ** (8 * width))
        throw new RangeError(`${shape.name}.${name}: ${number} does not fit ${type}`);
      if (width === 1) view.setUint8(offset, number);
      else if (width === 2) view.setUint16(offset, number, true);
      else view.setUint32(offset, number, true);
      continue;
    }
    const bytes = typeof value === 'string' ? Uint8Array.from(value, (c) => c.charCodeAt(0)) : (value as Uint8Array);
    if (bytes.length !== width) throw new RangeError(`${shape.name}.${name}: ${bytes.length} bytes, not ${width}`);
    out.set(bytes, offset);
  }
  return out;
}

/** Reads a record from the first bytes of `bytes`, which must hold it whole (RangeError otherwise). */
export function decode<Shape extends RecordShape>(shape: Shape, bytes: Uint8Array): Values<Shape> {
  if (bytes.length < shape.length) throw new RangeError(`${shape.name}: ${bytes.length} of ${shape.length} bytes`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const values: Record<string, number | string | Uint8Array> = {};
  for (const [name, { offset, type }] of Object.entries(shape.fields)) {
    if (type === 'u8') values[name] = view.getUint8(offset);
    else if (type === 'u16') values[name] = view.getUint16(offset, true);
    else if (type === 'u32') values[name] = view.getUint32(offset, true);
    else if ('bytes' in type) values[name] = bytes.slice(offset, offset + type.bytes);
    else values[name] = String.fromCharCode(...bytes.subarray(offset, offset + type.ascii));
  }
  return values as Values<Shape>;
}

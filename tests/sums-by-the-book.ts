/** Sums of ext as the kernel's documentation has them, bit by bit, for its second reader. */

const CASTAGNOLI = Uint32Array.from({ length: 256 }, (_, i) => {
  let value = i;
  for (let bit = 0; bit < 8; bit++) value = (value >>> 1) ^ (value & 1 ? 0x82f63b78 : 0);
  return value;
});

/** CRC-32C as the kernel has it: begun with `seed`, not turned over in the end. */
export function sumFrom(seed: number, ...parts: readonly Uint8Array[]): number {
  let sum = seed;
  for (const part of parts) for (const byte of part) sum = (sum >>> 8) ^ CASTAGNOLI[(sum ^ byte) & 0xff]!;
  return sum >>> 0;
}

/** CRC-16 of group descriptors as kernels before had it. */
export function sum16(...parts: readonly Uint8Array[]): number {
  let sum = 0xffff;
  for (const part of parts)
    for (const byte of part) {
      sum ^= byte;
      for (let bit = 0; bit < 8; bit++) sum = (sum >>> 1) ^ (sum & 1 ? 0xa001 : 0);
    }
  return sum;
}

/** A number as it goes into a sum. */
export function number32(value: number): Uint8Array {
  const bytes = new Uint8Array(4);
  new DataView(bytes.buffer).setUint32(0, value, true);
  return bytes;
}

/**
 * The sum that a block of a folder says, and the one that it should; undefined where it has none. The first block of a hashed
 * folder and every block that is one record of nothing lead to others: their sum stands behind the places that they have for
 * that, and what lies at their end is of an earlier use.
 */
export function sumOfFolderBlock(
  bytes: Uint8Array,
  seed: number,
  index: number,
  isHashed: boolean,
): [is: number, meant: number] | undefined {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const length = view.getUint16(4, true);
  const isWhole = view.getUint32(0, true) === 0 && (length === bytes.length || (length % 65535 === 0 && index > 0));
  if (isHashed && (index === 0 || isWhole)) {
    const places = index === 0 ? 0x18 + bytes[0x1d]! : 8;
    const [limit, count] = [view.getUint16(places, true), view.getUint16(places + 2, true)];
    const tail = places + 8 * limit;
    const sum = sumFrom(seed, bytes.subarray(0, places + 8 * count), bytes.subarray(tail, tail + 4), number32(0));
    return [view.getUint32(tail + 4, true), sum];
  }
  const tail = bytes.length - 12;
  if (view.getUint32(tail, true) !== 0 || view.getUint32(tail + 4, true) !== 0xde00000c) return undefined;
  return [view.getUint32(tail + 8, true), sumFrom(seed, bytes.subarray(0, tail))];
}

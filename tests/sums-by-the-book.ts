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

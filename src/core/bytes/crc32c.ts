/**
 * The two checksums of ext file systems, as the kernel's documentation names them: CRC-32C
 * (Castagnoli, RFC 3720, appendix B.4) and CRC-16 (the polynomial x^16 + x^15 + x^2 + 1), both with
 * reflected bits. Neither is inverted at its end, so that one may go on from another.
 */

/** Tables for eight bytes at a time: the first is that of one byte, each further one that of a byte with one more zero behind. */
const TABLES = (() => {
  const all = new Int32Array(8 * 256);
  for (let n = 0; n < 256; n++) {
    let c = n;
    for (let bit = 0; bit < 8; bit++) c = c & 1 ? (c >>> 1) ^ 0x82f63b78 : c >>> 1;
    all[n] = c;
  }
  for (let i = 256; i < all.length; i++) all[i] = (all[i - 256]! >>> 8) ^ all[all[i - 256]! & 0xff]!;
  return all;
})();

/** CRC-32C of `bytes`, going on from `seed`; an unsigned 32-bit number. */
export function crc32c(bytes: Uint8Array, seed = 0xffffffff): number {
  let crc = seed;
  let i = 0;
  for (const end = bytes.length - 7; i < end; i += 8) {
    crc ^= bytes[i]! | (bytes[i + 1]! << 8) | (bytes[i + 2]! << 16) | (bytes[i + 3]! << 24);
    crc =
      TABLES[1792 + (crc & 0xff)]! ^
      TABLES[1536 + ((crc >>> 8) & 0xff)]! ^
      TABLES[1280 + ((crc >>> 16) & 0xff)]! ^
      TABLES[1024 + (crc >>> 24)]! ^
      TABLES[768 + bytes[i + 4]!]! ^
      TABLES[512 + bytes[i + 5]!]! ^
      TABLES[256 + bytes[i + 6]!]! ^
      TABLES[bytes[i + 7]!]!;
  }
  for (; i < bytes.length; i++) crc = TABLES[(crc ^ bytes[i]!) & 0xff]! ^ (crc >>> 8);
  return crc >>> 0;
}

const NUMBER = new Uint8Array(4);

/** CRC-32C of a 32-bit number in its four bytes, lowest first. */
export function crc32cOfNumber(value: number, seed: number): number {
  new DataView(NUMBER.buffer).setUint32(0, value, true);
  return crc32c(NUMBER, seed);
}

const TABLE_16 = Uint16Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let bit = 0; bit < 8; bit++) c = c & 1 ? (c >>> 1) ^ 0xa001 : c >>> 1;
  return c;
});

/** CRC-16 of `bytes`, going on from `seed`; an unsigned 16-bit number. */
export function crc16(bytes: Uint8Array, seed = 0xffff): number {
  let crc = seed;
  for (const byte of bytes) crc = TABLE_16[(crc ^ byte) & 0xff]! ^ (crc >>> 8);
  return crc;
}

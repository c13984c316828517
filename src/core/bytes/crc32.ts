/** CRC-32 as the UEFI specification asks for it: the polynomial of ISO 3309, bits reflected, both ends inverted. */

const TABLE = Int32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let bit = 0; bit < 8; bit++) c = c & 1 ? (c >>> 1) ^ 0xedb88320 : c >>> 1;
  return c;
});

/** What a number of zero bits does to a checksum: the 32 columns of a linear map over bits. */
type BitMap = Uint32Array;

function apply(map: BitMap, bits: number): number {
  let out = 0;
  for (let i = 0, rest = bits; rest !== 0; i++, rest >>>= 1) if ((rest & 1) !== 0) out ^= map[i]!;
  return out >>> 0;
}

const twice = (map: BitMap): BitMap => map.map((column) => apply(map, column));

/** Maps of 1, 2, 4 … zero bytes, made as they are needed; the first is that of one bit, three times doubled. */
const MAPS: BitMap[] = [];

function mapOf(power: number): BitMap {
  if (MAPS.length === 0) {
    const bit = Uint32Array.from({ length: 32 }, (_, i) => (i === 0 ? 0xedb88320 : 2 ** (i - 1)));
    MAPS.push(twice(twice(twice(bit))));
  }
  while (MAPS.length <= power) MAPS.push(twice(MAPS[MAPS.length - 1]!));
  return MAPS[power]!;
}

/** The checksum of two stretches one behind the other, from those of each and the length of the second in bytes. */
export function crcJoined(first: number, second: number, length: number): number {
  let crc = first;
  for (let power = 0, rest = length; rest > 0; power++, rest = Math.floor(rest / 2))
    if (rest % 2 === 1) crc = apply(mapOf(power), crc);
  return (crc ^ second) >>> 0;
}

/** The checksum of some bytes, an unsigned 32-bit number. */
export function crc32(bytes: Uint8Array): number {
  let crc = -1;
  for (let i = 0; i < bytes.length; i++) crc = TABLE[(crc ^ bytes[i]!) & 0xff]! ^ (crc >>> 8);
  return ~crc >>> 0;
}

const HIGH_TABLE = Int32Array.from({ length: 256 }, (_, n) => {
  let c = n << 24;
  for (let bit = 0; bit < 8; bit++) c = c < 0 ? (c << 1) ^ 0x04c11db7 : c << 1;
  return c;
});

/** The same polynomial with the highest bit first and nothing inverted, as old journals sum; goes on from `seed`. */
export function crc32HighFirst(bytes: Uint8Array, seed = 0xffffffff): number {
  let crc = seed;
  for (const byte of bytes) crc = (crc << 8) ^ HIGH_TABLE[((crc >>> 24) ^ byte) & 0xff]!;
  return crc >>> 0;
}

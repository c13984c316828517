/**
 * The hash of names in large directories: half MD4 (the kernel's documentation, "Hash Tree
 * Directories"; the rounds are those of MD4, RFC 1320, with fewer steps).
 */

const START = [0x67452301, 0xefcdab89, 0x98badcfe, 0x10325476] as const;
/** Words of the input in the order of each round, with its shifts and its constant. */
const ROUNDS = [
  { order: [0, 1, 2, 3, 4, 5, 6, 7], shifts: [3, 7, 11, 19], constant: 0 },
  { order: [1, 3, 5, 7, 0, 2, 4, 6], shifts: [3, 5, 9, 13], constant: 0x5a827999 },
  { order: [3, 7, 2, 6, 1, 5, 0, 4], shifts: [3, 9, 11, 15], constant: 0x6ed9eba1 },
] as const;
/** Bytes that are mixed in at a time. */
const PIECE = 32;
/** No name has this hash: it marks the end. */
const END = 0xfffffffe;

const F = (x: number, y: number, z: number) => z ^ (x & (y ^ z));
const G = (x: number, y: number, z: number) => ((x & y) + ((x ^ y) & z)) | 0;
const H = (x: number, y: number, z: number) => x ^ y ^ z;
const MIXES = [F, G, H] as const;

const WORDS = new Int32Array(8);

/** Eight words of up to 32 bytes of a name, until the next are asked for; where bytes are missing their number stands in all four bytes. */
function wordsOf(bytes: Uint8Array, at: number, isSigned: boolean): Int32Array {
  const left = bytes.length - at;
  const pad = left | (left << 8) | (left << 16) | (left << 24) | 0;
  const words = WORDS.fill(pad);
  const taken = Math.min(left, PIECE);
  for (let i = 0; i < taken; i++) {
    const byte = bytes[at + i]!;
    const value = isSigned ? (byte << 24) >> 24 : byte;
    const word = i >> 2;
    words[word] = (value + ((i % 4 === 0 ? pad : words[word]!) << 8)) | 0;
  }
  return words;
}

function mix(state: Int32Array, words: Int32Array): void {
  let [a, b, c, d] = [state[0]!, state[1]!, state[2]!, state[3]!];
  for (let round = 0; round < 3; round++) {
    const { order, shifts, constant } = ROUNDS[round]!;
    const f = MIXES[round]!;
    for (let step = 0; step < 8; step++) {
      const sum = (a + f(b, c, d) + words[order[step]!]! + constant) | 0;
      const shift = shifts[step % 4]!;
      a = d;
      d = c;
      c = b;
      b = (sum << shift) | (sum >>> (32 - shift));
    }
  }
  state[0] = (state[0]! + a) | 0;
  state[1] = (state[1]! + b) | 0;
  state[2] = (state[2]! + c) | 0;
  state[3] = (state[3]! + d) | 0;
}

export interface NameHash {
  readonly hash: number;
  /** Orders names of one hash. */
  readonly minor: number;
}

/**
 * Hash of the bytes of a name, unsigned 32-bit numbers; the lowest bit of the first is always clear. `seed` are
 * the four words of the superblock, all zero for none.
 */
export function halfMd4(name: Uint8Array, seed: readonly number[], isSigned: boolean): NameHash {
  const state = Int32Array.from(seed.some((word) => word !== 0) ? seed : START);
  for (let at = 0; at < name.length; at += PIECE) mix(state, wordsOf(name, at, isSigned));
  const hash = (state[1]! & ~1) >>> 0;
  return { hash: hash === END ? END - 2 : hash, minor: state[2]! >>> 0 };
}

/**
 * GUIDs as GPT stores them: the first three fields little-endian, the last two as they are
 * written (UEFI specification, appendix "GUID and Time Formats").
 */

/** What a GUID looks like as text; the code writes lower case. */
export const GUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/;
/** The GUID that stands for "none". */
export const NO_GUID = '00000000-0000-0000-0000-000000000000';

/** Places of the stored bytes in the order in which the text shows them. */
const ORDER = [3, 2, 1, 0, 5, 4, 7, 6, 8, 9, 10, 11, 12, 13, 14, 15];

/** The 16 stored bytes of a GUID text. Throws a RangeError for anything else: texts are checked before. */
export function guidBytes(text: string): Uint8Array {
  if (!GUID.test(text)) throw new RangeError(`not a GUID: ${text}`);
  const digits = text.replaceAll('-', '');
  const out = new Uint8Array(16);
  ORDER.forEach((place, i) => (out[place] = parseInt(digits.slice(2 * i, 2 * i + 2), 16)));
  return out;
}

/** The text of 16 stored bytes, in lower case. */
export function guidText(bytes: Uint8Array): string {
  const hex = ORDER.map((place) => bytes[place]!.toString(16).padStart(2, '0')).join('');
  return dashed(hex);
}

/** The 16 bytes of a UUID in the order in which its text shows them, as Linux file systems store it. */
export function uuidBytes(text: string): Uint8Array {
  const digits = text.replaceAll('-', '');
  return Uint8Array.from({ length: 16 }, (_, i) => parseInt(digits.slice(2 * i, 2 * i + 2), 16));
}

/** 32 hexadecimal digits with the dashes of a GUID. */
export function dashed(hex: string): string {
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-');
}

/** Mixes the bits of a 32-bit number, so that each of them depends on all. */
function mixed(number: number): number {
  let hash = number ^ (number >>> 16);
  hash = Math.imul(hash, 0x85ebca6b);
  return (hash ^ (hash >>> 13)) >>> 0;
}

/** Two 32-bit numbers that follow from a text: FNV-1a from two beginnings. */
function twoHashes(text: string): [number, number] {
  let [a, b] = [0x811c9dc5, 0x050c5d1f];
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    a = Math.imul(a ^ code, 0x01000193);
    b = Math.imul(b ^ code, 0x01000193) + 0x9e37;
  }
  return [a, b];
}

/**
 * A GUID that follows from a text: the same text always gives the same one. It carries the
 * marks of version 8 ("made by a rule of one's own", RFC 9562), because no chance went into it.
 */
export function guidFrom(text: string): string {
  let guid = MADE.get(text);
  if (guid === undefined) {
    guid = makeGuid(text);
    if (MADE.size >= MADE_LIMIT) MADE.clear();
    MADE.set(text, guid);
  }
  return guid;
}

/** Ids that were made before: a layout asks for the same ones with every placement. */
const MADE = new Map<string, string>();
const MADE_LIMIT = 4096;

function makeGuid(text: string): string {
  const [a, b] = twoHashes(text);
  const hex = (word: number) => word.toString(16).padStart(8, '0');
  const second = hex(((mixed(b) & 0xffff0fff) | 0x8000) >>> 0);
  const third = hex(((mixed(a ^ Math.imul(b, 5)) & 0x3fffffff) | 0x80000000) >>> 0);
  const fourth = hex(mixed(b ^ Math.imul(a, 3)));
  return dashed(`${hex(mixed(a))}${second}${third}${fourth}`);
}

/** A 32-bit number that follows from a text. */
export function hashText(text: string): number {
  return mixed(twoHashes(text)[0]);
}

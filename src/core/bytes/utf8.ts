/**
 * Texts whose bytes need not be UTF-8. A byte that is none stands in the text as one lone half of a
 * character, U+DC80 to U+DCFF for 80h to FFh, so that every text goes back to the bytes it came from.
 */

const strict = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
const encoder = new TextEncoder();
const LONE = /[\udc80-\udcff]/u;

/** Bytes of the character that begins here, where it is one as UTF-8 has it (The Unicode Standard, table 3-7); 0 where it is none. */
function characterAt(bytes: Uint8Array, at: number): number {
  const first = bytes[at]!;
  if (first < 0x80) return 1;
  if (first < 0xc2 || first > 0xf4) return 0;
  const length = first < 0xe0 ? 2 : first < 0xf0 ? 3 : 4;
  if (at + length > bytes.length) return 0;
  const low = first === 0xe0 ? 0xa0 : first === 0xf0 ? 0x90 : 0x80;
  const high = first === 0xed ? 0x9f : first === 0xf4 ? 0x8f : 0xbf;
  if (bytes[at + 1]! < low || bytes[at + 1]! > high) return 0;
  for (let i = 2; i < length; i++) if ((bytes[at + i]! & 0xc0) !== 0x80) return 0;
  return length;
}

/** Code units that are made into a text at once. */
const UNITS = 4096;

/** The text of some bytes. */
export function textOfBytes(bytes: Uint8Array): string {
  try {
    return strict.decode(bytes);
  } catch {
    const parts: string[] = [];
    let units: number[] = [];
    for (let at = 0; at < bytes.length;) {
      const length = characterAt(bytes, at);
      if (length === 0) units.push(0xdc00 + bytes[at]!);
      else if (length === 1) units.push(bytes[at]!);
      else {
        let code = bytes[at]! & (0x7f >> length);
        for (let i = 1; i < length; i++) code = code * 64 + (bytes[at + i]! & 0x3f);
        if (code < 0x10000) units.push(code);
        else units.push(0xd800 + ((code - 0x10000) >> 10), 0xdc00 + ((code - 0x10000) & 0x3ff));
      }
      at += length === 0 ? 1 : length;
      if (units.length < UNITS) continue;
      parts.push(String.fromCharCode(...units));
      units = [];
    }
    return parts.join('') + String.fromCharCode(...units);
  }
}

const PLAIN = /^[\0-\x7f]*$/;

/** How many bytes a text has. */
export function byteLength(text: string): number {
  return PLAIN.test(text) ? text.length : bytesOfText(text).length;
}

/** The bytes of a text. */
export function bytesOfText(text: string): Uint8Array {
  if (PLAIN.test(text)) {
    const bytes = new Uint8Array(text.length);
    for (let i = 0; i < text.length; i++) bytes[i] = text.charCodeAt(i);
    return bytes;
  }
  if (!LONE.test(text)) return encoder.encode(text);
  const parts = [...text].map((character) => {
    const code = character.charCodeAt(0);
    return character.length === 1 && code >= 0xdc80 && code <= 0xdcff
      ? Uint8Array.of(code - 0xdc00)
      : encoder.encode(character);
  });
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

/** True for a text that stands for other bytes than those of its own UTF-8. */
export function hasLoneBytes(text: string): boolean {
  return LONE.test(text);
}

/** True for a text that comes back as it is from its bytes: it has no other halves of characters. */
export function isTextOfBytes(text: string): boolean {
  return !/\p{Cs}/u.test(text) || textOfBytes(bytesOfText(text)) === text;
}

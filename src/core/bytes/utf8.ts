/**
 * Texts whose bytes need not be UTF-8. A byte that is none stands in the text as one lone half of a
 * character, U+DC80 to U+DCFF for 80h to FFh, so that every text goes back to the bytes it came from.
 */

const strict = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
const encoder = new TextEncoder();
const LONE = /[\udc80-\udcff]/u;

/** Bytes of the character that begins here, where it is one as UTF-8 has it; 0 where it is none. */
function characterAt(bytes: Uint8Array, at: number): number {
  const first = bytes[at]!;
  const length = first < 0x80 ? 1 : first < 0xc2 ? 0 : first < 0xe0 ? 2 : first < 0xf0 ? 3 : first < 0xf5 ? 4 : 0;
  if (length === 0 || at + length > bytes.length) return 0;
  try {
    strict.decode(bytes.subarray(at, at + length));
    return length;
  } catch {
    return 0;
  }
}

/** The text of some bytes. */
export function textOfBytes(bytes: Uint8Array): string {
  try {
    return strict.decode(bytes);
  } catch {
    let text = '';
    for (let at = 0; at < bytes.length;) {
      const length = characterAt(bytes, at);
      text += length > 0 ? strict.decode(bytes.subarray(at, at + length)) : String.fromCharCode(0xdc00 + bytes[at]!);
      at += Math.max(1, length);
    }
    return text;
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

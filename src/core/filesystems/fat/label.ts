/**
 * FAT volume labels: eleven bytes, upper case, of the OEM character set 437.
 * Characters that a label cannot hold: specification of the FAT32 file system, "Short
 * Directory Entries"; a label is stored like a short name, without its point.
 */

/** Bytes of a stored label. */
export const LABEL_LENGTH = 11;
/** What stands in the header when there is no label. */
export const NO_LABEL = 'NO NAME    ';

/** Labels that need no look at each character. */
const PLAIN = /^[ \w-]*$/;
const FORBIDDEN = '"*+,./:;<=>?[\\]|';

/** Upper half of character set 437, codes 80h to FFh. */
const CP437_UPPER =
  'ÇüéâäàåçêëèïîìÄÅÉæÆôöòûùÿÖÜ¢£¥₧ƒáíóúñÑªº¿⌐¬½¼¡«»░▒▓│┤╡╢╖╕╣║╗╝╜╛┐└┴┬├─┼╞╟╚╔╩╦╠═╬╧╨╤╥╙╘╒╓╫╪┘┌█▄▌▐▀αßΓπΣσµτΦΘΩδ∞φε∩≡±≥≤⌠⌡÷≈°∙·√ⁿ²■\u00a0';

function codeOf(character: string): number | undefined {
  const code = character.charCodeAt(0);
  if (character.length === 1 && code >= 0x20 && code < 0x7f) return code;
  const upper = CP437_UPPER.indexOf(character);
  return upper < 0 ? undefined : 0x80 + upper;
}

/** How a label will be stored, and what was lost on the way. */
export interface StoredLabel {
  /** Eleven bytes, padded with spaces. */
  readonly bytes: Uint8Array;
  /** The stored text without the padding. */
  readonly text: string;
  /** Characters that a label cannot hold; they are stored as `_`. */
  readonly forbidden: readonly string[];
  /** Characters cut off behind the eleventh. */
  readonly cut: string;
}

/** Computes the stored form of `label`. An empty label is stored as none, and so is what stands for none. */
export function storedLabel(label: string): StoredLabel {
  const upper = isStoredLabel(label) ? label.trim().toUpperCase() : '';
  const characters = [...upper];
  const forbidden = PLAIN.test(upper) ? [] : characters.filter((c) => FORBIDDEN.includes(c) || codeOf(c) === undefined);
  const kept = characters.slice(0, LABEL_LENGTH);
  const bytes = new Uint8Array(LABEL_LENGTH).fill(0x20);
  const shown = forbidden.length === 0 ? kept : kept.map((c) => (forbidden.includes(c) ? '_' : c));
  shown.forEach((c, i) => (bytes[i] = codeOf(c)!));
  return {
    bytes,
    text: shown.join('').trimEnd(),
    forbidden: [...new Set(forbidden)],
    cut: characters.slice(LABEL_LENGTH).join(''),
  };
}

/** True where a label is stored at all: one that is blank is none, and so is NO NAME. The same as a stored text that is not empty. */
export function isStoredLabel(label: string): boolean {
  const trimmed = label.trim();
  return trimmed !== '' && trimmed.toUpperCase() !== NO_LABEL.trimEnd();
}

/** A stored label back as text; bytes below 20h are shown as `?`. */
export function labelText(bytes: Uint8Array): string {
  return [...bytes]
    .map((b) => (b >= 0x80 ? CP437_UPPER[b - 0x80]! : b >= 0x20 && b < 0x7f ? String.fromCharCode(b) : '?'))
    .join('')
    .trimEnd();
}

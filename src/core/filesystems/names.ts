/**
 * Names in volumes: what a long name of FAT may hold ("FAT Long Directory Entries" of the published
 * FAT32 specification), what other kinds say beside it, and which names are one name to a reader
 * that does not mind case.
 */
import { byteLength, hasLoneBytes, isTextOfBytes } from '../bytes/utf8';
import { upcased } from './upcase';

/** Longest name, in UTF-16 units. */
const NAME_LIMIT = 255;

/** U+FFFF fills up the last piece of a name, U+FFFE is no character either. */
const NO_CHARACTER = /[\ufffe\uffff]/u;
const FORBIDDEN = /[\u0000-\u001f"*/:<>?\\|\u007f]/u;
const HALF = /\p{Cs}/u;

/** What the names of a kind of volume may hold. */
export interface NameRules {
  /** Characters that no name has. */
  readonly forbidden: RegExp;
  /** Blanks and points at the ends, and codes that stand for no character, are names like others. */
  readonly takesAllElse: boolean;
  /** A name is so many bytes at most, whatever they stand for, and names that differ by case are two. */
  readonly bytes?: number;
}

export const FAT_NAMES: NameRules = { forbidden: FORBIDDEN, takesAllElse: false };

/** Why a name of bytes cannot be stored. */
function byteTrouble(name: string, most: number): string | undefined {
  if (name === '.' || name === '..') return 'stands for a folder itself';
  if (!isTextOfBytes(name)) return 'has half a character';
  const length = byteLength(name);
  return length > most ? `has ${length} bytes, and ${most} are the most` : undefined;
}

/** Why a name cannot be stored; undefined for one that can. */
export function nameTrouble(
  name: string,
  { forbidden, takesAllElse, bytes }: NameRules = FAT_NAMES,
): string | undefined {
  const bad = forbidden.exec(name)?.[0];
  if (bad !== undefined) return bad < ' ' || bad === '\u007f' ? 'has a control character' : `has the character ${bad}`;
  if (bytes !== undefined) return byteTrouble(name, bytes);
  if (name.length > NAME_LIMIT) return `is longer than ${NAME_LIMIT} characters`;
  if (hasLoneBytes(name)) return 'has bytes that are no UTF-8';
  if (HALF.test(name)) return 'has half a character';
  if (takesAllElse) return name === '.' || name === '..' ? 'stands for a folder itself' : undefined;
  if (/[. ]$/.test(name)) return `ends with a ${name.endsWith('.') ? 'point' : 'space'}, which readers drop`;
  if (name.startsWith(' ')) return 'begins with a space, which readers drop';
  return NO_CHARACTER.test(name) ? 'has a code that stands for no character' : undefined;
}

const DEVICE = /^(?:con|prn|aux|nul|com[1-9¹²³]|lpt[1-9¹²³])(?:\.|$)/i;

/** True for a name, with whatever ending, that some systems keep for a device: they cannot open such a file. */
export function isDeviceName(name: string): boolean {
  return DEVICE.test(name);
}

/** A name that can be stored, made of one that cannot. */
export function storableName(name: string): string {
  const mended = [...name]
    .map((c) => (FORBIDDEN.test(c) || HALF.test(c) || NO_CHARACTER.test(c) ? '_' : c))
    .join('')
    .replace(/^ +/, '')
    .slice(0, NAME_LIMIT)
    // A character that was cut in half goes whole, and what readers drop at the end goes too.
    .replace(/[\ud800-\udbff]$/, '')
    .replace(/[. ]+$/, '');
  return mended === '' ? '_' : mended;
}

/** Equal for two names that are one to readers that do not mind case. */
export function nameKey(name: string): string {
  let key = '';
  for (let i = 0; i < name.length; i++) key += String.fromCharCode(upcased(name.charCodeAt(i)));
  return key;
}

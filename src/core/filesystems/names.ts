/**
 * Names in FAT and exFAT volumes: what a long name may hold ("FAT Long Directory Entries" of the
 * published FAT32 specification; "FileName Field" of the exFAT specification), and which names
 * are one name to a reader that does not mind case.
 */
import { upcased } from './upcase';

/** Longest name, in UTF-16 units. */
const NAME_LIMIT = 255;

/** U+FFFF fills up the last piece of a name, U+FFFE is no character either. */
const NO_CHARACTER = /[\ufffe\uffff]/u;
const FORBIDDEN = /[\u0000-\u001f"*/:<>?\\|\u007f]/u;
const HALF = /\p{Cs}/u;

/** Why a name cannot be stored; undefined for one that can. */
export function nameTrouble(name: string): string | undefined {
  const bad = FORBIDDEN.exec(name)?.[0];
  if (bad !== undefined) return bad < ' ' || bad === '\u007f' ? 'has a control character' : `has the character ${bad}`;
  if (name.length > NAME_LIMIT) return `is longer than ${NAME_LIMIT} characters`;
  if (/[. ]$/.test(name)) return `ends with a ${name.endsWith('.') ? 'point' : 'space'}, which readers drop`;
  if (name.startsWith(' ')) return 'begins with a space, which readers drop';
  if (NO_CHARACTER.test(name)) return 'has a code that stands for no character';
  return HALF.test(name) ? 'has half a character' : undefined;
}

/** A name that can be stored, made of one that cannot. */
export function storableName(name: string): string {
  const mended = [...name]
    .map((c) => (FORBIDDEN.test(c) || HALF.test(c) || NO_CHARACTER.test(c) ? '_' : c))
    .join('')
    .replace(/^ +/, '')
    .replace(/[. ]+$/, '')
    .slice(0, NAME_LIMIT);
  return mended === '' ? '_' : mended;
}

/** Equal for two names that are one to readers that do not mind case. */
export function nameKey(name: string): string {
  let key = '';
  for (let i = 0; i < name.length; i++) key += String.fromCharCode(upcased(name.charCodeAt(i)));
  return key;
}

/** Owners and modes as they are shown and typed. */
import { visible } from '@/core/bytes/record';
import { MODE_LIMIT, OWNER_LIMIT } from '@/core/filesystems/tree';

/** A mode in its four octal digits. */
export function octal(mode: number): string {
  return mode.toString(8).padStart(4, '0');
}

/** A name with bytes that are no characters made visible. */
export function shownName(name: string): string {
  return visible(name);
}

/** The mode of a text in octal digits; undefined for what is none. */
export function modeTyped(text: string): number | undefined {
  const trimmed = text.trim();
  const mode = /^[0-7]{1,4}$/.test(trimmed) ? parseInt(trimmed, 8) : undefined;
  return mode !== undefined && mode <= MODE_LIMIT ? mode : undefined;
}

/** Owner and group of a text `USER:GROUP`, or of one number for both; undefined for what is none. */
export function ownersTyped(text: string): { readonly user: number; readonly group: number } | undefined {
  const found = /^(\d{1,10})(?::(\d{1,10}))?$/.exec(text.trim());
  if (!found) return undefined;
  const user = Number(found[1]);
  const group = found[2] === undefined ? user : Number(found[2]);
  return user <= OWNER_LIMIT && group <= OWNER_LIMIT ? { user, group } : undefined;
}

const RIGHTS = ['---', '--x', '-w-', '-wx', 'r--', 'r-x', 'rw-', 'rwx'] as const;

/** What a mode says, in words. */
export function modeWords(mode: number): string {
  const who = ['owner', 'group', 'others'].map((name, i) => `${name} ${RIGHTS[(mode >> (6 - 3 * i)) & 7]!}`);
  const special = [
    [0o4000, 'setuid'],
    [0o2000, 'setgid'],
    [0o1000, 'sticky'],
  ] as const;
  return [...who, ...special.flatMap(([bit, name]) => ((mode & bit) !== 0 ? [name] : []))].join(', ');
}

/**
 * Short names: the 8.3 aliases that every FAT directory entry has ("Short Directory Entries",
 * "Generating 8.3 Names from Long Names" in the published FAT32 specification).
 *
 * A name that is 8.3 as it stands, in one case for each half, is stored in the short entry
 * alone, with the two bits that say "this half in lower case". Every other name gets a long one
 * beside an alias. Aliases hold only characters of ASCII: those read alike in every code page.
 */

/** Bits of the case byte: base and extension in lower case. */
const LOWER_BASE = 0x08;
const LOWER_EXTENSION = 0x10;
/** Most that a tail `~n` may count to: six digits. */
const MOST_TAIL = 999_999;

/** How one name of a directory is stored. */
export interface ShortName {
  /** Eleven bytes, padded with spaces. */
  readonly bytes: Uint8Array;
  readonly caseBits: number;
  /** The name as typed is not what the short entry tells: a long one stands beside it. */
  readonly isAlias: boolean;
}

const ASCII = /^[\u0020-\u007e]*$/;
const NOT_ASCII = /[^\u0020-\u007e]/gu;
const FITTING = /^[A-Z0-9!#$%&'()@^_`{}~-]+$/;
const NOT_FITTING = /[^A-Z0-9!#$%&'()@^_`{}~-]/g;

/** Base and extension of a name, at its last point; a leading point separates nothing. */
function halves(name: string): [base: string, extension: string] {
  const point = name.lastIndexOf('.');
  return point > 0 ? [name.slice(0, point), name.slice(point + 1)] : [name, ''];
}

function bytesOf(base: string, extension: string): Uint8Array {
  return Uint8Array.from(base.padEnd(8) + extension.padEnd(3), (c) => c.charCodeAt(0));
}

function textOf(base: string, extension: string): string {
  return extension === '' ? base : `${base}.${extension}`;
}

/** A name that is 8.3 but for its case; undefined for any other. */
function asShort(name: string): { base: string; extension: string; caseBits: number | undefined } | undefined {
  if (!ASCII.test(name)) return undefined;
  const [base, extension] = halves(name);
  const [upperBase, upperExtension] = [base.toUpperCase(), extension.toUpperCase()];
  const fits = base.length <= 8 && extension.length <= 3 && !(name.includes('.') && extension === '');
  if (!fits || !FITTING.test(upperBase) || (extension !== '' && !FITTING.test(upperExtension))) return undefined;
  const bitOf = (half: string, upper: string, bit: number) =>
    half === upper ? 0 : half === half.toLowerCase() ? bit : undefined;
  const [first, second] = [bitOf(base, upperBase, LOWER_BASE), bitOf(extension, upperExtension, LOWER_EXTENSION)];
  const caseBits = first === undefined || second === undefined ? undefined : first | second;
  return { base: upperBase, extension: upperExtension, caseBits };
}

/** The beginning of an alias: what is left of a long name in upper case, and whether anything was lost. */
function basisOf(name: string): [base: string, extension: string] {
  const [base, extension] = halves(name.replace(/^\.+/, '').replaceAll(' ', ''));
  const clean = (text: string) =>
    text.replaceAll('.', '').replace(NOT_ASCII, '_').toUpperCase().replace(NOT_FITTING, '_');
  return [clean(base) || '_', clean(extension).slice(0, 3)];
}

/**
 * The short names of all entries of one directory, in their order. Names that are short as they
 * stand keep theirs; every other one gets an alias that no other entry has. The names must be
 * storable, and differ in more than case.
 */
export function shortNames(names: readonly string[]): ShortName[] {
  const taken = new Set<string>();
  const plain = names.map((name) => {
    const short = asShort(name);
    if (!short) return undefined;
    taken.add(textOf(short.base, short.extension));
    const { base, extension, caseBits } = short;
    return { bytes: bytesOf(base, extension), caseBits: caseBits ?? 0, isAlias: caseBits === undefined };
  });
  // Where to go on counting, for each beginning: a directory of many alike names stays quick.
  const next = new Map<string, number>();
  const alias = (name: string): ShortName => {
    const [base, extension] = basisOf(name);
    for (let digits = 1; ; digits++) {
      const stem = base.slice(0, 7 - digits);
      const key = `${stem}.${extension}.${digits}`;
      const end = Math.min(10 ** digits, MOST_TAIL + 1);
      for (let tail = next.get(key) ?? 10 ** (digits - 1); tail < end; tail++) {
        const text = `${stem}~${tail}`;
        if (taken.has(textOf(text, extension))) continue;
        taken.add(textOf(text, extension));
        next.set(key, tail + 1);
        return { bytes: bytesOf(text, extension), caseBits: 0, isAlias: true };
      }
      next.set(key, end);
    }
  };
  return names.map((name, i) => plain[i] ?? alias(name));
}

/** Directory entries that a name takes: one, and one more for every 13 characters of a long name. */
export function entriesFor(name: string): number {
  return asShort(name)?.caseBits === undefined ? 1 + Math.ceil(name.length / 13) : 1;
}

/** The checksum of a short name that every piece of its long name carries. */
export function shortChecksum(bytes: Uint8Array): number {
  return bytes.reduce((sum, byte) => (((sum & 1) << 7) + (sum >> 1) + byte) & 0xff, 0);
}

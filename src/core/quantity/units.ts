/**
 * Units of size and how sizes are shown. Decimal units follow the SI prefixes, binary ones
 * IEC 80000-13; a size is never shown without its unit.
 */

/** Bytes in one of each unit that code counts in. */
export const KIB = 1024;
export const MIB = 1024 * KIB;
export const GIB = 1024 * MIB;
export const GB = 1_000_000_000;

/** A named multiple of one byte. */
export interface Unit {
  readonly name: string;
  readonly bytes: number;
  readonly family: 'byte' | 'decimal' | 'binary';
}

const decimal = (name: string, power: number): Unit => ({ name, bytes: 1000 ** power, family: 'decimal' });
const binary = (name: string, power: number): Unit => ({ name, bytes: 1024 ** power, family: 'binary' });

/** Every unit of bytes, the smallest first in each family. */
export const UNITS: readonly Unit[] = [
  { name: 'B', bytes: 1, family: 'byte' },
  decimal('kB', 1),
  decimal('MB', 2),
  decimal('GB', 3),
  decimal('TB', 4),
  decimal('PB', 5),
  binary('KiB', 1),
  binary('MiB', 2),
  binary('GiB', 3),
  binary('TiB', 4),
  binary('PiB', 5),
];

/** `524288` as `524,288`. */
export function grouped(n: number | bigint): string {
  return String(n).replace(/\B(?=(\d{3})+(?!\d))/g, ',');
}

/** Stands ahead of a figure that is not exact. */
const ABOUT = '≈';

interface Figure {
  readonly text: string;
  /** The text means these bytes and no others. */
  readonly exact: boolean;
}

/**
 * A size in one family: exact where three decimals can say it, else four significant digits with
 * their decimals, rounded down, so that nothing is shown larger than it is.
 */
function inFamily(bytes: number, family: 'decimal' | 'binary'): Figure {
  const fitting = UNITS.filter((unit) => unit.family === family && unit.bytes <= bytes);
  const unit = fitting[fitting.length - 1];
  if (!unit) return { text: `${grouped(bytes)} B`, exact: true };
  const { bytes: each, name } = unit;
  const whole = Math.floor(bytes / each);
  const over = BigInt(bytes % each) * 1000n;
  const thousandths = Number(over / BigInt(each));
  if (over % BigInt(each) === 0n)
    return { text: `${whole}${decimals(thousandths).replace(/\.?0+$/, '')} ${name}`, exact: true };
  const digits = Math.max(1, 4 - String(whole).length);
  return { text: `${whole}${decimals(thousandths).slice(0, 1 + digits)} ${name}`, exact: false };
}

/** Thousandths as they stand behind a whole number, with the point. */
function decimals(thousandths: number): string {
  return `.${String(thousandths).padStart(3, '0')}`;
}

const marked = ({ text, exact }: Figure): string => (exact ? text : `${ABOUT} ${text}`);

/** A size of whole bytes in binary units: `256 MiB`, `≈ 1.597 GiB`; below 1 KiB in bytes. */
export function inBinary(bytes: number): string {
  return marked(inFamily(bytes, 'binary'));
}

/** A size of whole bytes in decimal units: `≈ 268.4 MB`; below 1 kB in bytes. */
export function inDecimal(bytes: number): string {
  return marked(inFamily(bytes, 'decimal'));
}

/** Both families: `256 MiB ≈ 268.4 MB`, `1 KiB = 1.024 kB`; once where both say the same. `first` is the family that leads. */
export function inBoth(bytes: number, first: 'binary' | 'decimal' = 'binary'): string {
  const leading = inFamily(bytes, first);
  const other = inFamily(bytes, first === 'binary' ? 'decimal' : 'binary');
  if (leading.text === other.text) return marked(leading);
  return `${marked(leading)} ${other.exact ? '=' : ABOUT} ${other.text}`;
}

/**
 * The shortest text in the size language that means exactly this many bytes: the largest
 * unit that divides it, else whole sectors of `sectorSize`, else bytes.
 */
export function exactText(bytes: number, sectorSize: number): string {
  const exact = UNITS.filter((unit) => unit.family === 'binary' && bytes >= unit.bytes && bytes % unit.bytes === 0);
  const unit = exact[exact.length - 1];
  if (unit && unit.bytes >= MIB) return `${bytes / unit.bytes} ${unit.name}`;
  if (bytes % 1000 ** 3 === 0 && bytes > 0) return `${bytes / 1000 ** 3} GB`;
  if (unit && bytes < MIB) return `${bytes / unit.bytes} ${unit.name}`;
  if (bytes % sectorSize === 0) return `${bytes / sectorSize} ${bytes === sectorSize ? 'sector' : 'sectors'}`;
  return `${bytes} B`;
}

/** A count of sectors with its unit: `1 sector`, `2,048 sectors`. */
export function sectorCount(n: number): string {
  return `${grouped(n)} ${n === 1 ? 'sector' : 'sectors'}`;
}

/** The name of a file system with the article that it is spoken with: `a FAT16`, `an ext4`, `an NTFS`. */
export function withArticle(name: string): string {
  return /^(?:[aeio]|NTFS|XFS|LVM|EROFS|ISO|HFS|APFS|F2FS)/.test(name) ? `an ${name}` : `a ${name}`;
}

/** A count of things with their name: `1 partition`, `3 partitions`, `2 entries`. */
export function counted(n: number, what: string, many = `${what}s`): string {
  return `${grouped(n)} ${n === 1 ? what : many}`;
}

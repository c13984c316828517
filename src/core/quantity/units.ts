/**
 * Units of size and how sizes are shown. Decimal units follow the SI prefixes, binary ones
 * IEC 80000-13; a size is never shown without its unit.
 */

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

/** Four significant digits, but never a fraction shown as whole and no padding zeros behind the point. */
function significant(n: number): string {
  const digits = Math.max(0, 3 - Math.floor(Math.log10(n)));
  return n
    .toFixed(Math.min(digits, 3))
    .replace(/(\.\d*?)0+$/, '$1')
    .replace(/\.$/, '');
}

function inFamily(bytes: number, family: 'decimal' | 'binary'): string {
  const fitting = UNITS.filter((unit) => unit.family === family && unit.bytes <= bytes);
  const unit = fitting[fitting.length - 1];
  if (!unit) return `${grouped(bytes)} B`;
  return `${significant(bytes / unit.bytes)} ${unit.name}`;
}

/** A size of whole bytes in binary units: `256 MiB`, `1.597 GiB`; below 1 KiB in bytes. */
export function inBinary(bytes: number): string {
  return inFamily(bytes, 'binary');
}

/** A size of whole bytes in decimal units: `268.4 MB`; below 1 kB in bytes. */
export function inDecimal(bytes: number): string {
  return inFamily(bytes, 'decimal');
}

/** Both families: `256 MiB = 268.4 MB`; once where both say the same. */
export function inBoth(bytes: number): string {
  const [first, second] = [inBinary(bytes), inDecimal(bytes)];
  return first === second ? first : `${first} = ${second}`;
}

/**
 * The shortest text in the size language that means exactly this many bytes: the largest
 * unit that divides it, else whole sectors of `sectorSize`, else bytes.
 */
export function exactText(bytes: number, sectorSize: number): string {
  const exact = UNITS.filter((unit) => unit.family === 'binary' && bytes >= unit.bytes && bytes % unit.bytes === 0);
  const unit = exact[exact.length - 1];
  if (unit && unit.bytes >= 1024 ** 2) return `${bytes / unit.bytes} ${unit.name}`;
  if (bytes % 1000 ** 3 === 0 && bytes > 0) return `${bytes / 1000 ** 3} GB`;
  if (unit && bytes < 1024 ** 2) return `${bytes / unit.bytes} ${unit.name}`;
  if (bytes % sectorSize === 0) return `${bytes / sectorSize} ${bytes === sectorSize ? 'sector' : 'sectors'}`;
  return `${bytes} B`;
}

/** A count of sectors with its unit: `1 sector`, `2,048 sectors`. */
export function sectorCount(n: number): string {
  return `${grouped(n)} ${n === 1 ? 'sector' : 'sectors'}`;
}

/** A count of things with their name: `1 partition`, `3 partitions`. */
export function counted(n: number, what: string): string {
  return `${grouped(n)} ${what}${n === 1 ? '' : 's'}`;
}

/** Text that a terminal can be given, and columns of it. */
import width from 'string-width';
import { visible } from '@/core/bytes/record';

/** A text whose lines hold nothing that a terminal would obey: names may have anything in them. */
export function printable(text: string): string {
  return text.split('\n').map(visible).join('\n');
}

/** JSON in which nothing is left that a terminal would obey. */
export function jsonText(value: unknown, indent?: number): string {
  const escaped = (c: string) => `\\u${c.charCodeAt(0).toString(16).padStart(4, '0')}`;
  return `${JSON.stringify(value, null, indent).replace(/[\u007f-\u009f\u2028-\u202e\u2066-\u2069]/g, escaped)}\n`;
}

/** Blanks that a cell lacks. */
const filling = (cell: string, wide: number): string => ' '.repeat(wide - width(cell));

/** Rows in columns; the columns of `figures` stand to the right. */
export function columns(
  head: readonly string[],
  rows: readonly (readonly string[])[],
  figures: readonly number[],
): string {
  const all = [head, ...rows];
  const widths = head.map((_, i) => Math.max(...all.map((row) => width(row[i]!))));
  const line = (row: readonly string[]) =>
    row
      .map((cell, i) => (figures.includes(i) ? filling(cell, widths[i]!) + cell : cell + filling(cell, widths[i]!)))
      .join('  ')
      .trimEnd();
  return `${all.map(line).join('\n')}\n`;
}

/** A word of a command line. */
export const word = (text: string): string => (/^[\w./@+-]+$/.test(text) ? text : `'${text.replaceAll("'", "'\\''")}'`);

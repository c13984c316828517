/** A placement as lines of text and as CSV (RFC 4180), to be copied into letters, notes and sums of one's own. */
import { grouped, inBoth } from '../quantity/units';
import { type Placed, type Placement, lastSector } from './placement';

interface Line {
  readonly number: string;
  readonly name: string;
  readonly kind: string;
  readonly start: number;
  readonly last: number;
  readonly sectors: number;
  readonly bytes: number;
}

function kindOf({ slot, entry, recordAt }: Placed): string {
  if (slot.kind !== 'partition') return slot.kind === 'raw' ? 'raw range' : 'free on purpose';
  return recordAt === undefined ? `type ${entry?.type ?? 'none'}` : `logical, type ${entry?.type ?? 'none'}`;
}

function linesOf({ placed, containers, sectorSize }: Placement): Line[] {
  const slots = placed.map((one) => ({
    number: one.entry ? String(one.entry.number) : '',
    name: one.slot.name,
    kind: kindOf(one),
    start: one.start,
    last: lastSector(one),
    sectors: one.sectors,
    bytes: one.span.end - one.span.start,
  }));
  const boxes = containers.map(({ number, type, start, sectors }) => ({
    number: String(number),
    name: 'Container of logical partitions',
    kind: `type ${type}`,
    start,
    last: start + sectors - 1,
    sectors,
    bytes: sectors * sectorSize,
  }));
  return [...slots, ...boxes].sort((a, b) => a.start - b.start || b.sectors - a.sectors);
}

const HEAD = ['number', 'name', 'kind', 'first sector', 'last sector', 'sectors', 'bytes'] as const;

/** Quoted where the comma, the quote or a line end would be misread; a leading sign cannot become a formula. */
function cell(text: string): string {
  const safe = /^[=+\-@\t]/.test(text) ? `'${text}` : text;
  return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}

/** The placement as CSV with a line of headings; lines end with CR LF. Numbers are not grouped. */
export function placementCsv(placement: Placement): string {
  const rows = linesOf(placement).map((line) =>
    [line.number, line.name, line.kind, line.start, line.last, line.sectors, line.bytes].map((one) =>
      typeof one === 'number' ? String(one) : cell(one),
    ),
  );
  return [HEAD.map(String), ...rows].map((row) => `${row.join(',')}\r\n`).join('');
}

/** The placement as a table in plain text, columns aligned. */
export function placementTable(placement: Placement): string {
  const { layout, sectorSize, sectors } = placement;
  const head = ['', 'name', 'kind', 'first', 'last', 'sectors', 'size'];
  const rows = linesOf(placement).map((line) => [
    line.number,
    line.name,
    line.kind,
    grouped(line.start),
    grouped(line.last),
    grouped(line.sectors),
    inBoth(line.bytes),
  ]);
  const widths = head.map((title, i) => Math.max(title.length, ...rows.map((row) => row[i]!.length)));
  const isNumber = (i: number) => i === 0 || (i >= 3 && i <= 5);
  const line = (row: readonly string[]) =>
    row
      .map((text, i) => (isNumber(i) ? text.padStart(widths[i]!) : text.padEnd(widths[i]!)))
      .join('  ')
      .trimEnd();
  const title = `${layout.name}: ${grouped(sectors)} sectors of ${sectorSize} bytes, last sector ${grouped(sectors - 1)}`;
  return [title, '', line(head), ...rows.map(line), ''].join('\n');
}

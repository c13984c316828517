/** From unknown bytes to a layout: shape first, then what only the whole document can tell. */
import type { z } from 'zod';
import { exfatClusterSizes } from '../filesystems/exfat/geometry';
import { clusterSizes } from '../filesystems/fat/variants';
import { fail, ok, type Result } from '../quantity/result';
import { amountInBytes, parseExact } from '../quantity/size-language';
import { CYLINDERS, SLOT_LIMIT } from './vocabulary';
import { LAYOUT_VERSION, type Layout, layoutShape, type Slot } from './document';

/** One thing that is wrong with a document; `path` as in `slots[2].size`, empty for the whole. */
export interface DocumentError {
  readonly path: string;
  readonly message: string;
}

/** At most this many errors are told. */
const ERROR_LIMIT = 20;

/** Longest document text, in characters. */
export const DOCUMENT_LIMIT = 1024 * 1024;

function pathText(path: readonly PropertyKey[]): string {
  return path.map((key, i) => (typeof key === 'number' ? `[${key}]` : `${i ? '.' : ''}${String(key)}`)).join('');
}

/** What the field `kind` may say, by the part of the document that it stands in. */
const KINDS: Readonly<Record<string, string>> = {
  table: '"mbr", "gpt" or "none"',
  slots: '"partition", "raw" or "free"',
};

/** Says an issue of the shape in our words; unions are told by their most specific branch. */
function tell(issue: z.core.$ZodIssue, base: readonly PropertyKey[] = []): DocumentError[] {
  const path = [...base, ...issue.path];
  const at = pathText(path);
  switch (issue.code) {
    case 'unrecognized_keys':
      return issue.keys.map((key) => ({ path: pathText([...path, key]), message: 'is not a field of this document' }));
    case 'invalid_type':
      return [{ path: at, message: issue.input === undefined ? 'is missing' : `must be ${an(issue.expected)}` }];
    case 'invalid_value':
      return [{ path: at, message: `must be ${issue.values.map((v) => JSON.stringify(v)).join(' or ')}` }];
    case 'too_big':
      return [{ path: at, message: `is too large or too long: at most ${String(issue.maximum)}` }];
    case 'too_small':
      return [{ path: at, message: `is too small or too short: at least ${String(issue.minimum)}` }];
    case 'invalid_union': {
      if (issue.errors.length === 0) return [{ path: at, message: `must be ${KINDS[String(path[0])] ?? 'another'}` }];
      const closest = [...issue.errors].sort((a, b) => a.length - b.length)[0]!;
      return closest.flatMap((inner) => tell(inner, path));
    }
    default:
      return [{ path: at, message: issue.message.replace(/^Invalid input$/, 'is not valid') }];
  }
}

function an(type: string): string {
  return /^[aeiou]/.test(type) ? `an ${type}` : `a ${type}`;
}

/** True for a day that the calendar has. */
function isRealDay(date: string): boolean {
  const [year, month, day] = date.slice(0, 10).split('-').map(Number) as [number, number, number];
  return new Date(Date.UTC(year, month - 1, day)).getUTCDate() === day;
}

function bytesOf(text: string, sectorSize: number): number {
  const amount = parseExact(text);
  return amount.ok ? amountInBytes(amount.value, sectorSize) : 0;
}

/** What only the content of a slot as a whole can tell. */
function contentErrors(slot: Slot, i: number, sectorSize: number): DocumentError[] {
  if (slot.kind !== 'partition' || !slot.content) return [];
  const path = `slots[${i}].content`;
  if (slot.fileSystem) return [{ path, message: 'cannot stand beside a file system' }];
  if (slot.content.kind !== 'exfat' || !slot.content.cluster) return [];
  return exfatClusterSizes(512).includes(bytesOf(slot.content.cluster, sectorSize))
    ? []
    : [{ path: `${path}.cluster`, message: 'must be a power of two from 512 B to 32 MiB' }];
}

/** Rules that go across fields. */
function wholeDocument(layout: Layout): DocumentError[] {
  const errors: DocumentError[] = [];
  const seen = new Map<string, number>();
  layout.slots.forEach((slot, i) => {
    const first = seen.get(slot.id);
    if (first === undefined) seen.set(slot.id, i);
    else errors.push({ path: `slots[${i}].id`, message: `"${slot.id}" is already the id of slots[${first}]` });
    if (slot.kind === 'partition' && slot.fileSystem?.cluster) {
      const bytes = bytesOf(slot.fileSystem.cluster, layout.medium.logicalSector);
      if (!clusterSizes(512).includes(bytes))
        errors.push({ path: `slots[${i}].fileSystem.cluster`, message: 'must be a power of two from 512 B to 64 KiB' });
    }
    errors.push(...contentErrors(slot, i, layout.medium.logicalSector));
  });
  if (new Set(layout.boots).size !== layout.boots.length)
    errors.push({ path: 'boots', message: 'names the same thing twice' });
  if (layout.medium.physicalSector < layout.medium.logicalSector)
    errors.push({ path: 'medium.physicalSector', message: 'is smaller than the logical sector' });
  if (!isRealDay(layout.date)) errors.push({ path: 'date', message: 'is a day that the calendar does not have' });
  if (layout.table.kind === 'gpt')
    layout.table.hybrid?.forEach((id, i, all) => {
      const isPartition = layout.slots.some((slot) => slot.id === id && slot.kind === 'partition');
      if (!isPartition || all.indexOf(id) !== i)
        errors.push({ path: `table.hybrid[${i}]`, message: `"${id}" must be the id of a partition, once` });
    });
  const grains = layout.slots.map(
    (slot, i) => [`slots[${i}].grain`, slot.kind === 'raw' ? undefined : slot.grain] as const,
  );
  for (const [path, text] of [
    ['grain', layout.grain === CYLINDERS ? undefined : layout.grain],
    ['medium.writeUnit', layout.medium.writeUnit],
    ...grains,
  ] as const) {
    const bytes = text === undefined ? 0 : bytesOf(text, layout.medium.logicalSector);
    if (bytes % layout.medium.logicalSector !== 0 || bytes > 2 ** 30)
      errors.push({ path, message: 'must be a multiple of the logical sector, 1 GiB at most' });
  }
  return errors;
}

/**
 * Checks a parsed JSON value. The layout that comes back is a new object with its keys in the
 * document's order and nothing that the document does not know.
 */
export function validateLayout(value: unknown): Result<Layout, DocumentError[]> {
  if (typeof value === 'object' && value !== null) {
    const { version, format, slots } = value as Record<string, unknown>;
    if (format === 'loess-layout' && typeof version === 'number' && version > LAYOUT_VERSION)
      return fail([
        { path: 'version', message: `is ${version}; this program reads documents up to version ${LAYOUT_VERSION}` },
      ]);
    if (Array.isArray(slots) && slots.length > SLOT_LIMIT)
      return fail([{ path: 'slots', message: `are ${slots.length}; a layout has at most ${SLOT_LIMIT}` }]);
  }
  const parsed = layoutShape.safeParse(value, { reportInput: true });
  if (!parsed.success) return fail(parsed.error.issues.flatMap((issue) => tell(issue)).slice(0, ERROR_LIMIT));
  const errors = wholeDocument(parsed.data);
  return errors.length > 0 ? fail(errors.slice(0, ERROR_LIMIT)) : ok(parsed.data);
}

/** Reads the text of a document. */
export function readLayout(text: string): Result<Layout, DocumentError[]> {
  if (text.length > DOCUMENT_LIMIT) return fail([{ path: '', message: `is longer than ${DOCUMENT_LIMIT} characters` }]);
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    return fail([{ path: '', message: `is not JSON: ${(error as Error).message}` }]);
  }
  return validateLayout(value);
}

/** The text of a document: keys in the document's order, two spaces, a line end at the end. */
export function writeLayout(layout: Layout): string {
  return `${JSON.stringify(layoutShape.parse(layout), null, 2)}\n`;
}

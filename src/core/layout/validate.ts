/** From unknown bytes to a layout: shape first, then what only the whole document can tell. */
import { MIB, GIB } from '../quantity/units';
import { distance } from 'fastest-levenshtein';
import * as z from 'zod';
import { kindOf, KINDS } from '../filesystems/kinds';
import { fail, ok, type Result } from '../quantity/result';
import { amountInBytes, parseExact } from '../quantity/size-language';
import { CYLINDERS, SLOT_LIMIT, LAYOUT_VERSION, TABLES } from './vocabulary';
import { type Layout, layoutShape, type Slot } from './document';
import { notSummed, unnamed } from './beside';
import { settled } from './edits';
import { canRepack } from './kept';
import { upgraded, writtenPath } from './upgrade';

/** One thing that is wrong with a document; `path` as in `slots[2].size`, empty for the whole. */
export interface DocumentError {
  readonly path: string;
  readonly message: string;
}

/** At most this many errors are told. */
const ERROR_LIMIT = 20;

/** Longest document text, in characters. */
export const DOCUMENT_LIMIT = MIB;

/** A path as errors write it. */
export function pathText(path: readonly PropertyKey[]): string {
  return path.map((key, i) => (typeof key === 'number' ? `[${key}]` : `${i ? '.' : ''}${String(key)}`)).join('');
}

/** What the field `kind` may say, by the part of the document that it stands in. */
const KINDS_OF: Readonly<Record<string, readonly string[]>> = {
  table: TABLES,
  slots: ['partition', 'raw', 'free'],
  content: Object.keys(KINDS),
};

/** The value of a field `kind`, of the object that has it. */
const wrongKind = (input: unknown): unknown => (input as { kind?: unknown } | undefined)?.kind;

/** The values of a union of nothing but values. */
function literalsOf(branches: readonly (readonly z.core.$ZodIssue[])[]): unknown[] | undefined {
  const values = branches.map(([issue, ...more]) =>
    more.length === 0 && issue?.code === 'invalid_value' && issue.path.length === 0 ? issue.values : undefined,
  );
  return values.every((one) => one !== undefined) ? values.flat() : undefined;
}

/** All that a field may say, and which of it was probably meant. */
function oneOf(values: readonly unknown[], input: unknown): string {
  if (input === undefined) return `is missing; it is ${listed(values)}`;
  const words = values.filter((one) => typeof one === 'string');
  // A number in quotes was meant as the number.
  const meant = values.find((one) => typeof one === 'number' && String(one) === input);
  const hint = meant === undefined ? nearestText(input, words) : `; ${String(meant)} without quotes is meant`;
  return `must be ${listed(values)}${hint}`;
}

function listed(values: readonly unknown[]): string {
  const texts = values.map((one) => JSON.stringify(one));
  return texts.length < 2 ? texts.join('') : `${texts.slice(0, -1).join(', ')} or ${texts.at(-1)}`;
}

/** The word that somebody who wrote `input` probably meant. */
function nearestText(input: unknown, words: readonly string[]): string {
  if (typeof input !== 'string' || input.length > 64) return '';
  const lower = input.toLowerCase();
  const near = words
    .map((word) => ({ word, far: distance(lower, word.toLowerCase()) }))
    .sort((a, b) => a.far - b.far)[0];
  return near && near.far <= Math.max(1, Math.floor(input.length / 3)) ? `; “${near.word}” is near` : '';
}

let names: readonly string[] | undefined;

/** Every name of a field of a document. */
function fieldNames(): readonly string[] {
  const found = new Set<string>();
  const collect = (part: unknown): void => {
    if (typeof part !== 'object' || part === null) return;
    const { properties } = part as { properties?: object };
    for (const name of Object.keys(properties ?? {})) found.add(name);
    for (const inner of Object.values(part)) collect(inner);
  };
  if (!names) collect(z.toJSONSchema(layoutShape));
  return (names ??= [...found]);
}

/** The part of the document that a path leads into, by its last name that is no index, `kind` aside. */
function partOf(path: readonly PropertyKey[]): string {
  return String(path.filter((key) => typeof key !== 'number' && key !== 'kind').at(-1));
}

/** Says an issue of the shape in our words; unions are told by their most specific branch. */
function documentErrors(issue: z.core.$ZodIssue, base: readonly PropertyKey[] = []): DocumentError[] {
  const path = [...base, ...issue.path];
  const at = pathText(path);
  switch (issue.code) {
    case 'unrecognized_keys':
      return issue.keys.map((key) => ({
        path: pathText([...path, key]),
        message: `is not a field here${nearestText(key, fieldNames())}`,
      }));
    case 'invalid_type':
      return [{ path: at, message: issue.input === undefined ? 'is missing' : `must be ${an(issue.expected)}` }];
    case 'invalid_value':
      return [{ path: at, message: oneOf(issue.values, issue.input) }];
    case 'too_big':
      return [{ path: at, message: `is too large or too long: at most ${String(issue.maximum)}` }];
    case 'too_small':
      return [{ path: at, message: `is too small or too short: at least ${String(issue.minimum)}` }];
    case 'invalid_union': {
      if (issue.errors.length === 0)
        return [{ path: at, message: oneOf(KINDS_OF[partOf(path)] ?? [], wrongKind(issue.input)) }];
      const values = literalsOf(issue.errors);
      if (values) return [{ path: at, message: oneOf(values, issue.input) }];
      // Every way that it may be written, where all of them are short; otherwise the nearest one.
      const closest = [...issue.errors].sort((a, b) => a.length - b.length)[0]!;
      return closest.flatMap((inner) => documentErrors(inner, path));
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
  const content = slot.kind === 'partition' ? slot.content : undefined;
  const clusters = content && kindOf(content).clusters;
  if (!clusters) return [];
  const { sizes, text, field } = clusters;
  const asked = (content as unknown as Readonly<Record<string, string | undefined>>)[field];
  return asked === undefined || sizes.includes(bytesOf(asked, sectorSize))
    ? []
    : [{ path: `slots[${i}].content.${field}`, message: `must be ${text}` }];
}

/** What slots keep, against what was found. */
function keepingErrors({ found, slots }: Layout): DocumentError[] {
  const numbers = new Set(found?.partitions.map(({ number }) => number));
  const seen = new Map<number, number>();
  const errors: DocumentError[] = [];
  found?.partitions.forEach(({ number }, i, all) => {
    if (all.findIndex((one) => one.number === number) !== i)
      errors.push({ path: `found.partitions[${i}].number`, message: `${number} is the number of another partition` });
  });
  slots.forEach((slot, i) => {
    const path = `slots[${i}].keeps`;
    if (slot.kind === 'raw' && slot.keeps && slot.blob)
      errors.push({ path, message: 'says that what lies there stays, and a file is named for it' });
    if (slot.kind !== 'partition') return;
    if (slot.repack !== undefined && !canRepack(slot, found))
      errors.push({ path: `slots[${i}].repack`, message: 'is for an ext that was found and is kept' });
    if (slot.keeps === undefined) return;
    const { keeps } = slot;
    const first = seen.get(keeps);
    if (!numbers.has(keeps)) errors.push({ path, message: `${keeps} is no partition of what was found` });
    else if (first !== undefined) errors.push({ path, message: `${keeps} is kept by slots[${first}] already` });
    else if (slot.at === undefined) errors.push({ path, message: `wants its place: “at” is missing` });
    else if (!parseExact(slot.size).ok) errors.push({ path, message: `wants an exact size, not “${slot.size}”` });
    seen.set(keeps, i);
  });
  return errors;
}

/** Rules that go across fields. */
/** How a document may name what it is filled with. */
export interface Naming {
  /** By a path without a sum: whoever reads it looks at what lies beside the document. */
  readonly byPath: boolean;
}

/** What is named neither by a sum nor, where that is enough, by a path. */
function namingErrors(layout: Layout, { byPath }: Naming): DocumentError[] {
  return [
    ...unnamed(layout).map((path) => ({ path, message: 'is missing, and so is "path"' })),
    ...(byPath ? [] : notSummed(layout)).map(({ at, path }) => ({
      path: at,
      message: `names “${path}” beside the document without its sum; send the document together with that, in one archive, or write the sums in: loess fill-in`,
    })),
  ];
}

function wholeDocument(layout: Layout, naming: Naming): DocumentError[] {
  const errors = namingErrors(layout, naming);
  const seen = new Map<string, number>();
  layout.slots.forEach((slot, i) => {
    const first = seen.get(slot.id);
    if (first === undefined) seen.set(slot.id, i);
    else errors.push({ path: `slots[${i}].id`, message: `"${slot.id}" is already the id of slots[${first}]` });
    errors.push(...contentErrors(slot, i, layout.medium.logicalSector));
  });
  errors.push(...keepingErrors(layout));
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
  layout.entries?.forEach(({ id, root }, i, all) => {
    if (!layout.slots.some((slot) => slot.id === root && slot.kind === 'partition'))
      errors.push({ path: `entries[${i}].root`, message: `"${root}" must be the id of a partition` });
    // Files of FAT have names without case.
    if (all.findIndex((one) => one.id.toLowerCase() === id.toLowerCase()) !== i)
      errors.push({ path: `entries[${i}].id`, message: `"${id}" is already the id of an entry` });
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
    if (bytes % layout.medium.logicalSector !== 0 || bytes > GIB)
      errors.push({ path, message: 'must be a multiple of the logical sector, 1 GiB at most' });
  }
  return errors;
}

/** Errors with the paths that the document itself has, whatever its version. */
function asWritten(errors: readonly DocumentError[], value: unknown): DocumentError[] {
  return errors.slice(0, ERROR_LIMIT).map((error) => ({ ...error, path: writtenPath(error.path, value) }));
}

/**
 * Checks a parsed JSON value of this version or an older one. The layout that comes back is a new object
 * of the newest version, with its keys in the document's order and nothing that the document does not know.
 */
export function validateLayout(value: unknown, naming: Naming = { byPath: false }): Result<Layout, DocumentError[]> {
  if (typeof value === 'object' && value !== null) {
    const { version, format, slots } = value as Record<string, unknown>;
    if (format === 'loess-layout' && typeof version === 'number' && version > LAYOUT_VERSION)
      return fail([
        { path: 'version', message: `is ${version}; this program reads documents up to version ${LAYOUT_VERSION}` },
      ]);
    if (Array.isArray(slots) && slots.length > SLOT_LIMIT)
      return fail([{ path: 'slots', message: `are ${slots.length}; a layout has at most ${SLOT_LIMIT}` }]);
  }
  const parsed = layoutShape.safeParse(upgraded(value), { reportInput: true });
  if (!parsed.success)
    return fail(
      asWritten(
        parsed.error.issues.flatMap((issue) => documentErrors(issue)),
        value,
      ),
    );
  const errors = wholeDocument(parsed.data, naming);
  return errors.length > 0 ? fail(asWritten(errors, value)) : ok(settled(parsed.data));
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

/** `new`: a document from nothing, from a start, or from answers; its ids are made here, and nowhere later. */
import { type BootAnswer, type Fresh, type ReaderAnswer, SECTORS, type UseAnswer } from '@/core/advice/answers';
import { propose } from '@/core/advice/propose';
import { emptyLayout, NOTHING_SAID, STARTS } from '@/core/advice/starts';
import type { Layout, MediumSpec } from '@/core/layout/document';
import { applyEdit } from '@/core/layout/edits';
import { readLines } from '@/core/layout/line-help';
import { writeLine } from '@/core/layout/line-write';
import { addingLines } from '@/core/layout/pasted';
import { validateLayout, writeLayout } from '@/core/layout/validate';
import { type LoaderBringer, SLOT_LIMIT, type TableKind } from '@/core/layout/vocabulary';
import type { BoardFamily } from '@/core/medium/boards';
import type { MediumKind } from '@/core/medium/medium';
import { parseExact } from '@/core/quantity/size-language';
import { exactText } from '@/core/quantity/units';
import { Ended, EXIT, type Exit } from './exit';
import { fresh } from './fresh';
import { documentFrom, type Io, openToSurvey, textOf, writeNew } from './io';
import { printable } from './text';

export interface NewArguments {
  readonly start?: string;
  readonly name?: string;
  readonly boots?: BootAnswer;
  readonly use?: UseAnswer;
  readonly readers?: ReaderAnswer;
  readonly medium?: MediumKind;
  /** An image file or a block device that it is for. */
  readonly for?: string;
  readonly soldAs?: string;
  readonly exactly?: string;
  readonly sectors?: keyof typeof SECTORS;
  readonly table?: TableKind;
  readonly memory?: string;
  readonly board?: BoardFamily;
  readonly loaderFrom?: LoaderBringer;
  readonly lines?: string;
  readonly into?: string;
}

function refuseSize(text: string | undefined, option: string): void {
  const read = text === undefined ? undefined : parseExact(text);
  if (read && !read.ok) throw new Ended(EXIT.usage, 'usage-size', `${option} “${text}”: ${read.error.message}`);
}

/** What is known of a medium that is at hand: its size, and its sectors where it is a device. */
async function mediumAt(place: string): Promise<Partial<MediumSpec>> {
  const { handle, size, sectors } = await openToSurvey(place);
  await handle.close();
  if (size === 0) throw new Ended(EXIT.file, 'medium-empty', `“${place}” has no bytes.`);
  const capacity = { exact: exactText(size, sectors?.logicalSector ?? 512) };
  return sectors ? { capacity, ...sectors } : { kind: 'image', capacity };
}

/** The medium of the answers that were there, with what was said of it. */
async function mediumFrom(before: MediumSpec, options: NewArguments): Promise<MediumSpec> {
  const { medium, soldAs, exactly, sectors } = options;
  if (options.for !== undefined && (soldAs ?? exactly) !== undefined)
    throw new Ended(
      EXIT.usage,
      'usage-size',
      'The size is that of the medium --for which it is, or it is said; not both.',
    );
  const found = options.for === undefined ? {} : await mediumAt(options.for);
  if (soldAs !== undefined && exactly !== undefined)
    throw new Ended(EXIT.usage, 'usage-size', 'A medium is --sold-as a size, or --exactly as large; not both.');
  refuseSize(soldAs, '--sold-as');
  refuseSize(exactly, '--exactly');
  return {
    ...before,
    ...found,
    ...(medium && { kind: medium }),
    ...(soldAs !== undefined && { capacity: { nominal: soldAs } }),
    ...(exactly !== undefined && { capacity: { exact: exactly } }),
    ...(sectors && SECTORS[sectors]),
  };
}

/** The layout that was asked for, and why it is as it is, a sentence each. */
async function made(options: NewArguments, now: Fresh): Promise<{ layout: Layout; reasons: string[] }> {
  const { start, name, boots, use, readers, table, memory, board, loaderFrom } = options;
  refuseSize(memory, '--memory');
  const said = { boots, use, readers, table, memory, board, loaderFrom };
  const answers = Object.fromEntries(Object.entries(said).filter(([, value]) => value !== undefined));
  if (start === undefined && Object.keys(answers).length === 0) {
    const empty = emptyLayout(now);
    return { layout: emptyLayout(now, await mediumFrom(empty.medium, options), name), reasons: [] };
  }
  const from = STARTS.find(({ key }) => key === start)?.answers ?? NOTHING_SAID;
  const given = { ...from, ...answers, medium: await mediumFrom(from.medium, options) };
  const { layout, lines, leftOut } = propose(given, now, name);
  const nameOf = (id: string) => layout.slots.find((slot) => slot.id === id)?.name ?? id;
  const reasons = [
    ...lines.map(({ about, reason }) => `${about.kind === 'table' ? 'Table' : nameOf(about.id)}: ${reason}`),
    ...leftOut.map(({ why }) => `Left out: ${why}`),
  ];
  return { layout, reasons };
}

/** A layout with the slots of a text of slot lines behind its own. */
async function withLines(io: Io, layout: Layout, name: string): Promise<Layout> {
  const lines = readLines(await textOf(io, name), layout.table.kind);
  const wrong = lines.flatMap((one) =>
    one.error ? [`line ${one.number}, column ${one.error.at + 1}: ${one.error.message}`] : [],
  );
  if (wrong.length > 0)
    throw new Ended(EXIT.document, 'lines-invalid', `Some lines of “${name}” cannot be read.`, wrong);
  const { edit, left } = addingLines(
    layout,
    lines,
    lines.map(() => undefined),
  );
  if (left.length > 0)
    throw new Ended(EXIT.document, 'lines-many', `“${name}” has more lines than a layout has slots: ${SLOT_LIMIT}.`);
  return applyEdit(layout, edit);
}

/** `lines`: the slots of a document, a line each. */
export async function linesCommand(io: Io, document: string): Promise<Exit> {
  const { slots } = await documentFrom(io, document);
  io.out(printable(slots.map((slot) => `${writeLine(slot)}\n`).join('')));
  return EXIT.done;
}

/** `new`: writes the document to the output, or into a new file; says why it is as it is. */
export async function newDocument(io: Io, options: NewArguments): Promise<Exit> {
  const { layout, reasons } = await made(options, fresh());
  const valid = validateLayout(options.lines === undefined ? layout : await withLines(io, layout, options.lines));
  if (!valid.ok)
    throw new Ended(
      EXIT.usage,
      'usage-answers',
      'These answers make no valid layout.',
      valid.error.map(({ path, message }) => `${path} ${message}`),
    );
  await writeNew(io, writeLayout(valid.value), options.into);
  for (const reason of reasons) io.remark(reason);
  return EXIT.done;
}

/** Use cases of the shelf and the designer: layouts and their revisions. */
import { and, count, desc, eq, isNotNull, isNull, max, sql } from 'drizzle-orm';
import type { AwayLayout, DamagedLayout, LayoutView, RevisionView, ShelfView } from '@/contract/layouts';
import type { Layout } from '@/core/layout/document';
import { type DocumentError, readLayout, validateLayout, writeLayout } from '@/core/layout/validate';
import type { Context } from './context';
import type { Transaction } from '../keeping/database';
import { layouts, revisions, steps } from '../keeping/schema';
import { bringBackNamed } from '../keeping/trash';
import { Refusal } from './refusal';

const NOTE_LIMIT = 200;

function refuseDocument(errors: readonly DocumentError[]): never {
  const [first, ...more] = errors;
  const where = first!.path === '' ? 'The document' : `“${first!.path}”`;
  const others =
    more.length > 0
      ? ` ${more.length} more: ${more
          .slice(0, 4)
          .map((one) => one.path)
          .join(', ')}.`
      : '';
  throw new Refusal(422, 'document-invalid', `${where} ${first!.message}.${others}`, first!.path || 'document');
}

/** Validates an unknown value as a layout or refuses with the path of the first error. */
function acceptDocument(value: unknown): Layout {
  const checked = typeof value === 'string' ? readLayout(value) : validateLayout(value);
  return checked.ok ? checked.value : refuseDocument(checked.error);
}

/** A name as a part of file names and addresses. */
export function slugOf(name: string): string {
  const slug = name
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '');
  return slug.slice(0, 40) || 'layout';
}

type Reader = Pick<Transaction, 'select'>;

async function rowOf(reader: Reader, id: string) {
  const [row] = await reader.select().from(layouts).where(eq(layouts.id, id));
  if (!row) throw new Refusal(404, 'layout-unknown', `There is no layout “${id}” on the shelf.`, 'id');
  return row;
}

async function revisionOf(reader: Reader, id: string, number: number) {
  const [row] = await reader
    .select()
    .from(revisions)
    .where(and(eq(revisions.layoutId, id), eq(revisions.number, number)));
  if (!row) throw new Refusal(404, 'revision-unknown', `Layout “${id}” has no revision ${number}.`, 'revision');
  return row;
}

function damagedText(id: string, number: number, [first]: readonly DocumentError[]): string {
  return `Revision ${number} of “${id}” is damaged on the disk: ${first!.path || 'the document'} ${first!.message}.`;
}

/** The document of a stored revision; refuses one that is damaged. */
function documentOf({ layoutId, number, document }: typeof revisions.$inferSelect): Layout {
  const read = readLayout(document);
  if (read.ok) return read.value;
  const sentence = damagedText(layoutId, number, read.error);
  throw new Refusal(409, 'document-damaged', `${sentence} The shelf offers to go on from an earlier one.`, 'revision');
}

/** So many of the steps that were taken last are told: a browser rarely has more that wait. */
const TAKEN_TOLD = 50;

async function lastTaken(reader: Reader, id: string): Promise<string[]> {
  const rows = await reader
    .select({ id: steps.id })
    .from(steps)
    .where(eq(steps.layoutId, id))
    .orderBy(desc(sql`rowid`))
    .limit(TAKEN_TOLD);
  return rows.map((row) => row.id);
}

async function viewOf(reader: Reader, id: string): Promise<LayoutView> {
  const row = await rowOf(reader, id);
  const head = await revisionOf(reader, id, row.head);
  return viewFrom(id, head, documentOf(head), await lastTaken(reader, id));
}

function viewFrom(
  id: string,
  { number, note, savedAt, parent, redo }: typeof revisions.$inferSelect,
  document: Layout,
  taken: string[],
): LayoutView {
  return { id, revision: number, note, savedAt, canUndo: parent !== null, canRedo: redo !== null, document, taken };
}

/** A layout at its revision in force. */
export function getLayout(context: Context, id: string): Promise<LayoutView> {
  return viewOf(context.db.read, id);
}

/** The document of one revision. */
export async function getDocument(context: Context, id: string, number: number): Promise<Layout> {
  return documentOf(await revisionOf(context.db.read, id, number));
}

/** The newest revision of a layout that can be read; undefined where none can. */
async function readableRevision(reader: Reader, id: string) {
  const rows = await reader.select().from(revisions).where(eq(revisions.layoutId, id)).orderBy(desc(revisions.number));
  return rows.find(({ document }) => readLayout(document).ok);
}

/** A layout of the shelf; one whose revision in force is damaged is named with what can be done. */
async function shelfView(reader: Reader, id: string): Promise<LayoutView | DamagedLayout> {
  try {
    return await viewOf(reader, id);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    const readable = await readableRevision(reader, id);
    const { head } = await rowOf(reader, id);
    const read = readLayout((await revisionOf(reader, id, head)).document);
    if (read.ok) throw error;
    return { id, revision: head, damaged: damagedText(id, head, read.error), readable: readable?.number ?? null };
  }
}

/** Goes on from the newest revision that can be read, as a new one on top of a damaged one, which stays. */
export async function goOn(context: Context, id: string): Promise<LayoutView> {
  return context.db.write(async (tx) => {
    const { head } = await rowOf(tx, id);
    if (readLayout((await revisionOf(tx, id, head)).document).ok) return viewOf(tx, id);
    const readable = await readableRevision(tx, id);
    if (!readable)
      throw new Refusal(409, 'nothing-readable', `No revision of “${id}” can be read. Restore a backup.`, 'id');
    const note = `Goes on from revision ${readable.number}: revision ${head} is damaged`;
    return addRevision(tx, id, { head, document: readable.document, note, now: context.now() });
  });
}

/** Layouts on one page of the shelf. */
const SHELF_PAGE = 48;

/** Which layouts are wanted: those whose name or id has a text, and a page of them; all where neither is said. */
export interface ShelfAsked {
  readonly find?: string | undefined;
  /** From 1. */
  readonly page?: number | undefined;
}

/** The name of a document, where it has one; a damaged one has none. */
const nameIn = sql<string>`case when json_valid(${revisions.document}) then json_extract(${revisions.document}, '$.name') else '' end`;

/** Any text within; what `like` reads as its own is escaped. */
const containing = (text: string) => `%${text.replace(/[\\%_]/g, (c) => `\\${c}`)}%`;

/** All layouts that are not put away, the last changed first; and, apart from them, those that are damaged. */
export async function shelf(context: Context, { find = '', page }: ShelfAsked = {}): Promise<ShelfView> {
  const wanted = containing(find.trim());
  const isOne = and(
    isNull(layouts.putAwayAt),
    find.trim() === ''
      ? undefined
      : sql`(${nameIn} like ${wanted} escape '\\' or ${layouts.id} like ${wanted} escape '\\')`,
  );
  const head = and(eq(revisions.layoutId, layouts.id), eq(revisions.number, layouts.head));
  const { read } = context.db;
  const query = read
    .select({ id: layouts.id, revision: revisions })
    .from(layouts)
    .innerJoin(revisions, head)
    .where(isOne)
    .orderBy(desc(layouts.changedAt), layouts.id);
  const rows =
    page === undefined ? await query : await query.limit(SHELF_PAGE).offset((Math.max(1, page) - 1) * SHELF_PAGE);
  const [counted] = await read.select({ n: count() }).from(layouts).innerJoin(revisions, head).where(isOne);
  const total = counted!.n;
  const views = await Promise.all(
    rows.map(async ({ id, revision }) => {
      const found = readLayout(revision.document);
      return found.ok ? viewFrom(id, revision, found.value, []) : shelfView(read, id);
    }),
  );
  return {
    layouts: views.filter((one) => 'document' in one),
    damaged: views.filter((one) => 'damaged' in one),
    total,
    pages: Math.max(1, Math.ceil(total / SHELF_PAGE)),
  };
}

/** The layouts that were put away, the last one first. */
export async function layoutsAway(context: Context): Promise<AwayLayout[]> {
  const rows = await context.db.read
    .select({ id: layouts.id, revision: layouts.head, putAwayAt: layouts.putAwayAt, document: revisions.document })
    .from(layouts)
    .innerJoin(revisions, and(eq(revisions.layoutId, layouts.id), eq(revisions.number, layouts.head)))
    .where(isNotNull(layouts.putAwayAt))
    .orderBy(desc(layouts.putAwayAt), layouts.id);
  return rows.map(({ id, revision, putAwayAt, document }) => {
    const read = readLayout(document);
    return { id, revision, putAwayAt: putAwayAt!, name: read.ok ? read.value.name : id };
  });
}

/** The layouts of the shelf that can be read. */
export async function listLayouts(context: Context): Promise<LayoutView[]> {
  return (await shelf(context)).layouts;
}

/** The text of the document in force, to be kept elsewhere; a damaged one as it is stored. */
export async function documentText(
  context: Context,
  id: string,
): Promise<{ readonly text: string; readonly name: string }> {
  const { head } = await rowOf(context.db.read, id);
  const { document } = await revisionOf(context.db.read, id, head);
  const read = readLayout(document);
  return read.ok ? { text: writeLayout(read.value), name: slugOf(read.value.name) } : { text: document, name: id };
}

/** All revisions, the newest first. */
export async function listRevisions(context: Context, id: string): Promise<RevisionView[]> {
  const { head } = await rowOf(context.db.read, id);
  const rows = await context.db.read
    .select({ number: revisions.number, note: revisions.note, name: revisions.name, savedAt: revisions.savedAt })
    .from(revisions)
    .where(eq(revisions.layoutId, id))
    .orderBy(desc(revisions.number));
  return rows.map((row) => ({ ...row, inForce: row.number === head }));
}

/** Names a revision, or takes its name away. */
export async function nameRevision(context: Context, id: string, number: number, name: string | null): Promise<void> {
  await context.db.write(async (tx) => {
    await revisionOf(tx, id, number);
    await tx
      .update(revisions)
      .set({ name: name?.trim() ? name.trim() : null })
      .where(and(eq(revisions.layoutId, id), eq(revisions.number, number)));
  });
}

/** Puts a document on the shelf as a new layout. */
export async function createLayout(context: Context, value: unknown, note: string): Promise<LayoutView> {
  const document = acceptDocument(value);
  const now = context.now();
  await bringBackNamed(context.folder, document);
  return context.db.write(async (tx) => {
    const slug = slugOf(document.name);
    let id = slug;
    for (let n = 2; (await tx.select().from(layouts).where(eq(layouts.id, id))).length > 0; n++) id = `${slug}-${n}`;
    await tx.insert(layouts).values({ id, head: 1, createdAt: now, changedAt: now });
    await tx.insert(revisions).values({
      layoutId: id,
      number: 1,
      note: note.slice(0, NOTE_LIMIT),
      document: writeLayout(document),
      savedAt: now,
    });
    return viewOf(tx, id);
  });
}

function refuseIfMoved(head: number, base: number): void {
  if (head !== base)
    throw new Refusal(
      409,
      'layout-moved-on',
      `This change was made on revision ${base}, but revision ${head} is in force now. Load it, then repeat the change.`,
      'base',
    );
}

/** Adds a revision on top of the one in force. */
async function addRevision(
  tx: Transaction,
  id: string,
  { head, document, note, now }: { head: number; document: string; note: string; now: string },
): Promise<LayoutView> {
  const [newest] = await tx
    .select({ n: max(revisions.number) })
    .from(revisions)
    .where(eq(revisions.layoutId, id));
  const number = newest!.n! + 1;
  await tx
    .insert(revisions)
    .values({ layoutId: id, number, parent: head, note: note.slice(0, NOTE_LIMIT), document, savedAt: now });
  await setRedo(tx, id, head, number);
  await setHead(tx, id, number, now);
  return viewOf(tx, id);
}

/** Whether a step was taken before: its answer was lost then. Remembers it if not. */
async function isTaken(tx: Transaction, id: string, step: string | undefined, now: string): Promise<boolean> {
  if (step === undefined) return false;
  const [known] = await tx.select().from(steps).where(eq(steps.id, step));
  if (known) return true;
  await tx.insert(steps).values({ id: step, layoutId: id, takenAt: now });
  return false;
}

/**
 * Adds a revision on top of the one in force, which must be `base`. Nothing is overwritten. A
 * step that was taken before is answered with the layout as it is.
 */
export async function saveRevision(
  context: Context,
  id: string,
  change: { base: number; document: unknown; note: string; step?: string | undefined },
): Promise<LayoutView> {
  const document = acceptDocument(change.document);
  const now = context.now();
  await bringBackNamed(context.folder, document);
  return context.db.write(async (tx) => {
    const { head } = await rowOf(tx, id);
    if (await isTaken(tx, id, change.step, now)) return viewOf(tx, id);
    refuseIfMoved(head, change.base);
    return addRevision(tx, id, { head, document: writeLayout(document), note: change.note, now });
  });
}

async function setRedo(tx: Transaction, id: string, number: number, redo: number): Promise<void> {
  await tx
    .update(revisions)
    .set({ redo })
    .where(and(eq(revisions.layoutId, id), eq(revisions.number, number)));
}

async function setHead(tx: Transaction, id: string, head: number, now: string): Promise<void> {
  await tx.update(layouts).set({ head, changedAt: now }).where(eq(layouts.id, id));
}

/** Moves the head one step back or forward on the way it came. A step that was taken before is answered with the layout as it is. */
export async function moveHead(
  context: Context,
  id: string,
  move: { base: number; direction: 'undo' | 'redo'; step?: string | undefined },
): Promise<LayoutView> {
  return context.db.write(async (tx) => {
    const { head } = await rowOf(tx, id);
    if (await isTaken(tx, id, move.step, context.now())) return viewOf(tx, id);
    refuseIfMoved(head, move.base);
    const from = await revisionOf(tx, id, head);
    const to = move.direction === 'undo' ? from.parent : from.redo;
    if (to === null)
      throw new Refusal(409, `nothing-to-${move.direction}`, `There is nothing to ${move.direction}.`, 'direction');
    if (move.direction === 'undo') await setRedo(tx, id, to, head);
    await setHead(tx, id, to, context.now());
    return viewOf(tx, id);
  });
}

/** Takes a layout off the shelf, or puts it back. Its revisions and builds stay. */
export async function putAway(context: Context, id: string, away: boolean): Promise<void> {
  await context.db.write(async (tx) => {
    await rowOf(tx, id);
    await tx
      .update(layouts)
      .set({ putAwayAt: away ? context.now() : null })
      .where(eq(layouts.id, id));
  });
}

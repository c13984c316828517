/**
 * `fill-in`: writes into a document what it lacks: ids, signature and date, made here by chance and by
 * the clock, and the sums of what it names by paths. All else stays as it is written.
 */
import { type Beside, besidesOf, type FoundBeside } from '@/core/layout/beside';
import { pathText } from '@/core/layout/validate';
import { type TextChange, valuesOf, withChanges } from '@/core/layout/written';
import { answerText } from './answering';
import { Ended, EXIT, type Exit } from './exit';
import { freshDate, freshGuid, freshSignature, freshVolumeId } from './fresh';
import { documentOf, folderOf, type Io, replaceText, textOf } from './io';
import { printable } from './text';
import { gather } from './supplies';
import type { SupplyOptions } from './supply-options';

export interface FillInArguments extends SupplyOptions {
  /** Sums that are said, but are others now. */
  readonly renew?: boolean;
  readonly json?: boolean;
}

type Values = Readonly<Record<string, unknown>>;

const isValues = (value: unknown): value is Values =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** What is inside of a slot, by its kind: the field of its id, and how one is made. */
const CONTENT_IDS: Readonly<Record<string, readonly [string, () => string]>> = {
  fat: ['volumeId', freshVolumeId],
  exfat: ['volumeId', freshVolumeId],
  ext: ['uuid', freshGuid],
  swap: ['uuid', freshGuid],
};

/** An id for a slot of this name that no other has. */
function slotId(name: unknown, kind: unknown, taken: Set<string>): string {
  const word = (text: unknown) =>
    String(text ?? '')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^[^a-z]+|-+$/g, '')
      .slice(0, 28);
  const stem = word(name) || word(kind) || 'slot';
  let id = stem;
  for (let n = 2; taken.has(id); n += 1) id = `${stem}-${n}`;
  taken.add(id);
  return id;
}

/** The ids and the date that a document lacks, made. */
function lacking(document: Values): TextChange[] {
  const changes: TextChange[] = [];
  const fill = (within: Values, path: readonly (string | number)[], name: string, make: () => string) => {
    if (within[name] === undefined) changes.push({ path: [...path, name], value: make() });
  };
  fill(document, [], 'date', freshDate);
  const { table, slots } = document;
  if (isValues(table) && table.kind === 'mbr') fill(table, ['table'], 'signature', freshSignature);
  if (isValues(table) && table.kind === 'gpt') fill(table, ['table'], 'diskId', freshGuid);
  const all = Array.isArray(slots) ? (slots as unknown[]) : [];
  const taken = new Set(all.flatMap((slot) => (isValues(slot) && typeof slot.id === 'string' ? [slot.id] : [])));
  all.forEach((slot, i) => {
    if (!isValues(slot)) return;
    fill(slot, ['slots', i], 'id', () => slotId(slot.name, slot.kind, taken));
    const { content } = slot;
    const [name, make] = (isValues(content) && CONTENT_IDS[String(content.kind)]) || [];
    if (isValues(content) && name && make) fill(content, ['slots', i, 'content'], name, make);
  });
  return changes;
}

/** The steps of a path as errors write it. */
function stepsOf(path: string): (string | number)[] {
  return [...path.matchAll(/([^.[\]]+)/g)].map(([step]) => (/^\d+$/.test(step) ? Number(step) : step));
}

/** The sum of what was found at a path, where the document does not say it. */
function sumChanges([beside, found]: readonly [Beside, FoundBeside], said: unknown): TextChange[] {
  const at = stepsOf(beside.at);
  if (beside.what === 'tree')
    return beside.sha256 === found.sha256 ? [] : [{ path: [...at, 'files'], value: found.sha256 }];
  const before = at.reduce<unknown>((value, step) => (value as Record<string | number, unknown>)[step], said) as Values;
  const fields = { sha256: found.sha256, name: before.name ?? found.name, size: found.size };
  return Object.entries(fields).flatMap(([name, value]) =>
    before[name] === value ? [] : [{ path: [...at, name], value }],
  );
}

/** Writes into a document what it lacks. */
export async function fillIn(io: Io, name: string, options: FillInArguments): Promise<Exit> {
  const text = await textOf(io, name);
  const values = valuesOf(text);
  const made = isValues(values) ? lacking(values) : [];
  const withIds = withChanges(text, made);
  const { layout, isOlder } = documentOf(io, name, withIds);
  if (isOlder && made.length > 0)
    throw new Ended(EXIT.document, 'document-older', `“${name}” is of an older version; bring it to this one first.`);
  const besides = besidesOf(layout);
  const named = (options.from ?? []).find((one) => besides.some(({ slot }) => one.startsWith(`${slot ?? ''}=`)));
  if (named !== undefined)
    throw new Ended(
      EXIT.usage,
      'usage-from',
      `“--from ${named}”: the document names a path for this slot already; its sum is written for that.`,
    );
  const { found, close } = await gather(io, layout, folderOf(name), { ...options, renews: options.renew === true });
  await close();
  const said = valuesOf(withIds);
  const changes = [...made, ...found.flatMap((one) => sumChanges(one, said))];
  const next = withChanges(text, changes);
  if (name === '-') {
    io.out(next);
    return EXIT.done;
  }
  if (changes.length > 0) await replaceText(io, name, next);
  const filled = changes.map(({ path, value }) => ({ field: pathText(path), value: value as string | number }));
  const lines = filled.map(({ field, value }) => `filled in: ${field}: ${String(value)}\n`);
  const answer = lines.length > 0 ? lines.join('') : 'Nothing is missing.\n';
  io.out(options.json ? answerText('fill-in', { filled }) : printable(answer));
  return EXIT.done;
}

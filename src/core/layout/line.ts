/**
 * The slot line: one slot said in one line of text, in our own words.
 *
 *   System A: 2560 MiB, system, /
 *   Boot: 256 MiB, boot, FAT32, label "GAUGEBOOT", /boot, active
 *   Loader: raw, from 8 KiB, 1016 KiB
 *   Log data: rest, at least 1 GiB, FAT32, grow
 *
 * A name, a colon, and then what is to be said, in any order, with commas or blanks between.
 * Everything that differs from its default can be said, except ids and most contents. Texts are kept
 * as they were typed, so that a slot, its line, and the slot of that line are the same; the
 * writer's order makes the canonical line, which reads to itself.
 */
import { type Padding, PADDINGS } from '../filesystems/fat/geometry';
import { fail, ok, type Result } from '../quantity/result';
import { parseExact, parseSizeAhead, SIZE_TEXT_LIMIT, type SizeError } from '../quantity/size-language';
import { SIZE_WORD } from '../quantity/size-words';
import { type Attribute, ATTRIBUTES, isGuid } from '../tables/gpt';
import { typeMeant } from '../tables/types';
import { type Expected, EXPECTED } from '../filesystems/left/expected';
import { VARIANTS } from '../filesystems/fat/variants';
import type { Content, ContentOf } from '../filesystems/shapes';
import type { PartitionSlot, Slot } from './document';
import { patched } from './edits';
import { isLocked } from './kept';
import { EXT_CLAUSES, EXT_FIELD_NAMES, type ExtClauses, type ExtField } from './line-ext';
import type { LineSlot, LineContent } from './line-write';
import { MOUNT_POINT, type Role, ROLES, SLOT_NAME_LIMIT, type TableKind } from './vocabulary';

/** Why a line cannot be read: `at` is the index of the first offending character. */
export type LineError = SizeError;

/** Longest line that is read, in characters. */
export const LINE_LIMIT = 1000;
/** Longest label that a document keeps. */
const LABEL_LIMIT = 64;

/** Everything that clauses can say, before it is known which kind of slot it is. */
interface Clauses extends ExtClauses {
  kind?: 'raw' | 'free';
  size?: string;
  role?: Role;
  /** FAT, with or without its variant. */
  fat?: ContentOf<'fat'>['variant'] | 'any';
  /** Left to its system, with or without what that will make. */
  left?: Expected | 'any';
  cluster?: string;
  rootEntries?: number;
  padding?: Padding;
  label?: string;
  mount?: string;
  active?: true;
  logical?: true;
  at?: string;
  grain?: string;
  endsOnGrain?: true;
  type?: string;
  attributes?: Attribute[];
}

class Refused extends Error {
  constructor(readonly detail: LineError) {
    super(detail.message);
  }
}

const QUOTED = /"((?:[^"]|"")*)"/y;

/** A reader over one line; `at` is where it stands. */
class LineReader {
  at = 0;
  private readonly places = new Map<keyof Clauses, number>();

  /** `table`: in which names and codes of types are read. */
  constructor(
    readonly text: string,
    private readonly table: 'mbr' | 'gpt' | undefined,
  ) {}

  refuse(at: number, length: number, message: string): never {
    throw new Refused({ at, length: Math.max(1, length), message });
  }

  /** Takes what matches here, whatever its case. */
  take(pattern: RegExp): RegExpExecArray | undefined {
    const sticky = new RegExp(pattern.source, 'iuy');
    sticky.lastIndex = this.at;
    const found = sticky.exec(this.text);
    if (found) this.at += found[0].length;
    return found ?? undefined;
  }

  private quoted(): string | undefined {
    QUOTED.lastIndex = this.at;
    const found = QUOTED.exec(this.text);
    if (!found) return undefined;
    this.at += found[0].length;
    return found[1]!.replaceAll('""', '"');
  }

  /** A quoted text, or what stands before the next comma. */
  private phrase(what: string): string {
    const start = this.at;
    const quoted = this.quoted();
    if (quoted !== undefined) return quoted;
    if (this.text[this.at] === '"') this.refuse(start, this.text.length - start, 'The closing quote is missing.');
    const plain = this.take(/[^,;"]+/)?.[0].trim() ?? '';
    if (plain === '') this.refuse(start, 1, `Say ${what}.`);
    return plain;
  }

  name(): string {
    this.take(/\s*/);
    const start = this.at;
    const name = this.quoted() ?? this.take(/[^:"]*/)![0].trim();
    this.take(/\s*/);
    if (!this.take(/:/)) this.refuse(this.at, 1, 'Begin with a name and a colon, for instance Data: rest.');
    if (name === '') this.refuse(start, 1, 'A slot has a name.');
    if (name.length > SLOT_NAME_LIMIT)
      this.refuse(start, name.length, `A name has at most ${SLOT_NAME_LIMIT} characters.`);
    return name;
  }

  clauses(): Clauses {
    const clauses: Clauses = {};
    for (;;) {
      this.take(/[\s,;]*/);
      if (this.at >= this.text.length) return clauses;
      const start = this.at;
      this.clause(clauses, start);
      if (this.at < this.text.length && !/[\s,;]/.test(this.text[this.at]!))
        this.refuse(this.at, 1, `Nothing was expected here, but “${this.text.slice(this.at, this.at + 12)}” follows.`);
    }
  }

  /** Sets a field, once. */
  private set<Key extends keyof Clauses>(
    clauses: Clauses,
    key: Key,
    value: NonNullable<Clauses[Key]>,
    start: number,
  ): void {
    if (clauses[key] !== undefined) this.refuse(start, this.at - start, `The ${FIELD_NAMES[key]} is already said.`);
    clauses[key] = value;
    this.places.set(key, start);
  }

  /** Where a field was said, for errors that are found at the end. */
  placeOf(key: keyof Clauses): number {
    return this.places.get(key) ?? this.text.length;
  }

  /** A size text as it stands here. */
  private size(exact: boolean): string {
    const start = this.at;
    const rest = this.text.slice(start);
    const zero = /^0(?=\s*(?:[,;]|$))/.exec(rest);
    if (exact && zero) {
      this.at += 1;
      return '0';
    }
    const read = parseSizeAhead(rest);
    if (!read.ok) this.refuse(start + read.error.at, read.error.length, read.error.message);
    const text = rest.slice(0, read.value.end);
    if (text.length > SIZE_TEXT_LIMIT)
      this.refuse(start, text.length, `A size text has at most ${SIZE_TEXT_LIMIT} characters.`);
    if (exact && !parseExact(text).ok)
      this.refuse(start, text.length, 'An exact size is needed here, for instance 8 KiB.');
    this.at += text.length;
    return text;
  }

  private clause(clauses: Clauses, start: number): void {
    const word = (pattern: RegExp) => this.take(new RegExp(`(?:${pattern.source})(?![\\p{L}\\p{N}_-])`));
    const kind = word(/raw|free/);
    if (kind) return this.set(clauses, 'kind', kind[0].toLowerCase() as 'raw' | 'free', start);
    if (this.text[this.at] === '/') return this.set(clauses, 'mount', this.take(/\/[^\s,;"]*/)![0], start);
    if (this.take(/mount(?:s at|ed at)?\s+(?=["/])/)) return this.set(clauses, 'mount', this.mount(start), start);
    if (this.take(/label\s*(?=\s|")/)) return this.set(clauses, 'label', this.label(), start);
    if (this.take(/from\s+/)) return this.set(clauses, 'at', this.size(true), start);
    if (this.take(/grain\s+/)) return this.set(clauses, 'grain', this.exactSize(), start);
    if (word(/ends? on (?:the )?grain/)) return this.set(clauses, 'endsOnGrain', true, start);
    if (word(/logical/)) return this.set(clauses, 'logical', true, start);
    if (word(/active/)) return this.set(clauses, 'active', true, start);
    if (this.take(/type\s+/)) return this.set(clauses, 'type', this.type(), start);
    if (this.take(/clusters?\s+(?:of\s+)?/)) return this.set(clauses, 'cluster', this.exactSize(), start);
    const entries = this.take(/root entries\s+(\d{1,5})/);
    if (entries) return this.set(clauses, 'rootEntries', this.rootEntries(entries), start);
    const padding = this.take(new RegExp(`padding\\s+(${PADDINGS.join('|')})`));
    if (padding) return this.set(clauses, 'padding', padding[1]!.toLowerCase() as Padding, start);
    const attribute = word(new RegExp(ATTRIBUTES.join('|')));
    if (attribute) {
      (clauses.attributes ??= []).push(attribute[0].toLowerCase() as Attribute);
      return;
    }
    const fat = word(new RegExp(`fat(${VARIANTS.join('|')})?`));
    if (fat) return this.set(clauses, 'fat', fat[1] ? (Number(fat[1]) as (typeof VARIANTS)[number]) : 'any', start);
    for (const { key, read } of EXT_CLAUSES) {
      const value = read(this);
      if (value !== undefined) return this.set(clauses, key, value, start);
    }
    if (word(/left/)) return this.set(clauses, 'left', this.expected(), start);
    const role = word(new RegExp(`(?:role\\s+)?(bios[ -]boot|${ROLES.join('|')})`));
    if (role) return this.set(clauses, 'role', role[1]!.toLowerCase().replace(' ', '-') as Role, start);
    if (!/[\d.]/.test(this.text[this.at]!) && !SIZE_WORD.test(this.text.slice(this.at))) {
      const unknown = /^[^\s,;]+/.exec(this.text.slice(this.at))![0];
      this.refuse(start, unknown.length, `“${unknown}” is no size, role, file system, mark or mount point.`);
    }
    this.set(clauses, 'size', this.size(false), start);
  }

  /** What its system will make of a partition that is left to it. */
  private expected(): Expected | 'any' {
    if (!this.take(/\s+for(?=\s)\s*/)) return 'any';
    const start = this.at;
    const text = this.take(/[^\s,;]*/)![0];
    const found = EXPECTED.find((one) => one === text.toLowerCase());
    return found ?? this.refuse(start, text.length, `Of what is left to it, a system makes ${EXPECTED.join(', ')}.`);
  }

  private mount(start: number): string {
    const mount = this.phrase('a mount point');
    if (!MOUNT_POINT.test(mount) || mount.length > 200)
      this.refuse(start, this.at - start, 'A mount point begins with / and has no blanks.');
    return mount;
  }

  private label(): string {
    const start = this.at;
    const label = this.phrase('a label');
    if (label.length > LABEL_LIMIT) this.refuse(start, label.length, `A label has at most ${LABEL_LIMIT} characters.`);
    return label;
  }

  exactSize(): string {
    const start = this.at;
    const text = this.size(true);
    if (text === '0') this.refuse(start, 1, 'A size is more than zero.');
    return text;
  }

  /** A code, a GUID, or a name of several words, as far as it is known. */
  private type(): string {
    const start = this.at;
    const words = this.take(/[^,;"]+/)?.[0].trimEnd() ?? '';
    for (let said = words; said !== ''; said = said.replace(/\s*\S+$/, '')) {
      const type = typeIn(said, this.table);
      if (type === undefined) continue;
      this.at = start + said.length;
      return type;
    }
    const first = /^\S*/.exec(words)![0];
    return this.refuse(start, first.length, 'A type is a name, as in LVM, two hexadecimal digits, or a GUID.');
  }

  private rootEntries(found: RegExpExecArray): number {
    const n = Number(found[1]);
    if (n < 1 || n > 65_535) this.refuse(found.index, found[0].length, 'A root directory has 1 to 65535 entries.');
    return n;
  }
}

const FIELD_NAMES: Readonly<Record<keyof Clauses, string>> = {
  ...EXT_FIELD_NAMES,
  kind: 'kind of slot',
  size: 'size',
  role: 'role',
  fat: 'file system',
  left: 'system that it is left to',
  cluster: 'cluster size',
  rootEntries: 'number of root entries',
  padding: 'padding',
  label: 'label',
  mount: 'mount point',
  active: 'active mark',
  logical: 'place in the chain of logical partitions',
  at: 'start',
  grain: 'grain',
  endsOnGrain: 'end on the grain',
  type: 'type',
  attributes: 'attributes',
};

const FAT_FIELDS = ['cluster', 'rootEntries', 'padding', 'label'] as const;
const EXT_FIELDS = EXT_CLAUSES.map(({ key }) => key);
const OWN_EXT_FIELDS: readonly ExtField[] = EXT_FIELDS.filter((key) => key !== 'version');

/** Fields of a clause set that are said, without those that are not. */
function only<Key extends keyof Clauses>(clauses: Clauses, keys: readonly Key[]): Pick<Clauses, Key> {
  return Object.fromEntries(keys.flatMap((key) => (clauses[key] === undefined ? [] : [[key, clauses[key]]]))) as Pick<
    Clauses,
    Key
  >;
}

const SHARED = ['at', 'grain', 'endsOnGrain'] as const;

function refuseOthers(reader: LineReader, clauses: Clauses, allowed: readonly (keyof Clauses)[], what: string): void {
  const other = (Object.keys(clauses) as (keyof Clauses)[]).find((key) => !allowed.includes(key));
  if (other) reader.refuse(reader.placeOf(other), 1, `${what} has no ${FIELD_NAMES[other]}.`);
}

function contentFrom(clauses: Clauses): { content?: LineContent } {
  const { fat, version, left } = clauses;
  if (fat !== undefined)
    return { content: { kind: 'fat', ...(fat !== 'any' && { variant: fat }), ...only(clauses, FAT_FIELDS) } };
  if (version !== undefined) return { content: { kind: 'ext', version, ...only(clauses, [...EXT_FIELDS, 'label']) } };
  if (left === undefined) return {};
  return { content: { kind: 'left', ...(left !== 'any' && { expects: left }) } };
}

/** Refuses what belongs to a file system that the line does not say, and two of them. */
function refuseStray(reader: LineReader, clauses: Clauses): void {
  const { fat, version, left } = clauses;
  const made = fat !== undefined ? 'FAT' : version;
  if (made !== undefined && left !== undefined)
    reader.refuse(reader.placeOf('left'), 4, `${made} is made here: it cannot be left to its system too.`);
  if (fat !== undefined && version !== undefined)
    reader.refuse(reader.placeOf('version'), version.length, 'The file system is already said.');
  const isSaid = (key: keyof Clauses) => clauses[key] !== undefined;
  const strayFat = fat === undefined && FAT_FIELDS.find((key) => isSaid(key) && !(key === 'label' && version));
  if (strayFat)
    reader.refuse(reader.placeOf(strayFat), 1, `A ${FIELD_NAMES[strayFat]} belongs to a file system: say FAT too.`);
  const strayExt = version === undefined && OWN_EXT_FIELDS.find(isSaid);
  if (strayExt)
    reader.refuse(reader.placeOf(strayExt), 1, `A ${FIELD_NAMES[strayExt]} belongs to a file system: say ext4 too.`);
}

function slotFrom(reader: LineReader, name: string, clauses: Clauses): LineSlot {
  const end = reader.text.length;
  const size = clauses.size ?? reader.refuse(end, 1, 'Say a size, for instance 512 MiB, or rest.');
  if (clauses.kind === 'raw') {
    refuseOthers(reader, clauses, ['kind', 'size', 'at'], 'A raw range');
    if (!parseExact(size).ok) reader.refuse(reader.placeOf('size'), size.length, 'A raw range has an exact length.');
    return {
      kind: 'raw',
      name,
      at: clauses.at ?? reader.refuse(end, 1, 'Say where it stands, for instance from 8 KiB.'),
      length: size,
    };
  }
  if (clauses.kind === 'free') {
    refuseOthers(reader, clauses, ['kind', 'size', ...SHARED], 'Free space');
    return { kind: 'free', name, size, ...only(clauses, SHARED) };
  }
  refuseStray(reader, clauses);
  return {
    kind: 'partition',
    name,
    role: clauses.role ?? 'data',
    size,
    ...only(clauses, [...SHARED, 'logical', 'type', 'attributes', 'active']),
    ...contentFrom(clauses),
    ...only(clauses, ['mount']),
  };
}

/** The type that a text means in a table; without one a code or a GUID is what it is, and a name is one of either table. */
function typeIn(text: string, table: 'mbr' | 'gpt' | undefined): string | undefined {
  if (table !== undefined) return typeMeant(text, table);
  const [mbr, gpt] = [typeMeant(text, 'mbr'), typeMeant(text, 'gpt')];
  return isGuid(text.toLowerCase()) ? gpt : (mbr ?? gpt);
}

/**
 * Reads a slot line. The error points at the character that cannot be understood. `table` is the kind that
 * types are looked for in; without one, or where there is none, in both.
 */
export function readLine(text: string, table?: TableKind): Result<LineSlot, LineError> {
  if (text.length > LINE_LIMIT)
    return fail({ at: LINE_LIMIT, length: 1, message: `A line has at most ${LINE_LIMIT} characters.` });
  const control = /[\p{Cc}\p{Zl}\p{Zp}]/u.exec(text.replaceAll('\t', ' '));
  if (control) return fail({ at: control.index, length: 1, message: 'A line has no control characters.' });
  try {
    const reader = new LineReader(text.replaceAll('\t', ' '), table === 'none' ? undefined : table);
    const name = reader.name();
    return ok(slotFrom(reader, name, reader.clauses()));
  } catch (error) {
    if (error instanceof Refused) return fail(error.detail);
    throw error;
  }
}

/** An id for a new file system of this kind. */
export type FreshId = (kind: 'fat' | 'ext') => string;

/** The content that a line means: what it has words for is said anew, everything else stays. */
function contentMeant(
  clauses: LineContent | undefined,
  old: Content | undefined,
  freshId: FreshId,
): Content | undefined {
  if (clauses?.kind === 'left') return clauses;
  if (clauses === undefined) return old && ['fat', 'ext', 'left'].includes(old.kind) ? undefined : old;
  if (clauses.kind === 'ext') {
    const {
      files,
      filesFrom,
      times,
      uuid = freshId('ext'),
    } = old?.kind === 'ext' ? old : ({} as Partial<ContentOf<'ext'>>);
    return { ...clauses, uuid, ...(files && { files }), ...(filesFrom && { filesFrom }), ...(times && { times }) };
  }
  const {
    files,
    times,
    code,
    volumeId = freshId('fat'),
  } = old?.kind === 'fat' ? old : ({} as Partial<ContentOf<'fat'>>);
  return { ...clauses, volumeId, ...(files && { files }), ...(times && { times }), ...(code && { code }) };
}

/**
 * The slot that a line means: a new one, or `before` with everything that the line can say
 * replaced and its ids left alone. `freshId` gives one to a file system that has none yet.
 */
export function slotOf(clauses: LineSlot, id: string, freshId: FreshId, before?: Slot): Slot {
  if (before && isLocked(before)) return lockedSlotOf(clauses, freshId, before);
  if (clauses.kind === 'raw')
    return { id, ...clauses, ...(before?.kind === 'raw' && before.blob && { blob: before.blob }) };
  if (clauses.kind === 'free') return { id, ...clauses };
  const old = before?.kind === 'partition' ? before : undefined;
  const { kind, name, role, size, at, grain, endsOnGrain, logical, type, attributes, active, content, mount } = clauses;
  const slot = {
    id,
    kind,
    name,
    role,
    size,
    at,
    grain,
    endsOnGrain,
    logical,
    type,
    partitionId: old?.partitionId,
    attributes,
    active,
    content: contentMeant(content, old?.content, freshId),
    mount,
    mounting: old?.mounting,
    keeps: old?.keeps,
    repack: old?.repack,
    writes: old?.writes,
  } satisfies { readonly [Key in keyof Required<PartitionSlot>]: PartitionSlot[Key] | undefined };
  return Object.fromEntries(
    Object.entries(slot).filter(([, value]) => value !== undefined),
  ) as unknown as PartitionSlot;
}

/** A locked slot stays what it is and where it is, whatever a line says: it is moved by acts of their own. */
function lockedSlotOf(clauses: LineSlot, freshId: FreshId, before: Slot): Slot {
  if (before.kind !== 'partition' || clauses.kind !== 'partition') return { ...before, name: clauses.name };
  const { size, at, grain, endsOnGrain, logical, content } = before;
  const place = { size, at, grain, endsOnGrain, logical };
  const said = slotOf({ ...clauses, kind: 'partition' }, before.id, freshId, { ...before, keeps: undefined });
  return patched(said as PartitionSlot, { ...place, content, keeps: before.keeps });
}

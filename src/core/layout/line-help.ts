/** Help with slot lines: what a line means, what could follow, and many lines at once. */
import { storedExtLabel } from '../filesystems/ext/label';
import { EXT_VERSIONS, PROFILES } from '../filesystems/ext/words';
import { storedLabel } from '../filesystems/fat/label';
import { EXPECTED, EXPECTED_NAMES } from '../filesystems/left/expected';
import { nameInSize, parseSize, describeSize, type SizeFacts } from '../quantity/size-language';
import { ATTRIBUTES } from '../tables/gpt';
import { typeName } from '../tables/types';
import type { Layout, Slot } from './document';
import { freshIdFor } from './edits';
import type { TableKind } from './vocabulary';
import { type LineError, readLine, slotOf } from './line';
import { ROLE_WORDS, type LineSlot, type LineContent } from './line-write';

function sizeMeaning(text: string, sectorSize: number, facts: SizeFacts): string {
  const rule = parseSize(text);
  return rule.ok ? describeSize(rule.value, sectorSize, facts) : text;
}

function describeContent(content: LineContent | undefined): string {
  if (content?.kind === 'ext') {
    const { version, label: said, profile } = content;
    const named = said === undefined ? '' : `, label stored as “${storedExtLabel(said).text}”`;
    return `${version}${profile ? `, ${profile}` : ''}${named}`;
  }
  if (content?.kind !== 'fat')
    return `left to its system${content?.expects ? `, for ${EXPECTED_NAMES[content.expects]}` : ''}`;
  const { variant, label } = content;
  const stored = label === undefined ? '' : `, label stored as “${storedLabel(label).text}”`;
  return `${variant === undefined ? 'FAT, the variant by its size' : `FAT${variant}`}${stored}`;
}

/** What a line means, in one sentence with figures. */
export function describeLine(parsed: LineSlot, sectorSize: number, facts: SizeFacts = {}): string {
  const size = sizeMeaning(parsed.kind === 'raw' ? parsed.length : parsed.size, sectorSize, facts);
  if (parsed.kind === 'raw') return `Raw range from ${sizeMeaning(parsed.at, sectorSize, facts)}; length ${size}.`;
  const placing = [
    ...(parsed.at === undefined ? [] : [`pinned to ${parsed.at}`]),
    ...(parsed.grain === undefined ? [] : [`on a grain of ${parsed.grain}`]),
    ...(parsed.endsOnGrain ? ['ending on the grain'] : []),
  ];
  if (parsed.kind === 'free') return `${['Free on purpose', size, ...placing].join('; ')}.`;
  const { role, content, mount, active, logical, type, attributes } = parsed;
  const parts = [
    `${logical ? 'Logical partition' : 'Partition'} for ${ROLE_WORDS[role]}`,
    size,
    ...placing,
    describeContent(content),
    ...(mount === undefined ? [] : [`mounted at ${mount}`]),
    ...(active ? ['marked active'] : []),
    ...(type === undefined ? [] : [`type ${typeName(type)}`]),
    ...(attributes?.length ? [`attributes ${attributes.join(', ')}`] : []),
  ];
  return `${parts.join('; ')}.`;
}

/** A text that could stand where the caret is: it replaces the line from `from` to the caret. */
export interface Completion {
  readonly from: number;
  readonly text: string;
}

const PHRASES: readonly string[] = [
  'rest',
  'rest, at least ',
  'rest, at most ',
  'rest × 2',
  'memory',
  'its image',
  'ending at ',
  ...Object.values(ROLE_WORDS),
  'FAT',
  'FAT12',
  'FAT16',
  'FAT32',
  ...EXT_VERSIONS,
  ...PROFILES.map((one) => `profile ${one}`),
  'block ',
  'inode per ',
  'inode size 256',
  'journal ',
  'no journal',
  'reserved 5 %',
  'never checked',
  'grows to ',
  'never grows',
  'label "',
  'cluster ',
  'root entries ',
  'left',
  ...EXPECTED.map((one) => `left for ${one}`),
  'active',
  'logical',
  'from ',
  'grain ',
  'ends on the grain',
  'type ',
  '/',
  '/boot',
  '/boot/efi',
  '/home',
  '/srv',
  '/var',
  ...ATTRIBUTES,
  'raw, from ',
  'free, ',
];

const COMPLETIONS = 8;

/** What could be said where the caret stands, of the phrase that is begun there. */
export function completions(text: string, caret: number, layout: Layout): Completion[] {
  const before = text.slice(0, caret);
  const colon = /^\s*(?:"(?:[^"]|"")*"|[^":]*):/.exec(before);
  if (!colon || (before.slice(colon[0].length).match(/"/g)?.length ?? 0) % 2 === 1) return [];
  const from = Math.max(colon[0].length, ...[...before.matchAll(/[,;]/g)].map((one) => one.index + 1));
  const begun = before.slice(from);
  const start = from + (begun.length - begun.trimStart().length);
  const prefix = begun.trimStart().toLowerCase();
  const same = layout.slots.map((slot) => `same as ${nameInSize(slot.name)}`);
  const parsed = new Set(
    text
      .slice(colon[0].length)
      .split(/[,;]/)
      .map((one) => one.trim().toLowerCase()),
  );
  return [...PHRASES, ...same]
    .filter((one) => one.toLowerCase().startsWith(prefix) && one.toLowerCase() !== prefix)
    .filter((one) => !parsed.has(one.trim().toLowerCase()))
    .slice(0, COMPLETIONS)
    .map((one) => ({ from: start, text: one }));
}

/** A line of a pasted text, read. */
export interface ReadLine {
  /** Counted from 1, empty lines included. */
  readonly number: number;
  readonly text: string;
  readonly parsed?: LineSlot;
  readonly error?: LineError;
}

/** What was read last: of many lines that are typed in, all but one are the same with the next key. */
const known = new Map<string, ReturnType<typeof readLine>>();
let readAs: TableKind | undefined;
const LINES_KEPT = 8192;

/** Reads many lines; empty ones are left out. A line that cannot be read does not disturb the others. */
export function readLines(text: string, table?: TableKind): ReadLine[] {
  if (readAs !== table || known.size > LINES_KEPT) {
    known.clear();
    readAs = table;
  }
  return text.split(/\r\n|\r|\n/).flatMap((line, i): ReadLine[] => {
    if (line.trim() === '') return [];
    let read = known.get(line);
    if (!read) known.set(line, (read = readLine(line, table)));
    return [{ number: i + 1, text: line, ...(read.ok ? { parsed: read.value } : { error: read.error }) }];
  });
}

/** Slots for lines that were read, with ids that the layout does not have yet. */
export function slotsOf(layout: Layout, lines: readonly LineSlot[]): Slot[] {
  const taken = new Set(layout.slots.map((slot) => slot.id));
  let n = layout.slots.length;
  return lines.map((parsed) => {
    do n += 1;
    while (taken.has(`slot-${n}`));
    const id = `slot-${n}`;
    return slotOf(parsed, id, freshIdFor(layout, id));
  });
}

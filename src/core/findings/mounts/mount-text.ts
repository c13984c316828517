/**
 * A mount table as text (fstab(5)): lines of up to six fields with blanks or tabs between them. Every field knows
 * where it stands, so that what is found can be shown there and mended there, and all else stays as it is.
 */

/** Most characters of a table, most lines, and most words of them: no table of a machine is nearly so long. */
const TABLE_LIMIT = 4_000_000;
const TABLE_LINES_LIMIT = 20_000;
const TABLE_WORDS_LIMIT = 100_000;

export interface Field {
  /** As it stands there. */
  readonly text: string;
  /** With its octal escapes read, and without quotes behind the mark of a name. */
  readonly value: string;
  /** Characters from the start of the text. */
  readonly from: number;
  readonly to: number;
}

/** A line that is neither empty nor a comment. */
export interface TableEntry {
  /** From 1. */
  readonly line: number;
  /** Where the line begins, in characters from the start of the text, and where it ends. */
  readonly from: number;
  readonly to: number;
  readonly fields: readonly Field[];
}

export interface TableText {
  readonly text: string;
  readonly entries: readonly TableEntry[];
  /** Lines end with CR and LF. */
  readonly hasCr: boolean;
  /** More was there than is read. */
  readonly isCut: boolean;
}

/** The names that a field can begin with, in any case. */
const TAG = /^(UUID|PARTUUID|LABEL|PARTLABEL|ID)=/;

const unescaped = (text: string) =>
  text.replace(/\\([0-7]{3})/g, (whole, digits: string) => {
    const code = parseInt(digits, 8);
    return code > 0 && code < 128 ? String.fromCharCode(code) : whole;
  });

/** The value of a field: quotes may stand behind the mark of a name. */
function valueOf(text: string): string {
  const tag = TAG.exec(text)?.[0] ?? '';
  const rest = text.slice(tag.length);
  const isQuoted = tag !== '' && rest.length > 1 && /^["']/.test(rest) && rest.endsWith(rest[0]!);
  return tag + unescaped(isQuoted ? rest.slice(1, -1) : rest);
}

/** Fields of a line; behind the mark of a name quotes hold blanks together. */
const FIELD = /(?:UUID|PARTUUID|LABEL|PARTLABEL)=(?:"[^"]*"|'[^']*')|[^ \t]+/y;
const BLANKS = /[ \t]*/y;

function fieldsIn(line: string, start: number): Field[] {
  const fields: Field[] = [];
  let at = 0;
  for (;;) {
    BLANKS.lastIndex = at;
    at += BLANKS.exec(line)![0].length;
    if (at >= line.length) return fields;
    FIELD.lastIndex = at;
    let text = FIELD.exec(line)![0];
    // What follows a quote without a blank belongs to it.
    const more = /^[^ \t]*/.exec(line.slice(at + text.length))![0];
    text += more;
    fields.push({ text, value: valueOf(text), from: start + at, to: start + at + text.length });
    at += text.length;
  }
}

/** How many blanks, tabs and commas there are. */
function separatorsIn(line: string): number {
  let found = 0;
  for (let i = 0; i < line.length; i++) {
    const code = line.charCodeAt(i);
    if (code === 0x20 || code === 0x09 || code === 0x2c) found += 1;
  }
  return found;
}

/** Reads a table; what is no entry is left where it is. */
export function readTable(whole: string): TableText {
  const text = whole.slice(0, TABLE_LIMIT);
  const entries: TableEntry[] = [];
  let hasCr = false;
  let line = 0;
  let from = 0;
  let words = 0;
  while (from < text.length && line < TABLE_LINES_LIMIT) {
    line += 1;
    const end = text.indexOf('\n', from);
    const next = end < 0 ? text.length : end + 1;
    let to = end < 0 ? text.length : end;
    if (end > from && text[to - 1] === '\r') {
      hasCr = true;
      to -= 1;
    }
    const content = text.slice(from, to);
    words += separatorsIn(content);
    if (words > TABLE_WORDS_LIMIT) break;
    if (!/^[ \t]*(#|$)/.test(content)) entries.push({ line, from, to, fields: fieldsIn(content, from) });
    from = next;
  }
  return { text: whole, entries, hasCr, isCut: from < whole.length };
}

/** Column of a character in its line, from 1. */
export function columnOf({ from }: TableEntry, at: number): number {
  return at - from + 1;
}

/**
 * Documents as people write them: JSON with comments, commas at ends and a byte order mark is read, and
 * what it was is told; errors have their line and column in the text.
 */
import {
  applyEdits,
  createScanner,
  findNodeAtLocation,
  getNodeValue,
  modify,
  type Node,
  type ParseError,
  parseTree,
  printParseErrorCode,
  visit,
} from 'jsonc-parser';
import { fail, ok, type Result } from '../quantity/result';
import { counted } from '../quantity/units';
import type { Accepted, Layout } from './document';
import { DOCUMENT_LIMIT, type DocumentError, type Naming, validateLayout } from './validate';

/** An error of a document, and where in its text it stands; lines and columns count from 1. */
export interface WrittenError extends DocumentError {
  readonly line?: number;
  readonly column?: number;
}

/** A document that was read, and what to say of how it was written. */
export interface ReadDocument {
  readonly layout: Layout;
  /** True for a document of an older version, whose fields may have other names. */
  readonly isOlder: boolean;
  /** What a strict reader of JSON would refuse, and was read all the same; a sentence each. */
  readonly remarks: readonly string[];
}

/** Deepest nesting of a text; a document needs eight. */
const DEPTH_LIMIT = 64;

/** Finds lines and columns in a text. */
function placesIn(text: string): (offset: number) => { line: number; column: number } {
  const starts = [0];
  for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) starts.push(at + 1);
  return (offset) => {
    const line = starts.findLastIndex((start) => start <= offset);
    return { line: line + 1, column: offset - starts[line]! + 1 };
  };
}

/** The parts of a path as in `slots[2].size`. */
function partsOf(path: string): (string | number)[] {
  return [...path.matchAll(/\[(\d+)\]|([^.[\]]+)/g)].map(([, index, name]) =>
    index === undefined ? name! : Number(index),
  );
}

/** The node of a path, or the nearest one above it that is there. */
function nearestNode(root: Node, path: string): Node {
  for (let parts = partsOf(path); parts.length > 0; parts = parts.slice(0, -1)) {
    const found = findNodeAtLocation(root, parts);
    // The name of a field is where the eye looks for it.
    if (found) return found.parent?.type === 'property' ? found.parent : found;
  }
  return root;
}

/** Whether a text nests deeper than a reader that calls itself should go. */
function isTooDeep(text: string): boolean {
  const scanner = createScanner(text, true);
  let depth = 0;
  for (scanner.scan(); scanner.getTokenOffset() < text.length; scanner.scan()) {
    const first = text[scanner.getTokenOffset()]!;
    if ('{['.includes(first)) depth += 1;
    if ('}]'.includes(first)) depth -= 1;
    if (depth > DEPTH_LIMIT) return true;
  }
  return false;
}

/** What a text that could be read has beyond JSON, and the fields that it says twice. */
function looked(text: string): { comments: number; hasLastComma: boolean; twice: { name: string; offset: number }[] } {
  let comments = 0;
  let hasLastComma = false;
  const seen: Set<string>[] = [];
  const twice: { name: string; offset: number }[] = [];
  visit(
    text,
    {
      onObjectBegin: () => void seen.push(new Set()),
      onObjectProperty: (name, offset) => {
        const names = seen.at(-1)!;
        if (names.has(name)) twice.push({ name, offset });
        names.add(name);
      },
      onObjectEnd: () => void seen.pop(),
      onComment: () => void (comments += 1),
      // All else that is no JSON was refused before.
      onError: () => void (hasLastComma = true),
    },
    { allowTrailingComma: false },
  );
  return { comments, hasLastComma, twice };
}

/** What the reader of the text found wrong, in words. */
const SYNTAX: Readonly<Record<string, string>> = {
  InvalidSymbol: 'a word that is none of JSON',
  InvalidNumberFormat: 'a number that is none of JSON',
  PropertyNameExpected: 'the name of a field is missing, in double quotes',
  ValueExpected: 'a value is missing',
  ColonExpected: 'a colon is missing',
  CommaExpected: 'a comma is missing',
  CloseBraceExpected: 'a closing brace } is missing',
  CloseBracketExpected: 'a closing bracket ] is missing',
  EndOfFileExpected: 'something follows the document',
  UnexpectedEndOfComment: 'a comment does not end',
  UnexpectedEndOfString: 'a text does not end',
  UnexpectedEndOfNumber: 'a number does not end',
  InvalidUnicode: 'a character is written wrongly',
  InvalidEscapeCharacter: 'a character is written wrongly',
  InvalidCharacter: 'a character that may not stand there',
};

/**
 * Reads the text of a document as it was written. The layout is what `validateLayout` makes of it;
 * errors are those of the text, or those of the document with their places in the text.
 */
export function readDocument(written: string, naming?: Naming): Result<ReadDocument, WrittenError[]> {
  if (written.length > DOCUMENT_LIMIT)
    return fail([{ path: '', message: `is longer than ${DOCUMENT_LIMIT} characters` }]);
  const hasMark = written.startsWith('\ufeff');
  // The mark is put out of the way, and the places stay what they are.
  const text = hasMark ? ` ${written.slice(1)}` : written;
  const place = placesIn(text);
  if (isTooDeep(text)) return fail([{ path: '', message: `is nested more than ${DEPTH_LIMIT} levels deep` }]);
  const errors: ParseError[] = [];
  const root = parseTree(text, errors, { allowTrailingComma: true });
  const [first] = errors;
  const isEmpty = !root && (!first || printParseErrorCode(first.error) === 'ValueExpected');
  if (isEmpty) return fail([{ path: '', message: 'is empty' }]);
  if (first || !root) {
    const what = (first && SYNTAX[printParseErrorCode(first.error)]) ?? 'something is wrong here';
    return fail([{ path: '', message: `is not JSON: ${what}`, ...place(first?.offset ?? 0) }]);
  }
  const { comments, hasLastComma, twice } = looked(text);
  if (twice.length > 0)
    return fail(twice.map(({ name, offset }) => ({ path: name, message: 'is said twice', ...place(offset) })));
  const value: unknown = getNodeValue(root);
  const checked = validateLayout(value, naming);
  if (!checked.ok)
    return fail(checked.error.map((error) => ({ ...error, ...place(nearestNode(root, error.path).offset) })));
  const told = [
    ...(hasMark ? ['It begins with a byte order mark.'] : []),
    ...(comments > 0 ? [`It has ${counted(comments, 'comment')}.`] : []),
    ...(hasLastComma ? ['It has a comma behind a last entry.'] : []),
  ];
  const { version } = value as { version?: unknown };
  return ok({ layout: checked.value, isOlder: version !== checked.value.version, remarks: told });
}

/** Another value at a place of a document; `undefined` takes it away, `isNew` puts it into a list. */
export interface TextChange {
  readonly path: readonly (string | number)[];
  readonly value: unknown;
  readonly isNew?: boolean;
}

/** The text of a document with other values; all else stays as it is written, comments too. */
export function withChanges(written: string, changes: readonly TextChange[]): string {
  const mark = written.startsWith('\ufeff') ? '\ufeff' : '';
  let text = written.slice(mark.length);
  const options = { formattingOptions: { insertSpaces: true, tabSize: 2, eol: text.includes('\r\n') ? '\r\n' : '\n' } };
  for (const { path, value, isNew = false } of changes)
    text = applyEdits(
      text,
      modify(text, [...path], value, {
        ...options,
        isArrayInsertion: isNew,
        // An id stands ahead of what it is the id of.
        ...(path.at(-1) === 'id' && { getInsertionIndex: () => 0 }),
      }),
    );
  return mark + text;
}

/** The values of a document that is not complete yet; undefined where its text cannot be read. */
export function valuesOf(written: string): unknown {
  const errors: ParseError[] = [];
  const root = isTooDeep(written)
    ? undefined
    : parseTree(written.replace(/^\ufeff/, ' '), errors, { allowTrailingComma: true });
  return root && errors.length === 0 ? (getNodeValue(root) as unknown) : undefined;
}

/** The text of a document with other accepted risks; all else stays as it is written, comments too. */
export function withAcceptedRisks(
  written: string,
  before: Layout['accepted'] = [],
  after: Layout['accepted'] = [],
): string {
  const same = (a: Accepted) => (b: Accepted) => JSON.stringify(a) === JSON.stringify(b);
  const gone = before.flatMap((one, i) => (after.some(same(one)) ? [] : [i])).reverse();
  const added = after.filter((one) => !before.some(same(one)));
  if (before.length === 0 && added.length > 0) return withChanges(written, [{ path: ['accepted'], value: added }]);
  const left = before.length - gone.length;
  return withChanges(written, [
    ...gone.map((i) => ({ path: ['accepted', i], value: undefined })),
    ...added.map((value, i) => ({ path: ['accepted', left + i], value, isNew: true })),
  ]);
}

/** An error in one line, without a stop at its end: where it is, and what is wrong. */
export function errorText({ path, message, line, column }: WrittenError): string {
  const place = line === undefined ? '' : `line ${line}, column ${column}: `;
  return `${place}${path === '' ? 'the document' : path} ${message}`;
}

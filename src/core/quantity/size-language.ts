/**
 * The size language: how a person says how big something should be.
 *
 *   exact     512 MiB · 40 GB · 1.5 GiB · 2048 sectors · 1500 × 1 MiB
 *   share     rest · rest × 2 · rest, at least 8 GiB, at most 64 GiB
 *   per cent  25 %            of the space between the table areas, whatever else is there
 *   position  ending at 20 GiB          the size that reaches it; the position is exclusive
 *   memory    memory · memory × 1.5     of the machine
 *   same      same as System A · same as "System, the first"
 *   image     its image             of the image or file that is prepared for the slot
 *
 * As people say it, too: `all`, `max`, `remaining`, `the rest` (rest) · `to 5000 MB` (ending at) ·
 * `up to 20 GiB` (rest, at most) · `as large as System A` (same as) · `ram` (memory).
 * `canonicalSize` puts the words above in their place.
 *
 * Bare K, M, G, T are binary; `×` may be typed `*` or `x`. Case does not matter, except that
 * it is never needed to tell units apart. Amounts are exact: decimals are kept as fractions.
 */
import { fail, ok, type Result } from './result';
import { counted, grouped, inBoth, sectorCount, UNITS } from './units';

/** An exact fraction. */
export interface Fraction {
  readonly numerator: bigint;
  readonly denominator: bigint;
}

/** An exact fraction of bytes, or of sectors; the denominator is a power of ten. */
export interface Amount extends Fraction {
  readonly unit: 'byte' | 'sector';
}

/** What a size text asks for. */
export type SizeRule =
  | { readonly kind: 'exact'; readonly amount: Amount }
  | { readonly kind: 'rest'; readonly weight: number; readonly atLeast?: Amount; readonly atMost?: Amount }
  /** `share` of one. */
  | { readonly kind: 'percent'; readonly share: Fraction }
  | { readonly kind: 'ending'; readonly at: Amount }
  | { readonly kind: 'memory'; readonly factor: Fraction }
  /** The name of the other slot. */
  | { readonly kind: 'same'; readonly as: string }
  | { readonly kind: 'image' };

/** Why a size text cannot be read: `at` is the index of the first offending character. */
export interface SizeError {
  readonly at: number;
  readonly length: number;
  readonly message: string;
}

/** Longest size text that is read. */
export const SIZE_TEXT_LIMIT = 120;

/** Largest weight of a share. */
const WEIGHT_LIMIT = 1000;

/** Sizes above this many bytes (8 PiB - 1) are refused: they could not be computed with exactly. */
const LIMIT = BigInt(Number.MAX_SAFE_INTEGER);

interface Token {
  readonly kind: 'number' | 'word' | 'times' | 'comma' | 'quoted' | 'other' | 'end';
  readonly text: string;
  readonly at: number;
}

const SUFFIX: ReadonlyMap<string, number | 'sector'> = new Map<string, number | 'sector'>([
  ...UNITS.map((unit) => [unit.name.toLowerCase(), unit.bytes] as const),
  ...(['k', 'm', 'g', 't', 'p'] as const).map((letter, i) => [letter, 1024 ** (i + 1)] as const),
  ['byte', 1],
  ['bytes', 1],
  ['sector', 'sector'],
  ['sectors', 'sector'],
  ['sec', 'sector'],
]);

function tokens(text: string): Token[] {
  const found: Token[] = [];
  const pattern = /\s+|(\d[\d.,_]*\d|\d)|([×*]|x(?![a-z]))|([a-zµ]+)|(,)|("(?:[^"]|"")*")|(.)/giu;
  for (const match of text.matchAll(pattern)) {
    const at = match.index;
    if (match[1] !== undefined) found.push({ kind: 'number', text: match[1], at });
    else if (match[2] !== undefined) found.push({ kind: 'times', text: match[2], at });
    else if (match[3] !== undefined) found.push({ kind: 'word', text: match[3], at });
    else if (match[4] !== undefined) found.push({ kind: 'comma', text: match[4], at });
    else if (match[5] !== undefined) found.push({ kind: 'quoted', text: match[5], at });
    else if (match[6] !== undefined) found.push({ kind: 'other', text: match[6], at });
  }
  found.push({ kind: 'end', text: '', at: text.length });
  return found;
}

class Refused extends Error {
  constructor(readonly detail: SizeError) {
    super(detail.message);
  }
}

/** Name of another slot as it is written behind `same as`: quoted where it could not be read back otherwise. */
export function nameInSize(name: string): string {
  const isPlain = /^[^\s",;][^",;]*$/.test(name) && name === name.trim();
  return isPlain ? name : `"${name.replaceAll('"', '""')}"`;
}

/** A recursive-descent reader over the tokens of one size text. */
class SizeReader {
  private position = 0;
  private readonly tokens: Token[];
  /** How the words are written that the size begins with, where people say others. */
  canonicalWords: string | undefined;

  /** `whole`: nothing but the size is in the text. */
  constructor(
    private readonly text: string,
    private readonly whole: boolean,
  ) {
    this.tokens = tokens(text);
  }

  get next(): Token {
    return this.tokens[this.position]!;
  }

  take(): Token {
    const token = this.next;
    if (token.kind !== 'end') this.position += 1;
    return token;
  }

  word(...words: string[]): boolean {
    if (this.next.kind !== 'word' || !words.includes(this.next.text.toLowerCase())) return false;
    this.position += 1;
    return true;
  }

  refuse(token: Token, message: string): never {
    throw new Refused({ at: token.at, length: Math.max(1, token.text.length), message });
  }

  /** Reads a rule and stops behind it; a comma that begins no bound is left alone. */
  rule(): SizeRule {
    if (this.next.kind === 'end') this.refuse(this.next, 'Say a size, for instance 512 MiB, or rest.');
    if (this.word('rest')) return this.share();
    if (this.word('memory')) return { kind: 'memory', factor: this.factor() };
    if (this.word('ending')) {
      if (!this.word('at')) this.refuse(this.next, 'Say “ending at” and a position, for instance ending at 20 GiB.');
      return { kind: 'ending', at: this.amount() };
    }
    if (this.word('same')) {
      if (!this.word('as')) this.refuse(this.next, 'Say “same as” and the name of a slot.');
      return this.same();
    }
    if (this.word('its')) return this.image();
    return this.saidOtherwise() ?? this.amountOrPercent();
  }

  /** The words that people say; `canonicalWords` is how they are written. */
  private saidOtherwise(): SizeRule | undefined {
    if (this.word('all', 'max', 'remaining')) return this.meant('rest', this.share());
    if (this.word('ram')) return this.meant('memory', { kind: 'memory', factor: this.factor() });
    if (this.word('the')) {
      if (!this.word('rest')) this.refuse(this.next, 'Say “the rest”.');
      return this.meant('rest', this.share());
    }
    if (this.word('to')) return this.meant('ending at', { kind: 'ending', at: this.amount() });
    if (this.word('up')) {
      if (!this.word('to'))
        this.refuse(this.next, 'Say “up to” and the most that it may have, for instance up to 20 GiB.');
      return this.meant('rest, at most', { kind: 'rest', weight: 1, atMost: this.amount() });
    }
    if (!this.word('as')) return undefined;
    if (!this.word('large') || !this.word('as')) this.refuse(this.next, 'Say “as large as” and the name of a slot.');
    return this.meant('same as', this.same());
  }

  /** What was said in other words. */
  private meant(words: string, rule: SizeRule): SizeRule {
    this.canonicalWords = words;
    return rule;
  }

  /** Everything must have been read. */
  finish(rule: SizeRule): SizeRule {
    const token = this.next;
    if (token.kind === 'comma' && rule.kind !== 'rest')
      this.refuse(token, 'Bounds go with rest only; this size needs none.');
    if (token.kind !== 'end') this.refuse(token, `Nothing was expected here, but “${token.text}” follows.`);
    return rule;
  }

  private same(): SizeRule {
    const first = this.next;
    if (first.kind === 'quoted') {
      this.take();
      const as = first.text.slice(1, -1).replaceAll('""', '"');
      if (as === '') this.refuse(first, 'A slot has a name.');
      return { kind: 'same', as };
    }
    // The name reaches as far as nothing ends it: commas and semicolons do.
    while (this.next.kind !== 'end' && !/^[,;"]/.test(this.next.text)) this.take();
    const as = this.text.slice(first.at, this.next.at).trim();
    if (as === '') this.refuse(this.next, 'Say whose size it is: same as, and the name of a slot.');
    return { kind: 'same', as };
  }

  private image(): SizeRule {
    if (!this.word('image', 'file'))
      this.refuse(this.next, 'Say “its image”: the size of what is prepared for the slot.');
    return { kind: 'image' };
  }

  /** `× 1.5` behind `memory`. */
  private factor(): Fraction {
    if (this.next.kind !== 'times') return { numerator: 1n, denominator: 1n };
    this.take();
    const { token, numerator, denominator } = this.number();
    if (numerator === 0n || numerator > 1000n * denominator)
      this.refuse(token, 'A multiple of the memory is more than 0 and at most 1000.');
    return { numerator, denominator };
  }

  private amountOrPercent(): SizeRule {
    const before = this.position;
    if (this.next.kind === 'number') {
      const { token, numerator, denominator } = this.number();
      if (this.next.text === '%') {
        this.take();
        if (numerator === 0n || numerator > 100n * denominator)
          this.refuse(token, 'Per cent are more than 0 and at most 100.');
        return { kind: 'percent', share: { numerator, denominator: denominator * 100n } };
      }
    }
    this.position = before;
    return { kind: 'exact', amount: this.amount() };
  }

  private share(): SizeRule {
    const weight = this.next.kind === 'times' ? this.weight() : 1;
    let atLeast: Amount | undefined;
    let atMost: Amount | undefined;
    while (this.next.kind === 'comma' && (this.whole || this.beginsBound(1))) {
      this.take();
      const start = this.next;
      if (!this.word('at')) this.refuse(start, 'After the comma say “at least” or “at most” and a size.');
      const which = this.next;
      if (this.word('least')) {
        if (atLeast) this.refuse(start, '“at least” is already said.');
        atLeast = this.amount();
      } else if (this.word('most')) {
        if (atMost) this.refuse(start, '“at most” is already said.');
        atMost = this.amount();
      } else this.refuse(which, 'Say “least” or “most” after “at”.');
      if (atLeast && atMost && exceeds(atLeast, atMost)) this.refuse(start, 'The least is larger than the most.');
    }
    return { kind: 'rest', weight, ...(atLeast && { atLeast }), ...(atMost && { atMost }) };
  }

  private beginsBound(ahead: number): boolean {
    const token = this.tokens[this.position + ahead];
    return token?.kind === 'word' && token.text.toLowerCase() === 'at';
  }

  private weight(): number {
    this.take();
    const token = this.next;
    if (token.kind !== 'number' || !/^\d+$/.test(token.text))
      this.refuse(token, 'Say the weight as a whole number, for instance rest × 2.');
    const weight = Number(this.take().text);
    if (weight < 1 || weight > WEIGHT_LIMIT) this.refuse(token, `A weight lies between 1 and ${WEIGHT_LIMIT}.`);
    return weight;
  }

  private amount(): Amount {
    const first = this.number();
    if (this.next.kind !== 'times') return this.bounded(first.token, this.withUnit(first));
    this.take();
    const second = this.number();
    const size = this.withUnit(second);
    if (first.denominator !== 1n) this.refuse(first.token, 'A count of blocks is a whole number.');
    return this.bounded(first.token, { ...size, numerator: size.numerator * first.numerator });
  }

  private bounded(token: Token, amount: Amount): Amount {
    if (amount.numerator === 0n) this.refuse(token, 'A size is more than zero.');
    if (amount.numerator > LIMIT * amount.denominator) this.refuse(token, 'Too large: sizes stay below 8 PiB.');
    return amount;
  }

  private number(): { token: Token; numerator: bigint; denominator: bigint } {
    const token = this.next;
    if (token.kind !== 'number') this.refuse(token, 'A number is expected here.');
    this.take();
    const grouping = /^\d{1,3}(?:,\d{3})+/.exec(token.text)?.[0] ?? '';
    // Behind the thousands, and behind a point, no comma may follow.
    const comma = token.text.indexOf(',', grouping.length);
    if (comma >= 0)
      throw new Refused({
        at: token.at + comma,
        length: 1,
        message: 'Fractions are written with a point; commas only group thousands.',
      });
    const plain = token.text.replace(/[,_]/g, '');
    const [integer = '', fraction = '', ...more] = plain.split('.');
    if (more.length > 0) this.refuse(token, 'A number has one decimal point at most.');
    if (plain.length > 24) this.refuse(token, 'The number has too many digits.');
    return { token, numerator: BigInt(integer + fraction), denominator: 10n ** BigInt(fraction.length) };
  }

  private withUnit(number: { numerator: bigint; denominator: bigint }): Amount {
    const token = this.next;
    if (token.kind === 'end') this.refuse(token, 'A unit is missing: MiB, GB, sectors …');
    const factor = token.kind === 'word' ? SUFFIX.get(token.text.toLowerCase()) : undefined;
    if (factor === undefined)
      this.refuse(token, `“${token.text}” is no unit. Known: B, kB, MB, GB, TB, KiB, MiB, GiB, TiB, sectors.`);
    this.take();
    if (factor !== 'sector') {
      return { unit: 'byte', numerator: number.numerator * BigInt(factor), denominator: number.denominator };
    }
    if (number.denominator !== 1n) this.refuse(token, 'Sectors come whole.');
    return { unit: 'sector', numerator: number.numerator, denominator: 1n };
  }
}

/** True if `a` is certainly larger than `b`: amounts in different units are not compared. */
function exceeds(a: Amount, b: Amount): boolean {
  return a.unit === b.unit && a.numerator * b.denominator > b.numerator * a.denominator;
}

function reading<T>(work: () => T): Result<T, SizeError> {
  try {
    return ok(work());
  } catch (error) {
    if (error instanceof Refused) return fail(error.detail);
    throw error;
  }
}

/** Reads a size text. The error points at the character that cannot be understood. */
export function parseSize(text: string): Result<SizeRule, SizeError> {
  if (text.length > SIZE_TEXT_LIMIT)
    return fail({
      at: SIZE_TEXT_LIMIT,
      length: 1,
      message: `A size text has at most ${SIZE_TEXT_LIMIT} characters.`,
    });
  const reader = new SizeReader(text, true);
  return reading(() => reader.finish(reader.rule()));
}

/** The words of a size that people say in their own way, and all that is behind them. */
const SAID = /^\s*(?:all|max|remaining|the\s+rest|to|up\s+to|as\s+large\s+as|ram)(?![\p{L}\p{N}])\s*/iu;

/** A size text in the words of the size language, its figures as they were typed; one that cannot be read stays. */
export function canonicalSize(text: string): string {
  if (!SAID.test(text) || text.length > SIZE_TEXT_LIMIT) return text;
  const reader = new SizeReader(text, true);
  const rule = reading(() => reader.finish(reader.rule()));
  const words = reader.canonicalWords;
  if (!rule.ok || words === undefined) return text;
  const rest = text.replace(SAID, '').trimEnd();
  return /^(?:$|,)/.test(rest) ? words + rest : `${words} ${rest}`;
}

/** Reads a size at the start of a longer text; `end` is the index behind it. */
export function parseSizeAhead(text: string): Result<{ readonly rule: SizeRule; readonly end: number }, SizeError> {
  const reader = new SizeReader(text, false);
  return reading(() => {
    const rule = reader.rule();
    return { rule, end: text.slice(0, reader.next.at).trimEnd().length };
  });
}

/** Reads a size text that must be an exact amount. */
export function parseExact(text: string): Result<Amount, SizeError> {
  const rule = parseSize(text);
  if (!rule.ok) return rule;
  if (rule.value.kind === 'exact') return ok(rule.value.amount);
  return fail({ at: 0, length: text.length, message: 'An exact size is needed here, for instance 8 KiB.' });
}

/** Whole bytes of an amount, a fraction rounded up; sectors count `sectorSize` bytes each. */
export function amountInBytes(amount: Amount, sectorSize: number): number {
  const factor = amount.unit === 'sector' ? BigInt(sectorSize) : 1n;
  const bytes = (amount.numerator * factor + amount.denominator - 1n) / amount.denominator;
  return bytes > LIMIT ? Number.MAX_SAFE_INTEGER : Number(bytes);
}

/** Whole sectors of an amount, a part of a sector rounded up. */
export function amountInSectors(amount: Amount, sectorSize: number): number {
  return Math.ceil(amountInBytes(amount, sectorSize) / sectorSize);
}

/** Exact bytes, sectors, and both unit families of an amount, in one line. */
function describeAmount(amount: Amount, sectorSize: number): string {
  const bytes = amountInBytes(amount, sectorSize);
  const sectors = Math.ceil(bytes / sectorSize);
  const rounded =
    bytes % sectorSize === 0 && amount.numerator % amount.denominator === 0n ? '' : ', rounded up to whole sectors';
  return `${counted(bytes, 'byte')} · ${inBoth(bytes)} · ${sectorCount(sectors)}${rounded}`;
}

/** What a rule may refer to: the memory and the prepared image in bytes, and the sectors between the table areas. */
export interface SizeFacts {
  readonly memory?: number | undefined;
  readonly space?: number | undefined;
  readonly image?: number | undefined;
}

/** Bytes of a multiple of the memory, rounded up. */
export function memoryBytes(factor: Fraction, memory: number): number {
  const { numerator, denominator } = factor;
  const bytes = (BigInt(memory) * numerator + denominator - 1n) / denominator;
  return bytes > LIMIT ? Number.MAX_SAFE_INTEGER : Number(bytes);
}

/** Whole sectors of a share of `space` sectors, rounded down. */
export function shareOf({ numerator, denominator }: Fraction, space: number): number {
  return Number((BigInt(space) * numerator) / denominator);
}

/** A fraction as a decimal number, for reading. */
function decimalText({ numerator, denominator }: Fraction): string {
  return String(Math.round((Number(numerator) / Number(denominator)) * 1e6) / 1e6);
}

function describePercent(share: Fraction, sectorSize: number, space: number | undefined): string {
  const text = `${decimalText({ ...share, denominator: share.denominator / 100n })} % of the space between the table areas`;
  if (space === undefined) return text;
  const bytes = shareOf(share, space) * sectorSize;
  return `${text}: ${counted(bytes, 'byte')} · ${inBoth(bytes)}, then down to the grain`;
}

function describeMemory(factor: Fraction, sectorSize: number, memory: number | undefined): string {
  const times = factor.numerator === factor.denominator ? '' : `${decimalText(factor)} × `;
  if (memory === undefined) return `${times}the memory of the machine, which the layout does not say yet`;
  const amount: Amount = {
    unit: 'byte',
    numerator: BigInt(memory) * factor.numerator,
    denominator: factor.denominator,
  };
  return `${times}the memory of the machine: ${describeAmount(amount, sectorSize)}`;
}

function describeImage(sectorSize: number, bytes: number | undefined): string {
  if (bytes === undefined) return 'as large as the image or file that is put into it';
  return `as large as its image: ${describeAmount({ unit: 'byte', numerator: BigInt(bytes), denominator: 1n }, sectorSize)}`;
}

/** What a size rule means, said in words and figures, for sectors of `sectorSize` bytes. */
export function describeSize(rule: SizeRule, sectorSize: number, facts: SizeFacts = {}): string {
  switch (rule.kind) {
    case 'exact':
      return describeAmount(rule.amount, sectorSize);
    case 'percent':
      return describePercent(rule.share, sectorSize, facts.space);
    case 'memory':
      return describeMemory(rule.factor, sectorSize, facts.memory);
    case 'same':
      return `as many sectors as ${rule.as}`;
    case 'image':
      return describeImage(sectorSize, facts.image);
    case 'ending':
      return `up to byte ${describeAmount(rule.at, sectorSize)}; its last sector is ${grouped(amountInSectors(rule.at, sectorSize) - 1)}`;
    case 'rest': {
      const share = rule.weight === 1 ? 'an equal share of what is left' : `${rule.weight} shares of what is left`;
      const least = rule.atLeast ? `, at least ${describeAmount(rule.atLeast, sectorSize)}` : '';
      const most = rule.atMost ? `, at most ${describeAmount(rule.atMost, sectorSize)}` : '';
      return share + least + most;
    }
  }
}

/** Bytes of an exact size text of a validated document. */
export function exactBytes(text: string, sectorSize: number): number {
  if (text === '0') return 0;
  const amount = parseExact(text);
  if (!amount.ok) throw new RangeError(`not an exact size: ${text}`);
  return amountInBytes(amount.value, sectorSize);
}

/**
 * Reads a tar archive while it passes by, and says where in it the content of every file lies: as
 * POSIX.1-2017, pax, "ustar Interchange Format" and "pax Header Block" describe it, with the two
 * long names, the large numbers and the files with holes of GNU archives.
 */
import { KIB, MIB } from '@/core/quantity/units';
import { textOfBytes } from '@/core/bytes/utf8';
import { type HolesMap, mapIn, sparseOf } from './sparse-tar';
import { paxRecords, type PaxRecords } from './pax';

const BLOCK = 512;
/** Longest extended header that is read, in bytes. */
const EXTENDED_LIMIT = 4 * MIB;
/** Most bytes of what is said for all members, and most of its records: it is looked through for each of them. */
const GLOBAL_LIMIT = { bytes: 64 * KIB, records: 100 };
const MAGIC = [...'ustar'].map((letter) => letter.charCodeAt(0));
/** The sum of a header is made as if its own field were blanks. */
const SUM_FIELD = { from: 148, to: 156 };

/** Type flags of headers that belong to the next one. */
const EXTENDED = new Set(['x', 'g', 'L', 'K']);

export type MemberKind = 'file' | 'folder' | 'link' | 'second name' | 'device' | 'pipe' | 'unknown';

const KINDS: Readonly<Record<string, MemberKind>> = {
  '0': 'file',
  '\0': 'file',
  '1': 'second name',
  '2': 'link',
  '3': 'device',
  '4': 'device',
  '5': 'folder',
  '6': 'pipe',
  '7': 'file',
  S: 'file',
};
/** A device that is read in blocks. */
const BLOCK_DEVICE = '4';
/** A file whose map of holes stands in its header, and in further blocks behind it. */
const OLD_SPARSE = 'S';
const OLD_MAP = { at: 386, more: 482, size: 483, entries: 4 };
const MORE_MAP = { at: 0, more: 504, entries: 21 };
const MAP_BLOCKS = 60_000;

/** What a header says of a member of an archive. */
export interface Member {
  readonly name: string;
  readonly kind: MemberKind;
  /** Bytes of its content that are in the archive. */
  readonly size: number;
  /** In seconds since 1970, and nanoseconds. */
  readonly time: number;
  readonly nanoseconds: number;
  readonly mode: number;
  readonly user: number;
  readonly group: number;
  /** What a link leads to, or of what it is a second name. */
  readonly target: string;
  readonly device: { readonly device: 'character' | 'block'; readonly major: number; readonly minor: number };
  readonly pax: PaxRecords | undefined;
  /** Of a file with holes, where its data belongs. */
  readonly holes: HolesMap | undefined;
  /** Where its content begins, in bytes from the start of the archive. */
  readonly at: number;
}

/** Takes the content of a member piece by piece; nothing of what it is given stays as it is afterwards. */
export interface Taker {
  take(bytes: Uint8Array): void | Promise<void>;
  end(): void | Promise<void>;
  /** The archive ended, or cannot be read on. */
  abandon?(): void;
}

function textAt(block: Uint8Array, at: number, length: number): string {
  const end = block.indexOf(0, at);
  if (end === at) return '';
  return textOfBytes(block.subarray(at, end < 0 || end > at + length ? at + length : end));
}

const ZERO = 0x30;
const BLANK = 0x20;

/** Numbers in octal digits with blanks around them, or of 63 bits behind a set bit; NaN where something else stands. */
function numberAt(block: Uint8Array, at: number, length: number): number {
  if (block[at]! & 0x80) {
    let value = block[at]! === 0xff ? -1 : block[at]! & 0x7f;
    for (let i = at + 1; i < at + length; i++) value = value * 256 + block[i]!;
    return value;
  }
  let [value, digits, isOver] = [0, 0, false];
  for (let i = at; i < at + length && block[i] !== 0; i++) {
    const digit = block[i]! - ZERO;
    if (block[i] === BLANK) isOver = digits > 0;
    else if (isOver || digit < 0 || digit > 7) return Number.NaN;
    else {
      value = value * 8 + digit;
      digits += 1;
    }
  }
  return value;
}

function sumOf(block: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < BLOCK; i++) sum += i >= SUM_FIELD.from && i < SUM_FIELD.to ? 0x20 : block[i]!;
  return sum;
}

/** The pairs of a map of holes in the older form: where a piece begins, and its length. */
function pairsAt(block: Uint8Array, { at, entries }: { readonly at: number; readonly entries: number }): number[] {
  const numbers: number[] = [];
  for (let i = 0; i < entries; i++) {
    if (block[at + 24 * i] === 0) break;
    numbers.push(numberAt(block, at + 24 * i, 12), numberAt(block, at + 24 * i + 12, 12));
  }
  return numbers;
}

/** A time in an extended header: seconds with a fraction. */
function paxTime(text: string | undefined): { time: number; nanoseconds: number } | undefined {
  const found = text === undefined ? undefined : /^(-?)(\d{1,15})(?:\.(\d*))?$/.exec(text);
  if (!found) return undefined;
  const [, sign, seconds, fraction = ''] = found;
  const nanoseconds = Number(fraction.slice(0, 9).padEnd(9, '0'));
  if (sign !== '-') return { time: Number(seconds), nanoseconds };
  // Nanoseconds always count up.
  return nanoseconds === 0
    ? { time: -Number(seconds), nanoseconds }
    : { time: -Number(seconds) - 1, nanoseconds: 1e9 - nanoseconds };
}

/** What is said for all members that follow. Throws an Error where that is too much. */
function globally(before: PaxRecords, bytes: Uint8Array): PaxRecords {
  const global = new Map([...before, ...paxRecords(bytes)]);
  let length = 0;
  for (const [key, { all }] of global) length += key.length + all.reduce((sum, one) => sum + one.length, 0);
  if (global.size > GLOBAL_LIMIT.records || length > GLOBAL_LIMIT.bytes)
    throw new Error('what it says for all of its files is too long');
  return global;
}

/** What stands ahead of a header and belongs to it. */
interface Ahead {
  name?: string;
  target?: string;
  pax?: PaxRecords;
}

/** A member in the older form with holes, whose map goes on behind its header. */
interface Mapping {
  readonly block: Uint8Array;
  readonly numbers: number[];
  blocks: number;
}

export class TarReader {
  /** Bytes that were read. */
  private offset = 0;
  /** Where the next header, or what lies behind a member, begins in `held`. */
  private held = Buffer.alloc(0);
  private global: PaxRecords = new Map();
  private mapping: Mapping | undefined;
  private ahead: Ahead = {};
  private extended: { flag: string; left: number; parts: Uint8Array[] } | undefined;
  private taker: Taker | undefined;
  /** Bytes of the member's content, and of what fills its last block, that are still to come. */
  private left = 0;
  private filling = 0;

  /** `enter` is asked at every member; where it gives nothing, the content is passed over. */
  constructor(private readonly enter: (member: Member) => Taker | undefined) {}

  /** Reads on. Rejects with an Error that says what is wrong. */
  async take(chunk: Uint8Array): Promise<void> {
    let at = 0;
    while (at < chunk.length) {
      if (this.left > 0) {
        const part = chunk.subarray(at, at + this.left);
        this.left -= part.length;
        at += part.length;
        const work = this.pass(part);
        if (work) await work;
        if (this.left === 0) {
          const end = this.ended();
          if (end) await end;
        }
      } else if (this.filling > 0) {
        const skipped = Math.min(this.filling, chunk.length - at);
        this.filling -= skipped;
        at += skipped;
      } else {
        const taken = Math.min(BLOCK - this.held.length, chunk.length - at);
        const piece = chunk.subarray(at, at + taken);
        at += taken;
        if (this.held.length === 0 && taken === BLOCK) await this.header(piece, this.offset + at);
        else {
          this.held = Buffer.concat([this.held, piece]);
          if (this.held.length < BLOCK) break;
          const block = this.held;
          this.held = Buffer.alloc(0);
          await this.header(block, this.offset + at);
        }
      }
    }
    this.offset += chunk.length;
  }

  /** Says that nothing comes any more. Throws an Error where something should. */
  end(): void {
    if (this.left > 0 || this.filling > 0 || this.held.length > 0) throw new Error('it ends in the middle of a file');
  }

  /** Lets go of a member that was being read. */
  abandon(): void {
    this.taker?.abandon?.();
    this.taker = undefined;
  }

  private pass(part: Uint8Array): void | Promise<void> {
    if (this.extended) {
      this.extended.parts.push(part.slice());
      return undefined;
    }
    return this.taker?.take(part);
  }

  private ended(): void | Promise<void> {
    if (this.extended) {
      const { flag, parts } = this.extended;
      this.extended = undefined;
      const bytes = Buffer.concat(parts);
      if (flag === 'L') this.ahead.name = textAt(bytes, 0, bytes.length);
      if (flag === 'K') this.ahead.target = textAt(bytes, 0, bytes.length);
      if (flag === 'x') this.ahead.pax = paxRecords(bytes);
      if (flag === 'g') this.global = globally(this.global, bytes);
      return undefined;
    }
    const { taker } = this;
    this.taker = undefined;
    return taker?.end();
  }

  private follow(size: number): void {
    this.left = size;
    this.filling = (BLOCK - (size % BLOCK)) % BLOCK;
  }

  private async header(block: Uint8Array, at: number): Promise<void> {
    if (this.mapping) return this.moreOfMap(this.mapping, block, at);
    const sum = sumOf(block);
    // A block of zeros ends an archive; another one may follow.
    if (sum === (SUM_FIELD.to - SUM_FIELD.from) * 0x20 && block.every((byte) => byte === 0)) return;
    if (sum !== numberAt(block, SUM_FIELD.from, SUM_FIELD.to - SUM_FIELD.from))
      throw new Error('a header in it has another sum than it says');
    if (!MAGIC.every((byte, i) => block[257 + i] === byte)) throw new Error('it has a header of an unknown form');
    const flag = String.fromCharCode(block[156]!);
    const size = numberAt(block, 124, 12);
    if (!Number.isSafeInteger(size) || size < 0) throw new Error('a header in it has no length');
    if (EXTENDED.has(flag)) {
      if (size > (flag === 'g' ? GLOBAL_LIMIT.bytes : EXTENDED_LIMIT))
        throw new Error('an extended header in it is too long');
      this.extended = { flag, left: size, parts: [] };
      this.follow(size);
      if (size === 0) await this.ended();
      return;
    }
    if (flag === OLD_SPARSE) {
      this.mapping = { block: block.slice(), numbers: pairsAt(block, OLD_MAP), blocks: 0 };
      if (block[OLD_MAP.more] === 0) await this.mapped(this.mapping, at);
      return;
    }
    await this.member(block, flag, size, at);
  }

  private async moreOfMap(mapping: Mapping, block: Uint8Array, at: number): Promise<void> {
    mapping.numbers.push(...pairsAt(block, MORE_MAP));
    mapping.blocks += 1;
    if (mapping.blocks > MAP_BLOCKS) throw new Error('a map of holes in it is too long');
    if (block[MORE_MAP.more] === 0) await this.mapped(mapping, at);
  }

  /** All of the map of holes is there: what follows is the data. */
  private async mapped({ block, numbers }: Mapping, at: number): Promise<void> {
    this.mapping = undefined;
    const holes = mapIn(numbers, numberAt(block, OLD_MAP.size, 12));
    await this.member(block, OLD_SPARSE, numberAt(block, 124, 12), at, holes);
  }

  private async member(block: Uint8Array, flag: string, written: number, at: number, old?: HolesMap): Promise<void> {
    const { name: longName, target: longTarget, pax: own } = this.ahead;
    this.ahead = {};
    const pax = own || this.global.size > 0 ? new Map([...this.global, ...(own ?? [])]) : undefined;
    const said = (key: string) => pax?.get(key)?.text;
    const number = (key: string, from: number, length: number) => {
      const text = said(key);
      return text === undefined ? numberAt(block, from, length) : Number(text);
    };
    const size = said('size') === undefined ? written : Number(said('size'));
    if (!Number.isSafeInteger(size) || size < 0) throw new Error('an extended header in it has no length');
    // In the older form the field of the prefix holds something else.
    const isPosix = block[262] === 0;
    const prefix = isPosix ? textAt(block, 345, 155) : '';
    const short = textAt(block, 0, 100);
    const holes = old ?? sparseOf(pax);
    const name = holes?.name ?? said('path') ?? longName ?? (prefix ? `${prefix}/${short}` : short);
    const kind = (flag === '0' || flag === '\0') && name.endsWith('/') ? 'folder' : (KINDS[flag] ?? 'unknown');
    const isBlock = flag === BLOCK_DEVICE;
    const member: Member = {
      name,
      kind,
      size,
      ...(paxTime(said('mtime')) ?? { time: numberAt(block, 136, 12), nanoseconds: 0 }),
      mode: numberAt(block, 100, 8),
      user: number('uid', 108, 8),
      group: number('gid', 116, 8),
      target: said('linkpath') ?? longTarget ?? textAt(block, 157, 100),
      device: {
        device: isBlock ? 'block' : 'character',
        major: numberAt(block, 329, 8),
        minor: numberAt(block, 337, 8),
      },
      pax,
      holes,
      at,
    };
    this.taker = this.enter(member);
    // Nothing lies behind a folder, whatever its header says.
    this.follow(kind === 'folder' ? 0 : size);
    if (this.left === 0) await this.ended();
  }
}

/**
 * Reads a tar archive while it passes by, and says where in it the content of every file lies: as
 * POSIX.1-2017, pax, "ustar Interchange Format" and "pax Header Block" describe it, with the two
 * long names and the large numbers of GNU archives.
 */
import { MIB } from '@/core/quantity/units';

const BLOCK = 512;
/** Longest extended header that is read, in bytes. */
const EXTENDED_LIMIT = MIB;
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
};

/** What a header says of a member of an archive. */
export interface Member {
  readonly name: string;
  readonly kind: MemberKind;
  readonly size: number;
  /** In seconds since 1970. */
  readonly time: number;
  readonly mode: number;
  readonly pax: Readonly<Record<string, string>> | undefined;
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

const utf8 = new TextDecoder();

function textAt(block: Uint8Array, at: number, length: number): string {
  const end = block.indexOf(0, at);
  return utf8.decode(block.subarray(at, end < 0 || end > at + length ? at + length : end));
}

/** Numbers in octal digits, or of 63 bits behind a set bit. */
function numberAt(block: Uint8Array, at: number, length: number): number {
  if (block[at]! & 0x80) {
    let value = block[at]! === 0xff ? -1 : block[at]! & 0x7f;
    for (let i = at + 1; i < at + length; i++) value = value * 256 + block[i]!;
    return value;
  }
  const text = textAt(block, at, length).trim();
  if (text === '') return 0;
  return /^[0-7]+$/.test(text) ? parseInt(text, 8) : Number.NaN;
}

function sumOf(block: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < BLOCK; i++) sum += i >= SUM_FIELD.from && i < SUM_FIELD.to ? 0x20 : block[i]!;
  return sum;
}

/** The records of an extended header: `LENGTH KEY=VALUE\n`. */
function recordsOf(bytes: Uint8Array): Record<string, string> {
  const records: Record<string, string> = Object.create(null) as Record<string, string>;
  for (let at = 0; at < bytes.length;) {
    const blank = bytes.indexOf(0x20, at);
    const length = blank < 0 ? Number.NaN : Number(utf8.decode(bytes.subarray(at, blank)));
    if (!Number.isSafeInteger(length) || length <= blank - at || at + length > bytes.length) break;
    const text = utf8.decode(bytes.subarray(blank + 1, at + length - 1));
    const equals = text.indexOf('=');
    if (equals < 0) break;
    records[text.slice(0, equals)] = text.slice(equals + 1);
    at += length;
  }
  return records;
}

/** What stands ahead of a header and belongs to it. */
interface Ahead {
  name?: string;
  pax?: Record<string, string>;
}

export class TarReader {
  /** Bytes that were read. */
  private offset = 0;
  /** Where the next header, or what lies behind a member, begins in `held`. */
  private held = Buffer.alloc(0);
  private global: Record<string, string> = {};
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
      if (flag === 'x') this.ahead.pax = recordsOf(bytes);
      if (flag === 'g') this.global = { ...this.global, ...recordsOf(bytes) };
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
    const sum = sumOf(block);
    // A block of zeros ends an archive; another one may follow.
    if (sum === (SUM_FIELD.to - SUM_FIELD.from) * 0x20 && block.every((byte) => byte === 0)) return;
    if (sum !== numberAt(block, SUM_FIELD.from, SUM_FIELD.to - SUM_FIELD.from))
      throw new Error('a header in it has another sum than it says');
    const magic = textAt(block, 257, 5);
    if (magic !== 'ustar') throw new Error('it has a header of an unknown form');
    const flag = String.fromCharCode(block[156]!);
    const size = numberAt(block, 124, 12);
    if (!Number.isSafeInteger(size) || size < 0) throw new Error('a header in it has no length');
    if (EXTENDED.has(flag)) {
      if (size > EXTENDED_LIMIT) throw new Error('an extended header in it is too long');
      this.extended = { flag, left: size, parts: [] };
      this.follow(size);
      if (size === 0) await this.ended();
      return;
    }
    await this.member(block, flag, size, at);
  }

  private async member(block: Uint8Array, flag: string, written: number, at: number): Promise<void> {
    const { name: longName, pax: own } = this.ahead;
    this.ahead = {};
    const isGlobal = Object.keys(this.global).length > 0;
    const pax = own || isGlobal ? { ...this.global, ...own } : undefined;
    const size = pax?.size === undefined ? written : Number(pax.size);
    if (!Number.isSafeInteger(size) || size < 0) throw new Error('an extended header in it has no length');
    // In the older form the field of the prefix holds something else.
    const isPosix = block[262] === 0;
    const prefix = isPosix ? textAt(block, 345, 155) : '';
    const short = textAt(block, 0, 100);
    const name = pax?.path ?? longName ?? (prefix ? `${prefix}/${short}` : short);
    const kind = (flag === '0' || flag === '\0') && name.endsWith('/') ? 'folder' : (KINDS[flag] ?? 'unknown');
    const member = { name, kind, size, time: numberAt(block, 136, 12), mode: numberAt(block, 100, 8), pax, at };
    this.taker = this.enter(member);
    // Nothing lies behind a folder, whatever its header says.
    this.follow(kind === 'folder' ? 0 : size);
    if (this.left === 0) await this.ended();
  }
}

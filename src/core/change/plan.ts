/**
 * Plans: what a change writes, range by range, with what lies there now. Making one reads and never writes; whoever
 * carries it out (a new image, a kit, the bench) writes these ranges and nothing else, and only where what lies there
 * is what the plan has seen.
 */
import type { BlockSource } from '../bytes/blocks';

/** A range that is written. `before` and `after` have the same length. */
export interface PlannedRange {
  readonly what: string;
  /** Byte of the medium. */
  readonly at: number;
  readonly before: Uint8Array;
  readonly after: Uint8Array;
}

/** Ranges in ascending order, without overlap, for a medium of so many bytes. */
export interface Plan {
  readonly size: number;
  readonly ranges: readonly PlannedRange[];
}

interface Write {
  readonly what: string;
  readonly at: number;
  readonly bytes: Uint8Array;
}

const endOf = ({ at, bytes }: Write) => at + bytes.length;

/** True where two pieces of bytes are alike. */
export function alike(a: Uint8Array, b: Uint8Array): boolean {
  return a.length === b.length && a.every((byte, i) => byte === b[i]);
}

/** A medium as it would be with changes, which are kept beside it: it reads as changed, and nothing is written. */
export class Draft implements BlockSource {
  private readonly writes: Write[] = [];
  readonly size: number;

  constructor(private readonly source: BlockSource) {
    this.size = source.size;
  }

  /** Puts bytes over what lies at `at`. Throws a RangeError where they leave the medium. */
  put(what: string, at: number, bytes: Uint8Array): void {
    if (at < 0 || at + bytes.length > this.size) throw new RangeError(`range ${at}+${bytes.length} leaves the medium`);
    this.writes.push({ what, at, bytes });
  }

  async read(offset: number, length: number): Promise<Uint8Array> {
    const bytes = Uint8Array.from(await this.source.read(offset, length));
    for (const write of this.writes) {
      const [from, to] = [Math.max(write.at, offset), Math.min(endOf(write), offset + length)];
      if (from < to) bytes.set(write.bytes.subarray(from - write.at, to - write.at), from - offset);
    }
    return bytes;
  }

  /** What differs from the medium in the end: of each range that was put, where nothing later covers it. */
  async plan(): Promise<Plan> {
    const edges = [...new Set(this.writes.flatMap((write) => [write.at, endOf(write)]))].sort((a, b) => a - b);
    const ranges: PlannedRange[] = [];
    for (const [i, at] of edges.entries()) {
      const end = edges[i + 1];
      const last = end === undefined ? undefined : this.writes.findLast((one) => one.at <= at && endOf(one) >= end);
      if (!last || end === undefined) continue;
      const before = Uint8Array.from(await this.source.read(at, end - at));
      const after = last.bytes.slice(at - last.at, end - last.at);
      if (!alike(before, after)) ranges.push({ what: last.what, at, before, after });
    }
    return { size: this.size, ranges };
  }
}

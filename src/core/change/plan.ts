/**
 * Plans: what a change writes, range by range, with what lies there now. Making one reads and never writes; whoever
 * carries it out (a new image, a kit, the bench) writes these ranges and nothing else, and only where what lies there
 * is what the plan has seen.
 */
import { sha256 } from '@noble/hashes/sha2';
import { bytesToHex } from '@noble/hashes/utils';
import type { BlockSource } from '../bytes/blocks';
import { endOf, lengthOf, part, type PlannedExtent } from '../bytes/extents';
import { KIB, MIB } from '../quantity/units';
import { nothingStored, type ReadStored } from '../compose/source';

/** What is to be written somewhere, and the slot that it belongs to. */
export interface Put {
  readonly what: string;
  readonly owner?: string | undefined;
  readonly extent: PlannedExtent;
}

/** A range that is written. */
export interface PlannedRange extends Put {
  /** The first bytes that lie there now, at most `HEAD_BYTES` of them. */
  readonly head: Uint8Array;
  /** SHA-256 of all that lies there now. */
  readonly sum: string;
}

/** Ranges in ascending order, without overlap, for a medium of so many bytes, which has `becomes` bytes afterwards. */
export interface Plan {
  readonly size: number;
  readonly becomes: number;
  readonly ranges: readonly PlannedRange[];
}

/** Bytes of what lies in a range that a plan holds. */
export const HEAD_BYTES = 64 * KIB;
/** The same of ranges that are no literal bytes. */
const SHOWN_BYTES = 512;
/** Bytes that are read at once. */
const WINDOW = MIB;

/** True where two pieces of bytes are alike. */
export function alike(a: Uint8Array, b: Uint8Array): boolean {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
}

/** Bytes that an extent covers. */
export function plannedLength(extent: PlannedExtent): number {
  return 'moved' in extent ? extent.moved.length : lengthOf(extent);
}

/** First byte behind an extent. */
export function plannedEnd(extent: PlannedExtent): number {
  return 'moved' in extent ? extent.offset + extent.moved.length : endOf(extent);
}

/** Part of an extent: `length` bytes from its byte `at` on. */
function partOf(extent: PlannedExtent, at: number, length: number): PlannedExtent {
  const offset = extent.offset + at;
  if ('moved' in extent) return { offset, moved: { at: extent.moved.at + at, length } };
  return part(extent, offset, offset + length);
}

/** The bytes of an extent; `source` is the medium as it is. */
export async function plannedBytes(
  extent: PlannedExtent,
  source: BlockSource,
  readStored: ReadStored = nothingStored,
): Promise<Uint8Array> {
  if ('bytes' in extent) return extent.bytes;
  if ('zeros' in extent) return new Uint8Array(extent.zeros);
  if ('copied' in extent) return readStored(extent.copied);
  return source.read(extent.moved.at, extent.moved.length);
}

/** Goes over a range of a source in windows; `work` gets a view that holds until the next one. */
export async function eachWindow(
  at: number,
  length: number,
  work: (at: number, length: number) => Promise<void>,
): Promise<void> {
  for (let done = 0; done < length; done += WINDOW) await work(at + done, Math.min(WINDOW, length - done));
}

/** True where what lies in a range is what the range would put there; of stored content that is not looked at. */
async function isThere(extent: PlannedExtent, source: BlockSource): Promise<boolean> {
  if ('copied' in extent) return false;
  const length = plannedLength(extent);
  for (let at = 0; at < length; at += WINDOW) {
    const piece = partOf(extent, at, Math.min(WINDOW, length - at));
    const taken = plannedLength(piece);
    if ('zeros' in piece && source.isHole?.(piece.offset, taken)) continue;
    const there = await source.read(piece.offset, taken);
    // A source may lend the same bytes for every reading: those of a moved range are read after these.
    const kept = 'moved' in piece ? Uint8Array.from(there) : there;
    if (!alike(kept, await plannedBytes(piece, source))) return false;
  }
  return true;
}

/** A SHA-256 that is fed piece by piece. */
interface Sum {
  update(bytes: Uint8Array): unknown;
  digest(): Uint8Array;
}

/** Begins a SHA-256: the core's own, or one of the surroundings, which may be several times as fast. */
export type NewSum = () => Sum;

/** The sum of what lies in a range now. */
async function sumThere(extent: PlannedExtent, source: BlockSource, newSum: NewSum): Promise<string> {
  const sum = newSum();
  await eachWindow(extent.offset, plannedLength(extent), async (at, length) => {
    sum.update(await source.read(at, length));
  });
  return bytesToHex(sum.digest());
}

/** The plan that puts these ranges (without overlap) over a medium: what is there already is left out. */
export async function planOf(
  source: BlockSource,
  puts: readonly Put[],
  newSum: NewSum = () => sha256.create(),
): Promise<Plan> {
  const ranges: PlannedRange[] = [];
  for (const put of [...puts].sort((a, b) => a.extent.offset - b.extent.offset)) {
    const { extent } = put;
    const length = plannedLength(extent);
    if (length === 0) continue;
    if (await isThere(extent, source)) continue;
    const sum = await sumThere(extent, source, newSum);
    // Of what is only moved, of which there may be very much, it is told what lies there.
    const most = 'bytes' in extent ? HEAD_BYTES : SHOWN_BYTES;
    const head = Uint8Array.from(await source.read(extent.offset, Math.min(most, length)));
    ranges.push({ ...put, head, sum });
  }
  return { size: source.size, becomes: source.size, ranges };
}

/** The ranges of a plan that touch `length` bytes from `offset` on. */
function touching(ranges: readonly Put[], offset: number, length: number): readonly Put[] {
  let [low, high] = [0, ranges.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (plannedEnd(ranges[middle]!.extent) > offset) high = middle;
    else low = middle + 1;
  }
  let end = low;
  while (end < ranges.length && ranges[end]!.extent.offset < offset + length) end += 1;
  return ranges.slice(low, end);
}

/** A medium as it would be with ranges (ascending, without overlap): it reads as changed, and nothing is written. */
export function changedSource(
  source: BlockSource,
  { becomes, ranges }: { readonly becomes: number; readonly ranges: readonly Put[] },
  readStored?: ReadStored,
): BlockSource {
  return {
    size: becomes,
    isHole: (offset, length) =>
      offset + length <= source.size &&
      source.isHole?.(offset, length) === true &&
      touching(ranges, offset, length).length === 0,
    read: async (offset, length) => {
      if (offset + length > becomes) throw new RangeError(`range ${offset}+${length} leaves ${becomes} bytes`);
      const touched = touching(ranges, offset, length);
      const [only] = touched;
      // What one range covers wholly need not be read from the medium.
      if (only && only.extent.offset <= offset && plannedEnd(only.extent) >= offset + length)
        return plannedBytes(partOf(only.extent, offset - only.extent.offset, length), source, readStored);
      const bytes = new Uint8Array(length);
      const there = Math.max(0, Math.min(length, source.size - offset));
      if (there > 0) bytes.set(await source.read(offset, there));
      for (const { extent } of touched) {
        const from = Math.max(extent.offset, offset);
        const to = Math.min(plannedEnd(extent), offset + length);
        const piece = partOf(extent, from - extent.offset, to - from);
        bytes.set(await plannedBytes(piece, source, readStored), from - offset);
      }
      return bytes;
    },
  };
}

interface Write {
  readonly what: string;
  readonly at: number;
  readonly bytes: Uint8Array;
}

const endOfWrite = ({ at, bytes }: Write) => at + bytes.length;

/** A medium as it would be with changes of single bytes, which are kept beside it; later ones go over earlier ones. */
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

  isHole(offset: number, length: number): boolean {
    const isWritten = this.writes.some((one) => one.at < offset + length && endOfWrite(one) > offset);
    return !isWritten && this.source.isHole?.(offset, length) === true;
  }

  async read(offset: number, length: number): Promise<Uint8Array> {
    const bytes = Uint8Array.from(await this.source.read(offset, length));
    for (const write of this.writes) {
      const [from, to] = [Math.max(write.at, offset), Math.min(endOfWrite(write), offset + length)];
      if (from < to) bytes.set(write.bytes.subarray(from - write.at, to - write.at), from - offset);
    }
    return bytes;
  }

  /** What was put in the end: of each range, where nothing later covers it. */
  puts(): Put[] {
    const edges = [...new Set(this.writes.flatMap((write) => [write.at, endOfWrite(write)]))].sort((a, b) => a - b);
    return edges.flatMap((at, i): Put[] => {
      const end = edges[i + 1];
      const last =
        end === undefined ? undefined : this.writes.findLast((one) => one.at <= at && endOfWrite(one) >= end);
      if (!last || end === undefined) return [];
      return [{ what: last.what, extent: { offset: at, bytes: last.bytes.slice(at - last.at, end - last.at) } }];
    });
  }

  /** What differs from the medium in the end. */
  plan(): Promise<Plan> {
    return planOf(this.source, this.puts());
  }
}

/**
 * Files with holes in tar archives: what is stored of them is their data without the holes between, and
 * a map of where it belongs. The map stands in the header and behind it (the oldest form), in the extended
 * header (forms 0.0 and 0.1), or ahead of the data (form 1.0), as the manual of the archives' makers says
 * ("Storing Sparse Files").
 */
import { MIB } from '@/core/quantity/units';
import { PIECE_KEYS, type PaxRecords } from './pax';

/** Longest map that is read, in bytes, and most pieces of a file. */
const MAP_LIMIT = 16 * MIB;
const PIECES_LIMIT = 1_000_000;
const BLOCK = 512;

/** A stretch of data in a file: where it begins, and its length. */
export type Stretch = readonly [at: number, length: number];

/** A file with holes: its length, where its data is, and its name where that stands elsewhere; without pieces the map stands ahead of the data. */
export interface HolesMap {
  readonly name: string | undefined;
  readonly length: number;
  readonly pieces: readonly Stretch[] | undefined;
}

function damaged(): Error {
  return new Error('a map of holes is damaged');
}

/** The stretches that pairs of numbers say, those without data left out. Throws an Error where they cannot be. */
function stretchesOf(numbers: readonly number[], length: number): Stretch[] {
  const pieces: Stretch[] = [];
  if (numbers.length % 2 !== 0 || numbers.length / 2 > PIECES_LIMIT) throw damaged();
  let end = 0;
  for (let i = 0; i < numbers.length; i += 2) {
    const [at, count] = [numbers[i]!, numbers[i + 1]!];
    const isSound = Number.isSafeInteger(at) && Number.isSafeInteger(count) && count >= 0;
    if (!isSound || at < end || at + count > length) throw damaged();
    end = at + count;
    if (count > 0) pieces.push([at, count]);
  }
  return pieces;
}

function lengthOf(length: number): number {
  if (!Number.isSafeInteger(length) || length < 0) throw new Error('a file with holes has no length');
  return length;
}

/** The map of the oldest form. Throws an Error where it cannot be. */
export function mapIn(numbers: readonly number[], length: number): HolesMap {
  return { name: undefined, length: lengthOf(length), pieces: stretchesOf(numbers, lengthOf(length)) };
}

/** What an extended header says of a file with holes; undefined for one without. Throws an Error for one that cannot be read. */
export function sparseOf(pax: PaxRecords | undefined): HolesMap | undefined {
  if (!pax) return undefined;
  const said = (key: string) => pax.get(`GNU.sparse.${key}`)?.text;
  const isAny = [...pax.keys()].some((key) => key.startsWith('GNU.sparse.'));
  if (!isAny) return undefined;
  const length = lengthOf(Number(said('realsize') ?? said('size')));
  const name = said('name');
  if (said('major') === '1') return { name, length, pieces: undefined };
  const map = said('map');
  if (map !== undefined)
    return { name, length, pieces: stretchesOf(map === '' ? [] : map.split(',').map(Number), length) };
  const [offsets, counts] = PIECE_KEYS.map((key) => pax.get(key)?.all ?? []) as [string[], string[]];
  const blocks = Number(said('numblocks') ?? offsets.length);
  if (offsets.length !== counts.length || offsets.length !== blocks) throw damaged();
  const numbers = offsets.flatMap((offset, i) => [Number(offset), Number(counts[i])]);
  return { name, length, pieces: stretchesOf(numbers, length) };
}

/** Reads a map that stands ahead of the data, each number on a line, filled up to whole blocks. */
export class MapAhead {
  private readonly numbers: number[] = [];
  private text = '';
  private isWhole = false;
  /** Bytes that the map takes, once it is whole. */
  bytes = 0;
  pieces: readonly Stretch[] | undefined;

  constructor(private readonly length: number) {}

  /** Takes bytes of the content; gives back how many of them belong to the map. */
  take(bytes: Uint8Array): number {
    let used = 0;
    while (used < bytes.length && !this.pieces) {
      const some = Math.min(bytes.length - used, BLOCK - (this.bytes % BLOCK));
      if (!this.isWhole) this.read(bytes.subarray(used, used + some));
      used += some;
      this.bytes += some;
      if (this.bytes > MAP_LIMIT) throw damaged();
      if (this.isWhole && this.bytes % BLOCK === 0) this.pieces = stretchesOf(this.numbers.slice(1), this.length);
    }
    return used;
  }

  private read(bytes: Uint8Array): void {
    this.text += Buffer.from(bytes).toString('latin1');
    for (let end = this.text.indexOf('\n'); end >= 0 && !this.isWhole; end = this.text.indexOf('\n')) {
      const line = this.text.slice(0, end);
      if (!/^\d{1,16}$/.test(line)) throw damaged();
      this.numbers.push(Number(line));
      this.text = this.text.slice(end + 1);
      this.isWhole = this.numbers.length >= 1 + 2 * this.numbers[0]!;
    }
    if (this.text.length > 2 * BLOCK && !this.isWhole) throw damaged();
  }
}

/**
 * Sparse files in tar archives: what is stored of them is their data without the holes between,
 * and a map of where it belongs. The map stands in the extended header (form 0.1), or ahead of
 * the data (form 1.0), as the manual of the archives' makers says ("Storing Sparse Files").
 */
import { MIB } from '@/core/quantity/units';
import type { Readable } from 'node:stream';
import { Taking } from './taking';

/** Longest map that is read, in bytes, and most pieces of a file. */
const MAP_LIMIT = 16 * MIB;
const PIECES_LIMIT = 1_000_000;
const BLOCK = 512;
const ZEROS = new Uint8Array(MIB);

type Pax = Readonly<Record<string, string | undefined>>;

/** A stretch of data in a file. */
interface Piece {
  readonly at: number;
  readonly length: number;
}

/** A file with holes: its name, its length, and where its data is; without pieces the map stands ahead of the data. */
export interface SparseFile {
  readonly name: string | undefined;
  readonly length: number;
  readonly pieces: readonly Piece[] | undefined;
}

function piecesOf(numbers: readonly number[], length: number): Piece[] {
  const pieces: Piece[] = [];
  if (numbers.length % 2 !== 0 || numbers.length / 2 > PIECES_LIMIT) throw new Error('a map of holes is damaged');
  let end = 0;
  for (let i = 0; i < numbers.length; i += 2) {
    const piece = { at: numbers[i]!, length: numbers[i + 1]! };
    const isSound = Number.isSafeInteger(piece.at) && Number.isSafeInteger(piece.length) && piece.length >= 0;
    if (!isSound || piece.at < end || piece.at + piece.length > length) throw new Error('a map of holes is damaged');
    end = piece.at + piece.length;
    pieces.push(piece);
  }
  return pieces;
}

/** What an extended header says of a sparse file; undefined for a file without holes. Throws an Error for one that cannot be read. */
export function sparseFile(pax: Pax | null | undefined): SparseFile | undefined {
  if (!pax) return undefined;
  const [major, map] = [pax['GNU.sparse.major'], pax['GNU.sparse.map']];
  const isAny = Object.keys(pax).some((key) => key.startsWith('GNU.sparse.'));
  if (!isAny) return undefined;
  const length = Number(pax['GNU.sparse.realsize'] ?? pax['GNU.sparse.size']);
  if (!Number.isSafeInteger(length) || length < 0) throw new Error('a file with holes has no length');
  const name = pax['GNU.sparse.name'];
  if (major === '1') return { name, length, pieces: undefined };
  if (map === undefined) throw new Error('a file with holes is stored in an old form, without its map');
  return { name, length, pieces: piecesOf(map === '' ? [] : map.split(',').map(Number), length) };
}

/** The numbers of a map that stands ahead of the data, each on a line, and filled up to whole blocks. */
async function mapAhead(taking: Taking, length: number): Promise<Piece[]> {
  const numbers: number[] = [];
  let [text, taken] = ['', 0];
  const isWhole = () => numbers.length > 0 && numbers.length >= 1 + 2 * numbers[0]!;
  while (!isWhole() || taken % BLOCK !== 0) {
    const bytes = await taking.some(BLOCK - (taken % BLOCK));
    if (!bytes || taken > MAP_LIMIT) throw new Error('a map of holes is damaged');
    taken += bytes.length;
    if (isWhole()) continue;
    text += String.fromCharCode(...bytes);
    for (let end = text.indexOf('\n'); end >= 0 && !isWhole(); end = text.indexOf('\n')) {
      const line = text.slice(0, end);
      if (!/^\d{1,16}$/.test(line)) throw new Error('a map of holes is damaged');
      numbers.push(Number(line));
      text = text.slice(end + 1);
    }
  }
  return piecesOf(numbers.slice(1), length);
}

/** The content of a sparse file, its holes filled with zeros. */
export async function* withHoles(
  body: AsyncIterable<Uint8Array> | Readable,
  file: SparseFile,
): AsyncGenerator<Uint8Array> {
  const taking = new Taking(body);
  const pieces = file.pieces ?? (await mapAhead(taking, file.length));
  let at = 0;
  const hole = function* (until: number) {
    for (; at < until; at += Math.min(ZEROS.length, until - at))
      yield ZEROS.subarray(0, Math.min(ZEROS.length, until - at));
  };
  for (const piece of pieces) {
    yield* hole(piece.at);
    for (let left = piece.length; left > 0;) {
      const bytes = await taking.some(left);
      if (!bytes) throw new Error('the data of a file with holes ends too early');
      yield bytes;
      left -= bytes.length;
      at += bytes.length;
    }
  }
  yield* hole(file.length);
}

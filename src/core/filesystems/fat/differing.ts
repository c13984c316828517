/**
 * Two FATs that differ: where, and which files are others by the second than by the first, so that somebody can choose.
 * Nobody but the one whose files they are can know which of the two is right.
 */
import type { BlockSource } from '../../bytes/blocks';
import { KIB } from '../../quantity/units';
import { BrokenChain, type Piece, type Volume, walk } from '../volume';
import { openFat } from './browse';
import type { FatShape } from './header';

/** Bytes of a FAT that are compared at a time. */
const WINDOW = 256 * KIB;
/** Folders and files that are looked at by each FAT, and clusters that they may have together. */
const LOOKED_AT = 20_000;
const FOLLOWED = 4_000_000;

/** Sectors of a FAT, counted from its first, in which the two differ: ascending, neighbours joined. */
export interface DifferingSectors {
  readonly first: number;
  readonly count: number;
}

/** Where the two FATs of a volume differ. Throws a RangeError where they do not lie in the source. */
export async function differingSectors(
  source: BlockSource,
  base: number,
  { reserved, fatSectors, sectorSize }: FatShape,
): Promise<DifferingSectors[]> {
  const length = fatSectors * sectorSize;
  const start = base + reserved * sectorSize;
  const found: { first: number; count: number }[] = [];
  for (let at = 0; at < length; at += WINDOW) {
    const size = Math.min(WINDOW, length - at);
    const one = new Uint8Array(await source.read(start + at, size));
    const two = await source.read(start + length + at, size);
    for (let i = 0; i < size; i += sectorSize) {
      if (one.subarray(i, i + sectorSize).every((byte, k) => byte === two[i + k])) continue;
      const sector = (at + i) / sectorSize;
      const last = found[found.length - 1];
      if (last && last.first + last.count === sector) last.count += 1;
      else found.push({ first: sector, count: 1 });
    }
  }
  return found;
}

/** What a FAT says of a file or a folder. */
interface Said {
  /** Where its bytes lie. */
  readonly pieces: readonly Piece[];
  /** What is wrong with its chain. */
  readonly trouble: string | undefined;
}

async function saidOf(pieces: AsyncIterable<Piece>): Promise<Said> {
  const all: Piece[] = [];
  try {
    for await (const piece of pieces) all.push({ ...piece });
    return { pieces: all, trouble: undefined };
  } catch (error) {
    if (!(error instanceof BrokenChain)) throw error;
    return { pieces: all, trouble: error.message };
  }
}

/** Every file by one FAT, and every folder with what is wrong with it; up to a number of them. */
async function allOf(
  volume: Volume,
  clusterBytes: number,
): Promise<{ readonly said: Map<string, Said>; readonly isWhole: boolean }> {
  const said = new Map<string, Said>();
  const troubles = new Map<string, string>();
  let left = FOLLOWED;
  for await (const { path, entry } of walk(volume, (where, what) => troubles.set(where, what))) {
    left -= Math.ceil(entry.size / clusterBytes);
    if (said.size >= LOOKED_AT || left < 0) return { said, isWhole: false };
    said.set(path, entry.folder ? { pieces: [], trouble: undefined } : await saidOf(volume.pieces(entry)));
  }
  for (const [path, trouble] of troubles) said.set(path, { pieces: said.get(path)?.pieces ?? [], trouble });
  return { said, isWhole: true };
}

const isAlike = (a: Said | undefined, b: Said | undefined) =>
  a?.trouble === b?.trouble &&
  a?.pieces.length === b?.pieces.length &&
  a?.pieces.every(({ at, length }, i) => at === b?.pieces[i]!.at && length === b.pieces[i]!.length) === true;

const inWords = (said: Said | undefined) => (said === undefined ? 'it is not there' : (said.trouble ?? 'it is whole'));

/** A file or a folder that is another one by the second FAT. */
export interface DifferingFile {
  /** Empty for the root directory. */
  readonly path: string;
  /** What the first says of it, and the second. */
  readonly first: string;
  readonly second: string;
}

/** Files that differ by the two FATs of a volume, and whether all were looked at. */
export async function differingFiles(
  source: BlockSource,
  base: number,
  { sectorSize, sectorsPerCluster }: FatShape,
): Promise<{ readonly files: readonly DifferingFile[]; readonly isWhole: boolean }> {
  const [one, two] = [await openFat(source, base, 0), await openFat(source, base, 1)];
  if (!one || !two) return { files: [], isWhole: true };
  const clusterBytes = sectorSize * sectorsPerCluster;
  const [first, second] = [await allOf(one, clusterBytes), await allOf(two, clusterBytes)];
  const paths = [...new Set([...first.said.keys(), ...second.said.keys()])];
  // What one walk did not come to may be there all the same.
  const isWhole = first.isWhole && second.isWhole;
  const compared = isWhole ? paths : paths.filter((path) => first.said.has(path) && second.said.has(path));
  return {
    isWhole,
    files: compared
      .filter((path) => !isAlike(first.said.get(path), second.said.get(path)))
      .map((path) => ({ path, first: inWords(first.said.get(path)), second: inWords(second.said.get(path)) })),
  };
}

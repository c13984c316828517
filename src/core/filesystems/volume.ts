/** What a volume that was read offers, whatever its kind: folders to list and files to read. */
import { grouped, MIB } from '../quantity/units';
import type { BlockSource } from '../bytes/blocks';
import { joined } from '../bytes/extents';
import type { RoomMap } from './room-map';
import type { FileAttribute } from './tree';

/** Whose something is; `mode` has twelve bits. */
export interface EntryOwned {
  readonly mode: number;
  readonly user: number;
  readonly group: number;
  readonly names: number;
}

/** Something in a folder of a volume. */
export interface VolumeEntry {
  readonly name: string;
  readonly folder: boolean;
  /** Bytes of a file; 0 of a folder. */
  readonly size: number;
  /** When it was written, `YYYY-MM-DDTHH:MM:SS`; undefined where no real time stands there. */
  readonly time: string | undefined;
  readonly attributes: readonly FileAttribute[];
  /** The alias of a name that is a long one. */
  readonly alias?: string;
  /** First cluster, 0 of an empty file; or the inode. */
  readonly cluster: number;
  /** Its clusters follow each other, and no chain says so. */
  readonly inOnePiece: boolean;
  /** Bytes that its clusters are said to hold: of a folder its length, where the volume tells it. */
  readonly length: number;
  /** What it is that is neither a file nor a folder: a link, a pipe, a device. */
  readonly special?: string;
  /** Whose it is, and what they may do with it; how many names it has. */
  readonly owned?: EntryOwned;
  /** Where a link leads. */
  readonly target?: string;
  /** Bytes of a file that were written, where that is less than its size: the others read as zeros. */
  readonly written?: number;
}

/** A folder as it was read. */
export interface Listing {
  readonly entries: readonly VolumeEntry[];
  /** What was wrong on the way; what was read up to there is in `entries`. */
  readonly trouble: string | undefined;
}

/** A range of the source, or so many bytes that were never written and read as zeros. */
export interface Piece {
  readonly at: number;
  readonly length: number;
  readonly hole?: true;
}

/** A chain of clusters that leads nowhere, or ends before its file does. */
export class BrokenChain extends Error {}

/** A chain of clusters in a source. */
export interface ChainAsked {
  readonly first: number;
  /** Bytes that are wanted. */
  readonly bytes: number;
  /** The chain may end before that many bytes came. */
  readonly toItsEnd: boolean;
  /** Clusters of the volume, numbered from 2, and their size. */
  readonly clusters: number;
  readonly clusterBytes: number;
  /** First byte of a cluster in the source. */
  readonly at: (cluster: number) => number;
  /** What follows a cluster; undefined at the end of a chain. */
  readonly next: (cluster: number) => Promise<number | undefined>;
}

/** Follows a chain; throws a BrokenChain where it leads nowhere. Neighbours come as one piece. */
export async function* follow(source: BlockSource, asked: ChainAsked): AsyncGenerator<Piece> {
  const { clusters, clusterBytes, toItsEnd } = asked;
  let left = asked.bytes;
  let open: { at: number; length: number } | undefined;
  let cluster: number | undefined = asked.first;
  // A circle is met again soon: every cluster is compared with one that is moved on at each power of two (Brent).
  let [mark, until] = [-1, 1];
  for (let followed = 0; left > 0; followed++) {
    if (cluster === undefined) {
      if (toItsEnd) break;
      throw new BrokenChain(`its clusters end ${grouped(left)} bytes too early`);
    }
    if (cluster < 2 || cluster >= clusters + 2)
      throw new BrokenChain(`cluster ${grouped(cluster)} is not in the volume`);
    if (cluster === mark || followed > clusters) throw new BrokenChain('its clusters go round in a circle');
    if (followed === until) [mark, until] = [cluster, 2 * until];
    const at = asked.at(cluster);
    const length = Math.min(left, clusterBytes);
    if (at + length > source.size)
      throw new BrokenChain(`cluster ${grouped(cluster)} lies behind the end of the medium`);
    if (open && open.at + open.length === at) open.length += length;
    else {
      if (open) yield open;
      open = { at, length };
    }
    left -= length;
    if (left > 0) cluster = await asked.next(cluster);
  }
  if (open) yield open;
}

/** All bytes of some pieces, as far as their chain is sound, and what was wrong with it. */
export async function readPieces(
  source: BlockSource,
  pieces: AsyncIterable<Piece>,
): Promise<{ readonly bytes: Uint8Array; readonly trouble: string | undefined }> {
  const parts: Uint8Array[] = [];
  let trouble: string | undefined;
  try {
    for await (const { at, length, hole } of pieces) {
      if (hole) {
        parts.push(new Uint8Array(length));
        continue;
      }
      if (at + length > source.size) throw new BrokenChain('it lies behind the end of the medium');
      parts.push(new Uint8Array(await source.read(at, length)));
    }
  } catch (error) {
    if (!(error instanceof BrokenChain)) throw error;
    trouble = error.message;
  }
  return { bytes: joined(parts), trouble };
}

/** Something that a volume says of itself, in words. */
export interface VolumeFact {
  readonly name: string;
  readonly value: string;
}

/** All that a volume keeps of an entry beside its content. */
export interface EntryFacts extends Omit<EntryOwned, 'names'> {
  /** When its content was written, in seconds since 1970, and nanoseconds. */
  readonly seconds: number;
  readonly nanoseconds: number;
  /** Extended attributes by their whole names, access lists in the kernel's form. */
  readonly extended: ReadonlyMap<string, Uint8Array>;
  /** The numbers of a device. */
  readonly device?: { readonly device: 'character' | 'block'; readonly major: number; readonly minor: number };
  /** What is about it that no list of files has, in words. */
  readonly beyond: readonly string[];
}

/** A volume that can be browsed. */
export interface Volume {
  readonly kind: string;
  /** What is to be said of all that is read of it. */
  readonly remark?: string | undefined;
  /** The source as the volume is read of it, where that is not what stands there: with what its journal holds. */
  readonly view?: BlockSource | undefined;
  /** What it says of itself, beyond its files. */
  readonly says?: readonly VolumeFact[] | undefined;
  /** All of it can be checked. */
  readonly canBeChecked?: boolean;
  /** What its entries are numbered by; the first cluster where nothing else is said. */
  readonly numbers?: 'inode';
  /** Where its room is, in so many cells at most. Throws a BrokenChain. */
  map?(cells: number): Promise<RoomMap>;
  /** The root directory, or a folder of a listing. */
  list(folder?: VolumeEntry): Promise<Listing>;
  /** All that it keeps of an entry, where that is more than an entry says. Throws a BrokenChain. */
  factsOf?(entry: VolumeEntry): Promise<EntryFacts>;
  /** The bytes of a file that were written, as ranges of the source in their order; neighbours are joined. Throws a BrokenChain. */
  pieces(file: VolumeEntry): AsyncGenerator<Piece>;
}

/** Bytes that are read at a time. */
const WINDOW = MIB;

/** The content of a file, what was never written as zeros. Throws a BrokenChain. */
export async function* contentOf(volume: Volume, source: BlockSource, file: VolumeEntry): AsyncGenerator<Uint8Array> {
  const view = volume.view ?? source;
  for await (const { at, length, hole } of volume.pieces(file))
    for (let done = 0; done < length; done += WINDOW) {
      const size = Math.min(WINDOW, length - done);
      yield hole ? new Uint8Array(size) : await view.read(at + done, size);
    }
  for (let left = file.size - (file.written ?? file.size); left > 0; left -= WINDOW)
    yield new Uint8Array(Math.min(WINDOW, left));
}

/** The entry that a path leads to; undefined where it leads nowhere. The empty path is the root itself. */
export async function entryAt(volume: Volume, path: string): Promise<VolumeEntry | 'root' | undefined> {
  let folder: VolumeEntry | undefined;
  if (path === '') return 'root';
  const names = path.split('/');
  for (const [i, name] of names.entries()) {
    const { entries } = await volume.list(folder);
    const found = entries.find((one) => one.name === name);
    if (!found || (i < names.length - 1 && !found.folder)) return undefined;
    folder = found;
  }
  return folder;
}

/** Something in a volume with its path. */
export interface Walked {
  readonly path: string;
  readonly entry: VolumeEntry;
}

/** Most folders deep that a walk goes: a damaged volume can have folders that hold themselves. */
const WALK_DEPTH = 64;

/** Every folder and file below a folder, each folder before what is in it. Troubles are told, and end nothing. */
export async function* walk(
  volume: Volume,
  onTrouble: (path: string, what: string) => void,
  from: { readonly path: string; readonly folder: VolumeEntry | undefined } = { path: '', folder: undefined },
  depth = 0,
  seen = new Set<number>(),
): AsyncGenerator<Walked> {
  const { entries, trouble } = await volume.list(from.folder);
  if (trouble) onTrouble(from.path, trouble);
  for (const entry of entries) {
    const path = from.path === '' ? entry.name : `${from.path}/${entry.name}`;
    yield { path, entry };
    if (!entry.folder) continue;
    if (depth >= WALK_DEPTH || seen.has(entry.cluster)) onTrouble(path, 'leads back to a folder that holds it');
    else {
      seen.add(entry.cluster);
      yield* walk(volume, onTrouble, { path, folder: entry }, depth + 1, seen);
    }
  }
}

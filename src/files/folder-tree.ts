/**
 * Folders as trees: everything below one, in one order wherever it lies. In which order the system lists it
 * and where the clock stands leave no trace; nor does who reads it: what belongs to somebody who is not the
 * administrator counts as the administrator's, without the rights that are left to others by habit.
 */
import { type BigIntStats, createReadStream } from 'node:fs';
import { lstat, readdir, readlink } from 'node:fs/promises';
import { textOfBytes } from '@/core/bytes/utf8';
import type { FilePiece } from '@/core/filesystems/tree';
import { MIB } from '@/core/quantity/units';
import type { Keeper } from './archives';
import { type Facts, Gathering, UNKNOWN_KIND, type Unpacked, type UnpackOptions } from './gathering';

/** Smallest stretch of zeros that counts as a hole, in bytes, where the system says that there are some. */
const HOLE = 4096;
/** Rights to write of the group and of all others. */
const SHARED_WRITE = 0o022;
const ZEROS = Buffer.alloc(HOLE);

/** The bytes of a file, in pieces. */
export function bytesOf(file: string | Buffer): AsyncIterable<Uint8Array> {
  return createReadStream(/* turbopackIgnore: true */ file, { highWaterMark: MIB });
}

/** Finds the holes of what passes by: whole stretches of zeros. */
class HoleFinder {
  private readonly pieces: [at: number, from: number, length: number][] = [];
  private size = 0;

  async *watched(body: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
    for await (const chunk of body) {
      for (let at = 0; at < chunk.length; at += HOLE) this.add(chunk.subarray(at, at + HOLE));
      yield chunk;
    }
  }

  private add(stretch: Uint8Array): void {
    const isHole = ZEROS.subarray(0, stretch.length).equals(stretch);
    const last = this.pieces[this.pieces.length - 1];
    if (!isHole && last && last[0] + last[2] === this.size) last[2] += stretch.length;
    else if (!isHole) this.pieces.push([this.size, this.size, stretch.length]);
    this.size += stretch.length;
  }

  /** The file without its holes, where it has some. */
  get holes(): { size: number; pieces: FilePiece[] } | undefined {
    const { size, pieces } = this;
    const isWhole = size === 0 || (pieces.length === 1 && pieces[0]![2] === size);
    return isWhole ? undefined : { size, pieces };
  }
}

/** The kind of something that is neither file nor folder nor link; undefined for those, and for what is unknown. */
function kindOf(is: BigIntStats): 'device' | 'pipe' | 'socket' | undefined {
  if (is.isBlockDevice() || is.isCharacterDevice()) return 'device';
  if (is.isFIFO()) return 'pipe';
  return is.isSocket() ? 'socket' : undefined;
}

/** The numbers of a device as Linux packs them. */
function numbersOf(rdev: bigint): { major: number; minor: number } {
  const major = ((rdev >> 8n) & 0xfffn) | ((rdev >> 32n) & 0xfffff000n);
  const minor = (rdev & 0xffn) | ((rdev >> 12n) & 0xffffff00n);
  return { major: Number(major), minor: Number(minor) };
}

/** Reads everything below one folder. */
class FolderReader {
  /** Paths of files that have several names, by where they lie. */
  private readonly seen = new Map<string, string>();
  private readonly reader = process.getuid?.() ?? 0;

  constructor(
    private readonly gathering: Gathering,
    private readonly keeper: Keeper,
  ) {}

  async read(folder: Buffer, above: string): Promise<void> {
    const entries = await readdir(/* turbopackIgnore: true */ folder, { encoding: 'buffer', withFileTypes: true });
    const named = entries.map((entry) => ({ entry, raw: entry.name as unknown as Buffer }));
    for (const { entry, raw } of named.sort((a, b) => Buffer.compare(a.raw, b.raw))) {
      const name = above === '' ? textOfBytes(raw) : `${above}/${textOfBytes(raw)}`;
      const file = Buffer.concat([folder, Buffer.from('/'), raw]);
      const is = await lstat(file, { bigint: true });
      const isKnown = is.isFile() || is.isDirectory() || is.isSymbolicLink() || kindOf(is) !== undefined;
      const path = this.gathering.path(name, entry.isDirectory(), isKnown ? undefined : UNKNOWN_KIND);
      if (path !== undefined) await this.take(path, file, is);
    }
  }

  private async take(path: string, file: Buffer, is: BigIntStats): Promise<void> {
    const { gathering } = this;
    const facts = this.factsOf(path, is);
    const kind = kindOf(is);
    if (is.isDirectory()) {
      gathering.folder(facts);
      await this.read(file, path);
      return;
    }
    const place = `${is.dev}:${is.ino}`;
    const first = is.nlink > 1n ? this.seen.get(place) : undefined;
    if (first !== undefined) {
      gathering.secondName(path, first);
      return;
    }
    if (is.nlink > 1n) this.seen.set(place, path);
    if (is.isSymbolicLink())
      gathering.link(facts, textOfBytes(await readlink(/* turbopackIgnore: true */ file, { encoding: 'buffer' })));
    else if (kind === 'device')
      gathering.device(facts, { device: is.isBlockDevice() ? 'block' : 'character', ...numbersOf(is.rdev) });
    else if (kind) gathering.pipe(facts, kind);
    else await this.takeFile(facts, file, is);
  }

  private async takeFile(facts: Facts, file: Buffer, is: BigIntStats): Promise<void> {
    const finder = is.blocks * 512n < is.size ? new HoleFinder() : undefined;
    const body = finder ? finder.watched(bytesOf(file)) : bytesOf(file);
    // A name that is no UTF-8 cannot be opened by its text later.
    const text = file.toString('utf8');
    const lies = Buffer.from(text).equals(file) ? text : undefined;
    const kept = await this.keeper.add(body, lies);
    this.gathering.file(facts, { kept, holes: finder?.holes });
  }

  private factsOf(path: string, { mtimeNs, mode, uid, gid }: BigIntStats): Facts {
    const seconds = mtimeNs >= 0n ? mtimeNs / 1_000_000_000n : (mtimeNs - 999_999_999n) / 1_000_000_000n;
    const bits = Number(mode) & 0o7777;
    const isOwn = this.reader !== 0 && Number(uid) === this.reader;
    return {
      path,
      time: Number(seconds),
      nanoseconds: Number(mtimeNs - seconds * 1_000_000_000n),
      mode: isOwn ? bits & ~SHARED_WRITE : bits,
      user: isOwn ? 0 : Number(uid),
      group: isOwn ? 0 : Number(gid),
    };
  }
}

/** Everything below a folder, ascending by the bytes of the names. */
export async function readFolder(folder: string, keeper: Keeper, options: UnpackOptions): Promise<Unpacked> {
  const gathering = new Gathering(options);
  await new FolderReader(gathering, keeper).read(Buffer.from(folder), '');
  return gathering.done();
}

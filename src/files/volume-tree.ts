/** Volumes that keep all that Linux does as trees: everything below a folder, with owners, links, devices, attributes and holes. */
import type { BlockSource } from '@/core/bytes/blocks';
import { BrokenChain, type EntryFacts, type Volume, type VolumeEntry, walk } from '@/core/filesystems/volume';
import type { FilePiece } from '@/core/filesystems/tree';
import { MIB } from '@/core/quantity/units';
import type { Keeper } from './archives';
import { type Facts, Gathering, UNKNOWN_KIND, type Unpacked, type UnpackOptions } from './gathering';

/** A volume that tells everything of its entries. */
export type TellingVolume = Volume & Required<Pick<Volume, 'factsOf'>>;

export function tellsAll(volume: Volume): volume is TellingVolume {
  return volume.factsOf !== undefined;
}

/** Where in a file it was written, and from where in the volume that comes. */
interface Written {
  readonly at: number;
  readonly from: number;
  readonly length: number;
}

class VolumeReader {
  /** Paths of what has several names, by its inode. */
  private readonly seen = new Map<number, string>();
  /** Bytes that may still be read: files that share blocks could be many times what the image is. */
  private left: number;

  constructor(
    private readonly volume: TellingVolume,
    private readonly source: BlockSource,
    private readonly keeper: Keeper,
    private readonly gathering: Gathering,
  ) {
    this.left = source.size;
  }

  async take(name: string, entry: VolumeEntry): Promise<void> {
    const { gathering } = this;
    const path = gathering.path(name, entry.folder);
    if (path === undefined) return;
    try {
      await this.takeAt(path, entry);
    } catch (error) {
      if (!(error instanceof BrokenChain)) throw error;
      gathering.leave(path, `cannot be read: ${error.message}`);
    }
  }

  private async takeAt(path: string, entry: VolumeEntry): Promise<void> {
    const { gathering, volume } = this;
    const first = this.seen.get(entry.cluster);
    if (first !== undefined) return gathering.secondName(path, first);
    const found = await volume.factsOf(entry);
    const facts = factsAt(path, found);
    for (const why of found.beyond) gathering.withoutFact(path, why);
    if (!entry.folder && (entry.owned?.names ?? 1) > 1) this.seen.set(entry.cluster, path);
    if (entry.folder) gathering.folder(facts);
    else if (entry.special === undefined) await this.takeFile(facts, entry);
    else if (entry.special === 'link') gathering.link(facts, entry.target ?? '');
    else if (found.device) gathering.device(facts, found.device);
    else if (entry.special === 'pipe' || entry.special === 'socket') gathering.pipe(facts, entry.special);
    else gathering.leave(path, UNKNOWN_KIND);
  }

  private async takeFile(facts: Facts, entry: VolumeEntry): Promise<void> {
    const written: Written[] = [];
    let at = 0;
    for await (const { at: from, length, hole } of this.volume.pieces(entry)) {
      if (!hole) written.push({ at, from, length });
      at += length;
    }
    const bytes = written.reduce((sum, { length }) => sum + length, 0);
    if ((this.left -= bytes) < 0)
      throw new BrokenChain('the files before it are as large as the whole image: some share their blocks');
    const kept = await this.keeper.add(this.bytesOf(written));
    this.gathering.file(facts, {
      kept,
      ...(bytes < entry.size && { holes: { size: entry.size, pieces: piecesOf(written) } }),
    });
  }

  private async *bytesOf(written: readonly Written[]): AsyncGenerator<Uint8Array> {
    const view = this.volume.view ?? this.source;
    for (const { from, length } of written)
      for (let done = 0; done < length; done += MIB) yield view.read(from + done, Math.min(MIB, length - done));
  }
}

/** Where what is stored belongs, one behind the other; neighbours are one. */
function piecesOf(written: readonly Written[]): FilePiece[] {
  const pieces: [number, number, number][] = [];
  let from = 0;
  for (const { at, length } of written) {
    const last = pieces[pieces.length - 1];
    if (last && last[0] + last[2] === at) last[2] += length;
    else pieces.push([at, from, length]);
    from += length;
  }
  return pieces;
}

function factsAt(path: string, { seconds, nanoseconds, mode, user, group, extended }: EntryFacts): Facts {
  return { path, time: seconds, nanoseconds, mode, user, group, extended };
}

/** Takes one entry of a volume, or everything below a folder of it. Throws a SupplyError where there is nothing. */
export async function takeVolume(
  volume: TellingVolume,
  source: BlockSource,
  begun: VolumeEntry | 'root',
  keeper: Keeper,
  options: UnpackOptions,
): Promise<Unpacked> {
  const gathering = new Gathering(options);
  const reader = new VolumeReader(volume, source, keeper, gathering);
  if (begun !== 'root' && !begun.folder) await reader.take(begun.name, begun);
  else {
    const from = { path: '', folder: begun === 'root' ? undefined : begun };
    for await (const { path, entry } of walk(volume, (at, why) => gathering.leave(at, why), from))
      await reader.take(path, entry);
  }
  return gathering.done();
}

/**
 * Browsing a FAT volume: its folders and files by their long names, whoever wrote them. Chains
 * that leave the volume, loop or end early are told; nothing is read outside of the source.
 */
import type { BlockSource } from '../../bytes/blocks';
import { decode } from '../../bytes/record';
import { grouped } from '../../quantity/units';
import { labelText } from './label';
import { fatMap } from './map';
import type { RoomMap } from '../room-map';
import { BrokenChain, follow, type Listing, type Piece, readPieces, type Volume, type VolumeEntry } from '../volume';
import { ATTRIBUTE_FOLDER, attributesOf, FAT_ENTRY_LENGTH, timeText } from './entries';
import { DIRECTORY_LIMIT } from './fill';
import { entryOf } from './read-fats';
import { ATTRIBUTE_LONG_NAME, ATTRIBUTE_VOLUME, DIRECTORY_ENTRY, ENTRY_MASK, LONG_NAME_ENTRY } from './records';
import { shortChecksum } from './short-names';
import { clusterSector, type FatShape, shapeOf } from './header';

/** Bytes of the FAT that are read at once. */
const WINDOW = 64 * 1024;
const DELETED = 0xe5;
/** A first byte of E5h is stored as 05h. */
const STANDS_FOR_E5 = 0x05;

/** The text of a short name, its halves in the case that the bits say. */
function shortText(name: Uint8Array, caseBits: number): string {
  const bytes = Uint8Array.from(name);
  if (bytes[0] === STANDS_FOR_E5) bytes[0] = DELETED;
  const [base, extension] = [labelText(bytes.subarray(0, 8)), labelText(bytes.subarray(8))];
  const first = (caseBits & 0x08) !== 0 ? base.toLowerCase() : base;
  const second = (caseBits & 0x10) !== 0 ? extension.toLowerCase() : extension;
  return second === '' ? first : `${first}.${second}`;
}

/** Pieces of a long name, gathered from its last to its first. */
class LongName {
  private text = '';
  private next = 0;
  private checksum = -1;

  add(bytes: Uint8Array): void {
    const { order, first, second, third, checksum } = decode(LONG_NAME_ENTRY, bytes);
    const number = order & 0x1f;
    if ((order & 0x40) !== 0) {
      this.text = '';
      this.next = number;
      this.checksum = checksum;
    }
    if (number === 0 || number !== this.next || checksum !== this.checksum) this.next = -1;
    else {
      this.text = first + second + third + this.text;
      this.next -= 1;
    }
  }

  /** The name, if all pieces came and belong to this short name. */
  take(short: Uint8Array): string | undefined {
    const isWhole = this.next === 0 && this.checksum === shortChecksum(short);
    const name = this.text.replace(/\0[^]*$/, '');
    this.next = -1;
    this.checksum = -1;
    return isWhole && name !== '' ? name : undefined;
  }
}

/** Entries of a directory; what stands for itself, its parent or the label is left out. */
function parse(bytes: Uint8Array, width: FatShape['width']): VolumeEntry[] {
  const entries: VolumeEntry[] = [];
  const long = new LongName();
  for (let at = 0; at + FAT_ENTRY_LENGTH <= bytes.length; at += FAT_ENTRY_LENGTH) {
    const piece = bytes.subarray(at, at + FAT_ENTRY_LENGTH);
    const first = piece[0]!;
    if (first === 0) break;
    const attributes = piece[11]! & 0x3f;
    if (first === DELETED) long.take(piece);
    else if (attributes === ATTRIBUTE_LONG_NAME) long.add(piece);
    else {
      const entry = decode(DIRECTORY_ENTRY, piece);
      const name = long.take(entry.name);
      const short = shortText(entry.name, entry.caseBits);
      if ((attributes & ATTRIBUTE_VOLUME) !== 0 || /^\.\.?$/.test(short)) continue;
      const folder = (attributes & ATTRIBUTE_FOLDER) !== 0;
      entries.push({
        name: name ?? short,
        ...(name !== undefined && { alias: shortText(entry.name, 0) }),
        folder,
        size: folder ? 0 : entry.size,
        time: timeText(entry.writtenDate, entry.writtenTime),
        attributes: attributesOf(attributes),
        // On FAT12 and FAT16 old systems keep other things in the high word.
        cluster: (width === 32 ? entry.clusterHigh * 0x10000 : 0) + entry.clusterLow,
        inOnePiece: false,
        length: entry.size,
      });
    }
  }
  return entries;
}

/** One of the FATs, read by windows. */
class Chain {
  private window: { at: number; bytes: Uint8Array } | undefined;

  constructor(
    private readonly source: BlockSource,
    private readonly base: number,
    private readonly shape: FatShape,
    private readonly fat: number,
  ) {}

  /** What the FAT says behind a cluster: the next one, or undefined at the end. Throws a BrokenChain. */
  async next(cluster: number): Promise<number | undefined> {
    const { shape, base, source } = this;
    const { width } = shape;
    // Two entries of FAT12 share three bytes.
    const [at, needed, index] =
      width === 12 ? [Math.floor(cluster / 2) * 3, 3, cluster % 2] : [(cluster * width) / 8, width / 8, 0];
    const length = shape.fatSectors * shape.sectorSize;
    const start = base + shape.reserved * shape.sectorSize + this.fat * length;
    if (at + needed > length) throw new BrokenChain(`cluster ${grouped(cluster)} has no entry in the FAT`);
    if (!this.window || at < this.window.at || at + needed > this.window.at + this.window.bytes.length) {
      const readable = Math.min(WINDOW, length - at, source.size - start - at);
      if (readable < needed) throw new BrokenChain(`the FAT ends before the entry of cluster ${grouped(cluster)}`);
      this.window = { at, bytes: await source.read(start + at, readable) };
    }
    const value = entryOf(width, this.window.bytes.subarray(at - this.window.at), index) & ENTRY_MASK;
    const end = width === 32 ? 0x0ffffff8 : width === 16 ? 0xfff8 : 0xff8;
    if (value >= end) return undefined;
    if (value < 2 || value >= shape.clusters + 2)
      throw new BrokenChain(`cluster ${grouped(cluster)} leads to ${grouped(value)}, which the volume does not have`);
    return value;
  }
}

class FatVolume implements Volume {
  readonly kind: string;
  private readonly clusterBytes: number;

  constructor(
    private readonly source: BlockSource,
    private readonly base: number,
    private readonly shape: FatShape,
    private readonly fat: number,
  ) {
    this.kind = `FAT${shape.variant}`;
    this.clusterBytes = shape.sectorSize * shape.sectorsPerCluster;
  }

  map(cells: number): Promise<RoomMap> {
    return fatMap(this.source, this.base, this.shape, this.fat, cells);
  }

  /** Ranges of a chain, as many bytes as asked for, or up to its end. */
  private follow(first: number, bytes: number, toItsEnd: boolean): AsyncGenerator<Piece> {
    const { shape, base, source, clusterBytes } = this;
    const chain = new Chain(source, base, shape, this.fat);
    return follow(source, {
      first,
      bytes,
      toItsEnd,
      clusters: shape.clusters,
      clusterBytes,
      at: (cluster) => base + clusterSector(shape, cluster) * shape.sectorSize,
      next: (cluster) => chain.next(cluster),
    });
  }

  private async *places(folder: VolumeEntry | undefined): AsyncGenerator<Piece> {
    const { shape, base } = this;
    const limit = DIRECTORY_LIMIT * FAT_ENTRY_LENGTH;
    const first = folder ? folder.cluster : shape.rootCluster;
    if (first !== 0) yield* this.follow(first, limit, true);
    else if (!folder)
      yield {
        at: base + (shape.dataStart - shape.rootSectors) * shape.sectorSize,
        length: shape.rootSectors * shape.sectorSize,
      };
  }

  async list(folder?: VolumeEntry): Promise<Listing> {
    const { bytes, trouble } = await readPieces(this.source, this.places(folder));
    return { entries: parse(bytes, this.shape.width), trouble };
  }

  pieces(file: VolumeEntry): AsyncGenerator<Piece> {
    return this.follow(file.cluster, file.size, false);
  }
}

/** The FAT volume that begins `base` bytes into the source, by its FAT number `fat`, from 0; undefined where there is none. */
export async function openFat(source: BlockSource, base: number, fat = 0): Promise<Volume | undefined> {
  if (base + 512 > source.size) return undefined;
  const shape = shapeOf(await source.read(base, 512));
  return shape && fat < shape.fats ? new FatVolume(source, base, shape, fat) : undefined;
}

/**
 * Reading an exFAT volume, whoever made it: what its boot region says and whether that is sound,
 * and its folders and files. Nothing is read outside of the source, and no chain is followed twice.
 */
import { byteOfCluster, REGION } from './geometry';
import { grouped, MIB } from '../../quantity/units';
import type { BlockSource } from '../../bytes/blocks';
import { decode, narrow, type Values } from '../../bytes/record';
import { attributesOf, timeText } from '../fat/entries';
import { MapDrawing, type RoomMap, UsedRuns } from '../room-map';
import { BrokenChain, follow, type Listing, type Piece, readPieces, type Volume, type VolumeEntry } from '../volume';
import {
  BITMAP_ENTRY,
  EXFAT_ENTRY_LENGTH,
  EXFAT_BOOT_SECTOR,
  FILE_ENTRY,
  IN_ONE_PIECE,
  LABEL_ENTRY,
  NAME_ENTRY,
  NOT_SUMMED,
  STREAM_ENTRY,
  sum16,
  sum32,
  TYPE,
} from './records';

/** Most bytes of a directory, and of the bitmap, that are read. */
const FOLDER_READ = 16 * MIB;
const BITMAP_READ = 16 * MIB;
/** Bytes of the root directory in which label and bitmap are looked for: they are among its first entries. */
const FACTS_READ = 4 * MIB;
/** Bytes of the FAT that are read at once. */
const FAT_WINDOW = 16 * 1024;
const WINDOW = MIB;
/** Bits that are set in each byte. */
const BITS_OF = Uint8Array.from({ length: 256 }, (_, byte) => {
  let bits = 0;
  for (let rest = byte; rest > 0; rest >>= 1) bits += rest & 1;
  return bits;
});

/** Where everything lies, as the boot sector says. */
export interface ExfatShape {
  readonly sectorSize: number;
  readonly clusterBytes: number;
  readonly volumeSectors: number;
  readonly fatOffset: number;
  readonly fatSectors: number;
  readonly heapOffset: number;
  readonly clusters: number;
  readonly rootCluster: number;
}

/** What an exFAT volume says of itself. */
export interface ExfatFound {
  readonly shape: ExfatShape;
  readonly partitionOffset: number;
  readonly serial: number;
  readonly label: string;
  readonly percentInUse: number;
  /** The checksum of the boot region is right, and that of its copy. */
  readonly regionSound: boolean;
  readonly copySound: boolean;
  /** Its system did not let go of it (VolumeDirty, section 3.1.13.2). */
  readonly isDirty: boolean;
  /** Free clusters by the bitmap; undefined where it was not found or not read in full. */
  readonly free: number | undefined;
}

function shapeOf(boot: Values<typeof EXFAT_BOOT_SECTOR>): ExfatShape | undefined {
  const volumeSectors = narrow(boot.volumeLength);
  const { sectorShift, clusterShift } = boot;
  const sound =
    boot.name === 'EXFAT   ' &&
    boot.mark === 0xaa55 &&
    sectorShift >= 9 &&
    sectorShift <= 12 &&
    sectorShift + clusterShift <= 25 &&
    boot.clusterCount > 0 &&
    boot.fatLength > 0 &&
    boot.fatOffset >= 2 * REGION &&
    boot.heapOffset >= boot.fatOffset + boot.fatLength;
  if (!sound || volumeSectors === undefined) return undefined;
  const sectorSize = 2 ** sectorShift;
  return {
    sectorSize,
    clusterBytes: sectorSize * 2 ** clusterShift,
    volumeSectors,
    fatOffset: boot.fatOffset,
    fatSectors: boot.fatLength,
    heapOffset: boot.heapOffset,
    clusters: boot.clusterCount,
    rootCluster: boot.rootCluster,
  };
}

/** One set of entries; undefined where it does not hold together. */
function readSet(bytes: Uint8Array): VolumeEntry | undefined {
  const file = decode(FILE_ENTRY, bytes);
  if (bytes.length < 2 * EXFAT_ENTRY_LENGTH || bytes[EXFAT_ENTRY_LENGTH] !== TYPE.stream) return undefined;
  if (sum16(bytes, [2, 3]) !== file.checksum) return undefined;
  const stream = decode(STREAM_ENTRY, bytes.subarray(EXFAT_ENTRY_LENGTH));
  let name = '';
  for (let at = 2 * EXFAT_ENTRY_LENGTH; at < bytes.length; at += EXFAT_ENTRY_LENGTH)
    if (bytes[at] === TYPE.name) name += decode(NAME_ENTRY, bytes.subarray(at)).name;
  const length = narrow(stream.length);
  if (length === undefined || name === '') return undefined;
  const written = Math.min(length, narrow(stream.validLength) ?? length);
  const folder = (file.attributes & 0x10) !== 0;
  return {
    name: name.slice(0, stream.nameLength),
    folder,
    size: folder ? 0 : length,
    time: timeText(file.modified >>> 16, file.modified & 0xffff),
    attributes: attributesOf(file.attributes),
    cluster: stream.cluster,
    inOnePiece: (stream.flags & IN_ONE_PIECE) !== 0,
    length,
    ...(!folder && written < length && { written }),
  };
}

class ExfatVolume implements Volume {
  readonly kind = 'exFAT';
  private window: { readonly at: number; readonly bytes: Uint8Array } | undefined;

  constructor(
    private readonly source: BlockSource,
    private readonly base: number,
    private readonly shape: ExfatShape,
  ) {}

  /** The entry at a byte of the source, out of the window of the FAT that was read last. */
  private async entryAt(at: number): Promise<number> {
    if (!this.window || at < this.window.at || at + 4 > this.window.at + this.window.bytes.length) {
      const length = Math.min(FAT_WINDOW, this.source.size - at);
      this.window = { at, bytes: new Uint8Array(await this.source.read(at, length)) };
    }
    const { bytes } = this.window;
    return new DataView(bytes.buffer).getUint32(at - this.window.at, true);
  }

  private async nextOf(cluster: number): Promise<number | undefined> {
    const { fatOffset, fatSectors, sectorSize, clusters } = this.shape;
    const at = this.base + fatOffset * sectorSize + 4 * cluster;
    if (4 * cluster + 4 > fatSectors * sectorSize || at + 4 > this.source.size)
      throw new BrokenChain(`cluster ${grouped(cluster)} has no entry in the FAT`);
    const value = await this.entryAt(at);
    if (value === 0xffffffff) return undefined;
    if (value < 2 || value >= clusters + 2)
      throw new BrokenChain(`cluster ${grouped(cluster)} leads to ${grouped(value)}, which the volume does not have`);
    return value;
  }

  private follow(first: number, bytes: number, inOnePiece: boolean, toItsEnd: boolean): AsyncGenerator<Piece> {
    const { shape, base, source } = this;
    const { clusters, clusterBytes } = shape;
    return follow(source, {
      first,
      bytes,
      toItsEnd,
      clusters,
      clusterBytes,
      at: (cluster) => base + byteOfCluster(shape, cluster),
      next: (cluster) => (inOnePiece ? Promise.resolve(cluster + 1) : this.nextOf(cluster)),
    });
  }

  /** All bytes of a directory, at most so many. */
  directory(folder?: VolumeEntry, most = FOLDER_READ): Promise<{ bytes: Uint8Array; trouble: string | undefined }> {
    const places = folder
      ? this.follow(folder.cluster, Math.min(folder.length, most), folder.inOnePiece, false)
      : this.follow(this.shape.rootCluster, most, false, true);
    return readPieces(this.source, places);
  }

  async list(folder?: VolumeEntry): Promise<Listing> {
    const { bytes, trouble: broken } = await this.directory(folder);
    let trouble = broken;
    const entries: VolumeEntry[] = [];
    for (let at = 0; at + EXFAT_ENTRY_LENGTH <= bytes.length;) {
      const type = bytes[at]!;
      if (type === 0) break;
      if (type !== TYPE.file) {
        at += EXFAT_ENTRY_LENGTH;
        continue;
      }
      const length = (1 + bytes[at + 1]!) * EXFAT_ENTRY_LENGTH;
      const entry = at + length <= bytes.length ? readSet(bytes.subarray(at, at + length)) : undefined;
      if (entry) entries.push(entry);
      else trouble ??= 'an entry of this folder does not hold together';
      at += entry ? length : EXFAT_ENTRY_LENGTH;
    }
    return { entries, trouble };
  }

  /** Of a file the bytes up to its ValidDataLength lie in clusters that mean something (7.6.5). */
  async *pieces(file: VolumeEntry): AsyncGenerator<Piece> {
    const { clusters, clusterBytes } = this.shape;
    if (file.size > clusters * clusterBytes) throw new BrokenChain('it says that it is larger than the volume');
    yield* this.follow(file.cluster, file.written ?? file.size, file.inOnePiece, false);
  }

  /** Label and free clusters, as the root directory and the bitmap tell; a longer bitmap than `most` bytes is not counted. */
  async facts(most: number): Promise<{ label: string; free: number | undefined }> {
    const { bytes } = await this.directory(undefined, FACTS_READ);
    let label = '';
    let free: number | undefined;
    let isCounted = false;
    for (let at = 0; at + EXFAT_ENTRY_LENGTH <= bytes.length && bytes[at] !== 0; at += EXFAT_ENTRY_LENGTH) {
      const entry = bytes.subarray(at, at + EXFAT_ENTRY_LENGTH);
      if (entry[0] === TYPE.label) {
        const { label: text, count } = decode(LABEL_ENTRY, entry);
        label = text.slice(0, count);
      }
      // The first says it of the first FAT; whatever others say, it is counted once.
      if (entry[0] === TYPE.bitmap && !isCounted) {
        isCounted = true;
        free = await this.countFree(decode(BITMAP_ENTRY, entry), most);
      }
    }
    return { label, free };
  }

  private async countFree(entry: Values<typeof BITMAP_ENTRY>, most: number): Promise<number | undefined> {
    const { clusters } = this.shape;
    if (Math.ceil(clusters / 8) > most || Number(entry.length) < Math.ceil(clusters / 8)) return undefined;
    let used = 0;
    try {
      for await (const { first, bits } of this.bitmap(entry)) {
        for (const byte of bits) used += BITS_OF[byte]!;
        // Bits behind the last cluster count for nothing.
        const behind = first + 8 * bits.length - clusters;
        if (behind > 0) used -= BITS_OF[bits.at(-1)! >> (8 - behind)]!;
      }
    } catch (error) {
      if (error instanceof BrokenChain) return undefined;
      throw error;
    }
    return clusters - used;
  }

  /** The bitmap in windows, each with the first cluster that it tells of, from 0 on; those of a hole, which are free, are left out. */
  private async *bitmap({ cluster }: Values<typeof BITMAP_ENTRY>): AsyncGenerator<{ first: number; bits: Uint8Array }> {
    let first = 0;
    for await (const { at, length: run } of this.follow(cluster, Math.ceil(this.shape.clusters / 8), false, false))
      for (let done = 0; done < run;) {
        const window = Math.min(WINDOW, run - done);
        if (this.source.isHole?.(at + done, window) !== true)
          yield { first, bits: new Uint8Array(await this.source.read(at + done, window)) };
        first += 8 * window;
        done += window;
      }
  }

  /** What stands ahead of its clusters, and those that its first bitmap says are in use. */
  async map(cells: number): Promise<RoomMap> {
    const { sectorSize, volumeSectors, heapOffset, clusterBytes, clusters } = this.shape;
    const heap = heapOffset * sectorSize;
    const drawing = new MapDrawing(volumeSectors * sectorSize, clusterBytes, cells);
    drawing.add('structures', 0, heap);
    const used = new UsedRuns(drawing, (one) => heap + one * clusterBytes, clusterBytes);
    const { bytes } = await this.directory(undefined, FACTS_READ);
    for (let at = 0; at + EXFAT_ENTRY_LENGTH <= bytes.length && bytes[at] !== 0; at += EXFAT_ENTRY_LENGTH) {
      if (bytes[at] !== TYPE.bitmap) continue;
      for await (const { first, bits } of this.bitmap(
        decode(BITMAP_ENTRY, bytes.subarray(at, at + EXFAT_ENTRY_LENGTH)),
      ))
        for (let i = 0; i < 8 * bits.length && first + i < clusters; i++)
          if ((bits[i >> 3]! & (1 << (i & 7))) !== 0) used.add(first + i);
      break;
    }
    used.flush();
    return drawing.map();
  }
}

const VOLUME_DIRTY = 2;

/** True where a boot region's last sector has the checksum of what is before it. */
async function regionSound(source: BlockSource, at: number, sectorSize: number): Promise<boolean> {
  if (at + REGION * sectorSize > source.size) return false;
  const region = await source.read(at, REGION * sectorSize);
  const sum = sum32(region.subarray(0, (REGION - 1) * sectorSize), NOT_SUMMED);
  const view = new DataView(region.buffer, region.byteOffset, region.byteLength);
  for (let i = (REGION - 1) * sectorSize; i < region.length; i += 4) if (view.getUint32(i, true) !== sum) return false;
  return true;
}

async function bootOf(source: BlockSource, base: number) {
  if (base + 512 > source.size) return undefined;
  const boot = decode(EXFAT_BOOT_SECTOR, await source.read(base, 512));
  const shape = shapeOf(boot);
  return shape && { boot, shape };
}

/** The volume that begins `base` bytes into the source, to browse; undefined where there is none. */
export async function openExfat(source: BlockSource, base: number): Promise<Volume | undefined> {
  const found = await bootOf(source, base);
  return found && new ExfatVolume(source, base, found.shape);
}

/** What the volume says of itself; undefined where there is none. `isFull`: its bitmap is counted, however long it is. */
export async function readExfat(source: BlockSource, base: number, isFull = false): Promise<ExfatFound | undefined> {
  const found = await bootOf(source, base);
  if (!found) return undefined;
  const { boot, shape } = found;
  const { label, free } = await new ExfatVolume(source, base, shape).facts(isFull ? Infinity : BITMAP_READ);
  return {
    shape,
    partitionOffset: narrow(boot.partitionOffset) ?? Number.MAX_SAFE_INTEGER,
    serial: boot.serial,
    label,
    percentInUse: boot.percentInUse,
    isDirty: (boot.flags & VOLUME_DIRTY) !== 0,
    regionSound: await regionSound(source, base, shape.sectorSize),
    copySound: await regionSound(source, base + REGION * shape.sectorSize, shape.sectorSize),
    free,
  };
}

/**
 * Records of an NTFS: where its file table lies, the attributes of a record, and the runs of what lies outside of one. Only
 * what is asked of it is read, and nothing outside of the volume; what cannot be believed is left out.
 */
import type { BlockSource } from '../bytes/blocks';

const BOOT_LENGTH = 512;
const LARGEST_RECORD = 4096;
const LARGEST_INDEX = 65_536;
const LARGEST_CLUSTER = 2 * 1024 * 1024;
/** Runs of one attribute that are followed. */
const MOST_RUNS = 4096;

/** Types of attributes. */
export const VOLUME_NAME = 0x60;
export const VOLUME_INFORMATION = 0x70;
export const DATA = 0x80;
export const INDEX_ROOT = 0x90;
export const INDEX_ALLOCATION = 0xa0;
const END = 0xffffffff;

/** An attribute of a record. */
export interface Attribute {
  readonly type: number;
  /** Its content, where that lies in the record. */
  readonly inside: DataView | undefined;
  /** Where its content lies otherwise. */
  readonly runs: readonly Run[];
}

/** Clusters that follow each other; `at` is undefined where they are a hole. */
export interface Run {
  readonly at: number | undefined;
  readonly clusters: number;
}

/** A size that is said as a count of units, or as a power of two where it is negative. */
function sizeOf(byte: number, unit: number): number {
  return byte < 0x80 ? byte * unit : 2 ** (256 - byte);
}

/** A record or an index block with the last two bytes of its sectors put back, which are kept in a list at its front. */
function restored(record: Uint8Array, mark: string, sector: number): DataView | undefined {
  const bytes = Uint8Array.from(record);
  const view = new DataView(bytes.buffer);
  const [at, count] = [view.getUint16(4, true), view.getUint16(6, true)];
  if (String.fromCharCode(...bytes.subarray(0, 4)) !== mark || count < 1 || at + 2 * count > bytes.length)
    return undefined;
  const number = view.getUint16(at, true);
  for (let i = 1; i < count; i++) {
    const end = i * sector - 2;
    if (end + 2 > bytes.length || view.getUint16(end, true) !== number) return undefined;
    view.setUint16(end, view.getUint16(at + 2 * i, true), true);
  }
  return view;
}

/** Little-endian number of up to 8 bytes. */
function numberAt(view: DataView, at: number, length: number, isSigned: boolean): number {
  let value = 0n;
  for (let i = 0; i < length; i++) value |= BigInt(view.getUint8(at + i)) << BigInt(8 * i);
  return Number(isSigned ? BigInt.asIntN(8 * length, value) : value);
}

/** The runs that begin at a byte of a record: each a length, and how far it lies from the one before. */
function runsAt(view: DataView, from: number, end: number): Run[] {
  const runs: Run[] = [];
  let [at, place] = [from, 0];
  while (at < end && runs.length < MOST_RUNS) {
    const [ofLength, ofPlace] = [view.getUint8(at) & 0xf, view.getUint8(at) >> 4];
    if (ofLength === 0 || ofLength > 8 || ofPlace > 8 || at + 1 + ofLength + ofPlace > end) break;
    const clusters = numberAt(view, at + 1, ofLength, false);
    if (ofPlace > 0) place += numberAt(view, at + 1 + ofLength, ofPlace, true);
    if (!Number.isSafeInteger(clusters) || !Number.isSafeInteger(place) || place < 0) break;
    runs.push({ at: ofPlace > 0 ? place : undefined, clusters });
    at += 1 + ofLength + ofPlace;
  }
  return runs;
}

/** The attributes of a record. */
function* attributesOf(view: DataView): Generator<Attribute> {
  let at = view.getUint16(20, true);
  while (at + 24 <= view.byteLength) {
    const [type, length] = [view.getUint32(at, true), view.getUint32(at + 4, true)];
    if (type === END || length < 24 || at + length > view.byteLength) return;
    if (view.getUint8(at + 8) === 0) {
      const [size, offset] = [view.getUint32(at + 16, true), view.getUint16(at + 20, true)];
      if (offset + size <= length) yield { type, inside: new DataView(view.buffer, at + offset, size), runs: [] };
    } else if (length >= 64) {
      const runs = runsAt(view, at + view.getUint16(32 + at, true), at + length);
      yield { type, inside: undefined, runs };
    }
    at += length;
  }
}

/** Reads records of the volume that begins `base` bytes into the source and has `available` bytes. */
export class NtfsRecords {
  private constructor(
    private readonly source: BlockSource,
    private readonly base: number,
    private readonly available: number,
    private readonly sector: number,
    private readonly cluster: number,
    private readonly record: number,
    private readonly index: number,
    private readonly table: number,
  ) {}

  /** The records of a volume; undefined where its boot sector cannot be believed. */
  static async open(source: BlockSource, base: number, available: number): Promise<NtfsRecords | undefined> {
    if (available < BOOT_LENGTH) return undefined;
    const boot = await source.read(base, BOOT_LENGTH);
    const head = new DataView(boot.buffer, boot.byteOffset, BOOT_LENGTH);
    const sector = head.getUint16(11, true);
    const cluster = sizeOf(head.getUint8(13), 1) * sector;
    const record = sizeOf(head.getUint8(64), cluster);
    const index = sizeOf(head.getUint8(68), cluster);
    const table = Number(head.getBigUint64(48, true)) * cluster;
    const isSane =
      sector >= 256 &&
      cluster >= sector &&
      cluster <= LARGEST_CLUSTER &&
      record >= sector &&
      record <= LARGEST_RECORD &&
      Number.isSafeInteger(table);
    return isSane ? new NtfsRecords(source, base, available, sector, cluster, record, index, table) : undefined;
  }

  /** Bytes of the volume; undefined where they do not lie in it. */
  private read(at: number, length: number): Promise<Uint8Array> | undefined {
    if (at < 0 || at + length > this.available || this.base + at + length > this.source.size) return undefined;
    return this.source.read(this.base + at, length);
  }

  /** Byte of the volume at which byte `at` of some runs lies; undefined in a hole, and behind them. */
  private placeIn(runs: readonly Run[], at: number): number | undefined {
    let from = 0;
    for (const { at: place, clusters } of runs) {
      const length = clusters * this.cluster;
      if (at < from + length) return place === undefined ? undefined : place * this.cluster + at - from;
      from += length;
    }
    return undefined;
  }

  /** The first bytes of an attribute. */
  async head({ inside, runs }: Attribute, length: number): Promise<Uint8Array | undefined> {
    if (inside) return new Uint8Array(inside.buffer, inside.byteOffset, Math.min(length, inside.byteLength));
    const place = this.placeIn(runs, 0);
    return place === undefined ? undefined : this.read(place, length);
  }

  private async attributesAt(place: number | undefined): Promise<Attribute[]> {
    const bytes = place === undefined ? undefined : await this.read(place, this.record);
    const view = bytes && restored(bytes, 'FILE', this.sector);
    return view ? [...attributesOf(view)] : [];
  }

  /** The attributes of one of the first records, which lie where the boot sector says. */
  first(number: number): Promise<Attribute[]> {
    return this.attributesAt(this.table + number * this.record);
  }

  /** The attributes of any record, by the runs of the file table. */
  async of(number: number): Promise<Attribute[]> {
    const table = (await this.first(0)).find(({ type }) => type === DATA);
    return this.attributesAt(table && this.placeIn(table.runs, number * this.record));
  }

  /** A block of an index: what stands behind its header. Its numbers are in clusters, or in sectors of smaller blocks. */
  async indexBlock({ runs }: Attribute, number: number): Promise<DataView | undefined> {
    const { index, cluster } = this;
    if (index < this.sector || index > LARGEST_INDEX) return undefined;
    const place = this.placeIn(runs, number * (index >= cluster ? cluster : this.sector));
    const bytes = place === undefined ? undefined : await this.read(place, index);
    const view = bytes && restored(bytes, 'INDX', this.sector);
    return view && new DataView(view.buffer, INDEX_HEADER_AT);
  }
}

const INDEX_HEADER_AT = 24;

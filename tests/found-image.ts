/** Images for surveys: made from layouts, sparse in memory, and damaged byte by byte. */
import { type BlockSource } from '@/core/bytes/blocks';
import { crc32 } from '@/core/bytes/crc32';
import { compose } from '@/core/compose/compose';
import type { Layout } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import type { Placement } from '@/core/placement/placement';

const PAGE = 4096;

/** A sparse image in memory that tests write into. */
export class FoundImage implements BlockSource {
  private pages = new Map<number, Uint8Array>();
  /** Pages that no other image shares. */
  private owned = new Set<number>();

  constructor(
    public size: number,
    readonly sectorSize: 512 | 4096 = 512,
  ) {}

  /** The image that a build of the layout would be. */
  static of(layout: Layout): FoundImage {
    return FoundImage.ofPlacement(place(layout));
  }

  /** The same of a placement, as far as its bytes are not copied from elsewhere. */
  static ofPlacement(placement: Placement): FoundImage {
    const image = new FoundImage(placement.sectors * placement.sectorSize, placement.sectorSize);
    for (const { extent } of compose(placement)) if ('bytes' in extent) image.put(extent.offset, extent.bytes);
    return image;
  }

  /** Another image with the same bytes, which are copied only where one of them changes. */
  clone(): FoundImage {
    const copy = new FoundImage(this.size, this.sectorSize);
    copy.pages = new Map(this.pages);
    this.owned = new Set();
    return copy;
  }

  /** Numbers of the pages of 4 KiB that hold data. */
  get filled(): number[] {
    return [...this.pages.keys()];
  }

  private page(number: number): Uint8Array {
    const page = this.pages.get(number);
    if (page && this.owned.has(number)) return page;
    const own = page?.slice() ?? new Uint8Array(PAGE);
    this.pages.set(number, own);
    this.owned.add(number);
    return own;
  }

  put(offset: number, bytes: Uint8Array | readonly number[]): this {
    bytes.forEach((byte, i) => {
      const number = Math.floor((offset + i) / PAGE);
      this.page(number)[(offset + i) % PAGE] = byte;
    });
    return this;
  }

  text(offset: number, text: string): this {
    return this.put(
      offset,
      Uint8Array.from(text, (c) => c.charCodeAt(0)),
    );
  }

  /** A little-endian number of `width` bytes. */
  number(offset: number, value: number | bigint, width: 1 | 2 | 4 | 8 = 4): this {
    return this.put(
      offset,
      Array.from({ length: width }, (_, i) => Number((BigInt(value) >> BigInt(8 * i)) & 0xffn)),
    );
  }

  /** Another value in place of a byte. */
  flip(offset: number, mask = 0x40): this {
    return this.put(offset, [this.bytes(offset, 1)[0]! ^ mask]);
  }

  bytes(offset: number, length: number): Uint8Array {
    const out = new Uint8Array(length);
    for (let at = offset; at < offset + length;) {
      const step = Math.min(PAGE - (at % PAGE), offset + length - at);
      const page = this.pages.get(Math.floor(at / PAGE));
      if (page) out.set(page.subarray(at % PAGE, (at % PAGE) + step), at - offset);
      at += step;
    }
    return out;
  }

  u32(offset: number): number {
    return new DataView(this.bytes(offset, 4).buffer).getUint32(0, true);
  }

  /** The same image with another length. */
  resized(size: number): this {
    this.size = size;
    return this;
  }

  /** Computes the checksums of a GPT header again, over its array as it is now. */
  mend(sector: number): this {
    const at = sector * this.sectorSize;
    const [array, entries, size] = [this.u32(at + 72) * this.sectorSize, this.u32(at + 80), this.u32(at + 84)];
    this.number(at + 88, crc32(this.bytes(array, Math.min(entries * size, 2 ** 20))));
    this.number(at + 16, 0);
    return this.number(at + 16, crc32(this.bytes(at, Math.max(92, Math.min(this.u32(at + 12), this.sectorSize)))));
  }

  /** One entry of a boot record. */
  entry(sector: number, index: number, entry: { type: number; first: number; count: number; status?: number }): this {
    const at = sector * this.sectorSize + 446 + 16 * index;
    this.put(at, [entry.status ?? 0, 0, 0, 0, entry.type, 0, 0, 0]);
    this.number(at + 8, entry.first);
    this.number(at + 12, entry.count);
    return this.number(sector * this.sectorSize + 510, 0xaa55, 2);
  }

  /** Everything that is stored, to see whether it changed. */
  snapshot(): string {
    return JSON.stringify([this.size, ...[...this.pages].map(([number, page]) => [number, crc32(page)])]);
  }

  isHole(offset: number, length: number): boolean {
    for (const page of this.pages.keys()) if (page * PAGE < offset + length && (page + 1) * PAGE > offset) return false;
    return true;
  }

  read(offset: number, length: number): Promise<Uint8Array> {
    if (offset < 0 || offset + length > this.size)
      return Promise.reject(new RangeError(`${offset}+${length} leaves ${this.size} bytes`));
    return Promise.resolve(this.bytes(offset, length));
  }
}

/** A container with logical partitions of `count` sectors each, one record and one MiB apart. */
export function withLogicals(
  image: FoundImage,
  container: { first: number; count: number },
  logicals: number,
): FoundImage {
  const step = 4096;
  image.entry(0, 3, { type: 0x0f, ...container });
  for (let i = 0; i < logicals; i++) {
    const record = container.first + i * step;
    image.entry(record, 0, { type: 0x83, first: 2048, count: 2048 });
    if (i + 1 < logicals) image.entry(record, 1, { type: 0x05, first: (i + 1) * step, count: step });
  }
  return image;
}

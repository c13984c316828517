/** Journals written by the book, in all their forms, for tests of how they are replayed. */
import { crc32HighFirst } from '@/core/bytes/crc32';
import { crc32c } from '@/core/bytes/crc32c';
import { memoryBlocks } from '@/core/bytes/blocks';
import { readExtHead } from '@/core/filesystems/ext/read/head';
import { Inodes } from '@/core/filesystems/ext/read/inodes';
import { SUPERBLOCK } from '@/core/filesystems/ext/records';

/** Which form the journal has. */
export interface JournalForm {
  readonly sums: 'none' | 'old' | '2' | '3';
  readonly isLong: boolean;
  /** Superblock of the first form. */
  readonly isFirst?: boolean;
  readonly hasFast?: boolean;
}

/** A transaction: what it writes where, in its order, and which blocks it revokes. */
export interface Transaction {
  readonly writes: readonly (readonly [block: number, bytes: Uint8Array])[];
  readonly revokes?: readonly number[];
  /** What is wrong about it. */
  readonly harm?: 'no commit' | 'commit sum' | 'data sum' | 'descriptor sum' | 'revocation sum';
  /** When it was committed. */
  readonly seconds?: number;
}

const MAGIC = 0xc03b3998;
const UUID = Uint8Array.from({ length: 16 }, (_, i) => 0x40 + i);

/** Writes a journal into an image; `start` is the block of it at which it begins, `sequence` its first transaction. */
export class JournalWriter {
  private constructor(
    private readonly image: Uint8Array,
    readonly block: number,
    /** Blocks of the volume that the journal lies in, in its order. */
    readonly places: readonly number[],
  ) {}

  static async of(image: Uint8Array): Promise<JournalWriter> {
    const source = memoryBlocks(image);
    const found = await readExtHead(source, 0);
    if (!found || 'refused' in found) throw new Error('no ext');
    const inodes = new Inodes(source, 0, found.head);
    const places: number[] = [];
    for await (const { count, at } of inodes.runs(await inodes.at(found.head.superblock.journalInode)))
      for (let i = 0; i < count; i++) places.push(at! + i);
    return new JournalWriter(image, found.head.block, places);
  }

  private at(number: number): Uint8Array {
    const from = this.places[number]! * this.block;
    return this.image.subarray(from, from + this.block);
  }

  private view(number: number): DataView {
    const bytes = this.at(number);
    return new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  }

  /** Marks the volume as one whose journal is to be replayed. */
  private markVolume(): void {
    const view = new DataView(this.image.buffer, this.image.byteOffset + 1024, 1024);
    const { incompatible, checksum, readOnly } = SUPERBLOCK.fields;
    view.setUint32(incompatible.offset, view.getUint32(incompatible.offset, true) | 4, true);
    if ((view.getUint32(readOnly.offset, true) & 0x400) === 0) return;
    view.setUint32(checksum.offset, crc32c(this.image.subarray(1024, 1024 + checksum.offset)), true);
  }

  write(
    form: JournalForm,
    transactions: readonly Transaction[],
    { start = 1, sequence = 1, blocks = this.places.length, fast = 0 } = {},
  ): void {
    const { block } = this;
    const isSummed = form.sums === '2' || form.sums === '3';
    const seed = crc32c(UUID);
    const end = blocks - fast;
    this.markVolume();
    this.at(0).fill(0);
    const head = this.view(0);
    const features =
      1 | (form.isLong ? 2 : 0) | (form.sums === '2' ? 8 : 0) | (form.sums === '3' ? 16 : 0) | (fast > 0 ? 0x20 : 0);
    const words = [MAGIC, form.isFirst ? 3 : 4, 0, block, blocks, 1, sequence, start, 0];
    words.forEach((word, i) => head.setUint32(4 * i, word));
    if (!form.isFirst) {
      head.setUint32(0x24, form.sums === 'old' ? 1 : 0);
      head.setUint32(0x28, features);
      this.at(0).set(UUID, 0x30);
      head.setUint8(0x50, isSummed ? 4 : 0);
      head.setUint32(0x54, fast);
      if (isSummed) head.setUint32(0xfc, crc32c(this.at(0).subarray(0, 1024)));
    }

    let at = start;
    const next = () => {
      const here = at;
      at = at + 1 >= end ? 1 : at + 1;
      this.at(here).fill(0xaa);
      return here;
    };
    const begin = (number: number, kind: number, id: number) =>
      [MAGIC, kind, id].forEach((word, i) => this.view(number).setUint32(4 * i, word));
    const tail = (number: number, isWrong: boolean) => {
      if (!isSummed) return;
      this.view(number).setUint32(block - 4, 0);
      this.view(number).setUint32(block - 4, crc32c(this.at(number), seed) ^ (isWrong ? 1 : 0));
    };
    transactions.forEach(({ writes, revokes = [], harm, seconds = 1000 }, n) => {
      const id = (sequence + n) >>> 0;
      let old = 0xffffffff;
      if (revokes.length > 0) {
        const width = form.isLong ? 8 : 4;
        const number = next();
        begin(number, 5, id);
        this.view(number).setUint32(12, 16 + width * revokes.length);
        revokes.forEach((revoked, i) => {
          if (form.isLong) this.view(number).setBigUint64(16 + 8 * i, BigInt(revoked));
          else this.view(number).setUint32(16 + 4 * i, revoked);
        });
        tail(number, harm === 'revocation sum');
      }
      const tagBytes = form.sums === '3' ? 16 : 8 + (form.sums === '2' ? 2 : 0) + (form.isLong ? 4 : 0);
      // The first tag of each descriptor has a UUID behind it.
      const most = Math.min(40, Math.floor((block - 12 - 4 - 16) / tagBytes));
      for (let from = 0; from < writes.length; from += most) {
        const own = writes.slice(from, from + most);
        const descriptor = next();
        begin(descriptor, 1, id);
        const data: number[] = [];
        let tag = 12;
        for (const [i, [target, bytes]] of own.entries()) {
          const number = next();
          data.push(number);
          const stored = this.at(number);
          stored.set(bytes);
          const isEscaped = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0) === MAGIC;
          if (isEscaped) stored.fill(0, 0, 4);
          const idBytes = new Uint8Array(4);
          new DataView(idBytes.buffer).setUint32(0, id);
          const sum = crc32c(stored, crc32c(idBytes, seed)) ^ (harm === 'data sum' ? 0x10001 : 0);
          const flags = (isEscaped ? 1 : 0) | (i > 0 ? 2 : 0) | (i === own.length - 1 ? 8 : 0);
          const view = this.view(descriptor);
          this.at(descriptor).fill(0, tag, tag + tagBytes);
          view.setUint32(tag, target);
          if (form.sums === '3') {
            view.setUint32(tag + 4, flags);
            view.setUint32(tag + 12, sum >>> 0);
          } else {
            view.setUint16(tag + 4, form.sums === '2' ? sum & 0xffff : 0);
            view.setUint16(tag + 6, flags);
          }
          tag += tagBytes;
          if (i > 0) continue;
          this.at(descriptor).set(UUID, tag);
          tag += 16;
        }
        tail(descriptor, harm === 'descriptor sum');
        old = crc32HighFirst(this.at(descriptor), old);
        for (const number of data) old = crc32HighFirst(this.at(number), old);
      }
      if (harm === 'no commit') return;
      const commit = next();
      this.at(commit).fill(0);
      begin(commit, 2, id);
      this.view(commit).setBigUint64(0x30, BigInt(seconds));
      if (form.sums === 'old') {
        this.at(commit).set([1, 4], 12);
        this.view(commit).setUint32(16, harm === 'commit sum' ? old ^ 1 : old);
      }
      if (isSummed) this.view(commit).setUint32(16, crc32c(this.at(commit), seed) ^ (harm === 'commit sum' ? 1 : 0));
    });
    // What an earlier round of the log left.
    this.at(next()).fill(0x55);
    if (fast > 0 && form.hasFast) {
      const view = this.view(end + 1);
      view.setUint16(0, 9, true);
      view.setUint16(2, 8, true);
      view.setUint32(8, sequence + transactions.length, true);
    }
  }
}

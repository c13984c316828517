/** A volume as it would be once its journal is worked off: what stands elsewhere, or would be changed, comes in its place. */
import type { BlockSource } from '../../../bytes/blocks';

/** What is in the place of a block: another block of the volume, whose first four bytes may be those of a journal again; or bytes. */
export type Patch = { readonly from: number; readonly isEscaped: boolean } | Uint8Array;

/** Blocks of a volume that are not as they lie. */
export type Patches = ReadonlyMap<number, Patch>;

const MAGIC_BYTES = Uint8Array.of(0xc0, 0x3b, 0x39, 0x98);

/** The bytes of a source, with the blocks of the volume at `base` as `patches` say; nothing is written anywhere. */
export class PatchedView implements BlockSource {
  readonly size: number;
  private readonly own: Map<number, Patch>;
  /** Ascending; made anew when blocks were added. */
  private sorted: number[] = [];

  constructor(
    private readonly source: BlockSource,
    private readonly base: number,
    private readonly block: number,
    patches: Patches = new Map(),
  ) {
    this.size = source.size;
    this.own = new Map(patches);
  }

  get patches(): Patches {
    return this.own;
  }

  /** Puts something in the place of a block. */
  set(block: number, patch: Patch): void {
    this.own.set(block, patch);
  }

  /** Puts bytes at a byte of the volume; they do not reach into the next block. */
  async put(at: number, bytes: Uint8Array): Promise<void> {
    const block = Math.floor(at / this.block);
    const known = this.own.get(block);
    const whole =
      known instanceof Uint8Array ? known : new Uint8Array(await this.read(this.base + block * this.block, this.block));
    whole.set(bytes, at - block * this.block);
    this.own.set(block, whole);
  }

  isHole(offset: number, length: number): boolean {
    return !this.isPatched(offset, length) && this.source.isHole?.(offset, length) === true;
  }

  async read(offset: number, length: number, into?: Uint8Array): Promise<Uint8Array> {
    const bytes = await this.source.read(offset, length, into);
    if (!this.isPatched(offset, length)) return bytes;
    // What a source lends is not changed.
    const own = new Uint8Array(bytes);
    const { block, base } = this;
    for (let i = this.firstFrom(this.blockOf(offset)); i < this.sorted.length; i++) {
      const at = base + this.sorted[i]! * block;
      if (at >= offset + length) break;
      const patch = this.own.get(this.sorted[i]!)!;
      const [from, to] = [Math.max(offset, at), Math.min(offset + length, at + block)];
      if (to > from) own.set((await this.bytesOf(patch)).subarray(from - at, to - at), from - offset);
    }
    return own;
  }

  private async bytesOf(patch: Patch): Promise<Uint8Array> {
    if (patch instanceof Uint8Array) return patch;
    const bytes = new Uint8Array(await this.source.read(this.base + patch.from * this.block, this.block));
    if (patch.isEscaped) bytes.set(MAGIC_BYTES);
    return bytes;
  }

  private blockOf(offset: number): number {
    return Math.floor((offset - this.base) / this.block);
  }

  /** True where something of a range is not as it lies. */
  isPatched(offset: number, length: number): boolean {
    if (this.sorted.length !== this.own.size) this.sorted = [...this.own.keys()].sort((a, b) => a - b);
    const next = this.sorted[this.firstFrom(this.blockOf(offset))];
    return next !== undefined && this.base + next * this.block < offset + length;
  }

  /** Index of the first patched block that is not before another. */
  private firstFrom(block: number): number {
    let [low, high] = [0, this.sorted.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.sorted[middle]! < block) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}

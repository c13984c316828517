/** Which blocks are claimed, and by whom: a block that two claim belongs to none of them for sure. */
import type { Fault, Faults } from './faults';
import type { CheckedVolume } from './volume';

/** Blocks that two claim whose files are looked for. */
const MOST_CONTESTED = 256;

export class Claims {
  private readonly bits = new Map<number, Uint8Array>();
  /** Blocks that something else had claimed, each with the fault that tells it. */
  readonly contested = new Map<number, Fault>();

  constructor(
    private readonly volume: CheckedVolume,
    private readonly faults: Faults,
  ) {}

  private of(group: number): Uint8Array {
    let bits = this.bits.get(group);
    if (!bits) this.bits.set(group, (bits = new Uint8Array(this.volume.block)));
    return bits;
  }

  /** Claims blocks; those that are claimed already, or that lie outside, are told. True where all could be. */
  take(start: number, count: number, who: string): boolean {
    const { volume, faults } = this;
    if (
      count <= 0 ||
      !Number.isSafeInteger(start) ||
      start < volume.superblock.firstDataBlock ||
      start + count > volume.blocks
    ) {
      faults.add('map/outside', who, `blocks from ${start} on, ${count} of them`);
      return false;
    }
    const twice: number[] = [];
    for (let block = start; block < start + count; block++) {
      const group = volume.groupOf(block);
      const bits = this.of(group);
      const at = block - volume.groupStart(group);
      if ((bits[at >> 3]! & (1 << (at & 7))) !== 0) twice.push(block);
      bits[at >> 3] = bits[at >> 3]! | (1 << (at & 7));
      // What is so wrong is not gone on with.
      if (twice.length > 64) break;
    }
    if (twice.length === 0) return true;
    const says = `block ${twice[0]}${twice.length > 1 ? ` and ${twice.length - 1} more` : ''} of it, claimed by something else too`;
    const fault = faults.add('map/block twice', who, says);
    if (fault) for (const block of twice) if (this.contested.size < MOST_CONTESTED) this.contested.set(block, fault);
    return false;
  }

  /** Claimed blocks of a group, as a bitmap; undefined where there are none. */
  bitsOf(group: number): Uint8Array | undefined {
    return this.bits.get(group);
  }
}

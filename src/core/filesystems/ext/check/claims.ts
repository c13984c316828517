/** Which blocks are claimed, and by whom: a block that two claim belongs to none of them for sure. */
import type { Faults } from './faults';
import type { CheckedVolume } from './volume';

export class Claims {
  private readonly bits = new Map<number, Uint8Array>();

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
    let twice = 0;
    for (let block = start; block < start + count; block++) {
      const group = volume.groupOf(block);
      const bits = this.of(group);
      const at = block - volume.groupStart(group);
      if ((bits[at >> 3]! & (1 << (at & 7))) !== 0) twice += 1;
      bits[at >> 3] = bits[at >> 3]! | (1 << (at & 7));
      // What is so wrong is not gone on with.
      if (twice > 64) break;
    }
    if (twice > 0) faults.add('map/block twice', who, `blocks from ${start} on are claimed by something else too`);
    return twice === 0;
  }

  /** Claimed blocks of a group, as a bitmap; undefined where there are none. */
  bitsOf(group: number): Uint8Array | undefined {
    return this.bits.get(group);
  }
}

/**
 * Checksums of an ext file system (the kernel's documentation, "Checksums"): every structure's begins
 * with the UUID; with `gdt_csum` only the group descriptors have one.
 */
import { crc16, crc32c, crc32cOfNumber } from '../../bytes/crc32c';
import { hasFeature } from './feature-bits';
import { type Superblock, SUPERBLOCK } from './records';

/** Which structures have a checksum: all, or the group descriptors alone. */
interface Summed {
  has(feature: 'metadata_csum' | 'gdt_csum'): boolean;
}

/** The sums of one file system. */
export class Checksums {
  /** Every structure has one. */
  readonly isOn: boolean;

  constructor(
    private readonly uuid: Uint8Array,
    readonly features: Summed,
    private readonly seed = crc32c(uuid),
  ) {
    this.isOn = features.has('metadata_csum');
  }

  /** Seed of everything that belongs to an inode. */
  ofInode(inode: number, generation = 0): number {
    return crc32cOfNumber(generation, crc32cOfNumber(inode, this.seed));
  }

  /** Of an inode whose own fields for it are zero. */
  ofInodeBytes(inode: number, bytes: Uint8Array, generation = 0): number {
    return crc32c(bytes, this.ofInode(inode, generation));
  }

  /** Of a superblock, which begins with nothing of the file system. */
  ofSuperblock(bytes: Uint8Array): number {
    return crc32c(bytes.subarray(0, SUPERBLOCK.fields.checksum.offset));
  }

  /** Of bytes that belong to no inode. */
  of(bytes: Uint8Array): number {
    return crc32c(bytes, this.seed);
  }

  /** Of a group descriptor, whose field for it is `at` bytes in. */
  ofDescriptor(group: number, descriptor: Uint8Array, at: number): number {
    if (this.isOn) {
      const copy = descriptor.slice();
      copy.fill(0, at, at + 2);
      return crc32c(copy, crc32cOfNumber(group, this.seed)) & 0xffff;
    }
    if (!this.features.has('gdt_csum')) return 0;
    const number = new Uint8Array(4);
    new DataView(number.buffer).setUint32(0, group, true);
    return crc16(descriptor.subarray(at + 2), crc16(descriptor.subarray(0, at), crc16(number, crc16(this.uuid))));
  }

  /** Of a block of extended attributes, whose field for it is `at` bytes in. */
  ofAttributes(block: number, bytes: Uint8Array, at: number): number {
    const number = new Uint8Array(8);
    new DataView(number.buffer).setBigUint64(0, BigInt(block), true);
    let sum = crc32c(bytes.subarray(0, at), crc32c(number, this.seed));
    sum = crc32c(new Uint8Array(4), sum);
    return crc32c(bytes.subarray(at + 4), sum);
  }
}

/** The sums of a file system that was found; the seed may be stored, so that the UUID can be changed. */
export function checksumsOf(superblock: Superblock): Checksums {
  const { uuid, checksumSeed } = superblock;
  const features: Summed = { has: (feature) => hasFeature(superblock, feature) };
  return new Checksums(uuid, features, hasFeature(superblock, 'csum_seed') ? checksumSeed : undefined);
}

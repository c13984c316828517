/** Volumes that faults are planted into: sound ones of three kinds, and where everything lies in them. */
import { placeGroups } from '@/core/filesystems/ext/groups';
import { SUPERBLOCK_AT } from '@/core/filesystems/ext/numbers';
import { LONG_GROUP, LONG_INODE, SHORT_GROUP, SUPERBLOCK } from '@/core/filesystems/ext/records';
import { crc32c, crc32cOfNumber } from '@/core/bytes/crc32c';
import type { RecordShape } from '@/core/bytes/record';
import type { Tree } from '@/core/filesystems/tree';
import { MIB } from '@/core/quantity/units';
import { type ExtWish, type MadeExt, makeExt } from './ext';
import { sparse, systemTree, wideTree } from './ext-trees';
import { overNoise, Shelf } from './filled';

const shelf = new Shelf();
const UUID = Buffer.from('0f6c1f0a52cd4b0e9a357a20b2f3c4d5', 'hex');

/** A volume that faults are planted into. */
export class Planted {
  readonly bytes: Buffer;

  constructor(
    readonly made: MadeExt,
    bytes: Uint8Array,
  ) {
    this.bytes = Buffer.from(bytes);
  }

  private put(shape: RecordShape, base: number, field: string, value: number): void {
    const { offset, type } = shape.fields[field]!;
    const width = { u8: 1, u16: 2, u32: 4 }[type as 'u8' | 'u16' | 'u32'];
    this.bytes.writeUIntLE(value, base + offset, width);
  }

  superblock(field: keyof typeof SUPERBLOCK.fields, value: number, sealed = true): void {
    this.put(SUPERBLOCK, SUPERBLOCK_AT, field, value);
    if (!sealed || !this.made.geometry.features.has('metadata_csum')) return;
    this.bytes.writeUInt32LE(crc32c(this.bytes.subarray(SUPERBLOCK_AT, SUPERBLOCK_AT + 0x3fc)), SUPERBLOCK_AT + 0x3fc);
  }

  group(group: number, field: keyof typeof SHORT_GROUP.fields, value: number, sealed = true): void {
    const { block, firstBlock, descriptorBytes } = this.made.geometry;
    const at = (firstBlock + 1) * block + group * descriptorBytes;
    this.put(descriptorBytes === 64 ? LONG_GROUP : SHORT_GROUP, at, field, value);
    if (!sealed || !this.made.geometry.features.has('metadata_csum')) return;
    const own = Buffer.from(this.bytes.subarray(at, at + descriptorBytes));
    own.writeUInt16LE(0, 0x1e);
    this.bytes.writeUInt16LE(crc32c(own, crc32cOfNumber(group, crc32c(UUID))) & 0xffff, at + 0x1e);
  }

  /** Where an inode begins. */
  at(inode: number): number {
    const { block, inodesPerGroup, inodeSize } = this.made.geometry;
    const group = Math.floor((inode - 1) / inodesPerGroup);
    return placeGroups(this.made.geometry).inodeTable[group]! * block + ((inode - 1) % inodesPerGroup) * inodeSize;
  }

  node(path: string) {
    return this.made.plan.placed.find(({ node }) => node.path === path)!;
  }

  inode(which: string | number, field: keyof typeof LONG_INODE.fields, value: number): void {
    const number = typeof which === 'number' ? which : this.node(which).node.inode;
    this.put(LONG_INODE, this.at(number), field, value);
    this.sealInode(number);
  }

  sealInode(number: number): void {
    const { features, inodeSize } = this.made.geometry;
    if (!features.has('metadata_csum')) return;
    const at = this.at(number);
    this.bytes.writeUInt16LE(0, at + 0x7c);
    this.bytes.writeUInt16LE(0, at + 0x82);
    const sum = crc32c(this.bytes.subarray(at, at + inodeSize), this.seed(number));
    this.bytes.writeUInt16LE(sum & 0xffff, at + 0x7c);
    this.bytes.writeUInt16LE(sum >>> 16, at + 0x82);
  }

  private seed(inode: number): number {
    return crc32cOfNumber(0, crc32cOfNumber(inode, crc32c(UUID)));
  }

  /** Where a block of a file or folder begins. */
  block(path: string, n = 0): number {
    const { pieces } = this.node(path);
    const piece = pieces.find(({ logical, count }) => n >= logical && n < logical + count)!;
    return (piece.physical + n - piece.logical) * this.made.geometry.block;
  }

  /** Where the entry of a name begins in the blocks of a folder. */
  entry(folder: string, name: string): number {
    const found = this.bytes.indexOf(Buffer.from(name), this.block(folder));
    return found - 8;
  }

  bitmap(kind: 'blockBitmap' | 'inodeBitmap', group: number): number {
    return placeGroups(this.made.geometry)[kind][group]! * this.made.geometry.block;
  }

  /** A block of the map of a file. */
  map(path: string, n = 0): number {
    return this.node(path).map[n]! * this.made.geometry.block;
  }

  journal(): number {
    return this.made.plan.journal.pieces[0]!.physical * this.made.geometry.block;
  }
}

const HOLES = Array.from({ length: 60 }, (_, i) => [i * 8000, 100] as const);
const tree: Tree = [
  ...systemTree(shelf).filter(({ path }) => path !== 'var/lastlog' && path !== 'srv/much'),
  { ...shelf.file('srv/much', 3), extended: { 'user.aa': 'QUFB'.repeat(40), 'user.bb': 'QkJC'.repeat(40) } },
  sparse(shelf, 'holes', 480_000, HOLES),
  ...wideTree(shelf, 700),
];

export const WISHES = {
  current: { version: 'ext4', bytes: 40 * MIB, block: 1024, journal: 2 * MIB },
  old: { version: 'ext4', bytes: 40 * MIB, block: 1024, profile: 'old loaders' },
  mapped: { version: 'ext3', bytes: 40 * MIB, block: 1024 },
} as const satisfies Record<string, ExtWish>;
export type Which = keyof typeof WISHES;

const volumes = new Map<Which, { made: MadeExt; bytes: Uint8Array }>();
/** A sound volume, made once. */
export function sound(which: Which): { made: MadeExt; bytes: Uint8Array } {
  let found = volumes.get(which);
  if (!found) {
    const wish: ExtWish = WISHES[which];
    const made = makeExt(wish, tree);
    if (typeof made === 'string') throw new Error(made);
    const extents = made.ranges.map(({ extent }) => extent);
    found = { made, bytes: overNoise(wish.bytes, extents, shelf) };
    volumes.set(which, found);
  }
  return found;
}

/** One that faults can be planted into. */
export function planted(which: Which): Planted {
  const { made, bytes } = sound(which);
  return new Planted(made, bytes);
}

/** Ext volumes for the readers' trials: sound ones with something in every structure, and such as are made to keep readers busy. */
import { decode } from '@/core/bytes/record';
import { EXTENT_MAGIC } from '@/core/filesystems/ext/numbers';
import { SHORT_GROUP, SUPERBLOCK } from '@/core/filesystems/ext/records';
import { MIB } from '@/core/quantity/units';
import { type ExtWish, makeExt } from './ext';
import { sparse } from './ext-trees';
import { JournalWriter } from './ext-journal';
import { overNoise, Shelf } from './filled';
import { FoundImage } from './found-image';
import type { Hostile } from './hostile';

const BYTES = 8 * MIB;
const BLOCK = 1024;
const { fields } = SUPERBLOCK;

/** The bytes of a volume with files of several shapes. */
function volume(wish: Partial<ExtWish> = {}): Uint8Array {
  const shelf = new Shelf();
  const made = makeExt({ version: 'ext4', bytes: BYTES, block: BLOCK, ...wish }, [
    { ...shelf.file('tide/ebb.csv', 3000) },
    { ...shelf.file('tide/flow.csv', 300_000) },
    { ...shelf.file('noted.csv', 100), extended: { 'user.note': Buffer.alloc(700, 7).toString('base64') } },
    sparse(
      shelf,
      'holes.img',
      2 * MIB,
      Array.from({ length: 60 }, (_, i) => [i * 20_480, 1000] as const),
    ),
    { kind: 'folder', path: 'spring' },
    { kind: 'link', path: 'far', target: 'n'.repeat(200) },
  ]);
  if (typeof made === 'string') throw new Error(made);
  const extents = made.ranges.map(({ extent }) => extent);
  const bytes = overNoise(made.geometry.blocks * made.geometry.block, extents, shelf);
  // Of what lies between its files nothing is to be kept in memory.
  return bytes.map((byte) => (byte === 0xa5 ? 0 : byte));
}

function sparsely(bytes: Uint8Array): FoundImage {
  const image = new FoundImage(bytes.length);
  for (let at = 0; at < bytes.length; at += 4096) {
    const page = bytes.subarray(at, at + 4096);
    if (page.some((byte) => byte !== 0)) image.put(at, page);
  }
  return image;
}

/** A volume whose journal is to be replayed. */
async function journaled(): Promise<FoundImage> {
  const bytes = volume();
  const journal = await JournalWriter.of(bytes);
  // What it holds are blocks of the first structures, as they are.
  const own = (block: number) => bytes.slice(block * BLOCK, (block + 1) * BLOCK);
  journal.write(
    { sums: '3', isLong: true },
    Array.from({ length: 4 }, (_, n) => ({
      writes: Array.from({ length: 6 }, (_, i) => [2 + i + 3 * n, own(2 + i + 3 * n)] as const),
      revokes: [5000 + n],
    })),
  );
  return sparsely(bytes);
}

/** Where the inode of a volume lies. */
function inodeAt(image: FoundImage, number: number): number {
  const superblock = decode(SUPERBLOCK, image.bytes(1024, SUPERBLOCK.length));
  const bytes = superblock.incompatible & 0x80 ? superblock.descriptorSize : 32;
  const group = Math.floor((number - 1) / superblock.inodesPerGroup);
  const { inodeTable } = decode(SHORT_GROUP, image.bytes(2 * BLOCK + group * bytes, 32));
  return inodeTable * BLOCK + ((number - 1) % superblock.inodesPerGroup) * superblock.inodeSize;
}

/** Sound ones, to be changed. */
export async function extBases(): Promise<FoundImage[]> {
  const orphans = sparsely(volume({ version: 'ext3' }));
  orphans.number(1024 + fields.lastOrphan.offset, 12).number(inodeAt(orphans, 12) + 0x1a, 0, 2);
  return [sparsely(volume()), sparsely(volume({ version: 'ext2', block: BLOCK })), await journaled(), orphans];
}

const plain = (wish: Partial<ExtWish> = {}) => sparsely(volume({ profile: 'old loaders', ...wish }));

/** Block in which the content of the root directory begins. */
const rootBlock = (image: FoundImage) => image.u32(inodeAt(image, 2) + 0x28 + 12 + 8);

/** Writes the header of a node of extents: how many there are, and how far above the leaves it is. */
const extentNode = (image: FoundImage, at: number, entries: number, depth = 0) =>
  image
    .number(at, EXTENT_MAGIC, 2)
    .number(at + 2, entries, 2)
    .number(at + 4, 84, 2)
    .number(at + 6, depth, 2);

/** Lets the map of an inode be one leaf in a block of its own, with so many extents of this length, all of the same blocks. */
function mapSameBlocks(image: FoundImage, inode: number, leaf: number, entries: number, length: number, first: number) {
  const map = inodeAt(image, inode) + 0x28;
  image
    .number(map + 2, 1, 2)
    .number(map + 6, 1, 2)
    .number(map + 12, 0)
    .number(map + 16, leaf);
  extentNode(image, leaf * BLOCK, entries);
  for (let i = 0; i < entries; i++) {
    const at = leaf * BLOCK + 12 * (i + 1);
    image
      .number(at, i * (length === 1 ? 32_768 : length))
      .number(at + 4, length, 2)
      .number(at + 8, first);
  }
}

/** A tree of extents whose nodes all lead to the same nodes, as deep as it may be. */
function extentsRound(): FoundImage {
  const image = plain();
  const node = 7000;
  for (let level = 0; level < 5; level++) {
    const at = (node + level) * BLOCK;
    extentNode(image, at, 84, level);
    for (let i = 1; i <= 84; i++) {
      image.number(at + 12 * i, i);
      if (level === 0) image.number(at + 12 * i + 4, 1, 2).number(at + 12 * i + 8, 100);
      else image.number(at + 12 * i + 4, node + level - 1);
    }
  }
  for (const inode of [2, 12, 13, 14]) {
    const map = inodeAt(image, inode) + 0x28;
    image
      .number(map, EXTENT_MAGIC, 2)
      .number(map + 2, 1, 2)
      .number(map + 4, 4, 2)
      .number(map + 6, 5, 2);
    image.number(map + 12, 0).number(map + 16, node + 4);
  }
  return image;
}

/** A directory of many blocks that are all the same one, full of names. */
function sameBlockAgain(): FoundImage {
  const image = plain();
  const names = 7100;
  image.number(inodeAt(image, 2) + 4, 64 * MIB);
  mapSameBlocks(image, 2, 7000, 80, 200, names);
  // Of 200 blocks of names each is full.
  for (let at = names * BLOCK; at < (names + 200) * BLOCK; at += 12)
    image
      .number(at, 12)
      .number(at + 4, 12, 2)
      .put(at + 6, [1, 2, 0x61]);
  for (let block = names; block < names + 200; block++) image.number(block * BLOCK + 1020 - 12 + 4, 16, 2);
  return image;
}

/** A log of one block that goes round, and a journal that lies in its own superblock. */
async function roundLog(): Promise<FoundImage> {
  const bytes = volume({ profile: 'old loaders' });
  const journal = await JournalWriter.of(bytes);
  const writes = Array.from({ length: 3000 }, () => [5000, new Uint8Array(BLOCK)] as const);
  journal.write({ sums: 'none', isLong: false }, [{ writes, harm: 'no commit' }]);
  return sparsely(bytes);
}

async function journalInItself(): Promise<FoundImage> {
  const bytes = volume({ profile: 'old loaders' });
  const journal = await JournalWriter.of(bytes);
  journal.write({ sums: 'none', isLong: false }, [{ writes: [[5000, new Uint8Array(BLOCK)]] }]);
  const image = sparsely(bytes);
  // All of it is one block, again and again: its own first one.
  mapSameBlocks(image, 8, 7000, 84, 1, journal.places[0]!);
  return image;
}

/** Files to be deleted that lead round, each with a map that never ends. */
function orphansRound(): FoundImage {
  const image = extentsRound();
  for (const [inode, next] of [
    [12, 13],
    [13, 14],
    [14, 12],
  ] as const)
    image.number(inodeAt(image, inode) + 0x1a, 0, 2).number(inodeAt(image, inode) + 0x14, next);
  return image.number(1024 + fields.lastOrphan.offset, 12);
}

function foldersRound(): FoundImage {
  const image = plain();
  const root = rootBlock(image) * BLOCK;
  // Every name in the root is the root.
  for (let at = root; at < root + BLOCK;) {
    const length = image.bytes(at + 4, 2)[0]! + 256 * image.bytes(at + 4, 2)[1]!;
    image.number(at, 2);
    at += Math.max(12, length);
  }
  return image;
}

const superblock = (name: keyof typeof fields, value: number | bigint, width: 1 | 2 | 4 | 8 = 4) =>
  plain().number(1024 + fields[name].offset, value, width);

export const HOSTILE_EXT: readonly Hostile[] = [
  ['an ext whose folders hold themselves', foldersRound],
  ['an ext whose extents lead to the same nodes', extentsRound],
  ['an ext whose root is one block of names, again and again', sameBlockAgain],
  ['an ext of 2³² inodes', () => superblock('inodes', 2 ** 32 - 1)],
  ['an ext of 2³² blocks', () => superblock('blocksLow', 2 ** 32 - 1)],
  [
    'an ext of 2⁶⁴ blocks',
    () => superblock('blocksLow', 2 ** 32 - 1).number(1024 + fields.blocksHigh.offset, 2 ** 32 - 1),
  ],
  [
    'an ext of eight blocks a group',
    () => superblock('blocksPerGroup', 8).number(1024 + fields.blocksLow.offset, 2 ** 31),
  ],
  [
    'an ext of eight blocks a group, and two copies at most',
    () =>
      superblock('blocksPerGroup', 8)
        .number(1024 + fields.blocksLow.offset, 2 ** 31)
        .number(1024 + fields.compatible.offset, 0x23c),
  ],
  ['an ext of one inode a group', () => superblock('inodesPerGroup', 1)],
  ['an ext whose log goes round', roundLog],
  ['an ext whose journal lies in its own first block', journalInItself],
  [
    'an ext whose journal is its root',
    () => superblock('journalInode', 2).number(1024 + fields.incompatible.offset, 0x46),
  ],
  ['an ext whose files to delete lead round, and have no end', orphansRound],
  [
    'an ext whose root has 2³² blocks',
    () => {
      const image = plain({ version: 'ext2', profile: 'current' });
      const at = inodeAt(image, 2);
      image.number(at + 4, 2 ** 32 - 1024);
      // Each block of its map is a map itself.
      for (let i = 0; i < 15; i++) image.number(at + 0x28 + 4 * i, 7000);
      for (let i = 0; i < 256; i++) image.number(7000 * BLOCK + 4 * i, 7000);
      return image;
    },
  ],
];

/** A sound volume over the whole medium. */
const soundExt = () => sparsely(volume({ version: 'ext3' }));

/** Its first group says another count of free blocks than its bitmap. */
export const miscountedExt = () => soundExt().number(2 * BLOCK + SHORT_GROUP.fields.freeBlocks.offset, 77, 2);

/** Its journal is to be replayed, and does not begin as one. */
export function brokenJournal(): FoundImage {
  const image = soundExt();
  const journal = image.u32(inodeAt(image, 8) + 0x28);
  return image.number(1024 + fields.incompatible.offset, 0x6).number(journal * BLOCK, 0);
}

/** Groups of eight blocks, thousands of them: their bitmaps are more than a survey reads. */
export function manyGroups(): FoundImage {
  const [blocks, groups] = [64 * 1024 + 1, 8192];
  const image = soundExt().resized(blocks * BLOCK);
  const at = (name: keyof typeof fields) => 1024 + fields[name].offset;
  image.number(at('blocksLow'), blocks).number(at('freeBlocksLow'), 0).number(at('reservedLow'), 0);
  image.number(at('blocksPerGroup'), 8).number(at('clustersPerGroup'), 8).number(at('inodesPerGroup'), 8);
  image
    .number(at('inodeSize'), 128, 2)
    .number(at('inodes'), 8 * groups)
    .number(at('freeInodes'), 0);
  image.number(at('readOnly'), 1).number(at('compatible'), 0).number(at('reservedTable'), 0, 2);
  for (let group = 0; group < groups; group++) {
    const descriptor = 2 * BLOCK + 32 * group;
    image
      .put(descriptor, new Uint8Array(32))
      .number(descriptor, 300)
      .number(descriptor + 4, 301);
    image.number(descriptor + 8, 302);
  }
  return image;
}

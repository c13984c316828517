/**
 * Media that are made to keep a reader busy: chains and folders that lead round, figures that promise more than there is,
 * partitions over each other. Each is small; whoever reads one has to end soon.
 */
import { MIB } from '@/core/quantity/units';
import { crowded, gpt, mbr, whole, fatsOf } from './found-base';
import { FoundImage, withLogicals } from './found-image';

/** What a case is called, and the image. */
export type Hostile = readonly [name: string, make: () => FoundImage | Promise<FoundImage>];

/** An exFAT over the whole medium, as its boot sector says; what lies in it is up to the case. */
interface Exfat {
  readonly bytes: number;
  readonly clusterShift?: number;
  readonly sectorShift?: number;
  readonly clusters?: number;
  readonly root?: number;
}

const FAT_AT = 24;

function exfat({ bytes, clusterShift = 0, sectorShift = 9, clusters, root = 2 }: Exfat) {
  const size = 2 ** sectorShift;
  const image = new FoundImage(bytes);
  const cluster = size * 2 ** clusterShift;
  const count = clusters ?? Math.max(1, Math.floor((bytes / size - FAT_AT) / (1 + 2 ** clusterShift)));
  const fatSectors = Math.max(1, Math.ceil(((Math.min(count, 2 ** 20) + 2) * 4) / size));
  const heap = FAT_AT + fatSectors;
  image
    .put(0, [0xeb, 0x76, 0x90])
    .text(3, 'EXFAT   ')
    .number(72, Math.floor(bytes / size), 8)
    .number(80, FAT_AT)
    .number(84, fatSectors)
    .number(88, heap)
    .number(92, count)
    .number(96, root)
    .number(104, 0x100, 2)
    .put(108, [sectorShift, clusterShift, 1, 0x80])
    .number(510, 0xaa55, 2);
  const at = (n: number) => heap * size + (n - 2) * cluster;
  const next = (n: number, to: number) => image.number(FAT_AT * size + 4 * n, to);
  return { image, at, next, cluster, count };
}

/** Fills a cluster with entries of the bitmap that begin in a cluster. */
function bitmaps(image: FoundImage, at: number, length: number, cluster: number): void {
  for (let i = 0; i < length; i += 32)
    image
      .put(at + i, [0x81, 0])
      .number(at + i + 20, cluster)
      .number(at + i + 24, 2n ** 40n, 8);
}

/** A set of entries of a file or folder, with its checksum. */
function putSet(image: FoundImage, at: number, name: string, cluster: number, length: bigint, isFolder: boolean): void {
  const bytes = Buffer.alloc(96);
  bytes[0] = 0x85;
  bytes[1] = 2;
  bytes.writeUInt16LE(isFolder ? 0x10 : 0x20, 4);
  bytes[32] = 0xc0;
  bytes[33] = 1;
  bytes[35] = name.length;
  bytes.writeBigUInt64LE(length, 40);
  bytes.writeUInt32LE(cluster, 52);
  bytes.writeBigUInt64LE(length, 56);
  bytes[64] = 0xc1;
  bytes.write(name, 66, 'utf16le');
  let sum = 0;
  for (let i = 0; i < 96; i++) if (i !== 2 && i !== 3) sum = (((sum << 15) | (sum >>> 1)) + bytes[i]!) & 0xffff;
  bytes.writeUInt16LE(sum, 2);
  image.put(at, bytes);
}

function roundRoot(bytes: number): FoundImage {
  const { image, at, next, cluster } = exfat({ bytes });
  next(2, 2);
  bitmaps(image, at(2), cluster, 2);
  return image;
}

/** A root that goes through all clusters, far apart from each other, full of entries of bitmaps. */
function wildRoot(): FoundImage {
  const { image, at, next, cluster, count } = exfat({ bytes: 4 * MIB });
  const step = 4099;
  const order = Array.from({ length: count }, (_, i) => 2 + ((i * step) % count));
  order.forEach((one, i) => next(one, order[(i + 1) % count]!));
  for (let n = 2; n < count + 2; n += 64) bitmaps(image, at(n), cluster, 2);
  return image;
}

/** A root whose folders hold each other, and one that holds the root. */
function foldersRound(): FoundImage {
  const { image, at, next, cluster } = exfat({ bytes: MIB });
  for (const n of [2, 3, 4]) next(n, 0xffffffff);
  for (const n of [2, 3, 4])
    for (let i = 0; (i + 1) * 96 <= cluster; i++)
      putSet(image, at(n) + i * 96, `folder ${i}`, 2 + ((n + i) % 3), BigInt(cluster), true);
  return image;
}

/** Files that are as long as the volume may be, all in one chain. */
function hugeFiles(): FoundImage {
  const { image, at, next, cluster, count } = exfat({ bytes: 4 * MIB });
  for (let n = 3; n < count + 1; n++) next(n, n + 1);
  next(2, 0xffffffff).put(0, [0xeb]);
  for (let i = 0; (i + 1) * 96 <= cluster; i++)
    putSet(image, at(2) + i * 96, `file ${i}`, 3, BigInt((count - 1) * cluster), false);
  return image;
}

/** A FAT32 whose root goes round, or through every cluster backwards. */
function fatRoot(next: (n: number, clusters: number) => number): FoundImage {
  const image = whole(32);
  const { first, second } = fatsOf(image, 0);
  const clusters = Math.floor((second - first) / 4) - 2;
  for (const fat of [first, second])
    for (let n = 2; n < Math.min(clusters, 60_000); n++) image.number(fat + 4 * n, next(n, clusters));
  return image;
}

/** A FAT16 whose folders hold themselves. */
function fatFolders(): FoundImage {
  const image = whole(16);
  const { first, second } = fatsOf(image, 0);
  const root = 2 * second - first;
  const sectorsPerCluster = image.bytes(13, 1)[0]!;
  const data = root + 32 * 512;
  for (const fat of [first, second]) image.number(fat + 4, 0xffff, 2);
  const fill = (at: number, length: number) => {
    for (let i = 0; i + 32 <= length; i += 32)
      image
        .text(at + i, `F${String(i / 32).padStart(7, '0')}   `)
        .put(at + i + 11, [0x10])
        .number(at + i + 26, 2, 2);
  };
  fill(root, 512 * 32);
  fill(data, sectorsPerCluster * 512);
  return image;
}

/** Four containers whose chains lead to each other's records, and round. */
function containersRound(): FoundImage {
  const image = mbr();
  for (let i = 0; i < 4; i++) image.entry(0, i, { type: 5, first: 50_000, count: 70_000 });
  for (let n = 0; n < 300; n++) {
    const at = 50_000 + n * 100;
    image
      .entry(at, 0, { type: 0x83, first: 1, count: 4000 })
      .entry(at, 1, { type: 5, first: ((n + 1) % 300) * 100, count: 9 });
    image.text((at + 1) * 512, 'something');
  }
  return image;
}

/** Four partitions over the same hostile exFAT. */
function fourOverOne(): FoundImage {
  const inner = wildRoot();
  const image = new FoundImage(8 * MIB);
  for (let i = 0; i < 4; i++) image.entry(0, i, { type: 7, first: 2048, count: 8192 });
  for (const page of inner.filled)
    image.put(MIB + page * 4096, inner.bytes(page * 4096, Math.min(4096, inner.size - page * 4096)));
  return image;
}

/** The header of an NTFS that lies about one of its sizes. */
const ntfs = (harm: (image: FoundImage) => FoundImage) =>
  harm(
    new FoundImage(8 * MIB)
      .put(0, [0xeb, 0x52, 0x90])
      .text(3, 'NTFS    ')
      .number(11, 512, 2)
      .put(13, [8])
      .number(40, 16_383, 8)
      .number(48, 4, 8)
      .put(64, [0xf6, 0, 0, 0, 1])
      .number(510, 0xaa55, 2)
      .text(4 * 4096, 'FILE')
      .text(4 * 4096 + 5 * 1024, 'FILE'),
  );

/** Everything that a reader of media has to end with. */
export const HOSTILE: readonly Hostile[] = [
  ['an exFAT of 16 KiB whose root goes round, full of bitmaps', () => roundRoot(16 * 1024)],
  ['an exFAT of 4 MiB whose root goes round, full of bitmaps', () => roundRoot(4 * MIB)],
  ['an exFAT whose root leaps through all clusters', wildRoot],
  ['an exFAT whose folders hold each other', foldersRound],
  ['an exFAT of files that are all of it', hugeFiles],
  ['an exFAT of 2³² clusters', () => exfat({ bytes: MIB, clusters: 2 ** 32 - 11 }).image],
  ['an exFAT of clusters of 32 MiB', () => exfat({ bytes: 64 * MIB, clusterShift: 16, clusters: 2 }).image],
  [
    'an exFAT of sectors of 4096, clusters of 32 MiB',
    () => exfat({ bytes: 64 * MIB, sectorShift: 12, clusterShift: 13, clusters: 2 }).image,
  ],
  ['an exFAT whose root is the last cluster', () => exfat({ bytes: MIB, root: 1900 }).image],
  ['an exFAT whose volume has 2⁶⁴ sectors', () => exfat({ bytes: MIB }).image.number(72, 2n ** 64n - 1n, 8)],
  ['a FAT32 whose root goes round', () => fatRoot((n) => n)],
  ['a FAT32 whose root goes through every cluster', () => fatRoot((n, clusters) => (n + 1 < clusters ? n + 1 : 2))],
  ['a FAT32 whose root leaps to and fro', () => fatRoot((n, clusters) => 2 + ((n * 7919) % (clusters - 2)))],
  ['a FAT16 whose folders hold themselves', fatFolders],
  ['a FAT16 of 65,535 entries in its root', () => whole(16).number(17, 65_535, 2)],
  ['a FAT32 of 2³² sectors', () => whole(32).number(32, 2 ** 32 - 1)],
  ['a FAT32 whose FATs have 2³² sectors', () => whole(32).number(36, 2 ** 32 - 1)],
  ['a FAT16 of 65,535 reserved sectors', () => whole(16).number(14, 65_535, 2)],
  ['a GPT of 8,192 entries for one place', () => crowded(1980)],
  [
    'a GPT of 2³¹ entries',
    () =>
      gpt()
        .number(512 + 80, 2 ** 31)
        .mend(1),
  ],
  [
    'a GPT of entries of no bytes',
    () =>
      gpt()
        .number(512 + 84, 0)
        .mend(1),
  ],
  [
    'a GPT whose array is its header',
    () =>
      gpt()
        .number(512 + 72, 1, 8)
        .mend(1),
  ],
  [
    'a GPT whose copy is the first',
    () =>
      gpt()
        .number(512 + 32, 1, 8)
        .mend(1),
  ],
  ['four containers that lead round', containersRound],
  ['a chain of 256 records', () => withLogicals(mbr().resized(600 * MIB), { first: 65_536, count: 1_100_000 }, 256)],
  ['four partitions over one hostile exFAT', fourOverOne],
  ['an NTFS whose records are in themselves', () => ntfs((image) => image.number(4 * 4096 + 5 * 1024 + 20, 20, 2))],
  ['an NTFS of clusters of 2 GiB', () => ntfs((image) => image.put(13, [0xe1]))],
  ['an NTFS whose attributes have no length', () => ntfs((image) => image.number(4 * 4096 + 5 * 1024 + 20, 56, 2))],
];

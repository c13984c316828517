/**
 * Supplied things of every kind, for generated layouts: boot code and loaders of all awkward
 * lengths, prepared images sound and unsound, and trees of files. Everything follows from its
 * name, so that 16 TiB of it cost nothing.
 */
import { KIB, MIB } from '@/core/quantity/units';
import { createHash } from 'node:crypto';
import type { BlockSource } from '@/core/bytes/blocks';
import type { Copied } from '@/core/bytes/extents';
import type { Tree, TreeFile } from '@/core/filesystems/tree';
import { type BlobFacts, type Contents, contentsOf, HEAD } from '@/core/filesystems/supplied';
import type { Layout } from '@/core/layout/document';
import type { Stored } from '@/core/filesystems/fields';
import { imageFacts } from '@/core/survey/image';
import { madeUp } from '../filled';
import { FoundImage } from '../found-image';
import { fatPart, GPT_TABLE, layoutOn, NO_TABLE, part } from '../samples';

const { imul } = Math;

/** Something that was supplied: as the document names it, and its bytes. */
export interface Supplied {
  readonly what: string;
  readonly stored: Stored;
  readonly source: BlockSource;
}

const all = new Map<string, Supplied>();
const trees = new Map<string, Tree>();

function sumOf(text: string): string {
  return createHash('sha256').update(text).digest('hex');
}

function keep(what: string, source: BlockSource): Supplied {
  const sha256 = sumOf(what);
  const supplied = { what, stored: { sha256, name: `${what}.bin`, size: source.size }, source };
  all.set(sha256, supplied);
  return supplied;
}

function ofBytes(bytes: Uint8Array): BlockSource {
  return {
    size: bytes.length,
    read: (offset, length) => Promise.resolve(bytes.slice(offset, offset + length)),
  };
}

/** A boot sector with a jump, or anything else, at its front. */
function bootSector(front: readonly number[], seed: string): Uint8Array {
  const bytes = madeUp(512, seed);
  bytes.set(front);
  bytes.set([0x55, 0xaa], 510);
  return bytes;
}

const noise = (size: number) => keep(`noise of ${size}`, ofBytes(madeUp(size, `noise ${size}`)));

/** Files that go anywhere as they are: code, loaders, parts of them. */
export const BLOBS: readonly Supplied[] = [
  ...[0, 1, 62, 300, 420, 440, 441, 448, 510, 511, 513, 1024, 4096, 8 * KIB, 32 * KIB, MIB + 7].map(noise),
  keep('zeros of 440', ofBytes(new Uint8Array(440))),
  keep('sector with a jump to 62', ofBytes(bootSector([0xeb, 0x3c, 0x90], 'small'))),
  keep('sector with a jump to 90', ofBytes(bootSector([0xeb, 0x58, 0x90], 'large'))),
  keep('sector with a jump to 100', ofBytes(bootSector([0xeb, 0x62, 0x90], 'far'))),
  keep('sector without a jump', ofBytes(bootSector([0xfa, 0x31, 0xc0], 'code'))),
];

const onSectors = (sectorSize: 512 | 4096, exact: string): Partial<Layout> => ({
  table: NO_TABLE,
  medium: { kind: 'image', capacity: { exact }, logicalSector: sectorSize, physicalSector: sectorSize },
});

/** The image of one file system over all of it. */
function volume(exact: string, more: Parameters<typeof part>[2], sectorSize: 512 | 4096 = 512): FoundImage {
  return FoundImage.of(layoutOn(exact, [part('a', 'rest', more)], onSectors(sectorSize, exact)));
}

const fat = (variant: 12 | 16 | 32, label: string) => ({
  content: { kind: 'fat', variant, label, volumeId: '7A1D-0001' } as const,
});
const exfat = { content: { kind: 'exfat', volumeId: '7A1D-0002', label: 'Größe' } } as const;
const swap = (pageSize: 4096 | 65_536) =>
  ({ content: { kind: 'swap', uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5', label: 'Auslag', pageSize } }) as const;

function extOf(size: number, shift: number, label = 'Gezeiten ü'): FoundImage {
  const at = 1024;
  const block = 1024 * 2 ** shift;
  return new FoundImage(size)
    .number(at + 4, Math.floor(size / block))
    .number(at + 12, 3)
    .number(at + 24, shift)
    .number(at + 56, 0xef53, 2)
    .number(at + 96, 0x2c2)
    .put(at + 104, madeUp(16, 'ext'))
    .put(at + 120, new TextEncoder().encode(label));
}

function ntfsOf(size: number, sectorSize: 512 | 4096): FoundImage {
  return new FoundImage(size)
    .put(0, [0xeb, 0x52, 0x90])
    .text(3, 'NTFS    ')
    .number(11, sectorSize, 2)
    .number(13, 8, 1)
    .number(21, 0xf8, 1)
    .number(28, 2048)
    .number(40, size / sectorSize - 1, 8)
    .put(72, [1, 2, 3, 4, 5, 6, 7, 8])
    .put(84, madeUp(420, 'ntfs code'))
    .number(510, 0xaa55, 2);
}

function isoOf(size: number): FoundImage {
  return new FoundImage(size)
    .put(32_768, [1])
    .text(32_768, '\u0001CD001')
    .text(32_808, 'GAUGE INSTALLER'.padEnd(32))
    .number(32_848, size / 2048)
    .number(32_896, 2048, 2)
    .text(32_768 + 830, '2026030112345600');
}

/** Prepared images: sound ones of every kind, cut ones, and whole disks. */
export const IMAGES: readonly Supplied[] = [
  keep('FAT12 floppy', volume('1440 KiB', fat(12, 'BUOY'))),
  keep('FAT12', volume('2 MiB', fat(12, 'BUOY'))),
  keep('FAT16', volume('17 MiB', fat(16, 'GAUGE'))),
  keep('FAT16 of large sectors', volume('17 MiB', fat(16, 'GAUGE'), 4096)),
  keep('FAT32', volume('34 MiB', fat(32, 'TIDE'))),
  keep('exFAT', volume('3 MiB', exfat)),
  keep('exFAT of large sectors', volume('3 MiB', exfat, 4096)),
  keep('swap', volume('1 MiB', swap(4096))),
  keep('swap of large pages', volume('1 MiB', swap(65_536))),
  keep('ext of 1 KiB blocks', extOf(4 * MIB, 0)),
  keep('ext of 4 KiB blocks', extOf(4 * MIB, 2)),
  keep('NTFS', ntfsOf(4 * MIB, 512)),
  keep('NTFS of large sectors', ntfsOf(4 * MIB, 4096)),
  keep('ISO 9660', isoOf(2 * MIB)),
  keep('FAT16 that was cut', volume('17 MiB', fat(16, 'CUT')).resized(9 * MIB)),
  keep('ext that was cut', extOf(4 * MIB, 2).resized(MIB)),
  keep('whole disk with an MBR', FoundImage.of(layoutOn('4 MiB', [fatPart('a', '2 MiB', { variant: 12 })]))),
  keep('whole disk with a GPT', FoundImage.of(layoutOn('4 MiB', [part('a', '2 MiB')], { table: GPT_TABLE }))),
  keep('noise', ofBytes(madeUp(300 * KIB, 'image'))),
  keep('a few bytes', ofBytes(madeUp(100, 'few'))),
  keep('zeros', ofBytes(new Uint8Array(64 * KIB))),
];

const file = (path: string, size: number): TreeFile => ({ kind: 'file', path, size, sha256: sumOf(`file ${path}`) });

function keepTree(what: string, tree: Tree): string {
  const sha256 = sumOf(what);
  trees.set(sha256, tree);
  return sha256;
}

/** Trees: empty, small, with awkward names, with what some volumes cannot hold. */
export const TREES: readonly string[] = [
  keepTree('nothing', []),
  keepTree('one', [file('STATION.CFG', 700)]),
  keepTree('folders', [
    file('EFI/BOOT/BOOTX64.EFI', 9000),
    { kind: 'folder', path: 'logs/old' },
    file('logs/Readings of the first gauge.csv', 5),
    file('logs/empty', 0),
    file('long/'.repeat(9) + 'end.txt', 4096),
  ]),
  keepTree('awkward', [
    file(' blank ahead', 3),
    file('Grüße 潮汐 😀.txt', 600),
    file('con.log', 1),
    file('lpt1', 2),
    file('.hidden', 40),
    file('a.b.c', 2),
  ]),
  keepTree('points', [file('ends.', 3), file('ends ', 4), file('\u007f', 2)]),
  keepTree('case', [file('Log', 3), file('LOG', 4)]),
  keepTree(
    'many',
    Array.from({ length: 300 }, (_, i) => file(`readings/Reading number ${i}.csv`, (i * 37) % 3000)),
  ),
  keepTree(
    'root full',
    Array.from({ length: 520 }, (_, i) => file(`F${i}`, 0)),
  ),
  keepTree('starting', [
    file('LOADER/ENTRIES/A.CONF', 71),
    file('extlinux/extlinux.conf', 60),
    file('etc/fstab', 73),
    file('VMLINUZ', 3000),
  ]),
  keepTree('in the way', [file('loader', 3), file('etc/fstab/odd', 4), file('Extlinux/EXTLINUX.CONF', 5)]),
  keepTree('large', [file('SYSTEM.IMG', 5 * 2 ** 30), file('small', 10)]),
  keepTree('forbidden', [file('a:b', 3), file('c', 4)]),
];

/** What files of the last tree but one say: entries and a table of another medium. */
const TEXTS: ReadonlyMap<string, string> = new Map([
  [sumOf('file LOADER/ENTRIES/A.CONF'), 'title Mareld\nlinux /vmlinuz\noptions root=PARTUUID=6d617272-02 ro\n'],
  [sumOf('file extlinux/extlinux.conf'), 'DEFAULT a\nLABEL a\n  LINUX ../Image\n  APPEND root=LABEL=tides\n'],
  [sumOf('file etc/fstab'), 'UUID=7A1D-10C5 / vfat defaults 0 1\nPARTLABEL=s0 /boot ext4 noatme 0 2\n'],
]);

/** Facts as the program would find them out. */
const known: Promise<ReadonlyMap<string, BlobFacts>> = (async () => {
  const facts = new Map<string, BlobFacts>();
  for (const [sha256, { source }] of all) {
    const head = await source.read(0, Math.min(HEAD, source.size));
    const image = await imageFacts(source);
    facts.set(sha256, { size: source.size, head: Uint8Array.from(head), ...(image && { image }) });
  }
  return facts;
})();

/** Everything that generated layouts name. */
export async function everything(): Promise<Contents> {
  return contentsOf(trees, await known, undefined, TEXTS);
}

/** Bytes of stored content; those of files follow from their name. */
export async function readStored({ from, at, length }: Copied): Promise<Uint8Array> {
  const supplied = all.get(from);
  if (supplied) {
    if (at + length > supplied.source.size) throw new Error(`“${supplied.what}” has no ${at}+${length}`);
    return supplied.source.read(at, length);
  }
  const seed = parseInt(from.slice(0, 8), 16);
  const bytes = new Uint8Array(length);
  for (let i = 0; i < length; i++) bytes[i] = imul(seed + at + i, 0x9e3779b1) >>> 24;
  return bytes;
}

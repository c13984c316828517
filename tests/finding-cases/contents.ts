/** Findings about contents: for each rule a layout that it speaks about, one that it is silent about, and the files that both name. */
import { MIB } from '@/core/quantity/units';
import type { Tree } from '@/core/filesystems/tree';
import { type BlobFacts, type Contents, contentsOf, type ImageFacts } from '@/core/filesystems/supplied';
import type { Layout, PartitionSlot, RawSlot } from '@/core/layout/document';
import { fatPart, GPT_TABLE, NO_TABLE, noise, part, raw } from '../samples';
import { type Case, DISK, image, on, STICK } from './case';

const trees = new Map<string, Tree | 'missing'>();
const blobs = new Map<string, BlobFacts | 'missing'>();
const CONTENTS: Contents = contentsOf(trees, blobs);
let made = 0;

const id = () => (made += 1).toString(16).padStart(64, '0');

/** The name of a tree of files with these sizes. */
function tree(files: Readonly<Record<string, number>>): string {
  const sha256 = id();
  trees.set(
    sha256,
    Object.entries(files).map(([path, size]) => ({ kind: 'file', path, size, sha256: '1'.repeat(64) })),
  );
  return sha256;
}

/** A supplied file of so many bytes, with a file system in it if one is said. */
function blob(size: number, facts?: ImageFacts) {
  const sha256 = id();
  blobs.set(sha256, { size, head: new Uint8Array(Math.min(size, 512)), ...(facts && { image: facts }) });
  return { sha256, name: 'supplied.bin', size };
}

/** Boot code: noise, with these bytes at its front. */
function code(size: number, front: readonly number[] = []) {
  const file = blob(size);
  const head = noise(size, size);
  head.set(front);
  blobs.set(file.sha256, { size, head });
  return file;
}

function damagedBlob(size: number) {
  const file = blob(size);
  blobs.set(file.sha256, { ...(blobs.get(file.sha256) as BlobFacts), damaged: true });
  return file;
}

const gapLoader = () =>
  ({ boots: ['bios'], table: { ...MBR, code: code(440) }, machine: { loader: 'gap' } }) satisfies Partial<Layout>;

const many = (count: number, size: number, name = 'F') =>
  tree(Object.fromEntries(Array.from({ length: count }, (_, i) => [`${name}${i}`, size])));

const imaged = (
  size: number,
  facts?: ImageFacts,
  more: object = {},
  slot: Partial<PartitionSlot> = {},
): PartitionSlot => part('a', '50 MiB', { ...slot, content: { kind: 'image', ...blob(size, facts), ...more } });
const FAT32: ImageFacts = {
  name: 'FAT32',
  variant: 32,
  sectorSize: 512,
  bytes: 40 * MIB,
  hidden: 2048,
  fatsAgree: true,
};
const exfat = (more: object = {}) => ({ kind: 'exfat', volumeId: '7A1D-10C5', ...more }) as const;
const swap = (more: object = {}) => ({ kind: 'swap', uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5', ...more }) as const;
const loader = (length: string, more: object, at = '8 KiB'): RawSlot => ({
  ...(raw('l', at, length) as RawSlot),
  ...more,
});
const MBR = { kind: 'mbr', signature: '6d617272' } as const;
const EMPTY_A = 'Leave a empty';

const PLAIN: readonly Case[] = [
  {
    rule: 'files/name-cannot-be-stored',
    severity: 'stop',
    bad: image('1 GiB', [fatPart('a', 'rest', { files: tree({ 'logs/buoy:7.csv': 1, 'end.': 2 }) })]),
    good: image('1 GiB', [fatPart('a', 'rest', { files: tree({ 'logs/buoy 7.csv': 1 }) })]),
    says: '“end.” in a ends with a point, which readers drop; no FAT volume can hold such a name. 1 other name likewise.',
    remedies: [],
    fileRemedies: ['Rename all 2', 'Leave these 2 out'],
  },
  {
    rule: 'files/two-names-but-for-case',
    severity: 'stop',
    bad: image('1 GiB', [part('a', 'rest', { content: exfat({ files: tree({ 'Log/A': 1, 'Log/a': 2 }) }) })]),
    good: image('1 GiB', [part('a', 'rest', { content: exfat({ files: tree({ 'Log/A': 1, 'Log2/a': 2 }) }) })]),
    says: '“Log/a” and “Log/A” in a differ by case at most.',
    remedies: [],
    fileRemedies: ['Call it “a-2”', 'Leave “a” out'],
  },
  {
    rule: 'files/file-over-4-gib',
    severity: 'stop',
    bad: image('8 GiB', [fatPart('a', 'rest', { files: tree({ 'SYSTEM.IMG': 2 ** 32 }) })]),
    good: image('8 GiB', [fatPart('a', 'rest', { files: tree({ 'SYSTEM.IMG': 2 ** 32 - 1 }) })]),
    says: 'has 4,294,967,296 bytes (4 GiB ≈ 4.294 GB); a FAT file has at most 4,294,967,295',
    remedies: ['Make a exFAT'],
    fileRemedies: ['Leave “SYSTEM.IMG” out'],
  },
  {
    rule: 'files/folder-too-large',
    severity: 'stop',
    bad: image('1 GiB', [fatPart('a', 'rest', { files: many(65_535, 0, 'd/') })]),
    good: image('1 GiB', [fatPart('a', 'rest', { files: many(65_534, 0, 'd/') })]),
    says: 'The folder “d” in a would have 65,537 entries',
    remedies: [],
    fileRemedies: ['Leave “d” out'],
  },
  {
    rule: 'files/root-directory-full',
    severity: 'stop',
    bad: image('64 MiB', [fatPart('a', 'rest', { variant: 16, label: 'TIDE', files: many(512, 0) })]),
    good: image('64 MiB', [fatPart('a', 'rest', { variant: 16, label: 'TIDE', files: many(511, 0) })]),
    says: 'has 512 entries and needs 513: a long name takes several, the label one',
    remedies: ['Make it 528 entries', EMPTY_A],
  },
  {
    rule: 'files/files-do-not-fit',
    severity: 'stop',
    bad: image('1 GiB', [fatPart('a', '40 MiB', { files: tree({ 'A.BIN': 30 * MIB, 'B.BIN': 10 * MIB }) })]),
    good: image('1 GiB', [fatPart('a', '42 MiB', { files: tree({ 'A.BIN': 30 * MIB, 'B.BIN': 10 * MIB }) })]),
    says: /take 81,921 clusters of 512 B; there are 7\d,\d{3}: .* too few\. “B\.BIN” is the first that does not fit/,
    remedies: [/^Make a 4\d MiB$/],
    fileRemedies: ['Leave “B.BIN” out'],
  },
  {
    rule: 'files/clusters-waste',
    severity: 'note',
    bad: image('1 GiB', [fatPart('a', '600 MiB', { files: many(1000, 300, 'd/') })]),
    good: image('1 GiB', [fatPart('a', '600 MiB', { files: many(1000, 40_000, 'd/') })]),
    says: 'With clusters of 4 KiB the files of a lose ≈ 3.620 MiB = 3.796 MB',
    remedies: ['Use 512 B clusters'],
  },
  {
    rule: 'files/name-of-a-device',
    severity: 'note',
    bad: image('1 GiB', [fatPart('a', 'rest', { files: tree({ 'logs/CON.txt': 1, lpt1: 2, 'x.txt': 3 }) })]),
    good: image('1 GiB', [fatPart('a', 'rest', { files: tree({ 'logs/CONSOLE.txt': 1, com0: 2 }) })]),
    says: '“logs/CON.txt”, and 1 other name, in a are names that some systems keep for a device.',
    remedies: [],
  },
  {
    rule: 'files/name-ends-with-a-point',
    severity: 'note',
    bad: image('1 GiB', [part('a', 'rest', { content: exfat({ files: tree({ 'etc.': 1 }) }) })]),
    good: image('1 GiB', [part('a', 'rest', { content: exfat({ files: tree({ '.etc ': 1 }) }) })]),
    says: '“etc.” in a ends with a point.',
    remedies: [],
  },
  {
    rule: 'files/fallback-path-missing',
    severity: 'note',
    bad: on(STICK, [fatPart('a', 'rest', { files: tree({ 'EFI/tide/loader.efi': 1, 'x.txt': 2 }) })], {
      boots: ['uefi'],
    }),
    good: on(STICK, [fatPart('a', 'rest', { files: tree({ 'efi/boot/bootx64.efi': 1 }) })], { boots: ['uefi'] }),
    says: 'Among 2 files there is no \\EFI\\BOOT\\BOOTX64.EFI',
    remedies: [],
  },
  {
    rule: 'content/not-here',
    severity: 'stop',
    bad: image('1 GiB', [fatPart('a', 'rest', { files: 'f'.repeat(64) })]),
    good: image('1 GiB', [fatPart('a', 'rest', { files: tree({ a: 1 }) })]),
    says: 'The layout names the files of a (SHA-256 ffffffffffff…), and it is not stored here.',
    remedies: [EMPTY_A],
  },
  {
    rule: 'code/blob-larger-than-its-range',
    severity: 'stop',
    bad: image('1 GiB', [loader('32 KiB', { blob: blob(40_000) })]),
    good: image('1 GiB', [loader('32 KiB', { blob: blob(32_768) })]),
    says: '“supplied.bin” brings 40,000 bytes into l, which has 32,768: 7,232 too many.',
    remedies: ['Make l 79 sectors long', 'Take 32,768 bytes of it'],
  },
  {
    rule: 'code/blob-brings-nothing',
    severity: 'risk',
    bad: image('1 GiB', [loader('32 KiB', { blob: { ...blob(400), from: 512 } })]),
    good: image('1 GiB', [loader('32 KiB', { blob: { ...blob(4000), from: 512 } })]),
    says: 'l takes “supplied.bin” from byte 512 on, and it has 400 bytes.',
    remedies: ['Take it from its first byte'],
  },
  {
    rule: 'code/sector-0-code-too-long',
    severity: 'stop',
    bad: image('1 GiB', [part('a', 'rest')], { table: { ...MBR, code: blob(446) } }),
    good: image('1 GiB', [part('a', 'rest')], { table: { ...MBR, code: blob(440) } }),
    says: '“supplied.bin” brings 446 bytes; the code area of sector 0 takes 440.',
    remedies: ['Take the first 440 bytes', 'Leave the code area empty'],
  },
  {
    rule: 'code/sector-0-code-of-a-whole-sector',
    severity: 'note',
    bad: image('1 GiB', [part('a', 'rest')], { table: { ...MBR, code: blob(512) } }),
    good: image('1 GiB', [part('a', 'rest')], { table: { ...MBR, code: { ...blob(512), take: 440 } } }),
    says: 'Of the 512 bytes of “supplied.bin” the first 440 are taken for the code area of sector 0.',
    remedies: [],
  },
  {
    rule: 'code/sector-0-code-is-zeros',
    severity: 'risk',
    bad: image('1 GiB', [part('a', 'rest')], { table: { ...MBR, code: blob(440) } }),
    good: image('1 GiB', [part('a', 'rest')], { table: { ...MBR, code: code(440) } }),
    says: 'The 440 bytes that “supplied.bin” brings into sector 0 are all zero.',
    remedies: ['Leave the code area empty'],
  },
  {
    rule: 'code/sector-0-code-brings-nothing',
    severity: 'risk',
    bad: image('1 GiB', [part('a', 'rest')], { table: { ...MBR, code: { ...code(440), from: 440 } } }),
    good: image('1 GiB', [part('a', 'rest')], { table: { ...MBR, code: { ...code(440), from: 439 } } }),
    says: 'The code of sector 0 is taken from byte 440 of “supplied.bin” on, and that has 440 bytes.',
    remedies: ['Leave the code area empty'],
  },
  {
    rule: 'boot/nothing-behind-the-code',
    severity: 'risk',
    bad: image('1 GiB', [part('a', 'rest')], gapLoader()),
    good: image('1 GiB', [loader('32 KiB', { blob: blob(400) }, '512 B'), part('a', 'rest')], gapLoader()),
    says: 'The loader is said to lie in the gap, and the 1023.5 KiB ≈ 1.048 MB ahead of the first partition hold no file.',
    remedies: [],
  },
  {
    rule: 'code/volume-code-for-another-volume',
    severity: 'stop',
    bad: image('1 GiB', [fatPart('a', '40 MiB', { variant: 16, code: code(512, [0xeb, 0x58, 0x90]) })]),
    good: image('1 GiB', [fatPart('a', '40 MiB', { variant: 16, code: code(512, [0xeb, 0x3c, 0x90]) })]),
    says: '“supplied.bin” is a boot sector of FAT32; a is FAT16.',
    remedies: ['Leave its own code out'],
  },
  {
    rule: 'code/volume-code-without-a-jump',
    severity: 'risk',
    bad: image('1 GiB', [fatPart('a', 'rest', { code: code(512, [0xfa, 0x31, 0xc0]) })]),
    good: image('1 GiB', [fatPart('a', 'rest', { code: code(512, [0xe9, 0x60, 0x00]) })]),
    says: 'has the 512 bytes of a whole boot sector and no jump at its front; in a its code is entered at byte 90',
    remedies: ['Leave its own code out'],
  },
  {
    rule: 'content/damaged',
    severity: 'stop',
    bad: image('1 GiB', [part('a', 'rest', { content: { kind: 'file', ...damagedBlob(4000) } })]),
    good: image('1 GiB', [part('a', 'rest', { content: { kind: 'file', ...blob(4000) } })]),
    says: 'has another sum: its bytes are not those that were supplied',
    remedies: [EMPTY_A],
  },
  {
    rule: 'content/other-size-than-named',
    severity: 'stop',
    bad: image('1 GiB', [part('a', 'rest', { content: { kind: 'file', ...blob(4000), size: 4001 } })]),
    good: image('1 GiB', [part('a', 'rest', { content: { kind: 'file', ...blob(4000) } })]),
    says: 'The layout says that “supplied.bin” for a has 4,001 bytes; it has 4,000.',
    remedies: ['Name it with its 4,000 bytes', EMPTY_A],
  },
  {
    rule: 'image/cut-short',
    severity: 'stop',
    bad: image('1 GiB', [imaged(30 * MIB, { name: 'ext4', bytes: 40 * MIB })]),
    good: image('1 GiB', [imaged(40 * MIB, { name: 'ext4', bytes: 40 * MIB })]),
    says: 'The ext4 in “supplied.bin” says that it has 41,943,040 bytes',
    remedies: [EMPTY_A],
  },
  {
    rule: 'image/of-a-whole-disk',
    severity: 'risk',
    bad: image('1 GiB', [imaged(40 * MIB, { name: 'disk with an MBR', disk: 'mbr', partitions: 2 })]),
    good: image('1 GiB', [imaged(40 * MIB, FAT32)]),
    says: 'is the image of a whole disk with an MBR and 2 partitions',
    remedies: [EMPTY_A],
  },
  {
    rule: 'image/brings-a-table',
    severity: 'stop',
    bad: image('1 GiB', [imaged(40 * MIB, { name: 'disk with a GPT', disk: 'gpt', partitions: 1 })], {
      table: NO_TABLE,
    }),
    good: image('1 GiB', [imaged(40 * MIB, { ...FAT32, hidden: 0 })], { table: NO_TABLE }),
    says: 'is the image of a whole disk with a GPT and 1 partition',
    remedies: [EMPTY_A],
  },
  {
    rule: 'image/place-is-not-corrected',
    severity: 'note',
    bad: image('1 GiB', [imaged(40 * MIB, { name: 'NTFS', bytes: 40 * MIB }, { hidden: 'corrected' })]),
    good: image('1 GiB', [imaged(40 * MIB, FAT32, { hidden: 'corrected' })]),
    says: 'it holds an NTFS: it is put in as it is',
    remedies: ['Put it in as it is'],
  },
  {
    rule: 'content/id-used-twice',
    severity: 'risk',
    bad: image('1 GiB', [part('a', '40 MiB', { content: swap() }), part('b', 'rest', { content: swap() })]),
    good: image('1 GiB', [part('a', '40 MiB', { content: swap() }), part('b', 'rest', { content: exfat() })]),
    says: 'What is in b and what is in a have the same id',
    remedies: ['Give b an id of its own'],
  },
  {
    rule: 'content/label-with-half-a-character',
    severity: 'stop',
    bad: image('1 GiB', [part('a', 'rest', { content: exfat({ label: 'Tide \ud83c' }) })]),
    good: image('1 GiB', [part('a', 'rest', { content: exfat({ label: 'Tide' }) })]),
    says: 'The label of a has half a character at place 6.',
    remedies: ['Write it as Tide _'],
  },
  {
    rule: 'code/two-codes-for-sector-0',
    severity: 'stop',
    bad: image('1 GiB', [loader('440 B', { blob: blob(440) }, '0')], { table: { ...MBR, code: blob(440) } }),
    good: image('1 GiB', [loader('440 B', { blob: blob(440) }, '0')], { table: MBR }),
    says: 'both claim bytes of the 440 of the code area',
    remedies: ['Leave the code area empty', 'Delete l'],
  },
  {
    rule: 'code/volume-code-too-long',
    severity: 'stop',
    bad: image('1 GiB', [fatPart('a', 'rest', { code: blob(448) })]),
    good: image('1 GiB', [fatPart('a', 'rest', { code: blob(512) })]),
    says: '“supplied.bin” has 448 bytes; the boot sector of a (FAT32) takes 420',
    remedies: ['Leave its own code out'],
  },
  {
    rule: 'content/larger-than-its-slot',
    severity: 'stop',
    bad: image('1 GiB', [part('a', '50 MiB', { content: { kind: 'file', ...blob(50 * MIB + 1) } })]),
    good: image('1 GiB', [part('a', '50 MiB', { content: { kind: 'file', ...blob(50 * MIB) } })]),
    says: '“supplied.bin” has 52,428,801 bytes (≈ 50.00 MiB ≈ 52.42 MB); a has 52,428,800.',
    remedies: ['Make a 51 MiB', EMPTY_A],
  },
  {
    rule: 'image/smaller-than-its-slot',
    severity: 'note',
    bad: image('1 GiB', [imaged(49 * MIB, FAT32)]),
    good: image('1 GiB', [imaged(49 * MIB + 512, FAT32)]),
    says: '; 1 MiB ≈ 1.048 MB of a behind it belong to no file system.',
    remedies: ['Make a as large as its image'],
  },
  {
    rule: 'image/of-other-sectors',
    severity: 'stop',
    bad: image('1 GiB', [imaged(40 * MIB, { ...FAT32, sectorSize: 4096 })]),
    good: image('1 GiB', [imaged(40 * MIB, FAT32)]),
    says: 'holds a FAT32 of 4096-byte sectors; the medium has 512-byte sectors',
    remedies: [EMPTY_A],
  },
  {
    rule: 'image/hidden-sectors',
    severity: 'risk',
    bad: image('1 GiB', [imaged(40 * MIB, { ...FAT32, hidden: 63 })]),
    good: image('1 GiB', [imaged(40 * MIB, { ...FAT32, hidden: 63 }, { hidden: 'corrected' })]),
    says: 'says that its volume begins at sector 63; in a it begins at 2,048',
    remedies: ['Correct it while building'],
  },
  {
    rule: 'image/file-system-over-its-slot',
    severity: 'stop',
    bad: image('1 GiB', [imaged(40 * MIB, { name: 'ext4', bytes: 60 * MIB })]),
    good: image('1 GiB', [imaged(40 * MIB, { name: 'ext4', bytes: 50 * MIB })]),
    says: 'The ext4 in “supplied.bin” says that it has 60 MiB',
    remedies: ['Make a 60 MiB', EMPTY_A],
  },
  {
    rule: 'image/fats-differ',
    severity: 'risk',
    bad: image('1 GiB', [imaged(40 * MIB, { ...FAT32, fatsAgree: false })]),
    good: image('1 GiB', [imaged(40 * MIB, FAT32)]),
    says: 'The two FATs of the FAT32 in “supplied.bin” differ.',
    remedies: [],
  },
  {
    rule: 'image/header-of-another-variant',
    severity: 'risk',
    bad: image('1 GiB', [imaged(40 * MIB, { ...FAT32, name: 'FAT16', variant: 16, headerOf: 32 })]),
    good: image('1 GiB', [imaged(40 * MIB, { ...FAT32, name: 'FAT16', variant: 16 })]),
    says: 'the volume in “supplied.bin” (40 MiB ≈ 41.94 MB) is FAT16, and it has the header of FAT32.',
    remedies: ['Leave a empty'],
  },
  {
    rule: 'image/not-recognised',
    severity: 'note',
    bad: image('1 GiB', [imaged(40 * MIB)]),
    good: image('1 GiB', [imaged(40 * MIB, { name: 'squashfs' })]),
    says: 'In “supplied.bin” (40 MiB ≈ 41.94 MB) no file system was recognised.',
    remedies: ['Say that it is no file system'],
  },
  {
    rule: 'content/slot-over-85-full',
    severity: 'risk',
    bad: image('1 GiB', [imaged(45 * MIB, { name: 'ext4' }, {}, { role: 'system' })]),
    good: image('1 GiB', [imaged(42 * MIB, { name: 'ext4' }, {}, { role: 'system' })]),
    says: 'takes 90.0 % of a (50 MiB',
    remedies: ['Make a 53 MiB'],
  },
  {
    rule: 'exfat/cannot-be-made',
    severity: 'stop',
    bad: image('1 GiB', [part('a', '4 MiB', { content: exfat({ cluster: '1 MiB' }) })]),
    good: image('1 GiB', [part('a', '4 MiB', { content: exfat() })]),
    says: 'an exFAT volume with clusters of 1 MiB needs at least 9 MiB',
    remedies: ['Let the size decide the cluster'],
  },
  {
    rule: 'exfat/label-too-long',
    severity: 'stop',
    bad: image('1 GiB', [part('a', 'rest', { content: exfat({ label: 'Shared tide data' }) })]),
    good: image('1 GiB', [part('a', 'rest', { content: exfat({ label: 'Shared tide' }) })]),
    says: 'has 16 characters; an exFAT label has at most 11',
    remedies: ['Cut it'],
  },
  {
    rule: 'exfat/nothing-starts-from-it',
    severity: 'risk',
    bad: image('1 GiB', [part('a', 'rest', { role: 'boot', content: exfat() })]),
    good: image('1 GiB', [part('a', 'rest', { content: exfat() })]),
    says: 'is for starting, and holds exFAT',
    remedies: ['Make a data'],
  },
  {
    rule: 'swap/of-other-pages',
    severity: 'stop',
    bad: on(DISK, [part('a', '1 GiB', { role: 'swap', content: swap({ pageSize: 4096 }) })], {
      machine: { pageSize: 65_536 },
      table: GPT_TABLE,
    }),
    good: on(DISK, [part('a', '1 GiB', { role: 'swap', content: swap() })], {
      machine: { pageSize: 65_536 },
      table: GPT_TABLE,
    }),
    says: 'is made for pages of 4 KiB; the kernel of the machine has pages of 64 KiB',
    remedies: ['Make it for pages of 64 KiB', 'The machine has pages of 4 KiB'],
  },
  {
    rule: 'swap/label-too-long',
    severity: 'stop',
    bad: on(DISK, [part('a', '1 GiB', { role: 'swap', content: swap({ label: 'Auslagerung für Küste' }) })]),
    good: on(DISK, [part('a', '1 GiB', { role: 'swap', content: swap({ label: 'Auslagerung' }) })]),
    says: 'has 23 bytes; a swap label has at most 16',
    remedies: ['Cut it'],
  },
];

/** What the store does not have is missing; everything else is as the cases say. */
const LOOKUP: Contents = {
  tree: (sha256) => CONTENTS.tree(sha256) ?? 'missing',
  blob: (sha256) => CONTENTS.blob(sha256) ?? 'missing',
};

export const CONTENT_CASES: readonly Case[] = PLAIN.map((one) => ({ ...one, contents: LOOKUP }));

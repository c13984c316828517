/** Damaged and odd images, each with the findings that a survey must give. */
import {
  MIB,
  mbr,
  chained,
  gpt,
  gpt4096,
  LAST,
  LAST_4096,
  VOLUME,
  whole,
  fatsOf,
  inBothFats,
  extAt,
  nearBorder,
  exfat,
  exfatWith,
  installer,
} from './found-base';
import { FoundImage, withLogicals } from './found-image';
import { layoutOn, NO_TABLE, noise, part } from './samples';

export type Damage = readonly [
  name: string,
  image: () => FoundImage,
  rules: readonly string[],
  sectorSize?: 512 | 4096,
];

/** The header fields of a GPT, by the offset of a byte in each. */
const HEADER_FIELDS: readonly (readonly [string, number])[] = [
  ['the mark', 3],
  ['the revision', 8],
  ['the header size', 12],
  ['the header checksum', 17],
  ['the reserved field', 20],
  ['its own sector', 24],
  ['the sector of the copy', 32],
  ['the first usable sector', 40],
  ['the last usable sector', 48],
  ['the disk id', 60],
  ['the sector of the array', 72],
  ['the number of entries', 80],
  ['the size of an entry', 84],
  ['the checksum of the array', 90],
];

/** A medium of 4 MiB without a table, with this in it. */
const wholeOf = (more: Parameters<typeof part>[2]) =>
  FoundImage.of(layoutOn('4 MiB', [part('a', 'rest', more)], { table: NO_TABLE }));

/** An NTFS over a medium of 4 MiB, with boot code where a table would be. */
const ntfs = () =>
  new FoundImage(4 * MIB)
    .put(0, [0xeb, 0x52, 0x90])
    .text(3, 'NTFS    ')
    .number(11, 512, 2)
    .number(40, 8191, 8)
    .put(84, noise(426))
    .number(510, 0xaa55, 2);

export const DAMAGES: readonly Damage[] = [
  ['a sound MBR', mbr, []],
  ['a sound GPT', gpt, []],
  ['a sound GPT of 4096-byte sectors', gpt4096, []],
  ['a sound volume without a table', () => whole('fat16'), []],
  ['a sound chain', () => chained(3), []],
  ['a sound exFAT', exfat, []],
  ['an exFAT with another boot sector', () => exfat().flip(MIB + 112 + 20), ['exfat-boot-region-bad']],
  ['an exFAT whose copy is lost', () => exfat().flip(MIB + 12 * 512 + 300), ['exfat-boot-copy-bad']],
  [
    'an exFAT with both boot regions spoilt',
    () =>
      exfat()
        .flip(MIB + 300)
        .flip(MIB + 12 * 512 + 300),
    ['exfat-boot-region-bad'],
  ],
  [
    'an exFAT that is longer than its partition',
    () => exfatWith((image, at) => image.number(at + 72, 40_000, 8)),
    ['exfat-longer-than-its-place'],
  ],
  [
    'an exFAT that was copied from elsewhere',
    () => exfatWith((image, at) => image.number(at + 64, 63, 8)),
    ['exfat-offset-wrong'],
  ],
  [
    'an exFAT for 4096-byte sectors',
    () => exfatWith((image, at) => image.put(at + 108, [12])),
    ['exfat-boot-region-bad', 'exfat-for-another-sector-size', 'exfat-longer-than-its-place'],
  ],
  ['an exFAT that says nothing of its place', () => exfatWith((image, at) => image.number(at + 64, 0, 8)), []],
  ['an empty file', () => new FoundImage(0), ['shorter-than-a-sector']],
  ['one byte', () => new FoundImage(1), ['shorter-than-a-sector']],
  ['a file without a whole sector', () => new FoundImage(511), ['shorter-than-a-sector']],
  ['a sector of zeros', () => new FoundImage(512), ['no-table-and-no-volume']],
  ['zeros', () => new FoundImage(MIB), ['no-table-and-no-volume']],
  ['noise', () => new FoundImage(MIB).put(0, noise(MIB)), ['no-table-and-no-volume']],
  ['a part of a sector at the end', () => mbr().resized(64 * MIB + 100), ['not-whole-sectors']],
  ['no mark in sector 0', () => mbr().put(510, [0, 0]), ['no-table-and-no-volume']],
  ['an odd status', () => mbr().put(446, [0x7f]), ['odd-status']],
  ['entries behind the end', () => mbr().resized(MIB), ['no-entry-on-the-medium']],
  [
    'an unused entry with a size',
    () => mbr().entry(0, 3, { type: 0, first: 60_000, count: 9 }),
    ['unused-entry-with-a-size'],
  ],
  // An installer medium: its entries lie within the ISO 9660, one of them from sector 0 on, and over each other.
  [
    'an ISO 9660 that is a disk too',
    () => installer().entry(0, 0, { type: 0, first: 0, count: 8000 }),
    ['iso-9660-medium', 'unused-entry-with-a-size'],
  ],
  ['an ISO 9660 with entries over each other', installer, ['iso-9660-medium']],
  ['an exFAT over the whole medium', () => wholeOf({ content: { kind: 'exfat', volumeId: '7A1D-10C5' } }), []],
  ['an NTFS over the whole medium', ntfs, []],
  ['two active', () => mbr().put(446, [0x80]).put(462, [0x80]), ['more-than-one-active']],
  ['no signature', () => mbr().number(440, 0), ['zero-signature']],
  [
    'an entry of no sectors',
    () => mbr().number(446 + 12, 0),
    ['data-between-partitions', 'empty-partition', 'leftover'],
  ],
  [
    'an entry over the table',
    () => mbr().entry(0, 2, { type: 0x83, first: 0, count: 100 }),
    ['partition-over-the-table'],
  ],
  [
    'an entry that ends too far',
    () => mbr().entry(0, 2, { type: 0x83, first: 100_000, count: 4e9 }),
    ['partition-beyond-the-end'],
  ],
  [
    'an entry that starts too far',
    () => mbr().entry(0, 2, { type: 0x83, first: 4e9, count: 4e9 }),
    ['partition-beyond-the-end'],
  ],
  ['a file cut short', () => mbr().resized(10 * MIB), ['partition-beyond-the-end']],
  [
    'overlapping entries',
    () => mbr().entry(0, 2, { type: 0x83, first: 40_000, count: 20_000 }),
    ['partitions-overlap'],
  ],
  [
    'two containers',
    () => chained(1).entry(0, 2, { type: 0x05, first: 100_000, count: 100 }),
    ['chain-without-mark', 'empty-container', 'two-containers'],
  ],
  [
    'an empty container',
    () =>
      mbr()
        .entry(0, 3, { type: 0x0f, first: 65_536, count: 100 })
        .number(65_536 * 512 + 510, 0xaa55, 2),
    ['empty-container'],
  ],
  ['a container of Linux’s own type', () => chained(2).put(446 + 48 + 4, [0x85]), []],
  ['a chain that loops', () => chained(3).entry(65_536 + 8192, 1, { type: 5, first: 0, count: 10 }), ['chain-loops']],
  [
    'a record that leads to itself',
    () => chained(1).entry(65_536, 1, { type: 5, first: 0, count: 10 }),
    ['chain-loops'],
  ],
  [
    'a chain that leaves the container',
    () => chained(2).entry(65_536, 1, { type: 5, first: 40_000, count: 10 }),
    ['chain-leaves-the-container', 'data-between-partitions'],
  ],
  [
    'a chain that leaves the medium',
    () =>
      chained(2)
        .entry(0, 3, { type: 5, first: 65_536, count: 4e9 })
        .entry(65_536, 1, { type: 5, first: 3e9, count: 9 }),
    ['chain-leaves-the-container', 'data-between-partitions', 'partition-beyond-the-end'],
  ],
  [
    'a record without mark',
    () => chained(3).put((65_536 + 4096) * 512 + 510, [0, 0]),
    ['chain-without-mark', 'data-between-partitions'],
  ],
  [
    '300 logical partitions',
    () => withLogicals(mbr().resized(800 * MIB), { first: 65_536, count: 1_400_000 }, 300),
    ['chain-too-long', 'data-between-partitions'],
  ],
  [
    'a first record without partition',
    () => chained(2).entry(65_536, 0, { type: 0, first: 0, count: 0 }),
    ['chain-begins-empty'],
  ],
  [
    'a chain out of disk order',
    () =>
      mbr()
        .entry(0, 3, { type: 15, first: 65_536, count: 32_768 })
        .entry(65_536, 0, { type: 0x83, first: 20_000, count: 100 })
        .entry(65_536, 1, { type: 5, first: 4096, count: 4096 })
        .entry(65_536 + 4096, 0, { type: 0x83, first: 2048, count: 100 }),
    ['chain-out-of-disk-order'],
  ],
  [
    'a third entry in a record',
    () => chained(1).entry(65_536, 2, { type: 0x83, first: 9000, count: 10 }),
    ['chain-with-extra-entries'],
  ],
  [
    'a logical partition outside',
    () => chained(1).entry(65_536, 0, { type: 0x83, first: 60_000, count: 10 }),
    ['logical-outside-the-container'],
  ],
  ['an active logical partition', () => chained(1).put(65_536 * 512 + 446, [0x80]), ['active-logical']],
  ...HEADER_FIELDS.map(([name, at]): Damage => [
    `the first GPT header: ${name}`,
    () => gpt().flip(512 + at),
    ['gpt-first-copy-bad'],
  ]),
  ['an entry of the first array', () => gpt().flip(1024 + 60), ['gpt-first-copy-bad']],
  ['the copy of the header', () => gpt().flip(LAST * 512 + 40), ['gpt-last-copy-bad']],
  ['the copy of the array', () => gpt().flip((LAST - 32) * 512 + 5), ['gpt-last-copy-bad']],
  ['a first header of zeros', () => gpt().put(512, new Uint8Array(512)), ['gpt-first-copy-bad']],
  ['a lost copy', () => gpt().put(LAST * 512, new Uint8Array(512)), ['gpt-last-copy-bad']],
  [
    'both headers',
    () =>
      gpt()
        .flip(512 + 60)
        .flip(LAST * 512 + 60),
    ['gpt-first-copy-bad', 'gpt-last-copy-bad'],
  ],
  ['4096-byte sectors: the first header', () => gpt4096().flip(4096 + 60), ['gpt-first-copy-bad']],
  ['4096-byte sectors: the copy', () => gpt4096().flip(LAST_4096 * 4096 + 60), ['gpt-last-copy-bad']],
  [
    'copies that differ',
    () =>
      gpt()
        .text(1024 + 56, 'X')
        .mend(1),
    ['gpt-copies-differ'],
  ],
  ['a medium that grew', () => gpt().resized(100 * MIB), ['gpt-copy-not-at-the-end', 'protective-entry-wrong']],
  [
    'a medium that was cut',
    () => gpt().resized(60 * MIB),
    ['gpt-copy-not-at-the-end', 'gpt-last-copy-bad', 'partition-beyond-the-end', 'protective-entry-wrong'],
  ],
  [
    'a header that is elsewhere',
    () =>
      gpt()
        .number(512 + 24, 7, 8)
        .mend(1),
    ['gpt-header-elsewhere'],
  ],
  [
    'entries of 256 bytes',
    () =>
      gpt()
        .number(512 + 80, 64)
        .number(512 + 84, 256)
        .mend(1),
    ['gpt-copies-differ', 'gpt-entry-size'],
  ],
  [
    'an array of 32 entries',
    () =>
      gpt()
        .number(512 + 80, 32)
        .mend(1)
        .number(LAST * 512 + 80, 32)
        .mend(LAST),
    ['gpt-array-under-16-kib'],
  ],
  [
    'a partition outside of the usable sectors',
    () =>
      gpt()
        .number(1024 + 32, 20, 8)
        .mend(1),
    ['esp-not-fat', 'gpt-copies-differ', 'gpt-partition-outside-usable'],
  ],
  [
    'two partitions with one id',
    () =>
      gpt()
        .put(1024 + 128 + 16, gpt().bytes(1024 + 16, 16))
        .mend(1),
    ['duplicate-partition-id', 'gpt-copies-differ'],
  ],
  [
    'no disk id',
    () =>
      gpt()
        .put(512 + 56, new Uint8Array(16))
        .mend(1),
    ['gpt-copies-differ', 'zero-disk-id'],
  ],
  ['a wrong protective count', () => gpt().number(446 + 12, 999), ['protective-entry-wrong']],
  ['an active protective entry', () => gpt().put(446, [0x80]), ['protective-entry-active']],
  ['no protective record', () => gpt().put(446, new Uint8Array(66)), ['protective-entry-wrong']],
  [
    'real entries beside the protective one',
    () => gpt().entry(0, 1, { type: 0x0c, first: 2048, count: 34 * 2048 }),
    ['hybrid'],
  ],
  ['a GPT left behind an MBR', () => mbr().put(512, gpt().bytes(512, 512)), ['data-between-partitions', 'stale-gpt']],
  [
    'a copy of a GPT left at the end',
    () => mbr().put(LAST * 512, gpt().bytes(LAST * 512, 512)),
    ['data-between-partitions', 'stale-gpt'],
  ],
  [
    'protection without a GPT',
    () => mbr().entry(0, 2, { type: 0xee, first: 100_000, count: 9 }),
    ['protective-entry-alone'],
  ],
  [
    'a GPT for 4096-byte sectors read with 512',
    gpt4096,
    ['data-between-partitions', 'gpt-for-another-sector-size', 'protective-entry-alone'],
    512,
  ],
  [
    'overlapping GPT partitions',
    () =>
      gpt()
        .number(1024 + 40, 80_000, 8)
        .mend(1),
    ['gpt-copies-differ', 'partitions-overlap'],
  ],
  [
    'a GPT partition that ends before it starts',
    () =>
      gpt()
        .number(1024 + 40, 5, 8)
        .mend(1),
    ['data-between-partitions', 'empty-partition', 'gpt-copies-differ', 'leftover'],
  ],
  [
    'a GPT partition of 2⁶⁴ sectors',
    () =>
      gpt()
        .number(1024 + 256 + 40, 2n ** 64n - 1n, 8)
        .mend(1),
    ['gpt-copies-differ', 'gpt-partition-outside-usable', 'partition-beyond-the-end'],
  ],
  [
    'a header that claims 2⁶⁴ sectors',
    () =>
      gpt()
        .put(512 + 24, new Array(32).fill(255) as number[])
        .mend(1),
    ['gpt-copies-differ', 'gpt-copy-not-at-the-end', 'gpt-header-elsewhere', 'gpt-partition-outside-usable'],
  ],
  ['a wrong start in a volume', () => mbr().number(MIB + 28, 63), ['fat-hidden-sectors-wrong']],
  ['a volume longer than its place', () => mbr().number(446 + 12, 20_000), ['fat-longer-than-its-place']],
  [
    'a volume for 4096-byte sectors',
    () => mbr().number(MIB + 11, 4096, 2),
    [
      'fat-for-another-sector-size',
      'fat-labels-differ',
      'fat-longer-than-its-place',
      'fat-media-byte-differs',
      'fat-not-unmounted',
    ],
    512,
  ],
  [
    'a FAT32 header with the clusters of FAT16',
    () => whole('fat32').number(32, 40_000),
    ['fat-boot-sector-copy-differs', 'fat-free-count-wrong', 'fat-header-of-another-variant'],
  ],
  [
    'a count near the border',
    () => nearBorder(),
    ['fat-boot-sector-copy-differs', 'fat-free-count-wrong', 'fat-near-the-border'],
  ],
  ['FATs that differ', () => mbr().flip(fatsOf(mbr(), MIB).second + 9), ['fat-copies-differ']],
  ['a changed copy of the boot sector', () => gpt().flip(VOLUME + 6 * 512 + 3), ['fat-boot-sector-copy-differs']],
  ['FSInfo without its marks', () => gpt().flip(VOLUME + 512), ['fat-fsinfo-bad']],
  ['a wrong free count', () => gpt().number(VOLUME + 512 + 488, 77), ['fat-free-count-wrong']],
  ['another media byte', () => inBothFats(mbr(), MIB, 0, [0xf0]), ['fat-media-byte-differs']],
  ['a volume that was not unmounted', () => inBothFats(mbr(), MIB, 3, [0x7f]), ['fat-not-unmounted']],
  ['a root directory that loops', () => inBothFats(gpt(), VOLUME, 8, [2, 0, 0, 0]), ['fat-root-chain-broken']],
  ['a root directory that leaves', () => inBothFats(gpt(), VOLUME, 8, [0, 0, 0xff, 0]), ['fat-root-chain-broken']],
  [
    'a root directory in a free cluster',
    () => inBothFats(gpt(), VOLUME, 8, [0, 0, 0, 0]),
    ['fat-free-count-wrong', 'fat-root-chain-broken'],
  ],
  ['another label in the header', () => mbr().text(MIB + 43, 'STATION    '), ['fat-labels-differ']],
  ['clusters of 128 KiB', () => whole('fat16', '1 GiB').number(13, 128, 1), ['fat-clusters-over-32-kib']],
  ['data between partitions', () => mbr().text(25 * MIB, 'loader'), ['data-between-partitions']],
  ['a loader before the first partition', () => mbr().text(512, 'loader'), ['data-between-partitions']],
  ['the start of a file system in a gap', () => extAt(mbr(), 25 * MIB, 1000), ['data-between-partitions', 'leftover']],
  [
    'a file system over the medium from before',
    () => mbr().text(65_600, '_BHRfS_M'),
    ['data-between-partitions', 'leftover'],
  ],
  [
    'swap where the type says FAT',
    () =>
      mbr()
        .put(MIB, new Uint8Array(512))
        .text(MIB + 4086, 'SWAPSPACE2'),
    ['type-disagrees-with-content'],
  ],
  ['an ESP without FAT', () => gpt().put(VOLUME, new Uint8Array(512)), ['esp-not-fat']],
  [
    'a file system larger than its place',
    () => extAt(mbr().put(MIB, new Uint8Array(512)).put(450, [0x83]), MIB, 1_000_000),
    ['content-larger-than-its-place'],
  ],
  ['FAT where the type says Linux', () => mbr().put(450, [0x83]), ['type-disagrees-with-content']],
];

/** Damaged and odd images, each with the findings that a survey must give. */
import {
  chained,
  crowded,
  exfat,
  exfatWith,
  extAlone,
  extAt,
  fatsOf,
  gpt,
  gpt4096,
  inBothFats,
  installer,
  LAST,
  LAST_4096,
  mbr,
  nearBorder,
  VOLUME,
  whole,
} from './found-base';
import { brokenJournal, manyGroups, miscountedExt } from './hostile-ext';
import { MIB } from '@/core/quantity/units';
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
  ['a sound volume without a table', () => whole(16), []],
  ['a sound chain', () => chained(3), []],
  ['a sound exFAT', exfat, []],
  ['a FAT32 under noise', () => gpt().put(VOLUME, noise(1024)), ['found-place/start-lost', 'found-place/esp-not-fat']],
  ['an ext without its superblock', () => extAlone().put(MIB + 1024, new Uint8Array(1024)), ['found-place/start-lost']],
  ['an exFAT with another boot sector', () => exfat().flip(MIB + 112 + 20), ['found-exfat/boot-region-bad']],
  ['an exFAT whose copy is lost', () => exfat().flip(MIB + 12 * 512 + 300), ['found-exfat/boot-copy-bad']],
  [
    'an exFAT with both boot regions spoilt',
    () =>
      exfat()
        .flip(MIB + 300)
        .flip(MIB + 12 * 512 + 300),
    ['found-exfat/boot-region-bad'],
  ],
  [
    'an exFAT that is longer than its partition',
    () => exfatWith((image, at) => image.number(at + 72, 40_000, 8)),
    ['found-exfat/longer-than-its-place'],
  ],
  [
    'an exFAT that was copied from elsewhere',
    () => exfatWith((image, at) => image.number(at + 64, 63, 8)),
    ['found-exfat/offset-wrong'],
  ],
  [
    'an exFAT for 4096-byte sectors',
    () => exfatWith((image, at) => image.put(at + 108, [12])),
    ['found-exfat/boot-region-bad', 'found-exfat/for-another-sector-size', 'found-exfat/longer-than-its-place'],
  ],
  ['an exFAT that says nothing of its place', () => exfatWith((image, at) => image.number(at + 64, 0, 8)), []],
  ['an empty file', () => new FoundImage(0), ['found-table/shorter-than-a-sector']],
  ['one byte', () => new FoundImage(1), ['found-table/shorter-than-a-sector']],
  ['a file without a whole sector', () => new FoundImage(511), ['found-table/shorter-than-a-sector']],
  [
    'a boot record in less than a sector of 4096',
    () => new FoundImage(3833).entry(0, 1, { type: 0x83, first: 0, count: 255 }),
    ['found-table/shorter-than-a-sector'],
    4096,
  ],
  ['a sector of zeros', () => new FoundImage(512), ['found-table/no-table-and-no-volume']],
  ['zeros', () => new FoundImage(MIB), ['found-table/no-table-and-no-volume']],
  ['noise', () => new FoundImage(MIB).put(0, noise(MIB)), ['found-table/no-table-and-no-volume']],
  ['a part of a sector at the end', () => mbr().resized(64 * MIB + 100), ['found-table/not-whole-sectors']],
  ['no mark in sector 0', () => mbr().put(510, [0, 0]), ['found-table/no-table-and-no-volume']],
  ['an odd status', () => mbr().put(446, [0x7f]), ['found-table/odd-status']],
  ['entries behind the end', () => mbr().resized(MIB), ['found-table/no-entry-on-the-medium']],
  [
    'an unused entry with a size',
    () => mbr().entry(0, 3, { type: 0, first: 60_000, count: 9 }),
    ['found-table/unused-entry-with-a-size'],
  ],
  // An installer medium: its entries lie within the ISO 9660, one of them from sector 0 on, and over each other.
  [
    'an ISO 9660 that is a disk too',
    () => installer().entry(0, 0, { type: 0, first: 0, count: 8000 }),
    ['found-table/iso-9660-medium', 'found-table/unused-entry-with-a-size'],
  ],
  ['an ISO 9660 with entries over each other', installer, ['found-table/iso-9660-medium']],
  ['an exFAT over the whole medium', () => wholeOf({ content: { kind: 'exfat', volumeId: '7A1D-10C5' } }), []],
  ['an NTFS over the whole medium', ntfs, []],
  ['two active', () => mbr().put(446, [0x80]).put(462, [0x80]), ['found-table/more-than-one-active']],
  ['no signature', () => mbr().number(440, 0), ['found-table/zero-signature']],
  [
    'an entry of no sectors',
    () => mbr().number(446 + 12, 0),
    ['found-place/data-between-partitions', 'found-table/empty-partition', 'found-place/leftover'],
  ],
  [
    'an entry over the table',
    () => mbr().entry(0, 2, { type: 0x83, first: 0, count: 100 }),
    ['found-table/partition-over-the-table'],
  ],
  [
    'an entry that ends too far',
    () => mbr().entry(0, 2, { type: 0x83, first: 100_000, count: 4e9 }),
    ['found-table/partition-beyond-the-end'],
  ],
  [
    'an entry that starts too far',
    () => mbr().entry(0, 2, { type: 0x83, first: 4e9, count: 4e9 }),
    ['found-table/partition-beyond-the-end'],
  ],
  ['a file cut short', () => mbr().resized(10 * MIB), ['found-table/partition-beyond-the-end']],
  [
    'overlapping entries',
    () => mbr().entry(0, 2, { type: 0x83, first: 40_000, count: 20_000 }),
    ['found-table/partitions-overlap'],
  ],
  [
    'two containers',
    () => chained(1).entry(0, 2, { type: 0x05, first: 100_000, count: 100 }),
    ['found-chain/without-signature', 'found-table/empty-container', 'found-table/two-containers'],
  ],
  [
    'an empty container',
    () =>
      mbr()
        .entry(0, 3, { type: 0x0f, first: 65_536, count: 100 })
        .number(65_536 * 512 + 510, 0xaa55, 2),
    ['found-table/empty-container'],
  ],
  ['a container of Linux’s own type', () => chained(2).put(446 + 48 + 4, [0x85]), []],
  [
    'a chain that loops',
    () => chained(3).entry(65_536 + 8192, 1, { type: 5, first: 0, count: 10 }),
    ['found-chain/loops'],
  ],
  [
    'a record that leads to itself',
    () => chained(1).entry(65_536, 1, { type: 5, first: 0, count: 10 }),
    ['found-chain/loops'],
  ],
  [
    'a chain that leaves the container',
    () => chained(2).entry(65_536, 1, { type: 5, first: 40_000, count: 10 }),
    ['found-chain/leaves-the-container', 'found-place/data-between-partitions'],
  ],
  [
    'a chain that leaves the medium',
    () =>
      chained(2)
        .entry(0, 3, { type: 5, first: 65_536, count: 4e9 })
        .entry(65_536, 1, { type: 5, first: 3e9, count: 9 }),
    ['found-chain/leaves-the-container', 'found-place/data-between-partitions', 'found-table/partition-beyond-the-end'],
  ],
  [
    'a record without mark',
    () => chained(3).put((65_536 + 4096) * 512 + 510, [0, 0]),
    ['found-chain/without-signature', 'found-place/data-between-partitions'],
  ],
  [
    '300 logical partitions',
    () => withLogicals(mbr().resized(800 * MIB), { first: 65_536, count: 1_400_000 }, 300),
    ['found-chain/too-long', 'found-place/data-between-partitions'],
  ],
  [
    'a first record without partition',
    () => chained(2).entry(65_536, 0, { type: 0, first: 0, count: 0 }),
    ['found-chain/begins-empty'],
  ],
  [
    'a chain out of disk order',
    () =>
      mbr()
        .entry(0, 3, { type: 15, first: 65_536, count: 32_768 })
        .entry(65_536, 0, { type: 0x83, first: 20_000, count: 100 })
        .entry(65_536, 1, { type: 5, first: 4096, count: 4096 })
        .entry(65_536 + 4096, 0, { type: 0x83, first: 2048, count: 100 }),
    ['found-chain/out-of-disk-order'],
  ],
  [
    'a third entry in a record',
    () => chained(1).entry(65_536, 2, { type: 0x83, first: 9000, count: 10 }),
    ['found-chain/with-extra-entries'],
  ],
  [
    'a logical partition outside',
    () => chained(1).entry(65_536, 0, { type: 0x83, first: 60_000, count: 10 }),
    ['found-chain/logical-outside-the-container'],
  ],
  ['an active logical partition', () => chained(1).put(65_536 * 512 + 446, [0x80]), ['found-table/active-logical']],
  ...HEADER_FIELDS.map(([name, at]): Damage => [
    `the first GPT header: ${name}`,
    () => gpt().flip(512 + at),
    ['found-gpt/first-copy-bad'],
  ]),
  ['an entry of the first array', () => gpt().flip(1024 + 60), ['found-gpt/first-copy-bad']],
  ['the copy of the header', () => gpt().flip(LAST * 512 + 40), ['found-gpt/last-copy-bad']],
  ['the copy of the array', () => gpt().flip((LAST - 32) * 512 + 5), ['found-gpt/last-copy-bad']],
  ['a first header of zeros', () => gpt().put(512, new Uint8Array(512)), ['found-gpt/first-copy-bad']],
  ['a lost copy', () => gpt().put(LAST * 512, new Uint8Array(512)), ['found-gpt/last-copy-bad']],
  [
    'both headers',
    () =>
      gpt()
        .flip(512 + 60)
        .flip(LAST * 512 + 60),
    ['found-gpt/first-copy-bad', 'found-gpt/last-copy-bad'],
  ],
  ['4096-byte sectors: the first header', () => gpt4096().flip(4096 + 60), ['found-gpt/first-copy-bad']],
  ['4096-byte sectors: the copy', () => gpt4096().flip(LAST_4096 * 4096 + 60), ['found-gpt/last-copy-bad']],
  [
    'copies that differ',
    () =>
      gpt()
        .text(1024 + 56, 'X')
        .mend(1),
    ['found-gpt/copies-differ'],
  ],
  [
    'a medium that grew',
    () => gpt().resized(100 * MIB),
    ['found-gpt/copy-not-at-the-end', 'found-gpt/protective-entry-wrong'],
  ],
  [
    'a medium that was cut',
    () => gpt().resized(60 * MIB),
    [
      'found-gpt/copy-not-at-the-end',
      'found-gpt/last-copy-bad',
      'found-table/partition-beyond-the-end',
      'found-gpt/protective-entry-wrong',
    ],
  ],
  [
    'a header that is elsewhere',
    () =>
      gpt()
        .number(512 + 24, 7, 8)
        .mend(1),
    ['found-gpt/header-elsewhere'],
  ],
  [
    'entries of 256 bytes',
    () =>
      gpt()
        .number(512 + 80, 64)
        .number(512 + 84, 256)
        .mend(1),
    ['found-gpt/copies-differ', 'found-gpt/entry-size'],
  ],
  [
    'an array of 32 entries',
    () =>
      gpt()
        .number(512 + 80, 32)
        .mend(1)
        .number(LAST * 512 + 80, 32)
        .mend(LAST),
    ['found-gpt/array-under-16-kib'],
  ],
  [
    'a partition outside of the usable sectors',
    () =>
      gpt()
        .number(1024 + 32, 20, 8)
        .mend(1),
    ['found-place/esp-not-fat', 'found-gpt/copies-differ', 'found-gpt/partition-outside-usable'],
  ],
  [
    'so many entries that not all can be looked into',
    () => crowded(1400),
    ['found-table/partitions-overlap', 'found-gpt/copies-differ', 'found-table/not-looked-at'],
  ],
  [
    'two partitions with one id',
    () =>
      gpt()
        .put(1024 + 128 + 16, gpt().bytes(1024 + 16, 16))
        .mend(1),
    ['found-gpt/duplicate-partition-id', 'found-gpt/copies-differ'],
  ],
  [
    'no disk id',
    () =>
      gpt()
        .put(512 + 56, new Uint8Array(16))
        .mend(1),
    ['found-gpt/copies-differ', 'found-gpt/zero-disk-id'],
  ],
  ['a wrong protective count', () => gpt().number(446 + 12, 999), ['found-gpt/protective-entry-wrong']],
  ['an active protective entry', () => gpt().put(446, [0x80]), ['found-gpt/protective-entry-active']],
  ['no protective record', () => gpt().put(446, new Uint8Array(66)), ['found-gpt/protective-entry-wrong']],
  [
    'real entries beside the protective one',
    () => gpt().entry(0, 1, { type: 0x0c, first: 2048, count: 34 * 2048 }),
    ['found-gpt/hybrid'],
  ],
  [
    'a GPT left behind an MBR',
    () => mbr().put(512, gpt().bytes(512, 512)),
    ['found-place/data-between-partitions', 'found-gpt/stale-gpt'],
  ],
  [
    'a copy of a GPT left at the end',
    () => mbr().put(LAST * 512, gpt().bytes(LAST * 512, 512)),
    ['found-place/data-between-partitions', 'found-gpt/stale-gpt'],
  ],
  [
    'protection without a GPT',
    () => mbr().entry(0, 2, { type: 0xee, first: 100_000, count: 9 }),
    ['found-gpt/protective-entry-alone'],
  ],
  [
    'a GPT for 4096-byte sectors read with 512',
    gpt4096,
    [
      'found-place/data-between-partitions',
      'found-table/gpt-for-another-sector-size',
      'found-gpt/protective-entry-alone',
    ],
    512,
  ],
  [
    'overlapping GPT partitions',
    () =>
      gpt()
        .number(1024 + 40, 80_000, 8)
        .mend(1),
    ['found-gpt/copies-differ', 'found-table/partitions-overlap'],
  ],
  [
    'a GPT partition that ends before it starts',
    () =>
      gpt()
        .number(1024 + 40, 5, 8)
        .mend(1),
    [
      'found-place/data-between-partitions',
      'found-table/empty-partition',
      'found-gpt/copies-differ',
      'found-place/leftover',
    ],
  ],
  [
    'a GPT partition of 2⁶⁴ sectors',
    () =>
      gpt()
        .number(1024 + 256 + 40, 2n ** 64n - 1n, 8)
        .mend(1),
    ['found-gpt/copies-differ', 'found-gpt/partition-outside-usable', 'found-table/partition-beyond-the-end'],
  ],
  [
    'a header that claims 2⁶⁴ sectors',
    () =>
      gpt()
        .put(512 + 24, new Array(32).fill(255) as number[])
        .mend(1),
    [
      'found-gpt/copies-differ',
      'found-gpt/copy-not-at-the-end',
      'found-gpt/header-elsewhere',
      'found-gpt/partition-outside-usable',
    ],
  ],
  ['a wrong start in a volume', () => mbr().number(MIB + 28, 63), ['found-fat/hidden-sectors-wrong']],
  ['a volume longer than its place', () => mbr().number(446 + 12, 20_000), ['found-fat/longer-than-its-place']],
  [
    'a volume for 4096-byte sectors',
    () => mbr().number(MIB + 11, 4096, 2),
    [
      'found-fat/for-another-sector-size',
      'found-fat/labels-differ',
      'found-fat/longer-than-its-place',
      'found-fat/media-byte-differs',
      'found-fat/not-unmounted',
    ],
    512,
  ],
  [
    'a FAT32 header with the clusters of FAT16',
    () => whole(32).number(32, 40_000),
    ['found-fat/boot-sector-copy-differs', 'found-fat/free-count-wrong', 'found-fat/header-of-another-variant'],
  ],
  [
    'a count near the border',
    () => nearBorder(),
    ['found-fat/boot-sector-copy-differs', 'found-fat/free-count-wrong', 'found-fat/near-the-border'],
  ],
  ['FATs that differ', () => mbr().flip(fatsOf(mbr(), MIB).second + 9), ['found-fat/copies-differ']],
  ['a changed copy of the boot sector', () => gpt().flip(VOLUME + 6 * 512 + 3), ['found-fat/boot-sector-copy-differs']],
  ['FSInfo without its marks', () => gpt().flip(VOLUME + 512), ['found-fat/fsinfo-bad']],
  ['a wrong free count', () => gpt().number(VOLUME + 512 + 488, 77), ['found-fat/free-count-wrong']],
  ['another media byte', () => inBothFats(mbr(), MIB, 0, [0xf0]), ['found-fat/media-byte-differs']],
  ['a volume that was not unmounted', () => inBothFats(mbr(), MIB, 3, [0x7f]), ['found-fat/not-unmounted']],
  ['a root directory that loops', () => inBothFats(gpt(), VOLUME, 8, [2, 0, 0, 0]), ['found-fat/root-chain-broken']],
  [
    'a root directory that leaves',
    () => inBothFats(gpt(), VOLUME, 8, [0, 0, 0xff, 0]),
    ['found-fat/root-chain-broken'],
  ],
  [
    'a root directory in a free cluster',
    () => inBothFats(gpt(), VOLUME, 8, [0, 0, 0, 0]),
    ['found-fat/free-count-wrong', 'found-fat/root-chain-broken'],
  ],
  ['another label in the header', () => mbr().text(MIB + 43, 'STATION    '), ['found-fat/labels-differ']],
  ['clusters of 128 KiB', () => whole(16, '1 GiB').number(13, 128, 1), ['found-fat/clusters-over-32-kib']],
  ['data between partitions', () => mbr().text(25 * MIB, 'loader'), ['found-place/data-between-partitions']],
  ['a loader before the first partition', () => mbr().text(512, 'loader'), ['found-place/data-between-partitions']],
  [
    'the start of a file system in a gap',
    () => extAt(mbr(), 25 * MIB, 1000),
    ['found-place/data-between-partitions', 'found-place/leftover'],
  ],
  [
    'a file system over the medium from before',
    () => mbr().text(65_600, '_BHRfS_M'),
    ['found-place/data-between-partitions', 'found-place/leftover'],
  ],
  [
    'swap where the type says FAT',
    () =>
      mbr()
        .put(MIB, new Uint8Array(512))
        .text(MIB + 4086, 'SWAPSPACE2')
        .number(MIB + 1024, 1),
    ['found-place/type-disagrees-with-content'],
  ],
  [
    'an ESP without FAT',
    () => gpt().put(VOLUME, new Uint8Array(512)),
    ['found-place/start-lost', 'found-place/esp-not-fat'],
  ],
  [
    'a file system larger than its place',
    () => extAt(mbr().put(MIB, new Uint8Array(512)).put(450, [0x83]), MIB, 1_000_000),
    ['found-ext/not-read', 'found-place/content-larger-than-its-place'],
  ],
  ['an ext that counts other free blocks than its bitmap', miscountedExt, ['found-ext/contradicts-itself']],
  ['an ext whose journal is none', brokenJournal, ['found-ext/journal-broken', 'found-place/not-let-go']],
  ['an ext of thousands of groups', manyGroups, ['found-ext/looked-at-in-part']],
  [
    'an ext whose journal is to be replayed',
    () => extAt(mbr().put(MIB, new Uint8Array(512)).put(450, [0x83]), MIB, 1000).number(MIB + 1024 + 96, 4),
    ['found-ext/not-read', 'found-place/not-let-go'],
  ],
  ['FAT where the type says Linux', () => mbr().put(450, [0x83]), ['found-place/type-disagrees-with-content']],
];

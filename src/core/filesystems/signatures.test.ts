import { extAt, mbr } from '@tests/found-base';
import { MIB } from '@/core/quantity/units';
import type { FoundImage } from '@tests/found-image';
import { surveyMedium } from '../survey/survey';

const survey = (image: FoundImage) => surveyMedium(image, { sectorSize: 512 });

describe('marks of what is not made here', () => {
  const at = MIB;
  const empty = () => mbr().put(at, new Uint8Array(512)).put(450, [0x83]);
  test.each<[string, (image: FoundImage) => FoundImage, object]>([
    [
      'ext4',
      (i) =>
        extAt(i, at, 4096)
          .number(at + 1024 + 96, 0x40)
          .text(at + 1024 + 120, 'TIDE'),
      { label: 'TIDE', size: 4096 * 4096 },
    ],
    [
      'ext4',
      (i) =>
        extAt(i, at, 5)
          .number(at + 1024 + 96, 0x80)
          .number(at + 1024 + 0x150, 1)
          .number(at + 1024 + 0x158, 1),
      { size: (2 ** 32 + 5) * 4096, used: 5 * 4096 },
    ],
    [
      'ext2',
      (i) =>
        extAt(i, at, 4096)
          .number(at + 1024 + 44, 1_772_366_400)
          .text(at + 1024 + 0x88, '/var/log'),
      { mounted: '2026-03-01T12:00:00 at /var/log' },
    ],
    [
      'ext2',
      (i) =>
        extAt(i, at, 4096)
          .number(at + 1024 + 44, 1)
          .put(at + 1024 + 0x275, [1]),
      { mounted: '2106-02-07T06:28:17' },
    ],
    ['ext3', (i) => extAt(i, at, 4096).number(at + 1024 + 92, 4), { size: 4096 * 4096 }],
    ['ext2', (i) => extAt(i, at, 4096).number(at + 1024 + 12, 96), { used: 4000 * 4096 }],
    [
      'swap, 4 KiB pages',
      (i) =>
        i
          .text(at + 4086, 'SWAPSPACE2')
          .number(at + 1024, 1)
          .number(at + 1028, 99)
          .text(at + 1052, 'SWAP'),
      { label: 'SWAP', size: 409_600 },
    ],
    ['swap, 16 KiB pages', (i) => i.text(at + 16_374, 'SWAPSPACE2').number(at + 1024, 1), {}],
    [
      'swap, 4 KiB pages',
      (i) =>
        i
          .text(at + 4086, 'S1SUSPEND')
          .text(at + 4076, 'SWAPSPACE2')
          .number(at + 1024, 1)
          .number(at + 1028, 99),
      { size: 409_600, state: 'left asleep' },
    ],
    [
      'swap, 64 KiB pages',
      (i) => i.text(at + 65_526, 'SWAPSPACE2').put(at + 1024, [0, 0, 0, 1, 0, 0, 0, 19]),
      { size: 20 * 65_536 },
    ],
    [
      'XFS',
      (i) =>
        i
          .text(at, 'XFSB')
          .put(at + 4, [0, 0, 16, 0, 0, 0, 0, 0, 0, 0, 2, 0])
          .text(at + 108, 'BUOY'),
      { label: 'BUOY', size: 512 * 4096 },
    ],
    ['btrfs', (i) => i.text(at + 65_600, '_BHRfS_M').number(at + 65_536 + 0x70, 5 * MIB, 8), { size: 5 * MIB }],
    [
      'NTFS',
      (i) =>
        i
          .text(at + 3, 'NTFS    ')
          .number(at + 11, 512, 2)
          .number(at + 40, 1000, 8)
          .put(at + 72, [1, 2, 3, 4, 5, 6, 7, 0xab]),
      { size: 512_000, id: 'AB07060504030201', sectorSize: 512 },
    ],
    [
      'exFAT',
      (i) =>
        i
          .text(at + 3, 'EXFAT   ')
          .number(at + 72, 2048, 8)
          .number(at + 100, 0x7a1d10c5)
          .put(at + 108, [9]),
      { size: MIB, id: '7A1D-10C5' },
    ],
    ['F2FS', (i) => i.number(at + 1024, 0xf2f52010), {}],
    ['squashfs', (i) => i.text(at, 'hsqs').number(at + 40, 12_345, 8), { size: 12_345 }],
    ['EROFS', (i) => i.number(at + 1024, 0xe0f5e1e2), {}],
    ['ISO 9660', (i) => i.text(at + 32_768, '\u0001CD001').text(at + 32_808, 'TIDES'), { label: 'TIDES' }],
    // Labels are UTF-8 everywhere but in FAT and NTFS; the id of an ISO 9660 is a date.
    [
      'ext2',
      (i) => extAt(i, at, 4096).put(at + 1024 + 120, new TextEncoder().encode('Gezeiten ü')),
      { label: 'Gezeiten ü', block: 4096 },
    ],
    [
      'ISO 9660',
      (i) =>
        i
          .text(at + 32_768, '\u0001CD001')
          .number(at + 32_896, 2048, 2)
          .text(at + 32_768 + 813, '2025123123595999')
          .text(at + 32_768 + 830, '0000000000000000'),
      { id: '2025-12-31-23-59-59-99', block: 2048 },
    ],
    [
      'ISO 9660',
      (i) =>
        i
          .text(at + 32_768, '\u0001CD001')
          .text(at + 32_768 + 813, '2025123123595999')
          .text(at + 32_768 + 830, '2026030112345678'),
      { id: '2026-03-01-12-34-56-78' },
    ],
    ['UFS2', (i) => i.number(at + 66_908, 0x19540119), {}],
    ['HFS+', (i) => i.text(at + 1024, 'H+'), {}],
    ['APFS', (i) => i.text(at + 32, 'NXSB'), {}],
    [
      'LUKS',
      (i) =>
        i
          .text(at, 'LUKS')
          .put(at + 4, [0xba, 0xbe])
          .text(at + 168, 'some-id'),
      { id: 'some-id' },
    ],
    ['encrypted NTFS', (i) => i.text(at + 3, '-FVE-FS-'), {}],
    ['LVM', (i) => i.text(at + 512, 'LABELONE'), {}],
    ['Linux RAID', (i) => i.number(at + 4096, 0xa92b4efc), {}],
    ['Linux RAID', (i) => i.number(21 * MIB - 8192, 0xa92b4efc), {}],
    ['ZFS', (i) => i.number(at + 131_072, 0x00bab10c, 8), {}],
  ])('%s', async (name, write, more) => {
    const [first] = (await survey(write(empty()))).partitions;
    expect(first!.inside).toMatchObject({ kind: 'known', content: { name, ...more } });
  });
});

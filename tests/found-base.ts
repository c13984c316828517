/** Sound images of each kind, and changes to make in them: what surveys are tested on. */
import { REGION } from '@/core/filesystems/exfat/geometry';
import { MIB } from '@/core/quantity/units';
import { NOT_SUMMED, sum32 } from '@/core/filesystems/exfat/records';
import type { Layout } from '@/core/layout/document';
import { FoundImage, withLogicals } from './found-image';
import { fatPart, GPT_TABLE, layoutOn, NO_TABLE, part } from './samples';

const SECTORS_4096 = { kind: 'image', logicalSector: 4096, physicalSector: 4096 } as const;
const sectors4096 = (exact: string): Partial<Layout> => ({ medium: { ...SECTORS_4096, capacity: { exact } } });

export const mbr = () =>
  FoundImage.of(
    layoutOn('64 MiB', [
      fatPart('a', '20 MiB', { variant: 16, label: 'BUOY' }),
      fatPart('b', '4 MiB', { variant: 12, label: 'GAUGE' }),
    ]),
  );
export const chained = (logicals: number) => withLogicals(mbr(), { first: 65_536, count: 32_768 }, logicals);
const slots = [
  fatPart('e', '34 MiB', { label: 'ESP' }, { role: 'esp' }),
  part('d', '8 MiB', { attributes: ['grow'] }),
  fatPart('s', 'rest', { variant: 16, label: 'TIDESHARE' }),
];
export const gpt = () => FoundImage.of(layoutOn('64 MiB', slots, { table: GPT_TABLE }));
export const gpt4096 = () =>
  FoundImage.of(
    layoutOn('80 MiB', [fatPart('e', '16 MiB', { variant: 12 }), part('d', 'rest')], {
      table: GPT_TABLE,
      ...sectors4096('80 MiB'),
    }),
  );
export const LAST = (64 * MIB) / 512 - 1;
export const LAST_4096 = (80 * MIB) / 4096 - 1;
/** The FAT32 of the GPT image, and its FATs. */
export const VOLUME = MIB;
export const whole = (variant: 16 | 32, exact = '40 MiB') =>
  FoundImage.of(layoutOn(exact, [fatPart('a', 'rest', { variant, label: 'FLOAT' })], { table: NO_TABLE }));

/** A GPT with so many entries that all name the same 8 MiB: looking into each would take for ever. */
export function crowded(entries: number): FoundImage {
  const image = gpt();
  const start = 2048 + 34 * 2048;
  image
    .text(start * 512, 'something')
    .number(512 + 80, entries)
    .number(512 + 40, 1024, 8);
  const type = image.bytes(1024 + 128, 16);
  for (let i = 0; i < entries; i++) {
    const at = 1024 + 128 * i;
    image
      .put(at, type)
      .number(at + 16, 0x6d61_7272_0000 + i, 8)
      .number(at + 24, 0x8d05, 8);
    image
      .number(at + 32, start, 8)
      .number(at + 40, start + 16_383, 8)
      .number(at + 48, 0, 8);
    image.put(at + 56, new Uint8Array(72));
  }
  return image.mend(1);
}

/** An ext4 of blocks of 1 KiB behind the first MiB, with several groups. */
export const extAlone = () =>
  FoundImage.of(
    layoutOn('72 MiB', [
      part('x', 'rest', {
        content: {
          kind: 'ext',
          version: 'ext4',
          uuid: '7a1d0000-616d-4c0a-8d05-0000000000e1',
          label: 'TIDES',
          block: '1 KiB',
        },
      }),
    ]),
  );

/** An exFAT volume behind the first MiB, with room behind it. */
export const exfat = () =>
  FoundImage.of(
    layoutOn('64 MiB', [
      part('x', '16 MiB', { content: { kind: 'exfat', volumeId: '7A1D-10C5', label: 'Wide tide' } }),
    ]),
  );

/** An exFAT volume whose header is changed, with the checksums of both boot regions set right again. */
export function exfatWith(change: (image: FoundImage, at: number) => void): FoundImage {
  const image = exfat();
  for (const region of [MIB, MIB + REGION * 512]) {
    change(image, region);
    const sum = sum32(image.bytes(region, (REGION - 1) * 512), NOT_SUMMED);
    for (let at = 0; at < 512; at += 4) image.number(region + (REGION - 1) * 512 + at, sum);
  }
  return image;
}

/** Where the FATs of a volume begin, and how long one is, in bytes. */
export function fatsOf(image: FoundImage, base: number) {
  const reserved = image.bytes(base + 14, 2);
  const size = image.bytes(base + 22, 2);
  const sectors = size[0]! | (size[1]! << 8) || image.u32(base + 36);
  const first = base + (reserved[0]! | (reserved[1]! << 8)) * 512;
  return { first, second: first + sectors * 512 };
}

/** The same change in both FATs. */
export function inBothFats(image: FoundImage, base: number, at: number, bytes: number[]): FoundImage {
  const { first, second } = fatsOf(image, base);
  return image.put(first + at, bytes).put(second + at, bytes);
}

/** Marks of an ext file system at an offset: block count and size of a block. */
export const extAt = (image: FoundImage, at: number, blocks: number) =>
  image
    .number(at + 1024 + 56, 0xef53, 2)
    .number(at + 1024 + 4, blocks)
    .number(at + 1024 + 24, 2)
    .number(at + 1024 + 58, 1, 2);

/** A FAT32 of five clusters more than the least. */
export function nearBorder(): FoundImage {
  const image = whole(32);
  const { first, second } = fatsOf(image, 0);
  return image.number(32, (2 * second - first) / 512 + 65_530);
}

/** An installer medium of 4 MiB: an ISO 9660 over all of it, and an MBR in front whose entries lie in it. */
export const installer = () =>
  new FoundImage(4 * MIB)
    .number(440, 0x6d617272)
    .entry(0, 0, { type: 0x17, first: 0, count: 8192, status: 0x80 })
    .entry(0, 1, { type: 0x83, first: 2048, count: 1024 })
    .put(32_768, [1])
    .text(32_768, '\u0001CD001')
    .text(32_808, 'MARRAM INSTALLER'.padEnd(32))
    .number(32_848, 2048)
    .number(32_896, 2048, 2)
    .text(32_768 + 830, '2026030112345678');

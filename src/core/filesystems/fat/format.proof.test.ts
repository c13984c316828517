import { noise } from '@tests/samples';
import { type BlockSource, memoryBlocks, writeAll } from '../../bytes/blocks';
import { Coverage, endOf } from '../../bytes/extents';
import { fatGeometry, type FatQuestion } from './geometry';
import { fatTime } from './entries';
import { formatFat } from './format';
import { readFat } from './read';

const IDENTITY = { volumeId: 0x7a1d0b07, label: 'Tidelog', date: '2026-03-01T12:34:57' };
const START = 64;
const SECTORS = 70_000;

function volume(label = IDENTITY.label, sectorSize: 512 | 4096 = 512, cluster = 512) {
  const geometry = fatGeometry({ sectorSize, start: START, sectors: SECTORS, unit: 65_536, cluster, variant: 32 });
  if (!geometry.ok) throw new Error(geometry.error.reason);
  return { geometry: geometry.value, ranges: formatFat(geometry.value, { ...IDENTITY, label }) };
}

/** The volume laid over a target full of old bytes. */
async function onNoise(label?: string, sectorSize: 512 | 4096 = 512, cluster = 512) {
  const { geometry, ranges } = volume(label, sectorSize, cluster);
  const bytes = noise((START + SECTORS) * sectorSize, 7);
  const blocks = memoryBlocks(bytes);
  await writeAll(
    ranges.map((range) => range.extent),
    blocks,
  );
  const read = () => readFat(blocks, START * sectorSize, SECTORS * sectorSize);
  return { bytes, geometry, ranges, read, base: START * sectorSize };
}

test('the boot sector, byte by byte (FAT32 specification, “Boot Sector and BPB”)', async () => {
  const { bytes, geometry, base } = await onNoise();
  const sector = bytes.subarray(base, base + 512);
  expect([...sector.subarray(0, 3)]).toEqual([0xeb, 0x58, 0x90]);
  const view = new DataView(sector.buffer, sector.byteOffset);
  const u16 = (at: number) => view.getUint16(at, true);
  const u32 = (at: number) => view.getUint32(at, true);
  expect([u16(11), sector[13], u16(14), sector[16], u16(17), u16(19)]).toEqual([512, 1, geometry.reserved, 2, 0, 0]);
  expect([sector[21], u16(22), u16(24), u16(26), u32(28), u32(32)]).toEqual([0xf8, 0, 63, 255, START, SECTORS]);
  expect([u32(36), u16(40), u16(42), u32(44), u16(48), u16(50)]).toEqual([geometry.fatSectors, 0, 0, 2, 1, 6]);
  expect([sector[64], sector[65], sector[66], u32(67)]).toEqual([0x80, 0, 0x29, 0x7a1d0b07]);
  expect(String.fromCharCode(...sector.subarray(71, 90))).toBe('TIDELOG    FAT32   ');
  expect([sector[510], sector[511]]).toEqual([0x55, 0xaa]);
});

test('FSInfo, FATs and root directory', async () => {
  const { bytes, geometry, base } = await onNoise();
  const view = new DataView(bytes.buffer);
  const u32 = (at: number) => view.getUint32(base + at, true);
  expect([u32(512), u32(512 + 484), u32(512 + 508)]).toEqual([0x41615252, 0x61417272, 0xaa550000]);
  expect([u32(512 + 488), u32(512 + 492)]).toEqual([geometry.clusters - 1, 2]);
  for (const fat of [geometry.reserved, geometry.reserved + geometry.fatSectors]) {
    expect([u32(fat * 512), u32(fat * 512 + 4), u32(fat * 512 + 8), u32(fat * 512 + 12)]).toEqual([
      0x0ffffff8, 0x0fffffff, 0x0fffffff, 0,
    ]);
  }
  const root = bytes.subarray(base + geometry.dataStart * 512, base + geometry.dataStart * 512 + 64);
  expect(String.fromCharCode(...root.subarray(0, 11))).toBe('TIDELOG    ');
  expect(root[11]).toBe(0x08);
  // 12:34:57 is 12 << 11 | 34 << 5 | 28; the first of March 2026 is 46 << 9 | 3 << 5 | 1.
  expect([root[22]! | (root[23]! << 8), root[24]! | (root[25]! << 8)]).toEqual([25_692, 23_649]);
  expect([...root.subarray(32)]).toEqual(new Array(32).fill(0));
});

test('ranges ascend without overlap and cover everything before the data, and the root cluster', () => {
  for (const label of ['TIDELOG', '']) {
    const { geometry, ranges } = volume(label);
    let at = START * 512;
    for (const { extent } of ranges) {
      expect(extent.offset).toBe(at);
      at = endOf(extent);
    }
    expect(at).toBe((START + geometry.dataStart) * 512 + geometry.clusterBytes);
  }
});

test('what is read back over old bytes is what was meant', async () => {
  for (const [label, sectorSize, cluster] of [
    ['TIDELOG', 512, 512],
    ['', 512, 512],
    ['GAUGE_A', 4096, 4096],
  ] as const) {
    const { geometry, read } = await onNoise(label, sectorSize, cluster);
    expect(await read()).toMatchObject({
      shape: { variant: 32, clusters: geometry.clusters, dataStart: geometry.dataStart },
      hidden: START,
      labelInHeader: label,
      root: { label, entries: 0 },
      beyondPlace: 0,
      mediaRepeated: true,
      freeTold: geometry.clusters - 1,
      freeCounted: geometry.clusters - 1,
      backupAgrees: true,
      fatsAgree: true,
      cleanlyUnmounted: true,
    });
  }
});

describe('damage is seen', () => {
  const damaged = async (change: (bytes: Uint8Array, base: number, fat: number) => void) => {
    const { bytes, read, base, geometry } = await onNoise();
    change(bytes, base, base + geometry.reserved * 512);
    return read();
  };

  test('a used cluster that FSInfo does not know of', async () => {
    const found = await damaged((bytes, _, fat) => (bytes[fat + 5000] = 9));
    expect(found).toMatchObject({ fatsAgree: false });
    expect(found!.freeCounted).toBe(found!.freeTold! - 1);
  });

  test('FSInfo without its marks, a changed copy, a volume not unmounted', async () => {
    expect(await damaged((bytes, base) => (bytes[base + 512] = 0))).toMatchObject({ freeTold: undefined });
    expect(await damaged((bytes, base) => (bytes[base + 6 * 512 + 3] = 0))).toMatchObject({ backupAgrees: false });
    expect(await damaged((bytes, _, fat) => (bytes[fat + 7] = 0x07))).toMatchObject({ cleanlyUnmounted: false });
  });

  test.each([
    ['no mark', 510, 0],
    ['an odd cluster size', 13, 3],
    ['no FAT', 16, 0],
    ['a FAT larger than the volume', 38, 0xff],
    ['a media byte that is none', 21, 0x12],
    ['no jump', 0, 0],
    ['sectors of 768 bytes', 12, 3],
  ])('%s: not read as a FAT volume', async (_, offset, value) => {
    expect(await damaged((bytes, base) => (bytes[base + offset] = value))).toBeUndefined();
  });

  test.each<[string, number, number, object]>([
    ['a total beyond the place', 35, 0x0f, { beyondPlace: 0x0f00_0000 * 512 }],
    ['a root outside of the volume', 47, 0x7f, { root: { trouble: 'leaves the volume', places: [] } }],
    ['sectors of another size', 12, 0x10, { shape: { sectorSize: 4096 } }],
    ['another start', 28, 0x41, { hidden: 65 }],
    ['FSInfo elsewhere', 48, 9, { infoSound: false, freeTold: undefined }],
  ])('%s: read, and told', async (_, offset, value, expected) => {
    expect(await damaged((bytes, base) => (bytes[base + offset] = value))).toMatchObject(expected);
  });

  test('a root chain that loops, and one that runs into a free cluster', async () => {
    const entry = (value: number) => (bytes: Uint8Array, _: number, fat: number) =>
      new DataView(bytes.buffer).setUint32(fat + 8, value, true);
    expect(await damaged(entry(2))).toMatchObject({ root: { trouble: 'loops' } });
    expect(await damaged(entry(3))).toMatchObject({ root: { trouble: 'runs into a free cluster' } });
    expect(await damaged(entry(0x0ffffff7))).toMatchObject({ root: { trouble: 'leaves the volume' } });
  });

  test('noise is no volume, nor is a range that leaves the medium', async () => {
    const blocks = memoryBlocks(noise(100_000));
    expect(await readFat(blocks, 0, 100_000)).toBeUndefined();
    expect(await readFat(blocks, 90_000, 20_000)).toBeUndefined();
    expect(await readFat(blocks, 0, 100)).toBeUndefined();
  });
});

test('a FAT whose rest is a known hole is not read there, and counted all the same', async () => {
  const made = fatGeometry({ sectorSize: 512, start: START, sectors: 4_000_000, unit: 512, cluster: 512 });
  if (!made.ok) throw new Error(made.error.reason);
  const geometry = made.value;
  const bytes = new Uint8Array((START + 4_000_000) * 512);
  const blocks = memoryBlocks(bytes, true);
  const coverage = new Coverage();
  for (const { extent } of formatFat(geometry, IDENTITY))
    if ('bytes' in extent) coverage.add(extent.offset, extent.bytes.length);
  await writeAll(
    formatFat(geometry, IDENTITY).map((range) => range.extent),
    blocks,
  );
  let read = 0;
  const source: BlockSource = {
    size: blocks.size,
    isHole: (offset, length) => !coverage.touches(offset, length),
    read: (offset, length) => {
      read += length;
      return blocks.read(offset, length);
    },
  };
  const [whole, spared] = [
    await readFat(blocks, START * 512, 4_000_000 * 512),
    await readFat(source, START * 512, 4_000_000 * 512),
  ];
  expect(spared).toEqual(whole);
  expect(spared!.freeCounted).toBe(geometry.clusters - 1);
  expect(read).toBeLessThan(2.1 * 2 ** 20);
  expect(2 * geometry.fatSectors * 512).toBeGreaterThan(30 * 2 ** 20);
});

describe('FAT12 and FAT16 over a target full of old bytes', () => {
  const laid = async (more: Partial<FatQuestion> & { sectors: number }, label = 'BUOY 07') => {
    const sectorSize = more.sectorSize ?? 512;
    const asked = fatGeometry({ sectorSize, start: 8, unit: sectorSize, ...more });
    if (!asked.ok) throw new Error(asked.error.reason);
    const geometry = asked.value;
    const bytes = noise((geometry.start + more.sectors) * sectorSize, 9);
    const blocks = memoryBlocks(bytes);
    const ranges = formatFat(geometry, { ...IDENTITY, label });
    await writeAll(
      ranges.map((range) => range.extent),
      blocks,
    );
    return { bytes, blocks, geometry, ranges, sectorSize, base: geometry.start * sectorSize };
  };

  test('the boot sector of a FAT16, byte by byte (FAT32 specification, “Boot Sector and BPB”)', async () => {
    const { bytes, base, geometry } = await laid({ sectors: 66_000, variant: 16, cluster: 2048 });
    const sector = bytes.subarray(base, base + 512);
    const view = new DataView(sector.buffer, sector.byteOffset);
    const u16 = (at: number) => view.getUint16(at, true);
    expect([...sector.subarray(0, 3)]).toEqual([0xeb, 0x3c, 0x90]);
    expect([u16(11), sector[13], u16(14), sector[16], u16(17), u16(19)]).toEqual([512, 4, 1, 2, 512, 0]);
    expect([sector[21], u16(22), u16(24), u16(26)]).toEqual([0xf8, geometry.fatSectors, 63, 255]);
    expect([view.getUint32(28, true), view.getUint32(32, true)]).toEqual([8, 66_000]);
    expect([sector[36], sector[37], sector[38], view.getUint32(39, true)]).toEqual([0x80, 0, 0x29, 0x7a1d0b07]);
    expect(String.fromCharCode(...sector.subarray(43, 62))).toBe('BUOY 07    FAT16   ');
    expect([sector[510], sector[511]]).toEqual([0x55, 0xaa]);
    const fat = base + geometry.reserved * 512;
    expect([...bytes.subarray(fat, fat + 6)]).toEqual([0xf8, 0xff, 0xff, 0xff, 0, 0]);
  });

  test('a 1,440 KiB floppy, byte by byte (ECMA-107)', async () => {
    const { bytes, geometry } = await laid({ sectors: 2880, start: 0, wholeMedium: true });
    const view = new DataView(bytes.buffer);
    const u16 = (at: number) => view.getUint16(at, true);
    expect([u16(11), bytes[13], u16(14), bytes[16], u16(17), u16(19)]).toEqual([512, 1, 1, 2, 224, 2880]);
    expect([bytes[21], u16(22), u16(24), u16(26), bytes[36]]).toEqual([0xf0, 9, 18, 2, 0]);
    expect([...bytes.subarray(512, 516)]).toEqual([0xf0, 0xff, 0xff, 0]);
    expect([...bytes.subarray(10 * 512, 10 * 512 + 4)]).toEqual([0xf0, 0xff, 0xff, 0]);
    expect(geometry.dataStart).toBe(33);
    expect(String.fromCharCode(...bytes.subarray(19 * 512, 19 * 512 + 11))).toBe('BUOY 07    ');
  });

  test.each([
    [{ sectors: 2000 }, 12],
    [{ sectors: 20_000, variant: 12 as const }, 12],
    [{ sectors: 70_000, padding: 'root directory' as const, unit: 65_536 }, 16],
    [{ sectors: 40_000, unit: 65_536 }, 16],
    [{ sectors: 2000, sectorSize: 4096 as const }, 12],
    [{ sectors: 9000, sectorSize: 4096 as const, unit: 65_536 }, 16],
  ])('%j reads back as it was meant', async (more, variant) => {
    const { blocks, geometry, ranges, base, sectorSize } = await laid(more);
    const found = await readFat(blocks, base, more.sectors * sectorSize);
    expect(found).toMatchObject({
      shape: {
        variant,
        width: variant,
        clusters: geometry.clusters,
        dataStart: geometry.dataStart,
        rootEntries: geometry.rootEntries,
        totalSectors: geometry.totalSectors,
      },
      hidden: geometry.start,
      labelInHeader: 'BUOY 07',
      root: { label: 'BUOY 07', entries: 0, trouble: undefined },
      freeCounted: geometry.clusters,
      freeTold: undefined,
      infoSound: true,
      backupAgrees: true,
      fatsAgree: true,
      mediaRepeated: true,
      cleanlyUnmounted: true,
      beyondPlace: 0,
    });
    let at = base;
    for (const { extent } of ranges) {
      expect(extent.offset).toBe(at);
      at = endOf(extent);
    }
    expect(at).toBe(base + geometry.dataStart * sectorSize);
  });

  test('used entries are counted, packed ones too', async () => {
    for (const variant of [12, 16] as const) {
      const { bytes, blocks, geometry, base } = await laid({ sectors: 20_000, variant });
      const fat = base + geometry.reserved * 512;
      // Clusters 2 and 3 get a value: two packed entries share a byte.
      bytes.set(variant === 12 ? [0x03, 0xf0, 0xff] : [3, 0, 0xff, 0xff], fat + (variant === 12 ? 3 : 4));
      expect(await readFat(blocks, base, 20_000 * 512)).toMatchObject({
        freeCounted: geometry.clusters - 2,
        fatsAgree: false,
      });
    }
  });
});

test('times go in steps of two seconds from 1980', () => {
  expect(fatTime('1980-01-01T00:00:00')).toEqual({ date: 33, time: 0 });
  expect(fatTime('2107-12-31T23:59:59')).toEqual({ date: 0xff9f, time: 0xbf7d });
});

import fc from 'fast-check';
import { BORDER, clusterSizes, type Fat32Question, fat32Geometry, LEAST_CLUSTERS, sectorOfCluster } from './geometry';

const MIB = 2 ** 20;
const GIB = 2 ** 30;

function question(bytes: number, more: Partial<Fat32Question> = {}): Fat32Question {
  const sectorSize = more.sectorSize ?? 512;
  return { sectorSize, start: (4 * MIB) / sectorSize, sectors: bytes / sectorSize, unit: 4 * MIB, ...more };
}

function made(bytes: number, more: Partial<Fat32Question> = {}) {
  const geometry = fat32Geometry(question(bytes, more));
  if (!geometry.ok) throw new Error(geometry.error.reason);
  return geometry.value;
}

test('the boot volume of the gauge logger, computed by hand', () => {
  // 256 MiB at 4 MiB: the data area takes 252 MiB of 2 KiB clusters; a FAT of 129,026 entries of
  // 4 bytes fills 1,009 sectors; 8,192 − 2 × 1,009 sectors are reserved.
  expect(made(256 * MIB)).toMatchObject({
    clusterBytes: 2048,
    clusters: 129_024,
    fatSectors: 1009,
    reserved: 6174,
    dataStart: 8192,
    tail: 0,
    bytesForFiles: 129_023 * 2048,
  });
});

test.each([
  [512 * MIB, 4096],
  [8 * GIB, 4096],
  [8 * GIB + MIB, 8192],
  [16 * GIB + MIB, 16_384],
  [32 * GIB + MIB, 32_768],
  [300 * MIB, 4096],
  [200 * MIB, 2048],
  [100 * MIB, 1024],
  [50 * MIB, 512],
])('%d bytes get clusters of %d', (bytes, cluster) => {
  expect(made(bytes, { unit: 512 }).clusterBytes).toBe(cluster);
});

test('4096-byte sectors need 256.58 MiB', () => {
  // 65,525 clusters of one sector, 32 reserved, two FATs of 64: 65,685 sectors.
  const at = (sectors: number) => fat32Geometry({ sectorSize: 4096, start: 0, sectors, unit: 4096, cluster: 4096 });
  expect(at(65_685)).toMatchObject({ ok: true, value: { clusters: 65_525, fatSectors: 64, reserved: 32 } });
  expect(at(65_684)).toMatchObject({ ok: false, error: { reason: 'too few clusters', clusters: 65_524 } });
});

test('a refusal says how large it must be, and that size does', () => {
  for (const sectorSize of [512, 4096] as const) {
    const asked = question(16 * MIB, { sectorSize });
    const refused = fat32Geometry(asked);
    if (refused.ok) throw new Error('made');
    const least = refused.error.least!;
    expect(fat32Geometry({ ...asked, sectors: least })).toMatchObject({ ok: true });
    const below = fat32Geometry({ ...asked, sectors: least - refused.error.clusterBytes / sectorSize });
    expect(below.ok && below.value.clusters >= LEAST_CLUSTERS + BORDER).toBe(false);
  }
});

test('what cannot be is refused with its reason', () => {
  expect(fat32Geometry(question(GIB, { cluster: 3000 }))).toMatchObject({ error: { reason: 'cluster size' } });
  expect(fat32Geometry(question(GIB, { sectorSize: 4096, cluster: 512 }))).toMatchObject({
    error: { reason: 'cluster size' },
  });
  expect(fat32Geometry(question(256 * MIB, { cluster: 4096 }))).toMatchObject({
    error: { reason: 'too few clusters', clusters: 64512 },
  });
  expect(fat32Geometry(question(2 ** 41))).toMatchObject({ error: { reason: 'too many sectors' } });
  expect(fat32Geometry(question(1024 * GIB, { cluster: 512 }))).toMatchObject({
    error: { reason: 'too many clusters' },
  });
});

test('beyond 8 TiB at 4096-byte sectors clusters grow to 64 KiB', () => {
  expect(made(12 * 2 ** 40, { sectorSize: 4096 }).clusterBytes).toBe(65_536);
});

test('padding never takes more than 1/16 of the volume', () => {
  const small = made(34 * MIB, { unit: 64 * MIB });
  expect(small.onWantedUnit).toBe(false);
  expect((small.reserved - 32) * 512).toBeLessThanOrEqual((34 * MIB) / 16);
  expect(((small.start + small.dataStart) * 512) % small.unit).toBe(0);
});

test('reserved sectors are a 16-bit count: beyond it the FATs grow', () => {
  const wide = made(64 * GIB, { unit: 64 * MIB, start: 63 });
  expect(wide.reserved).toBeLessThanOrEqual(65_535);
  expect(wide.reserved + 2 * wide.fatSectors).toBe(wide.dataStart);
  expect(((wide.start + wide.dataStart) * 512) % (64 * MIB)).toBe(0);
});

const anyQuestion = fc.record({
  sectorSize: fc.constantFrom<512 | 4096>(512, 4096),
  startBytes: fc.nat(5000).map((n) => n * 4096),
  bytes: fc.oneof(fc.integer({ min: 33 * MIB, max: 2 * GIB }), fc.integer({ min: GIB, max: 2 ** 40 })),
  unit: fc.constantFrom(512, 4096, 65_536, MIB, 4 * MIB, 16 * MIB, 3 * MIB),
  clusterIndex: fc.option(fc.nat(7), { nil: undefined }),
});

test('the invariants hold for any size, sector, cluster and unit', () => {
  fc.assert(
    fc.property(anyQuestion, ({ sectorSize, startBytes, bytes, unit, clusterIndex }) => {
      const sizes = clusterSizes(sectorSize);
      const asked: Fat32Question = {
        sectorSize,
        start: startBytes / 4096,
        sectors: Math.floor(bytes / sectorSize),
        unit: Math.max(unit, sectorSize),
        ...(clusterIndex !== undefined && { cluster: sizes[clusterIndex % sizes.length]! }),
      };
      const result = fat32Geometry(asked);
      if (!result.ok) {
        expect(['too few clusters', 'too many clusters']).toContain(result.error.reason);
        return;
      }
      const g = result.value;
      expect(g.clusters).toBeGreaterThanOrEqual(LEAST_CLUSTERS);
      expect(g.reserved).toBeGreaterThanOrEqual(32);
      expect(g.reserved).toBeLessThanOrEqual(65_535);
      expect(g.reserved + 2 * g.fatSectors).toBe(g.dataStart);
      expect(g.dataStart + g.clusters * g.sectorsPerCluster + g.tail).toBe(asked.sectors);
      expect(g.tail).toBeLessThan(g.sectorsPerCluster);
      expect(g.fatSectors * sectorSize).toBeGreaterThanOrEqual((g.clusters + 2) * 4);
      expect(((asked.start + g.dataStart) * sectorSize) % g.unit).toBe(0);
      if (g.onWantedUnit) expect(g.unit).toBe(asked.unit);
      expect(sectorOfCluster(g, 2)).toBe(g.dataStart);
    }),
    { numRuns: 1500 },
  );
});

test('the FAT is the exact smallest and the data area starts as early as it can', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 70_000, max: 3_000_000 }),
      fc.constantFrom(1, 8, 128, 2048),
      fc.nat(4000),
      (sectors, unitSectors, start) => {
        const result = fat32Geometry({ sectorSize: 512, start, sectors, unit: unitSectors * 512, cluster: 512 });
        if (!result.ok || !result.value.onWantedUnit) return;
        const g = result.value;
        expect(g.fatSectors).toBe(Math.ceil(((g.clusters + 2) * 4) / 512));
        // One unit earlier the structures would not fit any more.
        const earlier = g.dataStart - unitSectors;
        const clusters = sectors - earlier;
        expect(32 + 2 * Math.ceil(((clusters + 2) * 4) / 512)).toBeGreaterThan(earlier);
      },
    ),
  );
});

import { readFileSync } from 'node:fs';
import { GIB, MIB } from '../../quantity/units';
import { fatGeometry, type FatQuestion, sectorOfCluster } from './geometry';
import { BORDER, clusterSizes, leastClusters, mostClusters } from './variants';
import fc from 'fast-check';

const LEAST_CLUSTERS = leastClusters(32);
/** Geometry of a FAT32, as a person may ask for it. */
const fat32Geometry = (q: FatQuestion) => fatGeometry({ variant: 32, ...q });

function question(bytes: number, more: Partial<FatQuestion> = {}): FatQuestion {
  const sectorSize = more.sectorSize ?? 512;
  return { sectorSize, start: (4 * MIB) / sectorSize, sectors: bytes / sectorSize, unit: 4 * MIB, ...more };
}

function made(bytes: number, more: Partial<FatQuestion> = {}) {
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
  // Where nobody chose clusters, the distance to the border is kept.
  const byRule = (sectors: number) => fatGeometry({ sectorSize: 4096, start: 256, sectors, unit: 4096, variant: 32 });
  expect(byRule(65_703)).toMatchObject({ ok: true, value: { clusters: LEAST_CLUSTERS + BORDER } });
  expect(byRule(65_702).ok).toBe(false);
  const page = readFileSync('docs/fat.md', 'utf8');
  for (const sectors of [65_703, 65_685])
    expect(page).toContain(`${sectors.toLocaleString('en')} sectors, ${((sectors * 4096) / MIB).toFixed(2)} MiB`);
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
    error: { reason: 'too few clusters', clusters: 65_404 },
  });
  expect(fat32Geometry(question(3 * 2 ** 40))).toMatchObject({ error: { reason: 'too many sectors' } });
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

describe('FAT12 and FAT16', () => {
  const at = (bytes: number, more: Partial<FatQuestion> = {}) => {
    const found = fatGeometry(question(bytes, more));
    if (!found.ok) throw new Error(`${found.error.reason} ${found.error.clusters}`);
    return found.value;
  };

  test('a FAT16 of 100 MiB on a unit of 1 MiB, computed by hand', () => {
    // 99 MiB of 2 KiB clusters are 50,688; 50,690 entries of 2 bytes fill 199 sectors; the root
    // directory has 32; 2,048 − 2 × 199 − 32 sectors are reserved.
    expect(at(100 * MIB, { unit: MIB, start: 2048 })).toMatchObject({
      variant: 16,
      clusterBytes: 2048,
      clusters: 50_688,
      fatSectors: 199,
      leastFatSectors: 199,
      rootSectors: 32,
      rootEntries: 512,
      reserved: 1618,
      dataStart: 2048,
      tail: 0,
      bytesForFiles: 50_688 * 2048,
      onWantedUnit: true,
    });
  });

  test('the same padded with a longer root directory: one sector reserved, 33 sectors of root, larger FATs', () => {
    expect(at(100 * MIB, { unit: MIB, start: 2048, padding: 'root directory' })).toMatchObject({
      reserved: 1,
      rootEntries: 528,
      rootSectors: 33,
      fatSectors: (2048 - 1 - 33) / 2,
      leastFatSectors: 199,
      dataStart: 2048,
      onWantedUnit: true,
    });
  });

  test('at 4096-byte sectors the longer root directory has 640 entries in 5 sectors', () => {
    const wide = at(100 * MIB, { sectorSize: 4096, unit: MIB, start: 256, padding: 'root directory' });
    expect(wide).toMatchObject({ variant: 16, reserved: 1, rootEntries: 640, rootSectors: 5, onWantedUnit: true });
  });

  test('without padding the data area begins where the structures end', () => {
    const bare = at(100 * MIB, { unit: MIB, start: 2048, padding: 'none' });
    expect(bare).toMatchObject({ reserved: 1, dataStart: 1 + 2 * bare.fatSectors + 32, onWantedUnit: false });
    expect(bare.fatSectors).toBe(bare.leastFatSectors);
  });

  test.each([
    [10 * MIB, 12],
    [16 * MIB - 512, 12],
    [16 * MIB, 16],
    [512 * MIB - 512, 16],
    [512 * MIB, 32],
  ])('%d bytes become FAT%d by size', (bytes, variant) => {
    expect(at(bytes, { unit: 512 }).variant).toBe(variant);
  });

  test.each([
    [20 * MIB, 2048],
    [128 * MIB, 2048],
    [200 * MIB, 4096],
    [512 * MIB - 512, 8192],
    [1000 * MIB, 16_384],
    [GIB, 32_768],
    [1900 * MIB, 32_768],
  ])('a FAT16 of %d bytes gets clusters of %d', (bytes, cluster) => {
    expect(at(bytes, { unit: 512, variant: 16 }).clusterBytes).toBe(cluster);
  });

  test('an ESP is FAT32 as soon as that is legal, and the neighbour before', () => {
    expect(at(34 * MIB, { prefersFat32: true, unit: 512 }).variant).toBe(32);
    expect(at(20 * MIB, { prefersFat32: true, unit: 512 }).variant).toBe(16);
    expect(at(260 * MIB, { prefersFat32: true, sectorSize: 4096, unit: 4096 }).variant).toBe(32);
    expect(at(200 * MIB, { prefersFat32: true, sectorSize: 4096, unit: 4096 }).variant).toBe(16);
  });

  test('2 GiB at 32 KiB would be 65,527 clusters: a FAT16 is made a little smaller, and says so', () => {
    const trimmed = at(2 * GIB, { variant: 16, unit: 512, start: 0 });
    expect(trimmed).toMatchObject({ clusters: mostClusters(16) - BORDER, clusterBytes: 32_768 });
    expect(trimmed.unused).toBeGreaterThan(0);
    expect(trimmed.totalSectors + trimmed.unused).toBe((2 * GIB) / 512);
    expect(trimmed.tail).toBe(0);
  });

  test('what is too large for a variant is refused, with the most that it can use', () => {
    const refused = fatGeometry(question(3 * GIB, { variant: 16, unit: 512 }));
    expect(refused).toMatchObject({ ok: false, error: { reason: 'too many clusters', variant: 16 } });
    if (refused.ok) return;
    expect(fatGeometry({ ...question(0, { variant: 16, unit: 512 }), sectors: refused.error.most! })).toMatchObject({
      ok: true,
      value: { unused: 0 },
    });
    expect(fatGeometry(question(300 * MIB, { variant: 12 }))).toMatchObject({ error: { reason: 'too many clusters' } });
    expect(fatGeometry(question(MIB, { variant: 16 }))).toMatchObject({ error: { reason: 'too few clusters' } });
  });

  test('a chosen cluster decides the variant where nobody chose one', () => {
    expect(at(600 * MIB, { cluster: 32_768, unit: 512 }).variant).toBe(16);
    expect(at(100 * MIB, { cluster: 32_768, unit: 512 }).variant).toBe(12);
    expect(at(100 * MIB, { cluster: 512, unit: 512 }).variant).toBe(32);
  });

  // ECMA-107 and the formats of the time: clusters, root entries, sectors a FAT, track, heads, media.
  test.each([
    [360, 354, 112, 2, 9, 0xfd, 1024],
    [720, 713, 112, 3, 9, 0xf9, 1024],
    [1440, 2847, 224, 9, 18, 0xf0, 512],
  ])(
    '%d KiB without a table has the classic headers',
    (kib, clusters, rootEntries, fatSectors, track, media, cluster) => {
      const floppy = { sectorSize: 512, start: 0, sectors: kib * 2, unit: 512, wholeMedium: true } as const;
      const found = fatGeometry(floppy);
      expect(found).toMatchObject({
        ok: true,
        value: {
          variant: 12,
          clusters,
          rootEntries,
          fatSectors,
          reserved: 1,
          clusterBytes: cluster,
          headers: { media, drive: 0, sectorsPerTrack: track, heads: 2 },
        },
      });
      expect(fatGeometry({ ...floppy, wholeMedium: false })).toMatchObject({ value: { headers: { media: 0xf8 } } });
    },
  );

  test('a few KiB are enough for a FAT12', () => {
    expect(fatGeometry({ sectorSize: 512, start: 0, sectors: 8, unit: 512 })).toMatchObject({
      ok: true,
      value: { variant: 12, clusters: 4, rootEntries: 16 },
    });
    expect(fatGeometry({ sectorSize: 512, start: 0, sectors: 3, unit: 512 })).toMatchObject({ ok: false });
  });
});

const anyQuestion = fc.record({
  sectorSize: fc.constantFrom<512 | 4096>(512, 4096),
  startBytes: fc.nat(5000).map((n) => n * 4096),
  bytes: fc.oneof(
    fc.integer({ min: 1, max: 2 * MIB }),
    fc.integer({ min: MIB, max: 2 * GIB }),
    fc.integer({ min: GIB, max: 2 ** 40 }),
    fc.integer({ min: 2 ** 40, max: 2 ** 44 }),
  ),
  unit: fc.constantFrom(512, 4096, 65_536, MIB, 4 * MIB, 16 * MIB, 3 * MIB),
  clusterIndex: fc.option(fc.nat(7), { nil: undefined }),
  variant: fc.option(fc.constantFrom<12 | 16 | 32>(12, 16, 32), { nil: undefined }),
  padding: fc.option(fc.constantFrom('reserved' as const, 'root directory' as const, 'none' as const), {
    nil: undefined,
  }),
  prefersFat32: fc.boolean(),
});

test('the invariants hold for any size, sector, cluster, variant and unit', () => {
  fc.assert(
    fc.property(
      anyQuestion,
      ({ sectorSize, startBytes, bytes, unit, clusterIndex, variant, padding, prefersFat32 }) => {
        const sizes = clusterSizes(sectorSize);
        const asked: FatQuestion = {
          sectorSize,
          start: startBytes / 4096,
          sectors: Math.floor(bytes / sectorSize),
          unit: Math.max(unit, sectorSize),
          prefersFat32,
          ...(clusterIndex !== undefined && { cluster: sizes[clusterIndex % sizes.length]! }),
          ...(variant && { variant }),
          ...(padding && { padding }),
        };
        const result = fatGeometry(asked);
        if (!result.ok) {
          expect(['too few clusters', 'too many clusters', 'too many sectors']).toContain(result.error.reason);
          return;
        }
        const g = result.value;
        // The variant is the one of the count, and by rule the count keeps its distance.
        expect(g.clusters).toBeGreaterThanOrEqual(leastClusters(g.variant));
        expect(g.clusters).toBeLessThanOrEqual(mostClusters(g.variant));
        if (variant) expect(g.variant).toBe(variant);
        if (clusterIndex === undefined && g.variant !== 12)
          expect(g.clusters).toBeGreaterThanOrEqual(leastClusters(g.variant) + BORDER);
        if (clusterIndex === undefined && g.variant !== 32)
          expect(g.clusters).toBeLessThanOrEqual(mostClusters(g.variant) - BORDER);
        if (asked.cluster) expect(g.clusterBytes).toBe(asked.cluster);
        // Every structure has its place, and the FATs hold every cluster.
        expect(g.reserved).toBeGreaterThanOrEqual(g.variant === 32 ? 32 : 1);
        expect(g.reserved).toBeLessThanOrEqual(65_535);
        expect(g.reserved + 2 * g.fatSectors + g.rootSectors).toBe(g.dataStart);
        expect(g.dataStart + g.clusters * g.sectorsPerCluster + g.tail + g.unused).toBe(asked.sectors);
        expect(g.tail).toBeLessThan(g.sectorsPerCluster);
        expect(g.unused).toBeLessThanOrEqual(asked.sectors / 16);
        expect(g.fatSectors).toBeGreaterThanOrEqual(g.leastFatSectors);
        expect(g.leastFatSectors).toBe(Math.ceil(Math.ceil(((g.clusters + 2) * g.variant) / 8) / sectorSize));
        if (g.variant !== 32) expect(g.fatSectors).toBeLessThanOrEqual(65_535);
        expect(g.rootEntries * 32).toBe(g.rootSectors * sectorSize);
        expect(g.totalSectors).toBeLessThan(2 ** 32);
        // Where it is laid on a unit, it begins there.
        expect(((asked.start + g.dataStart) * sectorSize) % g.unit).toBe(0);
        if (g.unit === asked.unit) expect(g.onWantedUnit).toBe(true);
        expect(sectorOfCluster(g, 2)).toBe(g.dataStart);
      },
    ),
    { numRuns: 4000 },
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

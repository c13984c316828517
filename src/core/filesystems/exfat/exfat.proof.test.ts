import { MIB } from '../../quantity/units';
import { anyTree, byPath, inMemory, overNoise, Shelf, treeOf, usedIn } from '@tests/filled';
import { cases } from '@tests/tier';
import { joined, lengthOf } from '../../bytes/extents';
import type { Tree } from '../tree';
import { contentOf } from '../volume';
import { storedTable, upcased } from '../upcase';
import { exfatRoom, exfatTroubles } from './fill';
import { formatExfat } from './format';
import {
  exfatClusterSizes,
  exfatGeometry,
  type ExfatGeometry,
  type ExfatQuestion,
  usualExfatCluster,
} from './geometry';
import { openExfat, readExfat } from './read';
import { sum16, sum32 } from './records';
import fc from 'fast-check';

const identity = { serial: 0x3a1f77c0, label: 'Tide data', date: '2026-03-01T12:00:00', keepsTimes: true };

function geometryFor(bytes: number, more: Partial<ExfatQuestion> = {}): ExfatGeometry {
  const sectorSize = more.sectorSize ?? 512;
  const found = exfatGeometry({ sectorSize, start: 0, sectors: bytes / sectorSize, unit: 4096, ...more });
  if (!found.ok) throw new Error(JSON.stringify(found.error));
  return found.value;
}

async function roundTrip(geometry: ExfatGeometry, tree: Tree, shelf: Shelf) {
  const ranges = formatExfat(geometry, identity, tree);
  const bytes = overNoise(
    (geometry.start + geometry.sectors) * geometry.sectorSize,
    ranges.map((one) => one.extent),
    shelf,
  );
  const source = inMemory(bytes);
  const base = geometry.start * geometry.sectorSize;
  const volume = (await openExfat(source, base))!;
  return { facts: await readExfat(source, base), volume, ...(await treeOf(volume, source)), bytes, ranges };
}

test.each([
  ['1 MiB of 512-byte sectors', MIB, {}],
  ['8 MiB that begin at sector 63', 8 * MIB, { start: 63, cluster: 512 }],
  ['16 MiB of 4096-byte sectors', 16 * MIB, { sectorSize: 4096 as const, start: 256 }],
])('any tree comes back from %s', async (_, size, more) => {
  const shelf = new Shelf();
  const geometry = geometryFor(size, more);
  await fc.assert(
    fc.asyncProperty(anyTree(shelf, 9000), async (tree) => {
      const { misfit, used, clusters } = exfatRoom(tree, geometry);
      fc.pre(misfit === undefined);
      expect(exfatTroubles(tree)).toEqual([]);
      const back = await roundTrip(geometry, tree, shelf);
      expect(back.troubles).toEqual([]);
      expect(await usedIn(back.volume, 13)).toBe(used * geometry.clusterBytes);
      expect(byPath(back.tree)).toEqual(byPath(tree));
      expect(back.facts).toMatchObject({
        label: 'Tide data',
        serial: 0x3a1f77c0,
        regionSound: true,
        copySound: true,
        free: clusters - used,
        partitionOffset: geometry.start,
        percentInUse: Math.floor((used * 100) / clusters),
      });
    }),
    { numRuns: cases(10, 25) },
  );
});

test('the boot region is as the specification draws it', () => {
  const geometry = geometryFor(64 * MIB, { start: 2048 });
  const [region, copy] = formatExfat(geometry, identity).map((one) => one.extent);
  if (!region || !('bytes' in region) || !copy || !('bytes' in copy)) throw new Error('no boot region');
  const { bytes } = region;
  expect(region.offset).toBe(2048 * 512);
  expect(bytes.length).toBe(12 * 512);
  expect(Buffer.compare(bytes, copy.bytes)).toBe(0);
  expect([...bytes.subarray(0, 3)]).toEqual([0xeb, 0x76, 0x90]);
  expect(Buffer.from(bytes.subarray(3, 11)).toString()).toBe('EXFAT   ');
  expect(bytes.subarray(11, 64).every((byte) => byte === 0)).toBe(true);
  expect([bytes[108], bytes[109], bytes[110]]).toEqual([9, 3, 1]);
  for (let sector = 1; sector <= 8; sector++)
    expect([...bytes.subarray(sector * 512 + 508, sector * 512 + 512)]).toEqual([0, 0, 0x55, 0xaa]);
  // The checksum passes over flags and per cent in use: changing them changes nothing.
  const changed = bytes.slice(0, 11 * 512);
  changed[106] = 2;
  changed[112] = 99;
  const sum = sum32(changed, [106, 107, 112]);
  expect(new DataView(bytes.buffer).getUint32(11 * 512, true)).toBe(sum);
  expect(new DataView(bytes.buffer).getUint32(12 * 512 - 4, true)).toBe(sum);
});

test('sums by hand: two bytes, turned right before each', () => {
  expect(sum16(Uint8Array.of(1, 0))).toBe(0x8000);
  expect(sum32(Uint8Array.of(1, 0))).toBe(0x80000000);
  expect(sum16(Uint8Array.of(3, 5))).toBe(0x8001 + 5);
});

test('the up-case table says of every unit what Unicode says', () => {
  // Units that a newer Unicode than ours may have given a partner are all beyond those of old.
  let wrong = 0;
  for (let unit = 0; unit < 0x250; unit++) {
    const upper = String.fromCharCode(unit).toUpperCase();
    if (upcased(unit) !== (upper.length === 1 ? upper.charCodeAt(0) : unit)) wrong += 1;
  }
  expect(wrong).toBe(0);
  expect([...'éяωǆա'].map((c) => String.fromCharCode(upcased(c.charCodeAt(0)))).join('')).toBe('ÉЯΩǄԱ');
});

test('the stored table unfolds to all 65,536 units', () => {
  const bytes = storedTable();
  const view = new DataView(bytes.buffer);
  const units: number[] = [];
  for (let at = 0; at < bytes.length; at += 2) {
    const value = view.getUint16(at, true);
    if (value !== 0xffff) units.push(value);
    else {
      const count = view.getUint16((at += 2), true);
      for (let i = 0; i < count; i++) units.push(units.length);
    }
  }
  expect(units.length).toBe(65_536);
  expect(units.findIndex((value, unit) => value !== upcased(unit))).toBe(-1);
  expect(view.getUint16(2 * 0x61, true)).toBe(0x41);
});

test('the FAT is the smallest that holds every cluster, and the heap begins on the unit', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 2 * MIB, max: 2 ** 41 }),
      fc.constantFrom<512 | 4096>(512, 4096),
      fc.nat(10_000),
      fc.constantFrom(4096, MIB, 4 * MIB),
      (bytes, sectorSize, start, unit) => {
        const sectors = Math.floor(bytes / sectorSize);
        const found = exfatGeometry({ sectorSize, start, sectors, unit });
        if (!found.ok) throw new Error(found.error.reason);
        const g = found.value;
        expect((g.clusters + 2) * 4).toBeLessThanOrEqual(g.fatSectors * sectorSize);
        expect((g.clusters + 2) * 4).toBeGreaterThan((g.fatSectors - 1) * sectorSize - 4 * (unit / g.clusterBytes + 1));
        expect(g.heapOffset).toBeGreaterThanOrEqual(g.fatOffset + g.fatSectors);
        expect(((start + g.heapOffset) * sectorSize) % g.unit).toBe(0);
        expect(g.heapOffset + g.clusters * g.sectorsPerCluster + g.tail).toBe(sectors);
        expect(g.tail).toBeLessThan(g.sectorsPerCluster);
      },
    ),
    { numRuns: cases(100, 500) },
  );
});

test.each([
  [MIB - 512, undefined, 'too small'],
  [MIB, 512 * 1024, 'too small'],
  [64 * MIB, 3000, 'cluster size'],
  [2 ** 43, 512, 'too many clusters'],
])('%d bytes with clusters of %s bytes: %s', (bytes, cluster, reason) => {
  const found = exfatGeometry({
    sectorSize: 512,
    start: 0,
    sectors: bytes / 512,
    unit: 512,
    ...(cluster && { cluster }),
  });
  expect(found).toMatchObject({ ok: false, error: { reason } });
});

test('clusters: by size where nobody asks, and never below a sector', () => {
  expect([256 * MIB, 256 * MIB + 1, 2 ** 35, 2 ** 35 + 1].map(usualExfatCluster)).toEqual([
    4096, 32_768, 32_768, 131_072,
  ]);
  expect(exfatClusterSizes(4096)[0]).toBe(4096);
  expect(exfatClusterSizes(512).at(-1)).toBe(32 * MIB);
});

test('of an empty volume of 2 TB only little is not zeros', () => {
  const geometry = geometryFor(2_000_398_934_016, { unit: 4 * MIB });
  const ranges = formatExfat(geometry, identity);
  const written = ranges.reduce((sum, { extent }) => sum + ('bytes' in extent ? lengthOf(extent) : 0), 0);
  expect(written).toBeLessThan(32_768);
  expect(geometry.clusters).toBeGreaterThan(15_000_000);
});

test('the label is told to be missing where there is none, and names equal but for case are named', async () => {
  const shelf = new Shelf();
  const geometry = geometryFor(2 * MIB);
  const bytes = overNoise(
    2 * MIB,
    formatExfat(geometry, { ...identity, label: '' }).map((one) => one.extent),
    shelf,
  );
  expect(await readExfat(inMemory(bytes), 0)).toMatchObject({ label: '', regionSound: true });
  expect(exfatTroubles([shelf.file('a/Log', 1), shelf.file('a/LOG', 1), shelf.file('a/b?', 1)])).toEqual([
    { kind: 'same name', path: 'a/LOG', other: 'a/Log' },
    { kind: 'name', path: 'a/b?', why: 'has the character ?' },
  ]);
});

test('any damage to a volume is survived', async () => {
  const shelf = new Shelf();
  const { bytes } = await roundTrip(
    geometryFor(MIB, { cluster: 512 }),
    [shelf.file('x/y.txt', 900), shelf.file('z', 5)],
    shelf,
  );
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.tuple(fc.nat(60_000), fc.nat(255)), { minLength: 1, maxLength: 60 }),
      async (wounds) => {
        const hurt = bytes.slice();
        for (const [at, value] of wounds) hurt[at] = value;
        const source = inMemory(hurt);
        await readExfat(source, 0);
        const volume = await openExfat(source, 0);
        if (!volume) return;
        const seen = await treeOf(volume, source).catch((error: Error) => error.constructor.name);
        expect(typeof seen === 'string' ? seen : 'read').toMatch(/^(read|BrokenChain)$/);
      },
    ),
    { numRuns: cases(80, 300) },
  );
});

test('bytes that were never written read as zeros, whatever the clusters hold', async () => {
  const shelf = new Shelf();
  const tree = [shelf.file('GAUGE.DAT', 9000)];
  const { bytes } = await roundTrip(geometryFor(MIB), tree, shelf);
  const set = bytes.findIndex((byte, i) => i % 32 === 0 && byte === 0x85 && bytes[i + 32] === 0xc0);
  const view = new DataView(bytes.buffer);
  view.setBigUint64(set + 32 + 8, 100n, true);
  view.setUint16(set + 2, sum16(bytes.subarray(set, set + 96), [2, 3]), true);
  const source = inMemory(bytes);
  const volume = (await openExfat(source, 0))!;
  const [file] = (await volume.list()).entries;
  expect(file).toMatchObject({ name: 'GAUGE.DAT', size: 9000, written: 100 });
  const pieces = [];
  for await (const piece of contentOf(volume, source, file!)) pieces.push(piece);
  const content = joined(pieces);
  expect(content).toHaveLength(9000);
  expect([...content.subarray(0, 100)]).toEqual([...shelf.contents.get(tree[0]!.sha256)!.subarray(0, 100)]);
  expect(content.subarray(100).every((byte) => byte === 0)).toBe(true);
});

test('a file that says it is larger than its volume is told, and never read', async () => {
  const shelf = new Shelf();
  const { bytes } = await roundTrip(geometryFor(MIB), [shelf.file('A', 10)], shelf);
  const set = bytes.findIndex((byte, i) => i % 32 === 0 && byte === 0x85 && bytes[i + 32] === 0xc0);
  const view = new DataView(bytes.buffer);
  view.setBigUint64(set + 32 + 24, 2n ** 50n, true);
  view.setUint16(set + 2, sum16(bytes.subarray(set, set + 96), [2, 3]), true);
  const source = inMemory(bytes);
  const volume = (await openExfat(source, 0))!;
  const [file] = (await volume.list()).entries;
  const read = async () => {
    for await (const piece of contentOf(volume, source, file!)) expect(piece.length).toBeGreaterThan(0);
  };
  await expect(read()).rejects.toThrow('larger than the volume');
});

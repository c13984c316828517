import { KIB, MIB } from '../../quantity/units';
import { anyTree, byPath, inMemory, overNoise, Shelf, treeOf, usedIn } from '@tests/filled';
import { cases } from '@tests/tier';
import type { Tree } from '../tree';
import { openFat } from './browse';
import { roomFor, shapeOfTree } from './fill';
import { formatFat } from './format';
import { fatGeometry, type FatGeometry, type FatQuestion } from './geometry';
import { readFat } from './read';
import type { Variant } from './variants';
import fc from 'fast-check';

function geometryFor(bytes: number, more: Partial<FatQuestion> = {}): FatGeometry {
  const sectorSize = more.sectorSize ?? 512;
  const found = fatGeometry({ sectorSize, start: 0, sectors: bytes / sectorSize, unit: 4096, ...more });
  if (!found.ok) throw new Error(JSON.stringify(found.error));
  return found.value;
}

/** Lays a tree over noise and reads it back. */
async function roundTrip(geometry: FatGeometry, tree: Tree, shelf: Shelf, label = 'TIDELOG') {
  const identity = { label, volumeId: 0x3a1f77c0, date: '2026-03-01T12:00:00', keepsTimes: true };
  const ranges = formatFat(geometry, identity, tree);
  const size = (geometry.start + geometry.totalSectors) * geometry.sectorSize;
  const bytes = overNoise(
    size,
    ranges.map((one) => one.extent),
    shelf,
  );
  const source = inMemory(bytes);
  const base = geometry.start * geometry.sectorSize;
  const facts = await readFat(source, base, size - base);
  const volume = (await openFat(source, base))!;
  return { facts, volume, ...(await treeOf(volume, source)), bytes, ranges };
}

const PLACES: readonly (readonly [string, number, Partial<FatQuestion>])[] = [
  ['FAT12, 512-byte clusters', MIB, { variant: 12, cluster: 512 }],
  ['FAT12, 32 KiB clusters', 8 * MIB, { variant: 12, cluster: 32 * KIB }],
  ['FAT16, 2 KiB clusters', 16 * MIB, { variant: 16, cluster: 2 * KIB }],
  ['FAT16 of 4096-byte sectors', 24 * MIB, { variant: 16, sectorSize: 4096 }],
  ['FAT32, 512-byte clusters', 40 * MIB, { variant: 32, cluster: 512 }],
];

test.each(PLACES)('any tree comes back from %s: names, sizes, bytes, times and attributes', async (_, size, more) => {
  const shelf = new Shelf();
  const geometry = geometryFor(size, more);
  await fc.assert(
    fc.asyncProperty(anyTree(shelf), async (tree) => {
      fc.pre(
        roomFor(tree, geometry, 'TIDELOG').misfit === undefined && roomFor(tree, geometry, 'TIDELOG').rootShort === 0,
      );
      expect(shapeOfTree(tree).troubles).toEqual([]);
      const back = await roundTrip(geometry, tree, shelf);
      expect(back.troubles).toEqual([]);
      expect(byPath(back.tree)).toEqual(byPath(tree));
      const { used, clusters } = roomFor(tree, geometry, 'TIDELOG');
      expect(await usedIn(back.volume, 13)).toBe(used * geometry.clusterBytes);
      expect(back.facts).toMatchObject({ freeCounted: clusters - used, fatsAgree: true, labelInHeader: 'TIDELOG' });
      if (geometry.variant === 32) expect(back.facts!.freeTold).toBe(clusters - used);
    }),
    { numRuns: cases(8, 25) },
  );
});

test('the same tree gives the same bytes, and the order of the tree is the order of the entries', async () => {
  const shelf = new Shelf();
  const geometry = geometryFor(2 * MIB);
  const tree = ['ZULU.TXT', 'ALFA.TXT', 'mike.txt'].map((name) => shelf.file(name, 700));
  const [a, b] = [await roundTrip(geometry, tree, shelf), await roundTrip(geometry, tree, shelf)];
  expect(Buffer.compare(a.bytes, b.bytes)).toBe(0);
  expect(a.tree.map((one) => one.path)).toEqual(['ZULU.TXT', 'ALFA.TXT', 'mike.txt']);
});

test('every file lies in one piece, and what it leaves of its last cluster is zeros', async () => {
  const shelf = new Shelf();
  const geometry = geometryFor(8 * MIB, { variant: 12, cluster: 4096 });
  const tree = [shelf.file('LOADER.BIN', 100_001), shelf.file('deep/er/KERNEL', 5), shelf.file('LAST', 4096)];
  const { volume, bytes } = await roundTrip(geometry, tree, shelf);
  const { entries } = await volume.list();
  const loader = entries.find((one) => one.name === 'LOADER.BIN')!;
  const pieces = [];
  for await (const piece of volume.pieces(loader)) pieces.push(piece);
  expect(pieces).toHaveLength(1);
  const end = pieces[0]!.at + 100_001;
  const rest = bytes.subarray(end, pieces[0]!.at + Math.ceil(100_001 / 4096) * 4096);
  expect(rest.length).toBe(2399);
  expect(rest.every((byte) => byte === 0)).toBe(true);
});

test('a directory grows past a cluster, and past many', async () => {
  const shelf = new Shelf();
  const geometry = geometryFor(40 * MIB, { variant: 32, cluster: 512 });
  const tree = Array.from({ length: 3000 }, (_, i) => shelf.file(`Gauge reading number ${i} of the coast.csv`, i % 3));
  const back = await roundTrip(geometry, tree, shelf);
  expect(back.tree.map((one) => one.path)).toEqual(tree.map((one) => one.path));
  const aliases = (await back.volume.list()).entries.map((one) => one.alias);
  expect(new Set(aliases).size).toBe(3000);
  expect(aliases.slice(0, 2)).toEqual(['GAUGER~1.CSV', 'GAUGER~2.CSV']);
});

const NAMES: readonly (readonly [name: string, alias: string | undefined, bits: number])[] = [
  ['BUOY07.CSV', undefined, 0],
  ['station.cfg', undefined, 0x18],
  ['KERNEL.img', undefined, 0x10],
  ['boot.SCR', undefined, 0x08],
  ['Readme.txt', 'README.TXT', 0],
  ['.profile', 'PROFIL~1', 0],
  ['archive.tar.gz', 'ARCHIV~1.GZ', 0],
  ['a+b.txt', 'A_B~1.TXT', 0],
  ['Jahresübersicht', 'JAHRES~1', 0],
  ['水位.csv', '__~1.CSV', 0],
  ['name with blanks', 'NAMEWI~1', 0],
];

test.each(NAMES)('%s is stored short as %s', async (name, alias, bits) => {
  const shelf = new Shelf();
  const { volume, bytes, ranges } = await roundTrip(geometryFor(2 * MIB), [shelf.file(name, 3)], shelf, '');
  const [entry] = (await volume.list()).entries;
  expect([entry!.name, entry!.alias]).toEqual([name, alias]);
  const root = ranges.find((one) => one.what === 'root directory')!.extent.offset;
  const pieces = alias === undefined ? 0 : Math.ceil(name.length / 13);
  expect(bytes[root + 32 * pieces + 12]).toBe(bits);
});

test('an alias never takes a name that another file really has', async () => {
  const shelf = new Shelf();
  const tree = ['Longer than eight.txt', 'LONGER~1.TXT', 'longer~2.txt'].map((name) => shelf.file(name, 1));
  const { volume } = await roundTrip(geometryFor(2 * MIB), tree, shelf);
  expect((await volume.list()).entries.map((one) => one.alias ?? one.name)).toEqual([
    'LONGER~3.TXT',
    'LONGER~1.TXT',
    'longer~2.txt',
  ]);
});

test.each([
  ['a name with a forbidden character', 'log/a:b', { kind: 'name', path: 'log/a:b', why: 'has the character :' }],
  [
    'a name that ends with a point',
    'end.',
    { kind: 'name', path: 'end.', why: 'ends with a point, which readers drop' },
  ],
  [
    'a name of 256 characters',
    'x'.repeat(256),
    { kind: 'name', path: 'x'.repeat(256), why: 'is longer than 255 characters' },
  ],
  ['a control character', 'a\u0007', { kind: 'name', path: 'a\u0007', why: 'has a control character' }],
])('%s is named', (_, path, trouble) => {
  expect(shapeOfTree([new Shelf().file(path, 1)]).troubles).toEqual([trouble]);
});

test('names that are equal but for case, and files too large, are named', () => {
  const shelf = new Shelf();
  const tree: Tree = [
    shelf.file('data/Ölstand.csv', 1),
    shelf.file('data/ÖLSTAND.CSV', 2),
    { kind: 'file', path: 'HUGE.IMG', size: 2 ** 32, sha256: '0'.repeat(64) },
    { kind: 'file', path: 'FITS.IMG', size: 2 ** 32 - 1, sha256: '0'.repeat(64) },
  ];
  expect(shapeOfTree(tree).troubles).toEqual([
    { kind: 'file too large', path: 'HUGE.IMG', size: 2 ** 32 },
    { kind: 'same name', path: 'data/ÖLSTAND.CSV', other: 'data/Ölstand.csv' },
  ]);
});

test.each<[Variant, number, number]>([
  [12, MIB, 512],
  [16, 16 * MIB, 2048],
  [32, 40 * MIB, 512],
])('FAT%d: the last cluster can be filled, and one byte more is refused by name', async (variant, size, cluster) => {
  const shelf = new Shelf();
  const geometry = geometryFor(size, { variant, cluster });
  const whole = geometry.bytesForFiles - 3 * cluster;
  const tree = (last: number): Tree => [
    shelf.file('FIRST.BIN', cluster + 1),
    { kind: 'file', path: 'FILL.BIN', size: whole, sha256: shelf.add(new Uint8Array(whole).fill(7)) },
    shelf.file('LAST.BIN', last),
  ];
  expect(roomFor(tree(cluster), geometry, '')).toMatchObject({ misfit: undefined, used: geometry.clusters });
  expect(roomFor(tree(cluster + 1), geometry, '')).toMatchObject({ misfit: 'LAST.BIN', used: geometry.clusters + 1 });
  const { facts, tree: back } = await roundTrip(geometry, tree(cluster), shelf);
  expect(facts!.freeCounted).toBe(0);
  expect(back.map((one) => one.path)).toEqual(['FIRST.BIN', 'FILL.BIN', 'LAST.BIN']);
});

test('a fixed root directory overflows by the entry: a label takes one, a long name several', () => {
  const shelf = new Shelf();
  const geometry = geometryFor(2 * MIB, { rootEntries: 16 });
  const short = Array.from({ length: 15 }, (_, i) => shelf.file(`F${i}`, 0));
  expect(roomFor(short, geometry, 'TIDE').rootShort).toBe(0);
  expect(roomFor([...short, shelf.file('G', 0)], geometry, 'TIDE').rootShort).toBe(1);
  expect(roomFor([...short, shelf.file('G', 0)], geometry, '').rootShort).toBe(0);
  expect(roomFor([...short, shelf.file('a name of twenty-one', 0)], geometry, '').rootShort).toBe(2);
});

test('hostile chains are told, and end nothing', async () => {
  const shelf = new Shelf();
  const geometry = geometryFor(2 * MIB);
  const tree = [shelf.file('sub/A.BIN', 3000), shelf.file('B.BIN', 3000)];
  const { bytes, ranges } = await roundTrip(geometry, tree, shelf);
  const fat = ranges.find((one) => one.what === 'FAT 1')!.extent.offset;
  await fc.assert(
    fc.asyncProperty(fc.array(fc.tuple(fc.nat(60), fc.nat(255)), { maxLength: 12 }), async (wounds) => {
      const hurt = bytes.slice();
      for (const [at, value] of wounds) hurt[fat + at] = value;
      const source = inMemory(hurt);
      const volume = (await openFat(source, 0))!;
      const seen = await treeOf(volume, source).catch((error: Error) => error.constructor.name);
      expect(typeof seen === 'string' ? seen : 'read').toMatch(/^(read|BrokenChain)$/);
    }),
    { numRuns: cases(60, 200) },
  );
});

test('any bytes survive being browsed', async () => {
  const shelf = new Shelf();
  const { bytes } = await roundTrip(
    geometryFor(MIB),
    [shelf.file('x/y/z.txt', 9), shelf.file('long name.txt', 600)],
    shelf,
  );
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.tuple(fc.nat(40_000), fc.nat(255)), { minLength: 1, maxLength: 60 }),
      async (wounds) => {
        const hurt = bytes.slice();
        for (const [at, value] of wounds) hurt[at] = value;
        const source = inMemory(hurt);
        const volume = await openFat(source, 0);
        if (!volume) return;
        const seen = await treeOf(volume, source).catch((error: Error) => error.constructor.name);
        expect(typeof seen === 'string' ? seen : 'read').toMatch(/^(read|BrokenChain)$/);
      },
    ),
    { numRuns: cases(80, 300) },
  );
});

test.each([12, 16] as const)('on FAT%d the high word of the first cluster is not part of it', async (variant) => {
  const shelf = new Shelf();
  const geometry = geometryFor(variant === 12 ? 4 * MIB : 32 * MIB, { variant });
  const tree = [shelf.file('BUOY07.CSV', 3000)];
  const { bytes } = await roundTrip(geometry, tree, shelf);
  const at = bytes.findIndex((_, i) => i % 32 === 0 && String.fromCharCode(...bytes.subarray(i, i + 8)) === 'BUOY07  ');
  // Old systems keep an access mark there.
  bytes.set([0x5a, 0x01], at + 20);
  const source = inMemory(bytes);
  const back = await treeOf((await openFat(source, 0))!, source);
  expect(back.troubles).toEqual([]);
  expect(back.tree).toMatchObject([{ path: 'BUOY07.CSV', size: 3000, sha256: tree[0]!.sha256 }]);
});

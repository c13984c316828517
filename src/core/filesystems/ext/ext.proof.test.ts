/** Ext volumes as they are made, read back by the checker, which knows nothing of how. */
import { anySystemTree } from '@tests/any/system';
import { extOverNoise, type ExtWish, geometryFor, makeExt } from '@tests/ext';
import { meantLines, readLines } from '@tests/ext-read';
import { sparse, systemTree, wideTree } from '@tests/ext-trees';
import { overNoise, Shelf } from '@tests/filled';
import { cases } from '@tests/tier';
import fc from 'fast-check';
import { memoryBlocks } from '../../bytes/blocks';
import { crc16, crc32c } from '../../bytes/crc32c';
import { bytesOfText, isTextOfBytes, textOfBytes } from '../../bytes/utf8';
import { MIB } from '../../quantity/units';
import type { Tree, TreeEntry } from '../tree';
import { checkExt } from './check/check';
import { halfMd4 } from './hash';
import { inodesLeft } from './nodes';
import { storedExtLabel } from './label';

const shelf = new Shelf();

/** Makes a volume over noise, checks it, and gives what was read. */
async function madeAndRead(wish: ExtWish, tree: Tree) {
  const made = makeExt(wish, tree);
  if (typeof made === 'string') throw new Error(made);
  const bytes = overNoise(
    wish.bytes,
    made.ranges.map(({ extent }) => extent),
    shelf,
  );
  const found = await checkExt(memoryBlocks(bytes), 0, bytes.length);
  return { made, bytes, found };
}

const ascii = (text: string) => new TextEncoder().encode(text);

describe('sums and hashes', () => {
  test('CRC-32C and CRC-16 of the digits, as their catalogues have them', () => {
    expect((crc32c(ascii('123456789')) ^ 0xffffffff) >>> 0).toBe(0xe3069283);
    expect(crc16(ascii('123456789'), 0)).toBe(0xbb3d);
    expect(crc32c(ascii('6789'), crc32c(ascii('12345')))).toBe(crc32c(ascii('123456789')));
  });

  test('names with high bytes have other hashes where bytes are signed; a seed changes all', () => {
    const name = bytesOfText('Gezeitenübersicht der ganzen Küste, erstes Quartal.csv');
    const plain = ascii('a plain name of more than thirty-two bytes.csv');
    const hash = (bytes: Uint8Array, seed: number[], isSigned: boolean) => halfMd4(bytes, seed, isSigned).hash;
    expect(hash(name, [], true)).not.toBe(hash(name, [], false));
    expect(hash(plain, [], true)).toBe(hash(plain, [0, 0, 0, 0], false));
    expect(hash(plain, [1, 2, 3, 4], true)).not.toBe(hash(plain, [], true));
    expect(hash(plain, [], true) % 2).toBe(0);
  });
});

describe('texts of bytes', () => {
  test('any bytes come back from their text', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 60 }), (bytes) => {
        const text = textOfBytes(bytes);
        expect(bytesOfText(text)).toEqual(bytes);
        expect(isTextOfBytes(text)).toBe(true);
      }),
    );
  });

  test('halves of characters that no bytes give are none', () => {
    expect(isTextOfBytes('\ud800')).toBe(false);
    // Two bytes that would be a character together.
    expect(isTextOfBytes('\udcc3\udca4')).toBe(false);
  });
});

test.each([
  ['tide', 'tide', ''],
  ['sixteen bytes ok', 'sixteen bytes ok', ''],
  ['Gezeitenübersicht', 'Gezeitenübersic', 'ht'],
  ['fifteen bytes..ü', 'fifteen bytes..', 'ü'],
])('the label %s is stored as %s', (label, text, cut) => {
  expect(storedExtLabel(label)).toMatchObject({ text, cut });
});

const WISHES: readonly ExtWish[] = [
  { version: 'ext4', bytes: 12 * MIB },
  { version: 'ext4', bytes: 40 * MIB, block: 4096 },
  { version: 'ext4', bytes: 40 * MIB, block: 2048 },
  { version: 'ext4', bytes: 40 * MIB, block: 1024 },
  { version: 'ext4', bytes: 40 * MIB, profile: 'old loaders' },
  { version: 'ext4', bytes: 40 * MIB, block: 1024, profile: 'old loaders', growTo: 'none' },
  { version: 'ext4', bytes: 40 * MIB, sectorSize: 4096 },
  { version: 'ext4', bytes: 40 * MIB, leavesTables: true },
  { version: 'ext3', bytes: 40 * MIB },
  { version: 'ext3', bytes: 40 * MIB, block: 1024, journal: 5 * MIB },
  { version: 'ext2', bytes: 40 * MIB, block: 2048 },
  { version: 'ext2', bytes: 4 * MIB, profile: 'tiny' },
];

describe.each(WISHES.map((wish) => [JSON.stringify(wish), wish] as const))('%s', (_, wish) => {
  test('empty: sound, with what it says to be free', async () => {
    const { found, made } = await madeAndRead(wish, []);
    expect(found.faults).toEqual([]);
    expect(found.entries.map(({ path }) => path).sort()).toEqual(['', 'lost+found']);
    expect(made.plan.free.left).toBe(made.geometry.clusters - made.plan.used);
  });

  test('with one of everything: sound, and all of it is there', async () => {
    const tree = systemTree(shelf);
    const { found, bytes, made } = await madeAndRead(wish, tree);
    expect(found.faults).toEqual([]);
    expect(readLines(found, bytes)).toEqual(meantLines(tree, shelf));
    expect(found.volume!.superblock.freeInodes).toBe(inodesLeft(made.geometry, tree));
  });
});

test('second names take no inode, folders that only paths name do', async () => {
  const names = [1, 2, 3].map((n) => ({ kind: 'second name', path: `deep/er/name ${n}`, of: 'deep/est/one' }) as const);
  const tree = [shelf.file('deep/est/one', 9), ...names];
  const { found, made } = await madeAndRead(WISHES[0]!, tree);
  // One file, “deep”, “deep/er” and “deep/est”, beside lost+found and ten of the system.
  expect(inodesLeft(made.geometry, tree)).toBe(found.volume!.superblock.inodes - 4 - 11);
  expect(found.volume!.superblock.freeInodes).toBe(inodesLeft(made.geometry, tree));
});

test.each<[string, ExtWish]>([
  ['as many as bytes ask for', { version: 'ext4', bytes: 16 * 2 ** 40, perInode: 1024 }],
  ['rounded up in many groups', { version: 'ext4', bytes: 200 * 2 ** 40, perInode: 50_000 }],
  ['after it has grown', { version: 'ext4', bytes: 2 ** 40, perInode: 1024, growTo: 16 * 2 ** 40 }],
])('inodes have numbers of 32 bits: %s', (_, wish) => {
  const made = geometryFor(wish, []);
  if (!made.ok) throw new Error(made.error.reason);
  const { groups, inodesPerGroup, blocks, blocksPerGroup, growsTo, block, inodeSize } = made.value;
  expect(groups * inodesPerGroup).toBeLessThan(2 ** 32);
  expect(Math.ceil(growsTo / blocksPerGroup) * inodesPerGroup).toBeLessThan(2 ** 32);
  expect(growsTo).toBeGreaterThanOrEqual(blocks);
  expect((inodesPerGroup * inodeSize) % block).toBe(0);
  expect(inodesPerGroup % 8).toBe(0);
});

test('times of the superblock have 40 bits: in 2106 their upper bytes begin to count', () => {
  const shelf = new Shelf();
  const bytes = extOverNoise({ version: 'ext4', bytes: 8 * MIB, date: '2106-02-07T06:28:17' }, [], shelf);
  const view = new DataView(bytes.buffer, bytes.byteOffset + 1024);
  // Low halves: s_wtime, s_lastcheck, s_mkfs_time; upper bytes: s_wtime_hi, s_mtime_hi, s_mkfs_time_hi, s_lastcheck_hi.
  expect([0x30, 0x40, 0x108].map((at) => view.getUint32(at, true))).toEqual([1, 1, 1]);
  expect([0x274, 0x275, 0x276, 0x277].map((at) => view.getUint8(at))).toEqual([1, 0, 1, 1]);
});

test('the same wish gives the same bytes', () => {
  const tree = systemTree(shelf);
  const [a, b] = [1, 2].map(() => makeExt(WISHES[1]!, [...tree]));
  if (typeof a === 'string' || typeof b === 'string') throw new Error();
  expect(a!.ranges).toEqual((b as typeof a)!.ranges);
});

test.each<[number, number, number]>([
  [900, 4096, 1],
  [9000, 1024, 1],
  [30_000, 1024, 2],
])('%d names in a folder with blocks of %d', async (names, block) => {
  const tree = wideTree(shelf, names);
  const { found } = await madeAndRead({ version: 'ext4', bytes: 80 * MIB, block }, tree);
  expect(found.faults).toEqual([]);
  expect(found.entries.length).toBe(names + 3);
});

test('a file of more extents than an inode holds, and of more pieces than a block holds pointers to', async () => {
  const pieces = Array.from({ length: 700 }, (_, i) => [i * 20_000, 100] as const);
  const tree = [sparse(shelf, 'holes', 14_000_000, pieces), shelf.file('long', 9_000_000)];
  for (const version of ['ext4', 'ext2'] as const) {
    const { found, bytes } = await madeAndRead({ version, bytes: 40 * MIB, block: 1024 }, tree);
    expect(found.faults).toEqual([]);
    expect(readLines(found, bytes)).toEqual(meantLines(tree, shelf));
  }
});

test('a volume that is filled to its last block is sound, and one block more is told by the first that has no room', async () => {
  const wish: ExtWish = { version: 'ext4', bytes: 3 * MIB, block: 1024 };
  const empty = makeExt(wish, []);
  if (typeof empty === 'string') throw new Error(empty);
  const left = empty.plan.free.left;
  const full: Tree = [shelf.file('full', left * 1024)];
  const { found, made } = await madeAndRead(wish, full);
  expect([found.faults, made.plan.free.left]).toEqual([[], 0]);
  expect(makeExt(wish, [...full, shelf.file('more', 1)])).toBe('no room for more');
});

test('any tree comes back, whatever the profile', async () => {
  const anyWish = fc.constantFrom(...WISHES.filter(({ bytes }) => bytes > 10 * MIB));
  await fc.assert(
    fc.asyncProperty(anySystemTree(shelf), anyWish, async (tree, wish) => {
      const small = { ...wish, bytes: 9 * MIB, journal: 'none' as const };
      const { found, bytes } = await madeAndRead(small, tree);
      expect(found.faults).toEqual([]);
      expect(readLines(found, bytes)).toEqual(meantLines(tree, shelf));
    }),
    { numRuns: cases(10, 40) },
  );
});

test('two hundred thousand inodes are written', () => {
  const empty = shelf.file('empty', 0);
  const tree = Array.from({ length: 200_000 }, (_, i): TreeEntry => ({ ...empty, path: `d${i % 400}/${i}` }));
  const made = makeExt({ version: 'ext4', bytes: 1024 * MIB }, tree);
  if (typeof made === 'string') throw new Error(made);
  const written = made.ranges.filter(({ what }) => what === 'inode table');
  const bytes = written.reduce((sum, { extent }) => sum + ('bytes' in extent ? extent.bytes.length : 0), 0);
  expect(bytes).toBeGreaterThanOrEqual(200_000 * 256);
});

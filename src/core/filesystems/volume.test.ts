/** Chains that are followed, paths that are looked up, and walks that end. */
import { memoryBlocks } from '../bytes/blocks';
import {
  BrokenChain,
  type ChainAsked,
  entryAt,
  follow,
  readPieces,
  type Volume,
  type VolumeEntry,
  walk,
} from './volume';

const SOURCE = memoryBlocks(Uint8Array.from({ length: 1000 }, (_, i) => i & 0xff));

/** A chain through clusters of 100 bytes; cluster 2 lies at byte 0. */
function chain(links: Readonly<Record<number, number>>, more: Partial<ChainAsked> = {}): ChainAsked {
  return {
    first: 2,
    bytes: 300,
    toItsEnd: false,
    clusters: 10,
    clusterBytes: 100,
    at: (cluster) => (cluster - 2) * 100,
    next: (cluster) => Promise.resolve(links[cluster]),
    ...more,
  };
}

async function pieces(asked: ChainAsked) {
  const found = [];
  for await (const { at, length } of follow(SOURCE, asked)) found.push([at, length]);
  return found;
}

test('neighbours come as one piece, others apart, the last as long as is wanted', async () => {
  expect(await pieces(chain({ 2: 3, 3: 4 }, { bytes: 250 }))).toEqual([[0, 250]]);
  expect(await pieces(chain({ 2: 3, 3: 7 }, { bytes: 250 }))).toEqual([
    [0, 200],
    [500, 50],
  ]);
  expect(await pieces(chain({ 2: 9, 9: 3 }))).toEqual([
    [0, 100],
    [700, 100],
    [100, 100],
  ]);
  expect(await pieces(chain({}, { bytes: 0, first: 0 }))).toEqual([]);
});

test('a chain may end early only where that is meant', async () => {
  await expect(pieces(chain({ 2: 3 }))).rejects.toThrow('its clusters end 100 bytes too early');
  expect(await pieces(chain({ 2: 3 }, { toItsEnd: true }))).toEqual([[0, 200]]);
});

test.each<[string, ChainAsked, RegExp]>([
  ['leaves the volume', chain({ 2: 12 }), /cluster 12 is not in the volume/],
  ['leads to a cluster that is none', chain({ 2: 1 }), /cluster 1 is not in the volume/],
  ['begins nowhere', chain({}, { first: 0 }), /cluster 0 is not in the volume/],
  ['goes round', chain({ 2: 3, 3: 2 }, { bytes: 1e9 }), /go round in a circle/],
  [
    'lies behind the medium',
    chain({ 2: 11 }, { clusterBytes: 200, bytes: 400, at: (c) => (c - 2) * 200 }),
    /behind the end/,
  ],
])('a chain that %s is a broken one', async (_, asked, why) => {
  const outcome = pieces(asked);
  await expect(outcome).rejects.toThrow(BrokenChain);
  await expect(outcome).rejects.toThrow(why);
});

test('what could be read of a broken chain is kept, with the trouble', async () => {
  const { bytes, trouble } = await readPieces(SOURCE, follow(SOURCE, chain({ 2: 9, 9: 1 })));
  expect([...bytes.subarray(0, 3)]).toEqual([0, 1, 2]);
  expect(trouble).toBe('cluster 1 is not in the volume');
  const other = readPieces(SOURCE, follow(SOURCE, chain({}, { next: () => Promise.reject(new Error('disk gone')) })));
  await expect(other).rejects.toThrow('disk gone');
});

/** A folder or file of a volume that is only names. */
function entry(name: string, cluster: number, folder = false): VolumeEntry {
  return { name, folder, size: 0, time: undefined, attributes: [], cluster, inOnePiece: false, length: 0 };
}

/** A volume of folders by their first cluster; 0 is the root. */
function named(
  folders: Readonly<Record<number, readonly VolumeEntry[]>>,
  troubles: Readonly<Record<number, string>> = {},
): Volume {
  return {
    kind: 'names',
    list: (folder) =>
      Promise.resolve({ entries: folders[folder?.cluster ?? 0] ?? [], trouble: troubles[folder?.cluster ?? 0] }),
    pieces: async function* () {},
  };
}

const TREE = named({
  0: [entry('EFI', 5, true), entry('README', 9)],
  5: [entry('BOOT', 6, true), entry('tide', 7, true)],
  6: [entry('BOOTX64.EFI', 10)],
});

test.each([
  ['', 'root'],
  ['README', 9],
  ['EFI', 5],
  ['EFI/BOOT/BOOTX64.EFI', 10],
  ['EFI/tide', 7],
  ['EFI/none', undefined],
  ['README/x', undefined],
  ['efi', undefined],
])('the path “%s” leads to %s', async (path, where) => {
  const found = await entryAt(TREE, path);
  expect(found === 'root' ? found : found?.cluster).toBe(where);
});

async function walked(volume: Volume) {
  const troubles: string[] = [];
  const paths: string[] = [];
  for await (const { path } of walk(volume, (at, what) => troubles.push(`${at}: ${what}`))) paths.push(path);
  return { paths, troubles };
}

test('a walk comes to everything, each folder before what is in it', async () => {
  expect(await walked(TREE)).toEqual({
    paths: ['EFI', 'EFI/BOOT', 'EFI/BOOT/BOOTX64.EFI', 'EFI/tide', 'README'],
    troubles: [],
  });
});

test('folders that hold themselves, or each other, or are damaged, are told, and the walk ends', async () => {
  const loops = named({ 0: [entry('a', 5, true)], 5: [entry('b', 6, true)], 6: [entry('a', 5, true), entry('c', 9)] });
  expect(await walked(loops)).toEqual({
    paths: ['a', 'a/b', 'a/b/a', 'a/b/c'],
    troubles: ['a/b/a: leads back to a folder that holds it'],
  });
  const damaged = named({ 0: [entry('a', 5, true), entry('z', 9)], 5: [entry('b', 8)] }, { 5: 'its clusters end' });
  expect(await walked(damaged)).toEqual({ paths: ['a', 'a/b', 'z'], troubles: ['a: its clusters end'] });
  // Every folder new, and no end of them.
  let next = 10;
  const deep: Volume = {
    kind: 'deep',
    list: () => Promise.resolve({ entries: [entry('d', next++, true)], trouble: undefined }),
    pieces: async function* () {},
  };
  const { paths, troubles } = await walked(deep);
  expect(paths.length).toBeLessThan(100);
  expect(troubles).toHaveLength(1);
});

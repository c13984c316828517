/** Trees that were made into ext volumes, taken over from these again: every fact is the one that was put in. */
import { type ExtWish, extOverNoise } from '@tests/ext';
import { sparse, systemTree } from '@tests/ext-trees';
import { Shelf } from '@tests/filled';
import { crc32 } from '@/core/bytes/crc32';
import { memoryBlocks } from '@/core/bytes/blocks';
import { openExt } from '@/core/filesystems/ext/read/browse';
import { entryAt } from '@/core/filesystems/volume';
import { modeOf, type Tree, type TreeEntry } from '@/core/filesystems/tree';
import { KIB, MIB } from '@/core/quantity/units';
import type { Keeper } from './archives';
import { Sums } from './gathering';
import { takeVolume, tellsAll } from './volume-tree';

const shelf = new Shelf();
const DATE = '2026-03-14T09:26:53';

/** Keeps contents in memory. */
class InMemory implements Keeper {
  readonly contents = new Map<string, Buffer>();

  async add(body: AsyncIterable<Uint8Array>) {
    const [sums, parts]: [Sums, Uint8Array[]] = [new Sums(), []];
    for await (const chunk of body) {
      sums.add(chunk);
      parts.push(new Uint8Array(chunk));
    }
    const { kept } = sums;
    this.contents.set(kept.sha256, Buffer.concat(parts));
    return kept;
  }
}

function contentOf(entry: Extract<TreeEntry, { kind: 'file' }>, stored: Uint8Array): Buffer {
  if (!entry.pieces) return Buffer.from(stored);
  const out = Buffer.alloc(entry.size);
  for (const [at, from, length] of entry.pieces) out.set(stored.subarray(from, from + length), at);
  return out;
}

/** What is to be the same, by path: second names stand for what they name. */
function facts(tree: Tree, contents: ReadonlyMap<string, Uint8Array>) {
  const groups = new Map<string, string[]>();
  for (const one of tree) {
    const first = one.kind === 'second name' ? one.of : one.path;
    groups.set(first, [...(groups.get(first) ?? []), one.path].sort());
  }
  return new Map(
    tree.flatMap((one) => {
      if (one.kind === 'second name') return [];
      const content =
        one.kind === 'file' ? contentOf(one, contents.get(one.within?.archive.sha256 ?? one.sha256)!) : undefined;
      const name = groups.get(one.path)!;
      return [
        [
          name.join(' = '),
          {
            kind: one.kind,
            mode: one.kind === 'link' ? 0o777 : modeOf(one),
            owner: `${one.user ?? 0}:${one.group ?? 0}`,
            time: one.time ?? DATE,
            extended: one.extended ?? {},
            ...(one.kind === 'link' && { target: one.target }),
            ...(one.kind === 'device' && { device: `${one.device} ${one.major},${one.minor}` }),
            ...(content && { content: crc32(content) }),
          },
        ],
      ] as const;
    }),
  );
}

async function taken(wish: ExtWish, tree: Tree, path = '') {
  const source = memoryBlocks(extOverNoise(wish, tree, shelf));
  const volume = (await openExt(source, 0))!;
  if (!tellsAll(volume)) throw new Error('it does not tell all');
  const keeper = new InMemory();
  const begun = (await entryAt(volume, path))!;
  const { entries, leftOut } = await takeVolume(volume, source, begun, keeper, { leaveOut: true, keepsAll: true });
  return { entries, leftOut, keeper };
}

test.each<ExtWish>([
  { version: 'ext4', bytes: 24 * MIB },
  { version: 'ext4', bytes: 24 * MIB, block: KIB, profile: 'old loaders', inodeSize: 256 },
  { version: 'ext3', bytes: 24 * MIB, block: 2 * KIB, inodeSize: 256 },
])('everything of a system comes back: $version, blocks of $block', async (wish) => {
  const tree = systemTree(shelf);
  const { entries, leftOut, keeper } = await taken(wish, tree);
  expect(leftOut).toEqual([]);
  const [found, meant] = [facts(entries, keeper.contents), facts(tree, shelf.contents)];
  // Folders that are only on the way, and what the maker adds, are there too.
  for (const [path, one] of meant) expect([path, found.get(path)]).toEqual([path, one]);
});

test('of a file with holes only what was written is kept', async () => {
  const tree: Tree = [
    sparse(shelf, 'holes.img', 40 * MIB, [
      [0, 700],
      [13 * 1024, 5000],
      [39 * MIB, 3000],
    ]),
    sparse(shelf, 'nothing.img', 9 * MIB, []),
  ];
  const { entries, keeper } = await taken({ version: 'ext4', bytes: 24 * MIB, block: KIB }, tree);
  const found = entries.find(({ path }) => path === 'holes.img');
  expect(found).toMatchObject({ kind: 'file', size: 40 * MIB });
  const kept = [...keeper.contents.values()].reduce((sum, { length }) => sum + length, 0);
  expect(kept).toBeLessThan(12 * KIB);
  expect(facts(entries, keeper.contents).get('holes.img')).toMatchObject({
    content: facts(tree, shelf.contents).get('holes.img')!.content,
  });
  expect(entries.find(({ path }) => path === 'nothing.img')).toMatchObject({ size: 9 * MIB, pieces: [] });
});

test('a folder is taken with what is below it, and one file by its name', async () => {
  const wish = { version: 'ext4', bytes: 24 * MIB } as const;
  const tree: Tree = [{ ...shelf.file('tide/ebb/a.csv', 10) }, { ...shelf.file('tide/b.csv', 20) }];
  expect((await taken(wish, tree, 'tide')).entries.map(({ path }) => path).sort()).toEqual([
    'b.csv',
    'ebb',
    'ebb/a.csv',
  ]);
  expect((await taken(wish, tree, 'tide/b.csv')).entries.map(({ path }) => path)).toEqual(['b.csv']);
});

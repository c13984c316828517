/** The smallest volume for a tree, to the block; and what blocks and inodes cost. */
import { systemTree, wideTree } from '@tests/ext-trees';
import { Shelf } from '@tests/filled';
import { KIB, MIB } from '../../quantity/units';
import type { Site } from '../kind';
import type { Tree } from '../tree';
import { EXT } from './kind';
import { leastExt } from './least';
import type { ExtContent } from './shape';
import { studyExt, thriftiestExt, treeOfSizes } from './study';
import { EXT_WRITER } from './writer';

const shelf = new Shelf();
const SITE: Omit<Site, 'sectors'> = {
  start: 2048,
  sectorSize: 512,
  unit: 4096,
  wholeMedium: false,
  isEsp: false,
  isSystem: true,
  pageSize: 4096,
  date: '2026-03-01T12:00:00',
};
const ext = (more: Partial<ExtContent> = {}): ExtContent => ({
  kind: 'ext',
  version: 'ext4',
  uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d6',
  ...more,
});

/** Whether a volume of so many bytes holds a tree. */
function holds(content: ExtContent, tree: Tree, bytes: number): boolean {
  const made = EXT.geometry!(content, { ...SITE, sectors: bytes / 512 }, tree);
  return made.geometry.ok && EXT_WRITER.room!(content, made, tree)!.misfit === undefined;
}

const TREES: readonly (readonly [string, Tree])[] = [
  ['no files', []],
  ['one of everything', systemTree(shelf)],
  ['a wide folder', wideTree(shelf, 3000)],
  ['small files', treeOfSizes(new Map([[900, 2000]]))],
  ['a large file', [shelf.file('large', 30 * MIB)]],
];
const WISHES: readonly ExtContent[] = [
  ext(),
  ext({ profile: 'old loaders' }),
  ext({ block: '1 KiB' }),
  ext({ block: '4 KiB' }),
  ext({ perInode: '64 KiB' }),
  ext({ journal: '5 MiB' }),
  ext({ growTo: 'none', reserved: 20 }),
  ext({ version: 'ext3' }),
  ext({ version: 'ext2', profile: 'tiny' }),
];

describe.each(TREES)('%s', (_, tree) => {
  test.each(WISHES.map((wish) => [JSON.stringify({ ...wish, kind: undefined, uuid: undefined }), wish] as const))(
    'in %s: the smallest holds it, and one block less does not',
    (__, wish) => {
      const least = leastExt(wish, SITE, tree)!;
      expect(holds(wish, tree, least.bytes)).toBe(true);
      expect(holds(wish, tree, least.bytes - least.block)).toBe(false);
    },
  );

  test('nothing smaller holds it, whatever the size', () => {
    const wish = ext({ block: '4 KiB' });
    const least = leastExt(wish, SITE, tree)!;
    const from = Math.max(4 * KIB, least.bytes - 300 * 4 * KIB);
    for (let bytes = from; bytes < least.bytes; bytes += 4 * KIB) expect(holds(wish, tree, bytes)).toBe(false);
  });
});

test('the study counts as making does, and names what cannot be', () => {
  const tree = systemTree(shelf);
  const site = { ...SITE, sectors: (24 * MIB) / 512 };
  const { rows, gaps } = studyExt(ext(), site, tree);
  expect(rows.length + gaps.length).toBe(12);
  for (const { block, perInode, inodes, usable, structures, taken, fits } of rows) {
    const content = ext({ block: `${block} B`, perInode: `${perInode} B` });
    const made = EXT.geometry!(content, site, tree);
    if (!made.geometry.ok) throw new Error();
    expect(inodes).toBe(made.geometry.value.groups * made.geometry.value.inodesPerGroup);
    expect(usable + structures).toBe(made.geometry.value.blocks * block);
    expect(taken).toBe(EXT_WRITER.room!(content, made, tree)!.used * block);
    expect(fits).toBe(true);
  }
  const best = thriftiestExt(rows)!;
  expect(rows.every((row) => row.structures + row.slack + row.taken >= best.structures + best.slack + best.taken)).toBe(
    true,
  );
  const small = studyExt(ext(), { ...SITE, sectors: (MIB / 512) | 0 }, treeOfSizes(new Map([[10, 900]])));
  expect(small.gaps.some(({ refusal }) => refusal.reason === 'too few inodes')).toBe(true);
});

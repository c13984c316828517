/** Ext volumes read as they lie on the medium: what our maker wrote, what it does not write, and what nobody should believe. */
import fc from 'fast-check';
import { DATE, type ExtWish, extOverNoise, wholeContent } from '@tests/ext';
import { sparse, systemTree, wideTree } from '@tests/ext-trees';
import { Shelf } from '@tests/filled';
import { cases } from '@tests/tier';
import { type BlockSource, memoryBlocks } from '../../../bytes/blocks';
import { MIB } from '../../../quantity/units';
import { BrokenChain, contentOf, type Volume, walk } from '../../volume';
import type { Tree, TreeEntry } from '../../tree';
import { openVolume } from '../../readers';
import { SUPERBLOCK } from '../records';
import { openExt } from './browse';
import { descriptorAt, type ExtHead, readExtHead } from './head';
import { Inodes } from './inodes';

const shelf = new Shelf();

/** A volume of its own in memory, over noise. */
const made = (wish: ExtWish, tree: Tree) => extOverNoise(wish, tree, shelf);

interface Read {
  readonly what: string;
  readonly time: string | undefined;
  readonly bytes?: Buffer;
}

/** Everything in a volume, by its path. */
async function everything(volume: Volume, source: BlockSource): Promise<Map<string, Read>> {
  const troubles: string[] = [];
  const all = new Map<string, Read>();
  for await (const { path, entry } of walk(volume, (at, what) => troubles.push(`${at}: ${what}`))) {
    const parts: Uint8Array[] = [];
    if (!entry.folder && entry.special === undefined)
      for await (const bytes of contentOf(volume, source, entry)) parts.push(Uint8Array.from(bytes));
    const what = entry.folder ? 'folder' : (entry.special ?? 'file');
    const named = entry.target === undefined ? what : `link to ${entry.target}`;
    all.set(path, { what: named, time: entry.time, ...(what === 'file' && { bytes: Buffer.concat(parts) }) });
  }
  expect(troubles).toEqual([]);
  return all;
}

const WORDS = { pipe: 'pipe', socket: 'socket', block: 'block device', character: 'character device' } as const;

/** What a tree says should be there. */
function meant(tree: Tree): Map<string, Read> {
  const byPath = new Map(tree.map((one) => [one.path, one]));
  const folders = new Set(['lost+found']);
  for (const { path, kind } of tree) {
    for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1)) folders.add(path.slice(0, at));
    if (kind === 'folder') folders.add(path);
  }
  const timeOf = (entry: TreeEntry | undefined) => (entry?.time ?? DATE).slice(0, 19);
  const readOf = (entry: TreeEntry): Read => {
    const time = timeOf(entry);
    switch (entry.kind) {
      case 'file':
        return { what: 'file', time, bytes: wholeContent(entry, shelf) };
      case 'link':
        return { what: `link to ${entry.target}`, time };
      case 'device':
        return { what: WORDS[entry.device as keyof typeof WORDS], time };
      case 'second name':
        return readOf(byPath.get(entry.of)!);
      default:
        return { what: entry.kind in WORDS ? WORDS[entry.kind as keyof typeof WORDS] : entry.kind, time };
    }
  };
  return new Map<string, Read>([
    ...[...folders].map((path) => [path, { what: 'folder', time: timeOf(byPath.get(path)) }] as const),
    ...tree.filter(({ kind }) => kind !== 'folder').map((one) => [one.path, readOf(one)] as const),
  ]);
}

async function sameAsMeant(wish: ExtWish, tree: Tree): Promise<void> {
  const source = memoryBlocks(made(wish, tree));
  const volume = (await openVolume(source, 0))!;
  expect(volume.kind).toBe(wish.version === 'ext3' && wish.journal === 'none' ? 'ext2' : wish.version);
  const [found, wanted] = [await everything(volume, source), meant(tree)];
  expect([...found.keys()].sort()).toEqual([...wanted.keys()].sort());
  for (const [path, one] of wanted) {
    const { bytes, ...facts } = found.get(path)!;
    expect([path, facts]).toEqual([path, { what: one.what, time: one.time }]);
    if (one.bytes) expect([path, Buffer.compare(bytes!, one.bytes)]).toEqual([path, 0]);
  }
}

const WISHES: readonly ExtWish[] = [
  { version: 'ext4', bytes: 24 * MIB },
  { version: 'ext4', bytes: 24 * MIB, block: 1024 },
  { version: 'ext4', bytes: 24 * MIB, profile: 'old loaders', inodeSize: 256 },
  { version: 'ext3', bytes: 24 * MIB, block: 2048 },
  { version: 'ext2', bytes: 24 * MIB, block: 1024 },
  { version: 'ext2', bytes: 24 * MIB, profile: 'tiny', inodeSize: 128 },
];

describe.each(WISHES)('$version, $profile, blocks of $block', (wish) => {
  test(
    'a tree of a system comes back with names, kinds, targets, times and bytes',
    () => sameAsMeant(wish, wish.inodeSize === 128 ? systemTree(shelf).map(withoutLateTimes) : systemTree(shelf)),
    30_000,
  );

  test(
    'files with holes and through every level of a block map come back',
    () =>
      sameAsMeant(wish, [
        sparse(shelf, 'holes.img', 40 * MIB, [
          [0, 700],
          [13 * 1024, 5000],
          [300 * 1024, 70_000],
          [39 * MIB, 3000],
        ]),
        { ...shelf.file('large.bin', 3 * MIB + 77) },
        { ...shelf.file('empty', 0) },
        sparse(shelf, 'only holes', 5 * MIB, []),
      ]),
    30_000,
  );
});

/** Inodes of 128 bytes have no further bits of seconds. */
const withoutLateTimes = (entry: TreeEntry): TreeEntry =>
  entry.time !== undefined && entry.time > '2038' ? { ...entry, time: '2026-05-06T07:08:09' } : entry;

test('a directory of thousands of names, hashed, comes back with each of them once', async () => {
  const tree = wideTree(shelf, 6000);
  const source = memoryBlocks(made({ version: 'ext4', bytes: 40 * MIB, block: 1024, perInode: 4096 }, tree));
  const found = await everything((await openExt(source, 0))!, source);
  expect([...found.keys()].sort()).toEqual([...meant(tree).keys()].sort());
});

test('of a medium that was cut short, files behind its end are told', async () => {
  const bytes = made({ version: 'ext4', bytes: 24 * MIB }, [{ ...shelf.file('tide.bin', 3 * MIB) }]);
  const whole = memoryBlocks(bytes);
  const volume = (await openExt(whole, 0))!;
  const file = (await volume.list()).entries.find(({ name }) => name === 'tide.bin')!;
  const { value: first } = (await volume.pieces(file).next()) as { value: { at: number } };
  const cut = memoryBlocks(bytes.subarray(0, first.at + MIB));
  const same = (await openExt(cut, 0))!;
  await expect(same.pieces(file).next()).rejects.toThrow('behind the end of the medium');
});

describe('what our maker does not write', () => {
  const small: Tree = [{ ...shelf.file('tide.txt', 50) }, { ...shelf.file('ebb.txt', 120) }];
  const image = () => made({ version: 'ext4', bytes: 12 * MIB, journal: 'none' }, small);
  const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset);
  const features = (bytes: Uint8Array, more: number) => {
    const at = 1024 + SUPERBLOCK.fields.incompatible.offset;
    view(bytes).setUint32(at, view(bytes).getUint32(at, true) | more, true);
  };
  const inodeOf = async (bytes: Uint8Array, name: string) => {
    const source = memoryBlocks(bytes);
    const volume = (await openExt(source, 0))!;
    const { cluster } = (await volume.list()).entries.find((one) => one.name === name)!;
    const found = (await readExtHead(source, 0))!;
    if ('refused' in found) throw new Error(found.refused);
    return new Inodes(source, 0, found.head).at(cluster);
  };
  const content = async (bytes: Uint8Array, name: string) => {
    const source = memoryBlocks(bytes);
    const volume = (await openExt(source, 0))!;
    const entry = (await volume.list()).entries.find((one) => one.name === name)!;
    const parts: Uint8Array[] = [];
    for await (const part of contentOf(volume, source, entry)) parts.push(part);
    return Buffer.concat(parts).toString();
  };

  test('bytes that lie in the inode: in its map, and in the attribute behind it', async () => {
    const bytes = image();
    const text = 'what lies in the map of its inode goes on in an attribute: high water at noon, low water at six';
    features(bytes, 0x8000);
    for (const [name, length] of [
      ['tide.txt', 40],
      ['ebb.txt', text.length],
    ] as const) {
      const { at } = await inodeOf(bytes, name);
      const inode = view(bytes);
      inode.setUint32(at + 0x20, 0x1000_0000, true);
      inode.setUint32(at + 4, length, true);
      bytes.set(Buffer.from(text.slice(0, Math.min(60, length))), at + 0x28);
      const head = at + 128 + inode.getUint16(at + 128, true);
      bytes.fill(0, head, at + 256);
      inode.setUint32(head, 0xea020000, true);
      bytes.set([4, 7], head + 4);
      inode.setUint16(head + 6, 40, true);
      inode.setUint32(head + 12, Math.max(0, length - 60), true);
      bytes.set(Buffer.from('data'), head + 4 + 16);
      bytes.set(Buffer.from(text.slice(60, length)), head + 4 + 40);
    }
    expect(await content(bytes, 'tide.txt')).toBe(text.slice(0, 40));
    expect(await content(bytes, 'ebb.txt')).toBe(text);
    // Without the attribute there is an error, and no other bytes.
    const { at } = await inodeOf(bytes, 'ebb.txt');
    view(bytes).setUint32(at + 128 + view(bytes).getUint16(at + 128, true), 0, true);
    await expect(content(bytes, 'ebb.txt')).rejects.toThrow('the rest of its bytes is missing');
  });

  test('a journal that cannot be replayed is told; names that are encrypted are not shown', async () => {
    const bytes = image();
    features(bytes, 0x4);
    expect((await openExt(memoryBlocks(bytes), 0))!.remark).toMatch(
      /journal cannot be replayed: it lies on another device/,
    );
    const sealed = image();
    const root = await inodeOf(sealed, 'lost+found');
    view(sealed).setUint32(root.at + 0x20, root.flags | 0x800, true);
    const volume = (await openExt(memoryBlocks(sealed), 0))!;
    const folder = (await volume.list()).entries.find(({ name }) => name === 'lost+found')!;
    expect(await volume.list(folder)).toEqual({ entries: [], trouble: 'its names are encrypted' });
  });

  test.each([
    [0x1, 'it is compressed'],
    [0x8, 'it is only a journal'],
    [0x1000, 'it has data in its directory entries'],
    [0x4000_0000, 'it has features that are not known (40000000h)'],
  ])('with the feature %d it is not read: %s', async (bit, words) => {
    const bytes = image();
    features(bytes, bit);
    expect(await readExtHead(memoryBlocks(bytes), 0)).toEqual({ refused: words });
    expect(await openExt(memoryBlocks(bytes), 0)).toBeUndefined();
  });

  test('descriptors of meta groups lie with their groups, behind a copy of the superblock where there is one', () => {
    const head = {
      superblock: {
        firstDataBlock: 1,
        blocksPerGroup: 8192,
        readOnly: 1,
        compatible: 0,
        backupGroups: new Uint8Array(8),
      },
      ...{ block: 1024, descriptorBytes: 64, firstMetaGroup: 1 },
    } as unknown as ExtHead;
    // Sixteen descriptors a block: the first of them stand in the old place.
    expect(descriptorAt(head, 3)).toBe(2 * 1024 + 3 * 64);
    // Group 16 has no copy of the superblock, group 81 would; 17 stands behind 16.
    expect(descriptorAt(head, 17)).toBe((1 + 16 * 8192) * 1024 + 64);
    const every = { ...head, superblock: { ...head.superblock, readOnly: 0 } };
    expect(descriptorAt(every, 17)).toBe((1 + 16 * 8192 + 1) * 1024 + 64);
    const two = {
      ...head,
      superblock: { ...head.superblock, compatible: 0x200, backupGroups: Uint8Array.of(1, 0, 0, 0, 32, 0, 0, 0) },
    };
    expect(descriptorAt(two, 33)).toBe((1 + 32 * 8192 + 1) * 1024 + 64);
  });
});

test('whatever the bytes are, nothing is read outside of the source, and it ends', async () => {
  const base = made({ version: 'ext4', bytes: 12 * MIB, block: 1024 }, systemTree(shelf));
  const mapped = made({ version: 'ext2', bytes: 12 * MIB, block: 1024 }, systemTree(shelf));
  const harm = fc.array(fc.tuple(fc.nat(400 * 1024), fc.nat(255)), { minLength: 1, maxLength: 40 });
  const near = fc.array(fc.tuple(fc.nat(1023), fc.nat(255)), { maxLength: 6 });
  await fc.assert(
    fc.asyncProperty(fc.boolean(), harm, near, async (isMapped, far, close) => {
      const bytes = Uint8Array.from(isMapped ? mapped : base);
      for (const [at, byte] of far) bytes[1024 + at] = byte;
      for (const [at, byte] of close) if (at < 0x38 || at > 0x3a) bytes[1024 + at] = byte;
      const source: BlockSource = {
        size: bytes.length,
        read: (at, length) => {
          if (at < 0 || at + length > bytes.length) throw new Error(`${at}+${length} is outside`);
          return Promise.resolve(bytes.subarray(at, at + length));
        },
      };
      const volume = await openExt(source, 0);
      if (!volume) return;
      let entries = 0;
      for await (const { entry } of walk(volume, () => undefined)) {
        if ((entries += 1) > 500) break;
        if (entry.folder || entry.special !== undefined) continue;
        let read = 0;
        try {
          for await (const part of contentOf(volume, source, entry)) if ((read += part.length) > MIB) break;
        } catch (error) {
          if (!(error instanceof BrokenChain)) throw error;
        }
      }
    }),
    { numRuns: cases(12, 40) },
  );
});

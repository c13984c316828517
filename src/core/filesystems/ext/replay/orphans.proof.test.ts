/** What was to be deleted, or made shorter, when a machine stopped: the checker finds nothing amiss once it is worked off. */
import { type ExtWish, extOverNoise } from '@tests/ext';
import { sparse } from '@tests/ext-trees';
import { Shelf } from '@tests/filled';
import { memoryBlocks } from '../../../bytes/blocks';
import { MIB } from '../../../quantity/units';
import type { Tree } from '../../tree';
import { checksumsOf } from '../checksums';
import { checkExt } from '../check/check';
import { sealInode } from '../inode';
import { readExtHead } from '../read/head';
import { Inodes } from '../read/inodes';
import { SHORT_INODE, SUPERBLOCK } from '../records';
import { replayWords, settled } from './replay';

const shelf = new Shelf();
const base64 = (length: number) => Buffer.alloc(length, 7).toString('base64');

/** Files of every shape that a map can have. */
const tree: Tree = [
  { ...shelf.file('small.csv', 3000) },
  { ...shelf.file('large.bin', 3 * MIB + 77) },
  { ...shelf.file('noted.csv', 100), extended: { 'user.note': base64(700) } },
  sparse(
    shelf,
    'holes.img',
    40 * MIB,
    Array.from({ length: 700 }, (_, i) => [i * 57_344, 1000] as const),
  ),
  { kind: 'folder', path: 'ebb' },
  { kind: 'link', path: 'far', target: 'n'.repeat(200) },
  { kind: 'link', path: 'near', target: 'small.csv' },
];

class Edited {
  private constructor(
    readonly bytes: Uint8Array,
    private readonly inodes: Inodes,
    private readonly numbers: ReadonlyMap<string, number>,
  ) {}

  static async of(wish: ExtWish): Promise<Edited> {
    const bytes = extOverNoise(wish, tree, shelf);
    const source = memoryBlocks(bytes);
    const found = await readExtHead(source, 0);
    if (!found || 'refused' in found) throw new Error('no ext');
    const { entries } = await checkExt(source, 0, bytes.length);
    const numbers = new Map(entries.map(({ path, inode }) => [path, inode.number]));
    return new Edited(bytes, new Inodes(source, 0, found.head), numbers);
  }

  number(path: string): number {
    return this.numbers.get(path)!;
  }

  get sums() {
    return checksumsOf(this.inodes.head.superblock);
  }

  async inode(path: string, edit: (view: DataView) => void): Promise<void> {
    const { at } = await this.inodes.at(this.number(path));
    const bytes = this.bytes.subarray(at, at + this.inodes.head.inodeBytes);
    edit(new DataView(bytes.buffer, bytes.byteOffset, bytes.length));
    sealInode(bytes, this.number(path), this.sums);
  }

  superblock(edit: (view: DataView) => void): void {
    const bytes = this.bytes.subarray(1024, 2048);
    const view = new DataView(bytes.buffer, bytes.byteOffset, 1024);
    edit(view);
    if (this.sums.isOn) view.setUint32(SUPERBLOCK.fields.checksum.offset, this.sums.ofSuperblock(bytes), true);
  }

  /** Takes a name out of the root: the record before it takes its room. */
  async unname(name: string): Promise<void> {
    const root = await this.inodes.at(2);
    const { block } = this.inodes.head;
    const [run] = [(await this.inodes.runs(root).next()).value!];
    const bytes = this.bytes.subarray(run.at! * block, (run.at! + 1) * block);
    const view = new DataView(bytes.buffer, bytes.byteOffset, block);
    for (let at = 0, before = 0; at < block;) {
      const length = view.getUint16(at + 4, true);
      const text = Buffer.from(bytes.subarray(at + 8, at + 8 + view.getUint8(at + 6))).toString();
      if (text === name) {
        view.setUint16(before + 4, view.getUint16(before + 4, true) + length, true);
        break;
      }
      before = at;
      at += length;
    }
    if (this.sums.isOn) {
      const seeded = this.sums.ofInodeBytes(2, bytes.subarray(0, block - 12));
      view.setUint32(block - 4, seeded, true);
    }
  }

  async settle() {
    const before = Uint8Array.from(this.bytes);
    const found = await settled(memoryBlocks(this.bytes), 0);
    if (!found || 'refused' in found) throw new Error('no ext');
    const { faults, entries } = await checkExt(found.view, 0, this.bytes.length);
    expect(Buffer.compare(this.bytes, before)).toBe(0);
    return { ...found, faults, entries };
  }
}

const { lastOrphan } = SUPERBLOCK.fields;
const { links, deleted, sizeLow } = SHORT_INODE.fields;

describe.each<ExtWish>([
  { version: 'ext4', bytes: 24 * MIB, block: 1024 },
  { version: 'ext4', bytes: 24 * MIB },
  { version: 'ext4', bytes: 24 * MIB, block: 1024, profile: 'old loaders' },
  { version: 'ext3', bytes: 24 * MIB, block: 1024 },
])('$version, $profile, blocks of $block', (wish) => {
  test('files without a name are deleted, whatever their map is', async () => {
    const volume = await Edited.of(wish);
    const gone = ['small.csv', 'large.bin', 'noted.csv', 'holes.img', 'far'];
    for (const [i, path] of gone.entries()) {
      await volume.unname(path);
      await volume.inode(path, (view) => {
        view.setUint16(links.offset, 0, true);
        view.setUint32(deleted.offset, i + 1 < gone.length ? volume.number(gone[i + 1]!) : 0, true);
      });
    }
    volume.superblock((view) => view.setUint32(lastOrphan.offset, volume.number(gone[0]!), true));
    const { faults, entries, replay } = await volume.settle();
    expect(faults).toEqual([]);
    expect(entries.map(({ path }) => path).sort()).toEqual(['', 'ebb', 'lost+found', 'near']);
    expect(replay).toMatchObject({ deleted: 5, shortened: 0, troubles: [] });
    expect(replayWords(replay)).toEqual(['What was left to do is done: 5 files deleted.', 'The image stays as it is.']);
  });

  test.each([
    ['large.bin', 1_000_000],
    ['large.bin', 0],
    ['large.bin', 13 * 1024],
    ['holes.img', 57_344 * 300 + 10],
    ['holes.img', 57_344],
    ['holes.img', 1],
  ])('%s is made shorter to %d bytes, and what its map does not need any more is free', async (path, size) => {
    const volume = await Edited.of(wish);
    await volume.inode(path, (view) => {
      view.setUint32(sizeLow.offset, size, true);
      view.setUint32(deleted.offset, volume.number('small.csv'), true);
    });
    // One of the list that has nothing behind its end.
    await volume.inode('small.csv', (view) => view.setUint32(deleted.offset, 0, true));
    volume.superblock((view) => view.setUint32(lastOrphan.offset, volume.number(path), true));
    const { faults, entries, replay } = await volume.settle();
    expect(faults).toEqual([]);
    expect(replay).toMatchObject({ deleted: 0, shortened: 2, troubles: [] });
    const { inode } = entries.find((one) => one.path === path)!;
    const block = wish.block ?? 4096;
    expect(inode.size).toBe(size);
    expect(Math.max(0, ...inode.runs.map(({ logical, count }) => logical + count))).toBeLessThanOrEqual(
      Math.ceil(size / block),
    );
  });

  test('a list that leads where it cannot ends there, and what came before it is done', async () => {
    for (const [next, words] of [
      [0xffff_fff0, /cannot be deleted/],
      [2, /cannot be deleted/],
      ['self', /stands in it twice/],
      ['free', /is not in use/],
    ] as const) {
      const volume = await Edited.of(wish);
      const self = volume.number('small.csv');
      const free = Math.max(...['near', 'far', 'ebb'].map((path) => volume.number(path))) + 1;
      await volume.unname('small.csv');
      await volume.inode('small.csv', (view) => {
        view.setUint16(links.offset, 0, true);
        view.setUint32(deleted.offset, next === 'self' ? self : next === 'free' ? free : next, true);
      });
      volume.superblock((view) => view.setUint32(lastOrphan.offset, self, true));
      const { faults, replay } = await volume.settle();
      expect(faults).toEqual([]);
      expect(replay.deleted).toBe(1);
      expect(replay.troubles.join()).toMatch(words);
      expect(replayWords(replay).join(' ')).toMatch(/Not everything that was left to do could be done/);
    }
  });
});

test('the file of orphans is worked off too', async () => {
  const volume = await Edited.of({ version: 'ext4', bytes: 24 * MIB, block: 1024 });
  const held = await new Inodes(memoryBlocks(volume.bytes), 0, (await headOf(volume.bytes))!).at(
    volume.number('large.bin'),
  );
  const place = new DataView(held.map.buffer, held.map.byteOffset).getUint32(12 + 8, true) * 1024;
  // Another file serves as the file of orphans: every block of it is filled with what such a file has.
  const blocks = Math.ceil(held.size / 1024);
  for (let i = 0; i < blocks; i++) {
    volume.bytes.fill(0, place + i * 1024, place + (i + 1) * 1024);
    new DataView(volume.bytes.buffer).setUint32(place + (i + 1) * 1024 - 8, 0x0b10ca04, true);
  }
  const orphans = new DataView(volume.bytes.buffer, place);
  for (const [at, path] of [
    [0, 'small.csv'],
    [1024 + 40, 'holes.img'],
  ] as const) {
    orphans.setUint32(at, volume.number(path), true);
    await volume.unname(path);
    await volume.inode(path, (view) => view.setUint16(links.offset, 0, true));
  }
  orphans.setUint32(80, 0xffff, true);
  volume.superblock((view) => {
    const { compatible, readOnly, orphanFile } = SUPERBLOCK.fields;
    view.setUint32(compatible.offset, view.getUint32(compatible.offset, true) | 0x1000, true);
    view.setUint32(readOnly.offset, view.getUint32(readOnly.offset, true) | 0x10000, true);
    view.setUint32(orphanFile.offset, volume.number('large.bin'), true);
  });
  const { replay, view, entries } = await volume.settle();
  expect(replay).toMatchObject({ deleted: 2, shortened: 0 });
  expect(replay.troubles).toEqual([expect.stringMatching(/inode 65535/)]);
  expect(entries.some(({ path }) => path === 'small.csv' || path === 'holes.img')).toBe(false);
  expect((await headOf(await view.read(0, volume.bytes.length)))!.superblock.readOnly & 0x10000).toBe(0);
  expect((await view.read(place, 4)).every((byte) => byte === 0)).toBe(true);
});

async function headOf(bytes: Uint8Array) {
  const found = await readExtHead(memoryBlocks(bytes), 0);
  return found && 'head' in found ? found.head : undefined;
}

test('blocks that are counted in clusters are left, and that is said', async () => {
  const volume = await Edited.of({ version: 'ext4', bytes: 24 * MIB, block: 1024 });
  volume.superblock((view) => {
    view.setUint32(lastOrphan.offset, volume.number('small.csv'), true);
    view.setUint32(
      SUPERBLOCK.fields.readOnly.offset,
      view.getUint32(SUPERBLOCK.fields.readOnly.offset, true) | 0x200,
      true,
    );
  });
  const found = await settled(memoryBlocks(volume.bytes), 0);
  if (!found || 'refused' in found) throw new Error('no ext');
  expect(found.replay.deleted).toBe(0);
  expect(replayWords(found.replay).join(' ')).toMatch(/counted in clusters/);
});

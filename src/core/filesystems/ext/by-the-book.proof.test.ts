/** Volumes that are made, and volumes that are laid anew, as a second reader has them that knows nothing of the program. */
import { anySystemTree } from '@tests/any/system';
import { type ExtWish, extOverNoise } from '@tests/ext';
import { BookExt } from '@tests/ext-by-the-book';
import { EXT_FORMS, inForm } from '@tests/ext-forms';
import { meantLines } from '@tests/ext-read';
import { inMemory, Shelf } from '@tests/filled';
import { sound, WISHES, type Which } from '@tests/planted-ext';
import { repackedOver } from '@tests/repacked';
import { cases } from '@tests/tier';
import fc from 'fast-check';
import { bytesOfText } from '../../bytes/utf8';
import { KIB, MIB } from '../../quantity/units';
import type { Tree } from '../tree';
import { minimaOf, type Numbering, repackable } from './repack/repack';

const shelf = new Shelf();

const made = (wish: ExtWish, tree: Tree) => extOverNoise(wish, tree, shelf);

/** Reads a volume by the book, which must find nothing wrong. */
function byTheBook(bytes: Uint8Array): BookExt {
  const book = new BookExt(bytes);
  expect(book.wrong).toEqual([]);
  return book;
}

/** Lines of a tree, with names and targets as the single bytes that they are stored in. */
const meant = (tree: Tree) =>
  meantLines(tree, shelf)
    .map((line) => Buffer.from(bytesOfText(line)).toString('latin1'))
    .sort();

async function repacked(bytes: Uint8Array, numbering: Numbering, more: number): Promise<Uint8Array> {
  const volume = await repackable(inMemory(bytes), 0);
  if (!volume.ok) throw new Error(volume.error);
  const { block, ...minima } = minimaOf(volume.value);
  return repackedOver(inMemory(bytes), minima[numbering]! + more * block, numbering);
}

const anyWish: fc.Arbitrary<ExtWish> = fc
  .record({
    version: fc.constantFrom('ext2', 'ext3', 'ext4'),
    block: fc.constantFrom(1024, 2048, 4096),
    bytes: fc.integer({ min: 12 * 1024, max: 40 * 1024 }).map((kib) => kib * KIB),
    inodeSize: fc.constantFrom(128, 256),
  })
  .map((wish) => ({ ...wish, journal: 'none' }));

test('any tree in any volume is there to the byte, every block and inode is counted once, every sum is right', () => {
  fc.assert(
    fc.property(anySystemTree(shelf), anyWish, (tree, wish) => {
      // Inodes of 128 bytes say whole seconds up to 2038.
      const own = wish.inodeSize === 128 ? tree.map((one) => ({ ...one, time: '2020-02-02T02:02:02' })) : tree;
      expect(byTheBook(made(wish, own)).facts()).toEqual(meant(own));
    }),
    { numRuns: cases(15, 60) },
  );
});

test('any tree stays to the byte in any length', async () => {
  const anyMore = fc.oneof(fc.constantFrom(0, 1), fc.integer({ min: 2, max: 9000 }));
  await fc.assert(
    fc.asyncProperty(
      anySystemTree(shelf),
      anyWish,
      fc.constantFrom<Numbering>('renumbered', 'kept'),
      anyMore,
      async (tree, wish, numbering, more) => {
        const bytes = made(wish, tree);
        const [before, after] = [byTheBook(bytes), byTheBook(await repacked(bytes, numbering, more))];
        expect(after.facts()).toEqual(before.facts());
        if (numbering === 'kept') expect(after.numbers()).toEqual(before.numbers());
      },
    ),
    { numRuns: cases(15, 60) },
  );
});

describe.each(Object.keys(WISHES) as Which[])('%s', (which) => {
  const { bytes } = sound(which);

  test('is what it was made of', () => {
    const book = byTheBook(bytes);
    expect(book.facts().length).toBeGreaterThan(700);
    expect(book.blocks * book.block).toBe(bytes.length);
  });

  test.each<[Numbering, number]>([
    ['renumbered', 0],
    ['renumbered', 12_345],
    ['kept', 0],
    ['kept', 30_000],
  ])('stays to the byte, %s, %d blocks over the least', async (numbering, more) => {
    const after = byTheBook(await repacked(bytes, numbering, more));
    const before = new BookExt(bytes);
    expect(after.facts()).toEqual(before.facts());
    if (numbering === 'kept') expect(after.numbers()).toEqual(before.numbers());
    else expect([...after.numbers().values()].every((one) => one <= after.inodeCount)).toBe(true);
  });
});

test.each(EXT_FORMS)('%s: read, and laid anew', async (form) => {
  const base = sound('current').bytes;
  const formed = await inForm(inMemory(base), form);
  const facts = byTheBook(formed).facts();
  expect(facts).toEqual(new BookExt(base).facts());
  for (const more of [0, 5000]) {
    const after = byTheBook(await repacked(formed, 'renumbered', more));
    expect(after.facts()).toEqual(facts);
  }
});

test.each([32 * KIB, 2 * MIB])(
  'there and back through a larger one, with a file of %d bytes and more',
  async (bytes) => {
    const tree: Tree = [
      shelf.file('tide/ebb.csv', 3 * bytes + 1),
      shelf.file('tide/flow.csv', 1),
      { kind: 'second name', path: 'tide/same', of: 'tide/ebb.csv' },
      { kind: 'link', path: 'tide/now', target: 'ebb.csv' },
    ];
    const volume = made({ version: 'ext4', bytes: 64 * MIB, block: 4096, journal: 'none' }, tree);
    const facts = byTheBook(volume).facts();
    expect(facts).toEqual(meant(tree));
    const larger = await repackedOver(inMemory(volume), 300 * MIB + bytes);
    expect(byTheBook(larger).facts()).toEqual(facts);
    const smaller = await repacked(larger, 'renumbered', 0);
    expect(byTheBook(smaller).facts()).toEqual(facts);
    expect(smaller.length).toBeLessThan(volume.length);
  },
);

describe('the second reader sees what is wrong', () => {
  const volume = () => made({ version: 'ext4', bytes: 16 * MIB, block: 1024 }, [shelf.file('a', 5000)]);

  test.each<[string, (bytes: Uint8Array) => void, RegExp]>([
    ['a bit of a bitmap', (bytes) => void (bytes[place(bytes, 0) * 1024 + 700]! ^= 1), /bit of block|sum of blocks/],
    ['a byte of an inode', (bytes) => void (bytes[place(bytes, 8) * 1024 + 256 + 0x10]! ^= 1), /sum of the inode/],
    ['a count', (bytes) => void (bytes[2048 + 0xc]! ^= 1), /free blocks/],
    ['the superblock', (bytes) => void (bytes[1024 + 0x78]! ^= 1), /sum of the superblock/],
  ])('%s', (_, harm, says) => {
    const bytes = volume();
    harm(bytes);
    expect(new BookExt(bytes).wrong.join('\n')).toMatch(says);
  });
});

/** A block that the first descriptor names at a place, in a volume with blocks of 1 KiB. */
function place(bytes: Uint8Array, at: number): number {
  return new DataView(bytes.buffer, bytes.byteOffset).getUint32(2048 + at, true);
}

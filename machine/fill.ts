/** Images with contents for the machine tests: a store in a folder, and layouts filled from it. */
import { MIB } from '@/core/quantity/units';
import { createHash } from 'node:crypto';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { anyTree, Shelf } from '@tests/filled';
import { noise } from '@tests/samples';
import { compose } from '@/core/compose/compose';
import { filesOf, type Tree, type TreeFile } from '@/core/filesystems/tree';
import { treeText } from '@/core/filesystems/tree-text';
import type { Layout } from '@/core/layout/document';
import { placeWritten } from '@/core/naming/written';
import type { Placement } from '@/core/placement/placement';
import { writeImage } from '@/files/image-file';
import { contentsFor, storedPath } from '@/files/stored';
import path from 'node:path';
import fc from 'fast-check';

/** A store that a test fills itself. */
export class TestStore {
  readonly shelf = new Shelf();

  constructor(readonly folder: string) {}

  put(bytes: Uint8Array): string {
    const sha256 = createHash('sha256').update(bytes).digest('hex');
    const file = storedPath(this.folder, sha256);
    mkdirSync(path.dirname(file), { recursive: true });
    writeFileSync(file, bytes);
    return sha256;
  }

  /** Stores files with made-up contents; gives the name of their tree. */
  tree(entries: Tree): string {
    for (const { sha256 } of filesOf(entries)) this.put(this.shelf.contents.get(sha256)!);
    return this.put(Buffer.from(treeText(entries)));
  }
}

/** Builds the image of a layout with its contents, as a person would: into a new file. */
export async function buildFilled(layout: Layout, store: TestStore, file: string): Promise<Placement> {
  const placement = placeWritten(layout, await contentsFor(store.folder, layout));
  await writeImage({
    placement,
    path: file,
    fileOf: (sha256) => storedPath(store.folder, sha256),
    signal: new AbortController().signal,
    onProgress: () => undefined,
  });
  return placement;
}

/** Marks that old systems left, by where they stand in a partition or on a medium. */
const OLD_MARKS: readonly (readonly [at: number, text: string])[] = [
  [3, 'NTFS    '],
  [512, 'EFI PART'],
  [1080, '\x53\xef'],
  [4086, 'SWAPSPACE2'],
  [32_768, '\u0001CD001'],
  [65_600, '_BHRfS_M'],
];

/**
 * Lays a layout over a file that is full of noise and old marks, as onto a medium that was used
 * before: every range that it defines is written, those of zeros too.
 */
export async function layOverNoise(layout: Layout, store: TestStore, file: string): Promise<Placement> {
  const placement = placeWritten(layout, await contentsFor(store.folder, layout));
  const size = placement.medium.capacity;
  const handle = await open(file, 'wx');
  const old = noise(MIB, 77);
  for (let at = 0; at < size; at += MIB) await handle.write(old, 0, Math.min(MIB, size - at), at);
  for (const start of [0, ...placement.placed.map(({ span }) => span.start)])
    for (const [at, text] of OLD_MARKS)
      if (start + at < size) await handle.write(Buffer.from(text, 'latin1'), 0, undefined, start + at);
  for (const { extent } of compose(placement)) {
    if ('bytes' in extent) await handle.write(extent.bytes, 0, undefined, extent.offset);
    else if ('zeros' in extent)
      for (let done = 0; done < extent.zeros; done += MIB)
        await handle.write(new Uint8Array(Math.min(MIB, extent.zeros - done)), 0, undefined, extent.offset + done);
    else {
      const { from, at, length } = extent.copied;
      await handle.write(readFileSync(storedPath(store.folder, from)), at, length, extent.offset);
    }
  }
  await handle.close();
  return placement;
}

/** What the guest says of all files: the sum of the lines of their sums, ordered by the bytes of their paths. */
export function treeSum(tree: Tree, shelf: Shelf): string {
  const md5 = (bytes: Uint8Array | string) => createHash('md5').update(bytes).digest('hex');
  const files = filesOf(tree).map((one) => ({ path: Buffer.from(`./${one.path}`), sha256: one.sha256 }));
  const lines = files
    .sort((a, b) => Buffer.compare(a.path, b.path))
    .map((one) => `${md5(shelf.contents.get(one.sha256)!)}  ${one.path.toString()}\n`);
  return md5(lines.join(''));
}

/** What the guest says of when files were written, and that those marked “read only” cannot be. */
export function statsSum(tree: Tree, timeOf: (file: TreeFile) => string): string {
  const lines = filesOf(tree).map((one) => {
    const seconds = Date.parse(`${timeOf(one)}Z`) / 1000;
    return Buffer.from(`${seconds} ${one.attributes?.includes('read only') ? 555 : 755} ./${one.path}\n`);
  });
  return createHash('md5')
    .update(Buffer.concat(lines.sort(Buffer.compare)))
    .digest('hex');
}

/** A made-up tree that is the same on every run: odd names, deep folders, files of every length. */
export function oddTree(shelf: Shelf, seed: number): Tree {
  const [tree] = fc.sample(anyTree(shelf, 30_000), { numRuns: 1, seed });
  return [...tree!, shelf.file('Gauge readings of the Marram Coast, first quarter.csv', 5000)];
}

/** A tree of so many bytes at most, for volumes with little room. */
export function smallTree(shelf: Shelf): Tree {
  return [
    shelf.file('STATION.CFG', 300),
    shelf.file('logs/Buoy number seven of the coast.csv', 1500),
    shelf.file('logs/empty', 0),
  ];
}

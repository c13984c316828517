/**
 * Reading stored contents: files that are named by the SHA-256 of what is in them. This half
 * knows a folder and nothing else, so that the terminal can use it too.
 */
import { MIB } from '@/core/quantity/units';
import { createHash } from 'node:crypto';
import { statSync } from 'node:fs';
import { readdir, stat } from 'node:fs/promises';
import path from 'node:path';
import type { BlockSource } from '@/core/bytes/blocks';
import { SHA256, storedOf, type Tree } from '@/core/filesystems/tree';
import { readTree, TREE_BEGINS } from '@/core/filesystems/tree-text';
import { referredTo } from '@/core/layout/contents';
import { type BlobFacts, type Contents, contentsOf, HEAD, type TreeFlaw } from '@/core/filesystems/supplied';
import type { Layout } from '@/core/layout/document';
import { imageFacts } from '@/core/survey/image';
import { fileSource } from './file-source';
import { namingTexts } from './naming-texts';
import { ifThere } from './system-errors';
import { openPlain, plainBytes } from './plain-file';

/** Longest text of a tree that is read, in bytes. */
const TREE_LIMIT = 512 * MIB;

/** Something that is stored has gone, or is not as long as it was. */
export class StoredGone extends Error {}

/** The file of a store that says which database it belongs to. */
export const STORE_MARK = 'database.json';

/** Where content lies: two digits a folder, so that no folder gets too long. */
export function storedPath(store: string, sha256: string): string {
  if (!SHA256.test(sha256)) throw new RangeError(`not a SHA-256: ${sha256}`);
  return path.join(/* turbopackIgnore: true */ store, sha256.slice(0, 2), sha256);
}

/** Trees that were read lately: a large one takes a while. */
const LATELY = 8;
const trees = new Map<string, Tree>();

/** The text of a file that begins as a tree does; a supplied file, however large, is not read for that. */
async function treeTextIn(file: string): Promise<string | undefined> {
  const handle = await ifThere(openPlain(file, 'followed'));
  if (!handle) return undefined;
  try {
    const { size } = await handle.stat();
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(TREE_BEGINS.length), 0, TREE_BEGINS.length, 0);
    const isTree = size <= TREE_LIMIT && buffer.toString('latin1', 0, bytesRead) === TREE_BEGINS;
    return isTree ? await handle.readFile('utf8') : undefined;
  } finally {
    await handle.close();
  }
}

/** A stored tree as it lies on the disk now; undefined where there is none of that name, or it is something else. */
export async function readStoredTree(store: string, sha256: string): Promise<Tree | undefined> {
  const text = await treeTextIn(storedPath(store, sha256));
  // A tree is believed only when it is the one that was named.
  if (text === undefined || createHash('sha256').update(text).digest('hex') !== sha256) return undefined;
  const read = readTree(text);
  return read.ok ? read.value : undefined;
}

/** A stored tree, which may have been read a while ago. */
export async function storedTree(store: string, sha256: string): Promise<Tree | undefined> {
  const file = storedPath(store, sha256);
  const known = trees.get(file);
  if (known) return known;
  const tree = await readStoredTree(store, sha256);
  if (!tree) return undefined;
  trees.set(file, tree);
  if (trees.size > LATELY) trees.delete(trees.keys().next().value!);
  return tree;
}

/** Forgets the trees that were read, because what is stored has changed otherwise than by an upload. */
export function forgetTrees(): void {
  trees.clear();
}

/** One stored file: its name, where it lies, and how long and how old it is. */
export interface StoredFile {
  readonly sha256: string;
  readonly file: string;
  readonly size: number;
  /** When it came, or was brought again, in milliseconds since 1970. */
  readonly since: number;
}

const BUCKET = /^[0-9a-f]{2}$/;

/** Whether a folder is a store: one of nothing but contents by their sums, or empty. */
export async function isStore(folder: string): Promise<boolean> {
  const names = await readdir(/* turbopackIgnore: true */ folder).catch(() => undefined);
  return names !== undefined && names.every((name) => BUCKET.test(name) || name === STORE_MARK);
}

/** Every stored file, folder by folder. What is no content of ours is passed over. */
export async function* storedFiles(store: string): AsyncGenerator<StoredFile> {
  for (const bucket of (await readdir(/* turbopackIgnore: true */ store)).filter((name) => BUCKET.test(name)).sort()) {
    const folder = path.join(/* turbopackIgnore: true */ store, bucket);
    for (const sha256 of (await readdir(folder)).sort()) {
      if (!SHA256.test(sha256) || !sha256.startsWith(bucket)) continue;
      const file = path.join(folder, sha256);
      const { size, mtimeMs } = await stat(file);
      yield { sha256, file, size, since: mtimeMs };
    }
  }
}

/** Files up to this many bytes are looked through for their facts: boot code and loaders are no larger. */
const SMALL = MIB;

async function sumOf(source: BlockSource, size: number): Promise<string> {
  return createHash('sha256')
    .update(await source.read(0, size))
    .digest('hex');
}

/** Whether the bytes of a stored file have the sum that they are named by. Rejects with the reason when `signal` says to stop. */
export async function isSound(file: string, sha256: string, signal?: AbortSignal): Promise<boolean> {
  const hash = createHash('sha256');
  for await (const chunk of plainBytes(file, { highWaterMark: SMALL, ...(signal && { signal }) })) hash.update(chunk);
  return hash.digest('hex') === sha256;
}

/** What is wrong with the stored files of a tree: files that are missing, or of another length. */
function flawOf(store: string, tree: Tree): TreeFlaw | undefined {
  let first: Omit<TreeFlaw, 'others'> | undefined;
  let flaws = 0;
  for (const { sha256, size, path: name, isArchive } of storedOf(tree)) {
    if (size === 0) continue;
    const found = statSync(/* turbopackIgnore: true */ storedPath(store, sha256), { throwIfNoEntry: false })?.size;
    if (found === size) continue;
    first ??= { path: name, size, found, ...(isArchive && { inArchive: true }) };
    flaws += 1;
  }
  return first && { ...first, others: flaws - 1 };
}

/** Facts of a stored file; undefined where there is none of that name. */
export function storedFacts(store: string, sha256: string): Promise<BlobFacts | undefined> {
  return factsOfFile(storedPath(store, sha256), sha256);
}

/** Facts of a file that should have this sum; undefined where it is not there. */
export async function factsOfFile(file: string, sha256: string): Promise<BlobFacts | undefined> {
  const handle = await ifThere(openPlain(file, 'followed'));
  if (!handle) return undefined;
  try {
    const { size } = await handle.stat();
    const source = fileSource(handle, size);
    const head = Uint8Array.from(await source.read(0, Math.min(size, HEAD)));
    const isDamaged = size <= SMALL && (await sumOf(source, size)) !== sha256;
    const image = await imageFacts(source);
    return { size, head, ...(image && { image }), ...(isDamaged && { damaged: true }) };
  } finally {
    await handle.close();
  }
}

/** Everything that a layout names, as far as it is in the store. */
export async function contentsFor(store: string, layout: Pick<Layout, 'slots' | 'table'>): Promise<Contents> {
  const named = referredTo(layout);
  const knownTrees = new Map<string, Tree | 'missing'>();
  const blobs = new Map<string, BlobFacts | 'missing'>();
  const flaws = new Map<string, TreeFlaw>();
  const texts = new Map<string, string>();
  for (const sha256 of named.trees) {
    const tree = await storedTree(store, sha256);
    knownTrees.set(sha256, tree ?? 'missing');
    const flaw = tree && flawOf(store, tree);
    if (flaw) flaws.set(sha256, flaw);
    if (!tree) continue;
    for (const [name, text] of await namingTexts(tree, (one) => storedPath(store, one))) texts.set(name, text);
  }
  for (const sha256 of named.blobs) blobs.set(sha256, (await storedFacts(store, sha256)) ?? 'missing');
  return contentsOf(knownTrees, blobs, flaws, texts);
}

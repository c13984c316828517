/** Use cases of stored contents: files and trees that layouts name by their SHA-256. */
import { stat } from 'node:fs/promises';
import type { BlobView, TreeChange, TreeView } from '@/contract/contents';
import { ENTRY_LIMIT, pathTrouble, SHA256, type Tree, pathsOf } from '@/core/filesystems/tree';
import { treeText, writtenTree } from '@/core/filesystems/tree-text';
import {
  withAttributes,
  withEntries,
  withNames,
  withMoved,
  withoutPath,
  withRenamed,
  within,
  withOwned,
} from '@/core/filesystems/tree-edits';
import { unpackFile, unpackStream } from '../files/archives';
import type { UnpackOptions } from '../files/gathering';
import type { Context } from './context';
import { asBody, type Upload } from '../files/uploaded';
import { uploading } from './uploading';
import { ifThere } from '../files/system-errors';
import { Refusal } from './refusal';
import { namingTexts } from '../files/naming-texts';
import { storedFacts, storedPath, storedTree } from '../files/stored';

/** Where new entries go: which tree (none for an empty one), and below which folder of it. */
export interface UploadTarget {
  readonly into?: string | undefined;
  readonly under: string;
}

/** A tree that a request names. */
async function treeNamed(context: Context, sha256: string | undefined): Promise<Tree> {
  if (sha256 === undefined) return [];
  const tree = SHA256.test(sha256) ? await storedTree(context.folder.store, sha256) : undefined;
  if (!tree)
    throw new Refusal(404, 'tree-unknown', 'These files are not stored here any more. Add them again.', 'into');
  return tree;
}

/** The entries of a tree with its name. */
export async function getTree(context: Context, sha256: string): Promise<TreeView> {
  return viewOf(sha256, await treeNamed(context, sha256), [], (one) => storedPath(context.folder.store, one));
}

/** A tree as it is told, with the texts in which ids stand; `fileOf` says where content lies. */
async function viewOf(
  sha256: string,
  tree: Tree,
  leftOut: TreeView['leftOut'],
  fileOf: (sha256: string) => string,
): Promise<TreeView> {
  const texts = await namingTexts(tree, fileOf);
  return {
    sha256,
    ...writtenTree(tree),
    leftOut,
    ...(texts.size > 0 && { texts: Object.fromEntries(texts) }),
  };
}

function checkedPath(path: string, field: string): string {
  const why = path === '' ? undefined : pathTrouble(path);
  if (why) throw new Refusal(400, 'path-refused', `The path “${path.slice(0, 200)}” ${why}.`, field);
  return path;
}

/** Stores a tree beside what came in with it. */
async function keepTree(upload: Upload, tree: Tree, leftOut: TreeView['leftOut'] = []): Promise<TreeView> {
  if (tree.length > ENTRY_LIMIT)
    throw new Refusal(413, 'tree-too-large', `A volume may have ${ENTRY_LIMIT} files and folders.`, 'body');
  if (tree.length === 0) return { sha256: null, entries: [], leftOut };
  const { sha256 } = await upload.add(asBody(Buffer.from(treeText(tree))));
  return viewOf(sha256, tree, leftOut, (one) => upload.whereIs(one));
}

/** Puts entries into a tree, with the paths of the files that had to go for them. */
async function keepMerged(
  upload: Upload,
  tree: Tree,
  added: Tree,
  leftOut: TreeView['leftOut'] = [],
): Promise<TreeView> {
  const merged = withEntries(tree, added);
  const after = new Map(merged.map((one) => [one.path, one]));
  const isGone = (one: Tree[number]) => {
    const now = after.get(one.path);
    if (one.kind === 'folder') return false;
    return one.kind === 'file' ? !(now?.kind === 'file' && now.sha256 === one.sha256) : now?.kind !== one.kind;
  };
  const replaced = tree.filter(isGone).map(({ path }) => path);
  return { ...(await keepTree(upload, merged, leftOut)), ...(replaced.length > 0 && { replaced }) };
}

/** Adds one file to a tree. */
export async function addFile(
  context: Context,
  { into, under: folder }: UploadTarget,
  file: { readonly name: string; readonly time: string | undefined },
  body: AsyncIterable<Uint8Array>,
): Promise<TreeView> {
  const tree = await treeNamed(context, into);
  const at = checkedPath(folder === '' ? file.name : `${folder}/${file.name}`, 'under');
  return uploading(context, async (upload) => {
    const taken = await upload.add(body);
    const entry = { kind: 'file', path: at, ...taken, ...(file.time !== undefined && { time: file.time }) } as const;
    return keepMerged(upload, tree, [entry]);
  });
}

/** Adds a folder that comes as a plain tar while it is sent. */
export async function addFolder(
  context: Context,
  { into, under: folder }: UploadTarget,
  length: number,
  body: AsyncIterable<Uint8Array>,
): Promise<TreeView> {
  const tree = await treeNamed(context, into);
  checkedPath(folder, 'under');
  return uploading(context, async (upload) => {
    const { entries, leftOut } = await unpackStream(body, length, upload);
    return keepMerged(upload, tree, within(entries, folder), leftOut);
  });
}

/** Adds what is in an archive, which is kept in one piece, unpacked only where it was compressed. */
export async function addArchive(
  context: Context,
  { into, under: folder }: UploadTarget,
  options: UnpackOptions,
  body: AsyncIterable<Uint8Array>,
): Promise<TreeView> {
  const tree = await treeNamed(context, into);
  checkedPath(folder, 'under');
  return uploading(context, async (upload) => {
    const { file, size } = await upload.temporary(body);
    const { entries, leftOut } = await unpackFile(file, size, upload, options);
    return keepMerged(upload, tree, within(entries, folder), leftOut);
  });
}

/** Stores entries whose contents `fill` takes in. */
export async function addEntries(
  context: Context,
  { into, under: folder }: UploadTarget,
  fill: (upload: Upload) => Promise<{ entries: Tree; leftOut: TreeView['leftOut'] }>,
): Promise<TreeView> {
  const tree = await treeNamed(context, into);
  checkedPath(folder, 'under');
  return uploading(context, async (upload) => {
    const { entries, leftOut } = await fill(upload);
    return keepMerged(upload, tree, within(entries, folder), leftOut);
  });
}

/** Several entries under other names, or left out: all or none. */
function mended(tree: Tree, { paths, names }: Extract<TreeChange, { do: 'mend' }>): Tree {
  if (names && names.length !== paths.length)
    throw new Refusal(400, 'names-wrong', `${paths.length} paths need as many names, not ${names.length}.`, 'names');
  const there = pathsOf(tree);
  const missing = paths.find((path) => !there.has(path));
  if (missing !== undefined) throw unknownPath(missing);
  for (const name of names ?? [])
    if (name.includes('/') || pathTrouble(name) !== undefined)
      throw new Refusal(400, 'path-refused', `“${name.slice(0, 200)}” is no name of a file.`, 'names');
  const after = withNames(tree, paths, names);
  if (names && pathsOf(after).size < there.size)
    throw new Refusal(409, 'path-taken', 'Two of these files or folders would have the same name.', 'names');
  return after;
}

function unknownPath(path: string): Refusal {
  return new Refusal(404, 'path-unknown', `There is no “${path.slice(0, 200)}” among these files.`, 'path');
}

function changed(tree: Tree, change: Exclude<TreeChange, { do: 'merge' }>): Tree {
  if (change.do === 'mend') return mended(tree, change);
  const isThere = (path: string) => tree.some((one) => one.path === path || one.path.startsWith(`${path}/`));
  if (change.do !== 'folder' && !isThere(change.path)) throw unknownPath(change.path);
  switch (change.do) {
    case 'remove':
      return withoutPath(tree, change.path);
    case 'rename': {
      const to = checkedPath(change.to, 'to');
      if (to === '' || to === change.path || to.startsWith(`${change.path}/`) || isThere(to))
        throw new Refusal(
          409,
          'path-taken',
          `It cannot be called “${to.slice(0, 200)}”: that is taken, empty, or inside of it.`,
          'to',
        );
      return withRenamed(tree, change.path, to);
    }
    case 'move':
      return withMoved(tree, change.path, change.before);
    case 'folder': {
      const path = checkedPath(change.path, 'path');
      if (path === '' || isThere(path)) throw new Refusal(409, 'path-taken', `There is a “${path}” already.`, 'path');
      return withEntries(tree, [{ kind: 'folder', path }]);
    }
    case 'attributes':
      return withAttributes(tree, change.path, change.attributes);
    case 'own': {
      const { path, below, user, group, mode } = change;
      const owned = {
        ...(user !== undefined && { user }),
        ...(group !== undefined && { group }),
        ...(mode !== undefined && { mode }),
      };
      return withOwned(tree, path, owned, below);
    }
  }
}

/** Changes a tree; the old one stays, so that the change can be undone. */
export async function changeTree(context: Context, into: string | undefined, change: TreeChange): Promise<TreeView> {
  const tree = await treeNamed(context, into);
  if (change.do === 'merge') {
    const added = await treeNamed(context, change.from);
    return uploading(context, (upload) => keepMerged(upload, tree, added));
  }
  return uploading(context, (upload) => keepTree(upload, changed(tree, change)));
}

/** Takes a supplied file in. */
export async function addBlob(context: Context, name: string, body: AsyncIterable<Uint8Array>): Promise<BlobView> {
  const { sha256 } = await uploading(context, (upload) => upload.add(body));
  return getBlob(context, sha256, name);
}

/** What a supplied file is. */
export async function getBlob(context: Context, sha256: string, name = ''): Promise<BlobView> {
  const facts = SHA256.test(sha256) ? await storedFacts(context.folder.store, sha256) : undefined;
  if (!facts)
    throw new Refusal(404, 'content-unknown', 'This file is not stored here any more. Add it again.', 'sha256');
  const { size, head, image } = facts;
  return { sha256, name, size, head: Buffer.from(head).toString('base64'), image: image ?? null };
}

/** Where a stored file lies, for its download. */
export async function storedFile(context: Context, sha256: string): Promise<{ path: string; size: number }> {
  const file = SHA256.test(sha256) ? storedPath(context.folder.store, sha256) : undefined;
  const found = file && (await ifThere(stat(file)));
  if (!file || !found) throw new Refusal(404, 'content-unknown', 'This file is not stored here any more.', 'sha256');
  return { path: file, size: found.size };
}

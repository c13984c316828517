/**
 * Use case: a document is taken in together with what lies beside it, as one archive. What it names by
 * paths becomes stored content, and the document says the sums.
 */
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import path from 'node:path/posix';
import type { LayoutView } from '@/contract/layouts';
import { type Beside, besidesOf, withFound } from '@/core/layout/beside';
import type { Layout } from '@/core/layout/document';
import { DOCUMENT_LIMIT } from '@/core/layout/validate';
import { errorText, readDocument } from '@/core/layout/written';
import { copiedOf, filesOf, pathsOf, type Tree, type TreeFile } from '@/core/filesystems/tree';
import { insideOf, plainOf } from '@/core/filesystems/tree-edits';
import { treeText } from '@/core/filesystems/tree-text';
import { beginsAsArchive, unpackFile } from '../files/archives';
import { asBody, type Upload } from '../files/uploaded';
import type { Context } from './context';
import { createLayout } from './layouts';
import { Refusal } from './refusal';
import { uploading } from './uploading';

function refused(code: string, sentence: string): Refusal {
  return new Refusal(422, code, sentence, 'body');
}

/** What came in: the entries of the archive, and where their bytes lie. */
interface CameIn {
  readonly upload: Upload;
  readonly entries: Tree;
}

function bytesOf({ upload }: CameIn, file: TreeFile): AsyncIterable<Uint8Array> {
  const { from, at, length } = copiedOf(file);
  if (length === 0) return asBody(new Uint8Array(0));
  return createReadStream(/* turbopackIgnore: true */ upload.placeOf(from), { start: at, end: at + length - 1 });
}

/** A file of the archive as content of its own; where that lies. */
async function ownContent(came: CameIn, file: TreeFile): Promise<string> {
  const { sha256 } = await came.upload.add(bytesOf(came, file));
  return came.upload.placeOf(sha256);
}

async function textOf(came: CameIn, file: TreeFile): Promise<string> {
  const parts: Uint8Array[] = [];
  for await (const part of bytesOf(came, file)) parts.push(part);
  return Buffer.concat(parts).toString('utf8');
}

/** The one file of the archive, as near its root as any other, that is a layout document. */
async function documentIn(came: CameIn): Promise<{ at: string; layout: Layout }> {
  const depth = (one: TreeFile) => one.path.split('/').length;
  const files = filesOf(came.entries).filter((one) => one.path.endsWith('.json') && one.size <= 4 * DOCUMENT_LIMIT);
  const found: { at: string; text: string; depth: number }[] = [];
  for (const one of files.sort((a, b) => depth(a) - depth(b))) {
    if (found.length > 0 && depth(one) > found[0]!.depth) break;
    const text = await textOf(came, one);
    if (text.includes('"loess-layout"')) found.push({ at: one.path, text, depth: depth(one) });
  }
  const [first, second] = found;
  if (!first) throw refused('no-document', 'There is no layout document in this archive, a file that ends in .json.');
  if (second)
    throw refused('several-documents', `There are several layout documents in it: “${first.at}” and “${second.at}”.`);
  const read = readDocument(first.text, { byPath: true });
  if (!read.ok) throw refused('layout-invalid', `“${first.at}” is no valid layout: ${errorText(read.error[0]!)}.`);
  return { at: first.at, layout: read.value.layout };
}

/** Ascending by names, folder by folder: as a folder is read. */
function inOrder(tree: Tree): Tree {
  const names = new Map(tree.map((one) => [one, one.path.split('/')]));
  return [...tree].sort((a, b) => {
    const [left, right] = [names.get(a)!, names.get(b)!];
    const i = left.findIndex((name, n) => name !== right[n]);
    if (i < 0) return left.length - right.length;
    return right[i] === undefined || left[i]! > right[i] ? 1 : -1;
  });
}

/** The tree as a folder gives it: every folder an entry, every file content of its own. */
function asFolder(tree: Tree): Tree {
  const there = new Set(tree.map((one) => one.path));
  const missing = [...pathsOf(tree)].filter((one) => !there.has(one));
  const folders = missing.map((one) => ({ kind: 'folder', path: one }) as const);
  return inOrder([...folders, ...tree].map((one) => (one.kind === 'file' ? withoutArchive(one) : one)));
}

function withoutArchive({ within: _, ...file }: TreeFile): TreeFile {
  return file;
}

const timeless = (tree: Tree): Tree => tree.map(({ time: _, ...one }) => one);

/** The tree that a path of the document leads to. */
async function treeAt(came: CameIn, one: Beside, place: string): Promise<Tree> {
  const file = filesOf(came.entries).find((entry) => entry.path === place);
  const untimed = (tree: Tree) => (one.times ? tree : timeless(tree));
  if (!file) {
    const inside = insideOf(came.entries, place === '.' ? '' : place);
    if (inside.length === 0)
      throw refused('path-missing', `“${one.path}” is not in the archive, and ${one.at} names it.`);
    if (one.keepsAll) return untimed(inside);
    const { tree, special } = plainOf(inside);
    if (special.length > 0)
      throw refused(
        'archive-cannot-be-stored',
        `“${special[0]!.path}” in “${one.path}” is a ${special[0]!.kind}: the file system of ${one.at} knows files and folders only.`,
      );
    return untimed(tree);
  }
  const own = await ownContent(came, file);
  if (await beginsAsArchive(own)) {
    const { size } = await stat(own);
    const { keepsAll } = one;
    return untimed((await unpackFile(own, size, came.upload, { leaveOut: false, keepsAll })).entries);
  }
  return [withoutArchive({ ...file, path: path.basename(place) })].map(({ time: _, ...entry }) => entry);
}

/** Takes in what a place of the document names; gives its sum, name and size. */
async function take(came: CameIn, one: Beside, place: string) {
  const name = path.basename(place);
  if (one.what === 'file') {
    const file = filesOf(came.entries).find((entry) => entry.path === place);
    if (!file) throw refused('path-missing', `“${one.path}” is not in the archive, and ${one.at} names it.`);
    await ownContent(came, file);
    return { sha256: file.sha256, name, size: file.size };
  }
  const tree = await treeAt(came, one, place);
  const kept = await came.upload.add(asBody(Buffer.from(treeText(tree))));
  if (one.sha256 === undefined || one.sha256 === kept.sha256) return { ...kept, name };
  // The sum may be that of a folder, whose files lie by themselves.
  const folder = asFolder(tree);
  const other = await came.upload.add(asBody(Buffer.from(treeText(folder))));
  if (other.sha256 === one.sha256) for (const file of filesOf(tree)) await ownContent(came, file);
  return { ...other, name };
}

/** The document of an archive, with the sums of all that it names by paths, which are taken in. */
async function filled(came: CameIn): Promise<{ at: string; layout: Layout }> {
  const { at, layout: written } = await documentIn(came);
  let layout = written;
  for (const one of besidesOf(written)) {
    const place = path.normalize(path.join(path.dirname(at), one.path));
    if (path.isAbsolute(one.path) || place.startsWith('..'))
      throw refused('path-leaves-folder', `${one.at}: “${one.path}” leads out of the archive.`);
    const found = await take(came, one, place.replace(/\/+$/, ''));
    if (one.sha256 !== undefined && found.sha256 !== one.sha256)
      throw refused(
        'content-differs',
        `${one.at}: “${one.path}” is not what the document names: it says SHA-256 ${one.sha256.slice(0, 12)}…, and found is ${found.sha256.slice(0, 12)}….`,
      );
    layout = withFound(layout, one, found);
  }
  return { at, layout };
}

/** Puts the document of an archive on the shelf, with what the archive brings beside it. */
export async function takeIn(context: Context, name: string, body: AsyncIterable<Uint8Array>): Promise<LayoutView> {
  const { at, layout } = await uploading(context, async (upload) => {
    const { file, size } = await upload.temporary(body);
    const { entries } = await unpackFile(file, size, upload, { leaveOut: false, keepsAll: true });
    return filled({ upload, entries });
  });
  return createLayout(context, layout, `Imported from ${name}: ${at}`);
}

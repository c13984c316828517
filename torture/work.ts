/**
 * What a server does, on a disk that may fail: each piece of work tells, by a mark in the log,
 * what it acknowledged, and only then.
 */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { utimes } from 'node:fs/promises';
import { storedOf } from '@/core/filesystems/tree';
import { treeAsWritten } from '@/core/filesystems/tree-text';
import { storedPath } from '@/files/stored';
import { sweep } from '@/keeping/sweep';
import { getBuild, recoverBuilds, startBuild } from '@/server/builds';
import { type Context, openContext } from '@/server/context';
import { imagePath } from '@/files/data-folder';
import { createLayout, getLayout, moveHead, saveRevision } from '@/server/layouts';
import { addFile, addFolder, getTree } from '@/server/store';
import { tarOf } from '@tests/archives';
import { fatPart, layoutOn } from '@tests/samples';

/** What was acknowledged. */
export type Acknowledged =
  | { readonly kind: 'save'; readonly layout: string; readonly revision: number; readonly name: string }
  | { readonly kind: 'contents'; readonly tree: string }
  | { readonly kind: 'image'; readonly build: string; readonly sha256: string }
  | { readonly kind: 'opened' };

export type Tell = (what: Acknowledged) => void;

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

async function* inPieces(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < bytes.length; at += 3000) yield bytes.subarray(at, at + 3000);
}

/** Bytes that follow from a number, so that no two are alike. */
function bytesOf(n: number, length: number): Buffer {
  return Buffer.from(Array.from({ length }, (_, i) => (i * 31 + n * 17 + (i >> 8)) & 0xff));
}

/** Sends one file, as a browser does. */
async function upload(context: Context, tell: Tell, n: number): Promise<string> {
  const target = { into: undefined, under: '' };
  const body = inPieces(bytesOf(n, 5000 + (n % 7) * 1000));
  const { sha256: tree } = await addFile(context, target, { name: `LOG${n}.BIN`, time: undefined }, body);
  tell({ kind: 'contents', tree: tree! });
  return tree!;
}

/** Sends a folder of so many files that the file system is synced as a whole. */
async function uploadFolder(context: Context, tell: Tell, n: number): Promise<void> {
  const files = Array.from({ length: 40 }, (_, i) => ({ name: `F${n}/${i}.TXT`, content: `${n}.${i}` }));
  const tar = await tarOf(files);
  const { sha256: tree } = await addFolder(context, { into: undefined, under: '' }, tar.length, inPieces(tar));
  tell({ kind: 'contents', tree: tree! });
}

/** Saves a revision on top of what is in force; now and then goes back and forward. */
async function save(context: Context, tell: Tell, layout: string, n: number): Promise<void> {
  const { revision, document } = await getLayout(context, layout);
  const name = `Saved ${n}`;
  const saved = await saveRevision(context, layout, { base: revision, document: { ...document, name }, note: name });
  tell({ kind: 'save', layout, revision: saved.revision, name });
  if (n % 5 !== 0) return;
  const { revision: back } = await moveHead(context, layout, { base: saved.revision, direction: 'undo' });
  await moveHead(context, layout, { base: back, direction: 'redo' });
}

async function create(context: Context, tell: Tell, tree: string, n: number): Promise<string> {
  const name = `Torture ${n}`;
  const { id } = await createLayout(
    context,
    { ...layoutOn('4 MiB', [fatPart('a', 'rest', { files: tree, variant: 12 })]), name },
    'Created',
  );
  tell({ kind: 'save', layout: id, revision: 1, name });
  return id;
}

/** Builds the image of a layout; one that failed is thrown as what it says. */
async function build(context: Context, tell: Tell, layout: string): Promise<void> {
  const { revision } = await getLayout(context, layout);
  const { id } = await startBuild(context, { layoutId: layout, revision });
  await context.buildQueue.idle();
  const { state, failure } = await getBuild(context, id);
  if (state !== 'done') throw Object.assign(new Error(failure?.sentence ?? state), { code: failure?.code });
  tell({ kind: 'image', build: id, sha256: sha256(readFileSync(imagePath(context.folder, id))) });
}

/** Sends something, lets it become old, and sweeps: nothing that was acknowledged and named may go. */
async function sweepOld(context: Context, tell: Tell, layout: string, n: number): Promise<void> {
  const target = { into: undefined, under: '' };
  const body = inPieces(bytesOf(-n, 900));
  const { sha256: tree } = await addFile(context, target, { name: 'OLD.BIN', time: undefined }, body);
  const old = new Date(Date.now() - 60_000);
  for (const one of [tree!, ...storedOf(treeAsWritten(await getTree(context, tree!))).map((file) => file.sha256)])
    await utimes(storedPath(context.folder.store, one), old, old);
  await save(context, tell, layout, 5 * n + 1);
  const tomorrow = new Date(Date.now() + 25 * 3600 * 1000).toISOString();
  await sweep({ ...context, now: () => tomorrow });
}

/** The pieces of work, by name; each with the number of the round, so that nothing is done twice. */
export const WORK: Readonly<
  Record<string, (context: Context, tell: Tell, layout: string, n: number) => Promise<unknown>>
> = {
  save,
  sweep: sweepOld,
  upload: (context, tell, _, n) => upload(context, tell, n),
  layout: async (context, tell, _, n) => create(context, tell, await upload(context, tell, n), n),
  build: (context, tell, layout) => build(context, tell, layout),
  folder: (context, tell, _, n) => uploadFolder(context, tell, n),
};

/** Opens a data folder as a server does, and gives a layout to work on. */
export async function begin(data: string, tell: Tell): Promise<{ context: Context; layout: string }> {
  const context = await openContext({ data });
  await recoverBuilds(context);
  await sweep(context);
  tell({ kind: 'opened' });
  const layout = await create(context, tell, await upload(context, tell, Date.now()), Date.now());
  return { context, layout };
}

/** Works without an end, in an order that follows from `seed`. */
export async function workOn(data: string, tell: Tell, seed: number, pieces = Infinity): Promise<void> {
  const { context, layout } = await begin(data, tell);
  const names = Object.keys(WORK);
  for (let i = 0; i < pieces; i++) {
    const name = names[(i * 5 + seed + Math.floor(i / names.length)) % names.length]!;
    await WORK[name]!(context, tell, layout, seed * 100_000 + i);
  }
  await context.close();
}

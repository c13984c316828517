/**
 * What a document is filled with at the terminal: folders, archives and files beside it or named on
 * the command line, and stored contents. Everything is known by its sum, wherever it lies.
 */
import { randomUUID } from 'node:crypto';
import { mkdir, open, realpath, rename, rm, stat } from 'node:fs/promises';
import path from 'node:path';
import { type Beside, besidesOf, type FoundBeside, withFound, withPath } from '@/core/layout/beside';
import { referredTo } from '@/core/layout/contents';
import type { Layout } from '@/core/layout/document';
import { type BlobFacts, type Contents, contentsOf } from '@/core/filesystems/supplied';
import { type Tree, treeText } from '@/core/filesystems/tree';
import { counted } from '@/core/quantity/units';
import { beginsAsArchive, type Keeper, unpackFile } from '@/files/archives';
import { writeWhole } from '@/files/durable';
import { SupplyError } from '@/files/errors';
import { bytesOf, readFolder } from '@/files/folder-tree';
import { type Kept, Sums, sumsOf, type Unpacked, type UnpackOptions } from '@/files/gathering';
import { contentsFor, factsOfFile, isStore, storedPath } from '@/files/stored';
import { Ended, EXIT } from './exit';
import { saidTime } from './fresh';
import { fileTrouble, type Io } from './io';

/** What the command line says of contents. */
export interface SupplyOptions {
  readonly contents?: string;
  /** `SLOT=PATH`, each. */
  readonly from?: readonly string[];
  /** Paths of the document may lead out of its folder. */
  readonly outside?: boolean;
  readonly leaveOut?: boolean;
}

/** Where a store lies if nobody says. */
const STORE = 'data/contents';

/** Knows contents by their sums: those that lie somewhere already, and those that had to be unpacked. */
class Found implements Keeper {
  private readonly places = new Map<string, string>();
  private isMade = false;

  /** `folder`: where unpacked contents are put; without one only their sums are taken. */
  constructor(
    private readonly folder: string | undefined,
    private readonly signal: AbortSignal,
  ) {}

  async add(body: AsyncIterable<Uint8Array>, lies?: string): Promise<Kept> {
    const sums = new Sums();
    const put = lies === undefined ? await this.putting() : undefined;
    try {
      for await (const chunk of body) {
        this.signal.throwIfAborted();
        sums.add(chunk);
        if (put) await writeWhole(put.handle, chunk);
      }
    } finally {
      await put?.handle.close();
    }
    const { kept } = sums;
    const file = put && path.join(this.folder!, kept.sha256);
    if (put) await rename(put.file, file!);
    const place = lies ?? file;
    if (place !== undefined) this.places.set(kept.sha256, place);
    return kept;
  }

  private async putting() {
    if (this.folder === undefined) return undefined;
    if (!this.isMade) await mkdir(this.folder);
    this.isMade = true;
    const file = path.join(this.folder, randomUUID());
    return { file, handle: await open(file, 'wx') };
  }

  placeOf(sha256: string): string | undefined {
    return this.places.get(sha256);
  }

  async close(): Promise<void> {
    if (this.isMade) await rm(this.folder!, { recursive: true, force: true });
  }
}

/** A layout with the paths that the command line names for slots. */
function withNamed(layout: Layout, from: readonly string[]): { layout: Layout; allowed: ReadonlySet<string> } {
  const allowed = new Set<string>();
  const named = from.reduce((one, text) => {
    const cut = text.indexOf('=');
    const id = text.slice(0, Math.max(0, cut));
    if (cut < 1 || cut === text.length - 1)
      throw new Ended(EXIT.usage, 'usage-from', `“--from ${text}” must be SLOT=PATH, as in boot=files/boot.`);
    if (!one.slots.some((slot) => slot.id === id))
      throw new Ended(EXIT.usage, 'usage-from', `There is no slot “${id}”.`, [
        `Its slots are ${one.slots.map((slot) => slot.id).join(', ')}.`,
      ]);
    const place = path.resolve(text.slice(cut + 1));
    const next = withPath(one, id, place);
    if (!next)
      throw new Ended(EXIT.usage, 'usage-from', `Slot “${id}” takes no files.`, [
        'A file system that Loess makes takes a folder, an archive or a file; a raw slot, an image and a file take a file.',
      ]);
    allowed.add(place);
    return next;
  }, layout);
  return { layout: named, allowed };
}

/** The file or folder that a path of a document leads to. */
async function leadsTo(one: Beside, folder: string, isAllowed: boolean): Promise<string> {
  const place = path.resolve(folder, one.path);
  try {
    const [real, base] = [await realpath(place), await realpath(folder)];
    const isOutside = real !== base && !real.startsWith(base === '/' ? base : `${base}/`);
    if (isOutside && !isAllowed)
      throw new Ended(
        EXIT.file,
        'path-leaves-folder',
        `${one.at}: “${one.path}” leads out of the folder of the document. Say --outside if that is meant.`,
      );
    return place;
  } catch (error) {
    throw error instanceof Ended ? error : fileTrouble(one.path, error);
  }
}

/** What makes the tree of a volume: a folder, an archive, or one file. */
async function treeAt(place: string, found: Found, options: UnpackOptions): Promise<Unpacked> {
  const facts = await stat(place);
  if (facts.isDirectory()) return readFolder(place, found, options);
  if (!facts.isFile()) throw new Ended(EXIT.file, 'not-a-file', `“${place}” is neither a file nor a folder.`);
  if (await beginsAsArchive(place)) return unpackFile(place, facts.size, found, options);
  const kept = await found.add(bytesOf(place), place);
  return { entries: [{ kind: 'file', path: path.basename(place), ...kept }], leftOut: [] };
}

function refuseOther(one: Beside, sha256: string): void {
  if (one.sha256 === undefined || one.sha256 === sha256) return;
  throw new Ended(EXIT.file, 'content-differs', `${one.at}: “${one.path}” is not what the document names.`, [
    `The document says SHA-256 ${one.sha256}; found is ${sha256}.`,
    'If what is found is meant, write its sum in: loess fill-in --renew.',
  ]);
}

/** A layout with the sums of all that it is filled with, and where all of that lies. */
export interface Supplies {
  readonly layout: Layout;
  readonly contents: Contents;
  readonly fileOf: (sha256: string) => string;
  /** What was found at each path of the document. */
  readonly found: readonly (readonly [Beside, FoundBeside])[];
  /** Deletes what had to be unpacked. */
  readonly close: () => Promise<void>;
}

export interface GatherOptions extends SupplyOptions {
  /** Folder for what has to be unpacked to be read; without it, sums alone are taken. */
  readonly unpackInto?: string;
  /** Other sums than the document says are taken, not refused. */
  readonly renews?: boolean;
}

/** Says that a store is none, where a layout needs one. */
async function lookAtStore(
  io: Io,
  layout: Layout,
  named: string | undefined,
  known: ReadonlySet<string>,
): Promise<void> {
  const { trees, blobs } = referredTo(layout);
  const needed = [...trees, ...blobs].filter((sha256) => !known.has(sha256)).length;
  const store = named ?? STORE;
  if ((named === undefined && needed === 0) || (await isStore(store))) return;
  const sentence = `“${store}” is no store of contents: contents lie in one under their SHA-256, in folders of its first two digits.`;
  if (named !== undefined) throw new Ended(EXIT.file, 'no-store', sentence);
  io.remark(`${sentence} The document names ${counted(needed, 'content')} by sums; say --contents where they lie.`);
}

/** Finds everything that a layout is filled with; `folder` is that of its document. */
export async function gather(io: Io, document: Layout, folder: string, options: GatherOptions): Promise<Supplies> {
  const { layout: named, allowed } = withNamed(document, options.from ?? []);
  const found = new Found(options.unpackInto, io.signal);
  const [trees, blobs] = [new Map<string, Tree>(), new Map<string, BlobFacts>()];
  const took: [Beside, FoundBeside][] = [];
  let layout = named;
  try {
    for (const one of besidesOf(named)) {
      const place = await leadsTo(one, folder, options.outside === true || allowed.has(one.path));
      const at = await take(io, one, place, found, options);
      if (!options.renews) refuseOther(one, at.sha256);
      if (at.tree) trees.set(at.sha256, at.tree);
      else blobs.set(at.sha256, (await factsOfFile(place, at.sha256))!);
      const here = { sha256: at.sha256, size: at.size, name: path.basename(place) };
      took.push([one, here]);
      layout = withFound(layout, one, here);
    }
    await lookAtStore(io, layout, options.contents, new Set([...trees.keys(), ...blobs.keys()]));
  } catch (error) {
    await found.close();
    throw error instanceof SupplyError ? new Ended(EXIT.file, error.code, error.message) : error;
  }
  const store = options.contents ?? STORE;
  const stored = await contentsFor(store, layout);
  const own = contentsOf(trees, blobs);
  return {
    layout,
    contents: {
      tree: (sha256) => own.tree(sha256) ?? stored.tree(sha256),
      blob: (sha256) => own.blob(sha256) ?? stored.blob(sha256),
      flaws: (sha256) => (own.tree(sha256) ? undefined : stored.flaws?.(sha256)),
    },
    fileOf: (sha256) => found.placeOf(sha256) ?? storedPath(store, sha256),
    found: took,
    close: () => found.close(),
  };
}

/** Takes in what a place of a document names. */
async function take(
  io: Io,
  one: Beside,
  place: string,
  found: Found,
  { leaveOut = false }: SupplyOptions,
): Promise<{ sha256: string; size: number; tree?: Tree }> {
  if (one.what === 'file') {
    if (!(await stat(place)).isFile())
      throw new Ended(EXIT.file, 'not-a-file', `${one.at}: “${one.path}” is no plain file; it is taken as it is.`);
    return found.add(bytesOf(place), place);
  }
  const { entries, leftOut } = await treeAt(place, found, {
    leaveOut,
    timeless: !one.times,
    latest: saidTime(),
    remedy: 'Say --leave-out, or take them away.',
  });
  for (const { path: name, why } of leftOut) io.remark(`“${one.path}”: left out: “${name}” ${why}.`);
  const readOnly = entries.filter((entry) => entry.attributes?.includes('read only')).length;
  if (readOnly > 0) io.remark(`“${one.path}”: ${counted(readOnly, 'file')} that nobody may write: marked read only.`);
  const { sha256, size } = sumsOf(Buffer.from(treeText(entries)));
  return { sha256, size, tree: entries };
}

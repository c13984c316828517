/**
 * What a document is filled with at the terminal: folders, archives and files beside it or named on
 * the command line, and stored contents. Everything is known by its sum, wherever it lies.
 */
import { realpath } from 'node:fs/promises';
import path from 'node:path';
import { type Beside, besidesOf, type FoundBeside, withFound, withPath } from '@/core/layout/beside';
import { referredTo } from '@/core/layout/contents';
import type { Layout } from '@/core/layout/document';
import { type BlobFacts, type Contents, contentsOf, NO_CONTENTS } from '@/core/filesystems/supplied';
import type { Tree } from '@/core/filesystems/tree';
import { counted } from '@/core/quantity/units';
import { Ended, EXIT } from './exit';
import { fileTrouble, type Io } from './io';
import type { GatherOptions } from './supply-options';

/** Where a store lies if nobody says. */
const STORE = 'data/contents';

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
    if (from.filter((other) => other.startsWith(`${id}=`)).length > 1)
      throw new Ended(EXIT.usage, 'usage-from', `Slot “${id}” is filled twice; say --from once for each slot.`);
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

function refuseOther(one: Beside, sha256: string): void {
  if (one.sha256 === undefined || one.sha256 === sha256) return;
  throw new Ended(EXIT.file, 'content-differs', `${one.at}: “${one.path}” is not what the document names.`, [
    `The document says SHA-256 ${one.sha256}; found is ${sha256}.`,
    'If what is found is meant, write its sum in: loess fill-in --renew.',
  ]);
}

/** What was found of what a layout is filled with. Plain data: it goes to threads. */
export interface Gathered {
  readonly layout: Layout;
  readonly trees: ReadonlyMap<string, Tree>;
  readonly blobs: ReadonlyMap<string, BlobFacts>;
  /** Where contents lie that are not in the store. */
  readonly places: ReadonlyMap<string, string>;
  readonly store: string;
}

/** What a layout is filled with, and where that lies. */
export interface Filling {
  readonly contents: Contents;
  readonly fileOf: (sha256: string) => string;
}

/** A layout with the sums of all that it is filled with, and where all of that lies. */
export interface Supplies extends Filling {
  readonly layout: Layout;
  readonly gathered: Gathered;
  /** What was found at each path of the document. */
  readonly found: readonly (readonly [Beside, FoundBeside])[];
  /** Deletes what had to be unpacked. */
  readonly close: () => Promise<void>;
}

/** The sums that a layout says, and that nothing was found for yet. */
function neededOf(layout: Layout, known: Pick<Gathered, 'trees' | 'blobs'>): string[] {
  const { trees, blobs } = referredTo(layout);
  return [...trees.filter((one) => !known.trees.has(one)), ...blobs.filter((one) => !known.blobs.has(one))];
}

/** Says that a store is none, where a layout needs one. */
async function lookAtStore(io: Io, needed: number, named: string | undefined): Promise<void> {
  const store = named ?? STORE;
  if (named === undefined && needed === 0) return;
  // The half of the program that knows stores is not small: it is loaded where there is something to know.
  if (await import('@/files/stored').then((one) => one.isStore(store))) return;
  const sentence = `“${store}” is no store of contents: contents lie in one under their SHA-256, in folders of its first two digits.`;
  if (named !== undefined) throw new Ended(EXIT.file, 'no-store', sentence);
  io.remark(`${sentence} The document names ${counted(needed, 'content')} by sums; say --contents where they lie.`);
}

/** Finds everything that a layout is filled with; `folder` is that of its document. */
export async function gather(io: Io, document: Layout, folder: string, options: GatherOptions): Promise<Supplies> {
  const { layout: named, allowed } = withNamed(document, options.from ?? []);
  const besides = besidesOf(named);
  // Likewise what reads folders and archives.
  const found = besides.length > 0 ? await import('./found').then((one) => new one.Found(io, options)) : undefined;
  const [trees, blobs] = [new Map<string, Tree>(), new Map<string, BlobFacts>()];
  const took: [Beside, FoundBeside][] = [];
  let layout = named;
  try {
    for (const one of besides) {
      const place = await leadsTo(one, folder, options.outside === true || allowed.has(one.path));
      const at = await found!.take(one, place);
      if (!options.renews) refuseOther(one, at.sha256);
      if (at.tree) trees.set(at.sha256, at.tree);
      if (at.facts) blobs.set(at.sha256, at.facts);
      const here = { sha256: at.sha256, size: at.size, name: path.basename(place) };
      took.push([one, here]);
      layout = withFound(layout, one, here);
    }
    await lookAtStore(io, neededOf(layout, { trees, blobs }).length, options.contents);
  } catch (error) {
    await found?.close();
    throw error;
  }
  const places = found?.places ?? new Map<string, string>();
  const gathered = { layout, trees, blobs, places, store: options.contents ?? STORE };
  return { layout, gathered, ...(await suppliesOf(gathered)), found: took, close: async () => found?.close() };
}

/** Contents as they were gathered, those of the store among them. */
export async function suppliesOf(gathered: Gathered): Promise<Filling> {
  const { layout, trees, blobs, places, store } = gathered;
  const isAll = neededOf(layout, gathered).length === 0;
  const files = isAll ? undefined : await import('@/files/stored');
  const stored = files ? await files.contentsFor(store, layout) : NO_CONTENTS;
  const fileOf = (sha256: string) => places.get(sha256) ?? files!.storedPath(store, sha256);
  const texts = new Map<string, string>();
  if (trees.size > 0) {
    const { namingTexts } = await import('@/files/naming-texts');
    for (const tree of trees.values())
      for (const [name, text] of await namingTexts(tree, fileOf)) texts.set(name, text);
  }
  const own = contentsOf(trees, blobs, new Map(), texts);
  return {
    contents: {
      tree: (sha256) => own.tree(sha256) ?? stored.tree(sha256),
      blob: (sha256) => own.blob(sha256) ?? stored.blob(sha256),
      flaws: (sha256) => (own.tree(sha256) ? undefined : stored.flaws?.(sha256)),
      text: (sha256) => own.text?.(sha256) ?? stored.text?.(sha256),
    },
    fileOf,
  };
}

/**
 * Folders as trees: every file below one, in one order wherever it lies. Who owns what, in which
 * order the system lists it and where the clock stands leave no trace.
 */
import { createReadStream, type Dirent } from 'node:fs';
import { lstat, readdir } from 'node:fs/promises';
import path from 'node:path';
import { MIB } from '@/core/quantity/units';
import type { Keeper } from './archives';
import { Gathering, NOT_STORED, type Unpacked, type UnpackOptions } from './gathering';

function whyNot(entry: Dirent): string | undefined {
  if (entry.isFile() || entry.isDirectory()) return undefined;
  if (entry.isSymbolicLink()) return NOT_STORED.link;
  if (entry.isFIFO()) return NOT_STORED.pipe;
  return entry.isSocket() ? 'is a socket' : NOT_STORED.device;
}

/** The bytes of a file, in pieces. */
export function bytesOf(file: string): AsyncIterable<Uint8Array> {
  return createReadStream(/* turbopackIgnore: true */ file, { highWaterMark: MIB });
}

async function gather(folder: string, above: string, gathering: Gathering, keeper: Keeper): Promise<void> {
  const entries = await readdir(/* turbopackIgnore: true */ folder, { withFileTypes: true });
  for (const entry of entries.sort((a, b) => (a.name < b.name ? -1 : 1))) {
    const name = above === '' ? entry.name : `${above}/${entry.name}`;
    const path_ = gathering.path(name, entry.isDirectory(), whyNot(entry));
    if (path_ === undefined) continue;
    const file = path.join(folder, entry.name);
    const { mtimeMs, mode } = await lstat(file);
    const facts = { path: path_, time: Math.floor(mtimeMs / 1000), mode };
    if (entry.isDirectory()) {
      gathering.folder(facts);
      await gather(file, path_, gathering, keeper);
    } else gathering.file(facts, await keeper.add(bytesOf(file), file));
  }
}

/** Every file and folder below a folder, ascending by their names. */
export async function readFolder(folder: string, keeper: Keeper, options: UnpackOptions): Promise<Unpacked> {
  const gathering = new Gathering(options);
  await gather(folder, '', gathering, keeper);
  return gathering.done();
}

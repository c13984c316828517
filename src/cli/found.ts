/** Looking at what a document names by paths: folders, archives and files, each known by its sum. */
import { randomUUID } from 'node:crypto';
import { mkdir, open, rename, rm, stat } from 'node:fs/promises';
import path from 'node:path';
import type { Beside } from '@/core/layout/beside';
import { type Tree } from '@/core/filesystems/tree';
import { treeText } from '@/core/filesystems/tree-text';
import type { BlobFacts } from '@/core/filesystems/supplied';
import { counted } from '@/core/quantity/units';
import { beginsAsArchive, type Keeper, unpackFile } from '@/files/archives';
import { writeWhole } from '@/files/durable';
import { SupplyError } from '@/files/errors';
import { bytesOf, readFolder } from '@/files/folder-tree';
import { type Kept, Sums, sumsOf, type Unpacked, type UnpackOptions } from '@/files/gathering';
import { factsOfFile } from '@/files/stored';
import { Ended, EXIT } from './exit';
import { saidTime } from './fresh';
import { fileTrouble, type Io } from './io';
import type { GatherOptions } from './supply-options';

/** What was taken in at a place of a document. */
interface Taken {
  readonly sha256: string;
  readonly size: number;
  readonly tree?: Tree;
  readonly facts?: BlobFacts;
}

/** Knows contents by their sums: those that lie somewhere already, and those that had to be unpacked. */
export class Found implements Keeper {
  readonly places = new Map<string, string>();
  private isMade = false;

  constructor(
    private readonly io: Io,
    private readonly options: GatherOptions,
  ) {}

  /** Where unpacked contents are put; without it only their sums are taken. */
  private get folder(): string | undefined {
    return this.options.unpackInto;
  }

  /** Takes in what a place of a document names. Ends the program where it cannot be taken. */
  async take(one: Beside, place: string): Promise<Taken> {
    try {
      return one.what === 'file' ? await this.takeFile(one, place) : await this.takeTree(one, place);
    } catch (error) {
      if (error instanceof SupplyError) throw new Ended(EXIT.file, error.code, `“${one.path}”: ${error.message}`);
      const { code, path: file } = error as NodeJS.ErrnoException;
      // What the system refuses is said of the file that it is about.
      throw code !== undefined && !(error instanceof Ended) ? fileTrouble(file ?? one.path, error) : error;
    }
  }

  private async takeFile(one: Beside, place: string): Promise<Taken> {
    if (!(await stat(place)).isFile())
      throw new Ended(EXIT.file, 'not-a-file', `${one.at}: “${one.path}” is no plain file; it is taken as it is.`);
    const kept = await this.add(bytesOf(place), place);
    return { ...kept, facts: (await factsOfFile(place, kept.sha256))! };
  }

  private async takeTree(one: Beside, place: string): Promise<Taken> {
    const { entries, leftOut } = await treeAt(place, this, {
      leaveOut: this.options.leaveOut === true,
      timeless: !one.times,
      keepsAll: one.keepsAll,
      latest: saidTime(),
      remedy: 'Say --leave-out, or take them away.',
    });
    for (const { path: name, why, isFact } of leftOut)
      this.io.remark(`“${one.path}”: ${isFact ? '' : 'left out: '}“${name}” ${why}.`);
    const readOnly = entries.filter((entry) => entry.attributes?.includes('read only')).length;
    // A file system that keeps modes keeps these too.
    if (readOnly > 0 && !one.keepsAll)
      this.io.remark(`“${one.path}”: ${counted(readOnly, 'file')} that nobody may write: marked read only.`);
    const { sha256, size } = sumsOf(Buffer.from(treeText(entries)));
    return { sha256, size, tree: entries };
  }

  async add(body: AsyncIterable<Uint8Array>, lies?: string): Promise<Kept> {
    const sums = new Sums();
    const put = lies === undefined ? await this.putting() : undefined;
    try {
      for await (const chunk of body) {
        this.io.signal.throwIfAborted();
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

  async close(): Promise<void> {
    if (this.isMade) await rm(this.folder!, { recursive: true, force: true });
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

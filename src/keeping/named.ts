/**
 * Which contents the revisions name, and what keeps that from being known for certain. Nothing
 * may be taken away while there is a doubt: a document or a list of files that cannot be read
 * could name anything.
 */
import { stat } from 'node:fs/promises';
import path from 'node:path';
import { storedOf, type Tree } from '@/core/filesystems/tree';
import { referredTo } from '@/core/layout/contents';
import { readLayout } from '@/core/layout/validate';
import { type DataFolder, daysIn } from '../files/data-folder';
import { ifThere } from '../files/system-errors';
import { readStoredTree, storedPath } from '../files/stored';
import type { StoredRevision } from './keeping';

/** Why it is not known what is named: `damaged` cannot be read, `missing` is not there. */
export interface Doubt {
  readonly kind: 'damaged' | 'missing';
  readonly about: 'revision' | 'content';
  readonly layoutId: string;
  readonly sentence: string;
}

export interface Named {
  /** Every content that a revision names, and the layouts that do. */
  readonly users: ReadonlyMap<string, ReadonlySet<string>>;
  readonly doubts: readonly Doubt[];
  /** How many revisions were read. */
  readonly revisions: number;
}

/** Collects who uses what; every tree is read once, from the disk. */
class Collector {
  readonly users = new Map<string, Set<string>>();
  readonly doubts: Doubt[] = [];
  revisions = 0;
  private readonly trees = new Map<string, Tree | 'damaged' | 'missing'>();
  private readonly told = new Set<string>();

  constructor(
    private readonly folder: DataFolder,
    private readonly days: readonly string[],
  ) {}

  private get store(): string {
    return this.folder.store;
  }

  private use(sha256: string, layoutId: string): void {
    const users = this.users.get(sha256);
    if (users) users.add(layoutId);
    else this.users.set(sha256, new Set([layoutId]));
  }

  private doubt(doubt: Doubt): void {
    if (!this.told.has(doubt.sentence)) this.doubts.push(doubt);
    this.told.add(doubt.sentence);
  }

  private async isThere(sha256: string): Promise<boolean> {
    return (await ifThere(stat(storedPath(this.store, sha256)))) !== undefined;
  }

  /** Whether it was found damaged: what it named is not known, but it named something. */
  private async isQuarantined(sha256: string): Promise<boolean> {
    for (const day of this.days)
      if (await ifThere(stat(path.join(/* turbopackIgnore: true */ this.folder.quarantine, day, sha256)))) return true;
    return false;
  }

  private async treeOf(sha256: string): Promise<Tree | 'damaged' | 'missing'> {
    const known = this.trees.get(sha256);
    if (known) return known;
    const isHere = async () => (await this.isThere(sha256)) || (await this.isQuarantined(sha256));
    const read = (await readStoredTree(this.store, sha256)) ?? ((await isHere()) ? 'damaged' : 'missing');
    this.trees.set(sha256, read);
    return read;
  }

  async add({ layoutId, number, document }: StoredRevision): Promise<void> {
    this.revisions += 1;
    const read = readLayout(document);
    if (!read.ok) {
      const { path, message } = read.error[0]!;
      const sentence = `Revision ${number} of “${layoutId}” cannot be read: ${path || 'the document'} ${message}.`;
      return this.doubt({ kind: 'damaged', about: 'revision', layoutId, sentence });
    }
    const { trees, blobs } = referredTo(read.value);
    for (const sha256 of blobs) {
      this.use(sha256, layoutId);
      const sentence = `A file that “${layoutId}” names is not stored: ${sha256.slice(0, 12)}….`;
      if (!(await this.isThere(sha256))) this.doubt({ kind: 'missing', about: 'content', layoutId, sentence });
    }
    for (const sha256 of trees) {
      this.use(sha256, layoutId);
      const tree = await this.treeOf(sha256);
      if (typeof tree !== 'string') for (const { sha256: one } of storedOf(tree)) this.use(one, layoutId);
      else {
        const how = tree === 'missing' ? 'is not stored' : 'is damaged';
        const sentence = `The list of files ${sha256.slice(0, 12)}… that “${layoutId}” names ${how}.`;
        this.doubt({ kind: tree, about: 'content', layoutId, sentence });
      }
    }
  }
}

/** What all these revisions name. Rejects where the system cannot read. */
export async function namedBy(revisions: AsyncIterable<StoredRevision>, folder: DataFolder): Promise<Named> {
  const collector = new Collector(folder, await daysIn(folder.quarantine));
  for await (const revision of revisions) await collector.add(revision);
  return collector;
}

/**
 * Looking whether everything that is kept is what it was: each stored file against its sum, each
 * revision against the schema, each image against its report, and the database. What is damaged
 * is named with the layouts that need it and, if asked for, put into quarantine; nothing is deleted.
 */
import { createHash } from 'node:crypto';
import { stat } from 'node:fs/promises';
import path from 'node:path';
import type { BuildReport } from '@/contract/builds';
import type { CheckReport, Damage } from '@/contract/keeping';
import { MIB } from '@/core/quantity/units';
import { type DataFolder, dayOf, imagePath } from '../files/data-folder';
import { makeFolder, moveFile } from '../files/durable';
import { NotPlain, plainBytes } from '../files/plain-file';
import { ifThere } from '../files/system-errors';
import { forgetTrees, isSound, type StoredFile, storedFiles } from '../files/stored';
import { damagesIn } from './database';
import { type Rows, storedRevisions } from './keeping';
import { type Named, namedBy } from './named';

export interface CheckJob {
  readonly folder: DataFolder;
  readonly rows: Rows;
  readonly now: () => string;
  readonly signal: AbortSignal;
  readonly onProgress: (phase: string, done: number, total: number) => void;
  /** Whether what is damaged goes into quarantine; only who holds the folder's lock may say so. */
  readonly quarantines: boolean;
}

/** An image that a build made. */
interface BuiltImage {
  readonly id: string;
  readonly layoutId: string;
  readonly name: string;
  readonly size: number;
  readonly report: string | null;
  readonly digest: string | null;
}

async function builtImages(rows: Rows): Promise<BuiltImage[]> {
  const { rows: found } = await rows.execute(
    "SELECT id, layout_id, name, size, report, CASE digest_state WHEN 'done' THEN digest END FROM builds WHERE state = 'done'",
  );
  const text = (value: unknown) => (value === null ? null : String(value));
  return found.map((row) => ({
    id: String(row[0]),
    layoutId: String(row[1]),
    name: String(row[2]),
    size: Number(row[3]),
    report: text(row[4]),
    digest: text(row[5]),
  }));
}

/** SHA-256 of bytes of a file; `end` is exclusive. */
async function sumOf(
  file: string,
  range: { start: number; end: number },
  signal: AbortSignal,
  onRead: (bytes: number) => void,
): Promise<string> {
  const hash = createHash('sha256');
  if (range.end === range.start) return hash.digest('hex');
  const { start, end } = range;
  for await (const chunk of plainBytes(file, { start, end: end - 1, highWaterMark: MIB, signal })) {
    hash.update(chunk);
    onRead(chunk.length);
  }
  return hash.digest('hex');
}

/** Moves a file into the quarantine of today, under its name; false where that lies on another disk, so that it stays. */
async function quarantine(folder: DataFolder, file: string, now: string): Promise<boolean> {
  const day = path.join(/* turbopackIgnore: true */ folder.quarantine, dayOf(now));
  await makeFolder(day);
  try {
    await moveFile(file, path.join(day, path.basename(file)));
    return true;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'EXDEV') return false;
    throw error;
  }
}

/** SHA-256 of no bytes: an empty file needs not be stored. */
const OF_NOTHING = 'e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855';

/** What is wrong with a stored file, in words; undefined where it is sound, or gone since it was listed. */
async function storedTrouble({ file, sha256 }: StoredFile, signal: AbortSignal): Promise<string | undefined> {
  try {
    return (await isSound(file, sha256, signal)) ? undefined : 'has another sum than its name says';
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'ENOENT') return undefined;
    if (error instanceof NotPlain) return `is ${error.what}, and no file`;
    // Any other refusal says nothing about the file.
    if (code !== 'EIO' || signal.aborted) throw error;
    return 'cannot be read: the disk says that it is faulty there (EIO)';
  }
}

/** A damaged file, and how to look at it once more. */
interface DamagedFile {
  readonly file: string;
  readonly isDamaged: () => Promise<unknown>;
}

const GONE = 'is not there any more';

/** One check while it runs. */
class Check {
  readonly damages: Damage[] = [];
  private readonly damagedFiles: DamagedFile[] = [];
  private contents = 0;
  private bytes = 0;

  constructor(private readonly job: CheckJob) {}

  private damage(
    kind: Damage['kind'],
    what: string,
    sentence: string,
    layouts: Iterable<string> = [],
    file?: DamagedFile,
  ): void {
    this.damages.push({ kind, what, sentence, layouts: [...layouts].sort() });
    if (file) this.damagedFiles.push(file);
  }

  private report(phase: string, done: number, total: number): void {
    this.job.signal.throwIfAborted();
    this.job.onProgress(phase, done, total);
  }

  /** The database, and what its revisions name. */
  async database(): Promise<Named> {
    this.report('database', 0, 0);
    for (const line of await damagesIn(this.job.rows))
      this.damage('database', 'loess.db', `SQLite says of the database: ${line.replace(/\.$/, '')}.`);
    const named = await namedBy(storedRevisions(this.job.rows), this.job.folder);
    // Contents that are missing or damaged are found, and named, among the stored files.
    for (const { about, layoutId, sentence } of named.doubts)
      if (about === 'revision') this.damage('revision', layoutId, sentence, [layoutId]);
    return named;
  }

  async stored({ users }: Named): Promise<void> {
    const { folder, signal } = this.job;
    const files = [];
    for await (const one of storedFiles(folder.store)) files.push(one);
    const total = files.reduce((sum, { size }) => sum + size, 0);
    for (const one of files) {
      this.report('contents', this.bytes, total);
      const trouble = await storedTrouble(one, signal);
      const { sha256, file, size } = one;
      const sentence = `A stored file of ${size} bytes ${trouble}.`;
      if (trouble)
        this.damage('content', sha256, sentence, users.get(sha256), {
          file,
          isDamaged: () => storedTrouble(one, signal),
        });
      this.contents += 1;
      this.bytes += size;
    }
    const stored = new Set(files.map(({ sha256 }) => sha256));
    for (const [sha256, layouts] of users)
      if (!stored.has(sha256) && sha256 !== OF_NOTHING)
        this.damage(
          'missing',
          sha256,
          'A file that is named is not stored. Bring it among the contents again.',
          layouts,
        );
    this.report('contents', total, total);
  }

  /** How an image differs from its report; undefined where it does not. */
  private async imageTrouble(image: BuiltImage, onRead: (bytes: number) => void): Promise<string | undefined> {
    const file = imagePath(this.job.folder, image.id);
    const found = await ifThere(stat(/* turbopackIgnore: true */ file));
    if (!found) return GONE;
    if (found.size !== image.size) return `has ${found.size} bytes; ${image.size} were built`;
    const whole = { start: 0, end: image.size };
    if (image.digest !== null)
      return (await sumOf(file, whole, this.job.signal, onRead)) === image.digest ? undefined : 'has another SHA-256';
    let report: BuildReport;
    try {
      report = JSON.parse(image.report ?? '') as BuildReport;
    } catch {
      return 'has a report that cannot be read';
    }
    for (const { what, offset, length, sha256 } of report.ranges) {
      if (sha256 === undefined) continue;
      const sum = await sumOf(file, { start: offset, end: offset + length }, this.job.signal, onRead);
      if (sum !== sha256) return `differs in “${what}” at byte ${offset}`;
    }
    return undefined;
  }

  async images(): Promise<number> {
    // A backup has no images.
    const hasImages = await ifThere(stat(/* turbopackIgnore: true */ this.job.folder.builds));
    const images = hasImages ? await builtImages(this.job.rows) : [];
    const total = images.reduce((sum, { size }) => sum + size, 0);
    let done = 0;
    for (const image of images) {
      const look = () => this.imageTrouble(image, () => this.job.signal.throwIfAborted());
      this.report('images', done, total);
      done += image.size;
      const trouble = await look();
      if (!trouble) continue;
      const file = imagePath(this.job.folder, image.id);
      const sentence = `The image “${image.name}” ${trouble}. It can be built again.`;
      const isThere = trouble !== GONE;
      this.damage(
        isThere ? 'image' : 'missing',
        image.name,
        sentence,
        [image.layoutId],
        isThere ? { file, isDamaged: look } : undefined,
      );
    }
    this.report('images', total, total);
    return images.length;
  }

  async ended(named: Named, images: number): Promise<CheckReport> {
    const quarantined = this.job.quarantines ? await this.quarantine() : 0;
    const { contents, bytes, damages } = this;
    return { checkedAt: this.job.now(), revisions: named.revisions, contents, bytes, images, damages, quarantined };
  }

  /** Moves what is still damaged: a content may have come again meanwhile. */
  private async quarantine(): Promise<number> {
    let moved = 0;
    for (const { file, isDamaged } of this.damagedFiles)
      if ((await isDamaged()) && (await quarantine(this.job.folder, file, this.job.now()))) moved += 1;
    if (moved > 0) forgetTrees();
    return moved;
  }
}

/** Checks everything. Rejects with the abort reason, or where the system cannot list the folder. */
export async function checkFolder(job: CheckJob): Promise<CheckReport> {
  const check = new Check(job);
  const named = await check.database();
  await check.stored(named);
  const images = await check.images();
  return check.ended(named, images);
}

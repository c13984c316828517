/**
 * Repacked ext volumes before a real kernel: it mounts them without a word, shows every fact as our view of the volume that they
 * were made of, fills them to the last block, and our checker finds no fault afterwards.
 */
import { readFileSync, rmSync } from 'node:fs';
import { BookExt, NotInTheBook } from '@tests/ext-by-the-book';
import { type CheckedEntry, checkExt } from '@/core/filesystems/ext/check/check';
import { type Ordered, orderRepack } from '@/core/filesystems/ext/repack/order';
import { minimaOf, type Numbering, repackable, repacked } from '@/core/filesystems/ext/repack/repack';
import { settled } from '@/core/filesystems/ext/replay/replay';
import { MIB } from '@/core/quantity/units';
import { writeRepacked } from '@/files/repacked-image';
import { TROUBLE } from './ext-run';
import { entriesAmiss, unsealedIn, withSource } from './ext-seen';
import { lookAt, type SeenPartition } from './guest';

/** A volume in a file of its own; `way` says into which length it is repacked, and how its inodes are numbered. */
export interface RepackCase {
  readonly cut: string;
  readonly size: number;
  readonly way: number;
}

/** Bytes of the largest volume that is held in memory for the second reader. */
const BOOK_LIMIT = 512 * MIB;

const FOLDER = 0x4000;

const NOTHING_REPLAYED = { shortened: 0 };

/** The bytes that a way asks for: the fewest, hardly more, much more than there were, or in between. */
function bytesOf(way: number, least: number, block: number, size: number): number {
  const kinds = [least, least + 37 * block, 2 * size + 5 * block + 512, Math.floor((least + size) / 2)];
  return kinds[way % kinds.length]!;
}

/** Entries without some of them: a folder has a link less for each folder in it that is gone. */
function without(entries: readonly CheckedEntry[], gone: ReadonlySet<string>): CheckedEntry[] {
  const fewer = new Map<string, number>();
  for (const { path, inode } of entries) {
    if (!gone.has(path) || inode.kind !== FOLDER) continue;
    const above = path.slice(0, Math.max(0, path.lastIndexOf('/')));
    fewer.set(above, (fewer.get(above) ?? 0) + 1);
  }
  return entries
    .filter(({ path }) => !gone.has(path))
    .map((entry) => {
      const links = entry.inode.links - (fewer.get(entry.path) ?? 0);
      return { ...entry, inode: { ...entry.inode, links } };
    });
}

interface Made {
  readonly file: string;
  readonly bytes: number;
  readonly amiss: string[];
  /** Paths that did not go along. */
  readonly leftOut: readonly string[];
}

/** Writes the repacked volume beside the other one; what is amiss before a kernel sees it. */
async function made({ cut, size, way }: RepackCase): Promise<Made> {
  const file = `${cut}.packed`;
  const numbering: Numbering = way % 3 === 0 ? 'kept' : 'renumbered';
  const refused = (why: string) => ({ file, bytes: 0, amiss: [why], leftOut: [] });
  return withSource(cut, size, async (source) => {
    const volume = await repackable(source, 0);
    if (!volume.ok) return refused(volume.error);
    const minima = minimaOf(volume.value);
    const least = minima[numbering]!;
    const short = await repacked(volume.value, least - minima.block, numbering);
    const wish = { bytes: bytesOf(way, least, minima.block, size), numbering };
    let order = await orderRepack(source, 0, size, wish);
    if (!order.ok) return refused(order.error.why);
    const unsound = await order.value.sound();
    if (unsound) {
      if (!unsealedIn(unsound.faults)) return refused(`${unsound.why}: ${JSON.stringify(unsound.faults)}`);
      order = await orderRepack(source, 0, size, { ...wish, withoutFaulty: true });
      if (!order.ok) return refused(order.error.why);
    }
    await write(cut, file, order.value);
    const { bytes, leftOut } = order.value;
    return {
      ...{ file, bytes, leftOut },
      amiss: [
        ...(short.ok ? ['one block less than the minimum was made'] : []),
        ...(way % 4 === 0 && bytes !== least ? [`${bytes} bytes, not the least`] : []),
      ],
    };
  });
}

async function write(from: string, path: string, order: Ordered): Promise<void> {
  rmSync(path, { force: true });
  await writeRepacked({
    ...{ from, path, order, temporary: `${path}.part`, isNew: true },
    signal: new AbortController().signal,
    onProgress: () => undefined,
  });
}

function factsAmiss({ facts }: SeenPartition): string[] {
  const amiss: string[] = [];
  const same = (name: string, meant: string | undefined) => {
    if (facts[name] !== meant) amiss.push(`${name}: ${facts[name]}, and should be ${meant}`);
  };
  same('mounted', 'yes');
  same('remounted', 'yes');
  for (const name of ['unreadable', 'wrongtype', 'unmounted']) same(name, undefined);
  // Where not even a name more has room, it was full before.
  if (facts.full !== 'no 28') {
    same('full', 'yes');
    same('full-available', '0');
  }
  same('again-still', facts['new-still']);
  return amiss;
}

/** What a second reader, which knows nothing of ours, finds wrong in what the kernel left; of volumes that it reads. */
function wrongByTheBook(file: string, bytes: number): string[] {
  if (bytes > BOOK_LIMIT) return [];
  try {
    return new BookExt(readFileSync(file)).wrong.slice(0, 3).map((one) => `by the book: ${one}`);
  } catch (error) {
    if (error instanceof NotInTheBook) return [];
    throw error;
  }
}

/** Repacks volumes, lets a kernel look at them and fill them, and says of each what is amiss. */
export async function runRepacked(cases: readonly RepackCase[]): Promise<string[][]> {
  const all = [];
  for (const one of cases) all.push({ ...one, ...(await made(one)) });
  const ready = all.filter(({ bytes }) => bytes > 0);
  const { disks, log } = await lookAt(
    ready.map(({ file }) => ({ file, sectorSize: 512 as const, keeps: true, work: 'lf' })),
  );
  const trouble = log.filter((line) => TROUBLE.test(line));
  for (const [i, { cut, size, file, bytes, amiss, leftOut }] of ready.entries()) {
    const seen = disks[i]?.partitions[0];
    if (!seen) {
      amiss.push('the kernel did not see it');
      continue;
    }
    const device = `vd${String.fromCharCode('a'.charCodeAt(0) + i)}`;
    amiss.push(
      ...trouble.filter((line) => line.includes(`(${device})`) || line.includes(`${device}-`)).slice(0, 3),
      ...factsAmiss(seen),
    );
    await withSource(cut, size, async (source) => {
      const found = await settled(source, 0);
      if (!found || 'refused' in found) return;
      const { entries } = await checkExt(found.view, 0, size);
      const there = without(entries, new Set(leftOut));
      amiss.push(...(await entriesAmiss(found.view, found.inodes.head.block, there, seen, NOTHING_REPLAYED)));
    });
    await withSource(file, bytes, async (source) => {
      const { faults } = await checkExt(source, 0, bytes);
      amiss.push(...faults.slice(0, 3).map(({ code, where, says }) => `afterwards: ${code}, ${where}: ${says}`));
    });
    amiss.push(...wrongByTheBook(file, bytes));
    rmSync(file);
  }
  return all.map(({ amiss }) => amiss);
}

/** Runs ext volumes through a real kernel: made over noise, mounted, used, filled, grown, and checked afterwards. */
import { mkdtempSync, rmSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { type ExtWish, makeExt, type MadeExt } from '@tests/ext';
import type { Shelf } from '@tests/filled';
import type { BlockSource } from '@/core/bytes/blocks';
import { textOfBytes } from '@/core/bytes/utf8';
import { type CheckedEntry, checkExt } from '@/core/filesystems/ext/check/check';
import { openExt } from '@/core/filesystems/ext/read/browse';
import { walk } from '@/core/filesystems/volume';
import type { Tree } from '@/core/filesystems/tree';
import { fileSource } from '@/files/file-source';
import { digestOf, layExt, linesOf, roomOfExt } from './ext';
import { type GuestDisk, lookAt } from './guest';

/** A volume, what is in it, and what the guest does to it (as `ext-look.c` says). */
export interface ExtCase {
  readonly wish: ExtWish;
  readonly tree: Tree;
  readonly work: string;
  /** Bytes of the device, where it is larger than the volume. */
  readonly device?: number;
}

/** What differs between what the kernel said and what was meant; empty where all is as it should be. */
export interface ExtVerdict {
  readonly name: string;
  readonly amiss: readonly string[];
}

/** Disks that one guest looks at. */
const TOGETHER = 12;

/** Words of a kernel's log that tell of trouble. */
export const TROUBLE =
  /(?:EXT4|JBD2|ext4|jbd2).*(?:error|warn|corrupt|invalid|bad|fail|inconsisten|checksum|orphan|recover)/i;

function factsAmiss(one: ExtCase, made: MadeExt, facts: Readonly<Record<string, string>>, shelf: Shelf): string[] {
  const { tree, work, wish } = one;
  const amiss: string[] = [];
  const same = (name: string, found: string | undefined, meant: string | undefined) => {
    if (found !== meant) amiss.push(`${name}: ${found}, and should be ${meant}`);
  };
  const meant = digestOf(linesOf(made, tree, shelf));
  same('mounted', facts.mounted, 'yes');
  // Whoever looks at it tells an ext3 by its journal.
  same('type', facts.TYPE, wish.version === 'ext3' && made.geometry.journalBlocks === 0 ? 'ext2' : wish.version);
  same('entries', facts['new-entries'], meant.entries);
  same('facts of all entries', facts['new-sum'], meant.sum);
  same('facts of all entries after use', facts['again-still'], meant.still);
  for (const [name, value] of Object.entries(roomOfExt(made))) same(name, facts[`new-${name}`], value);
  same('mounted again', facts.remounted, 'yes');
  for (const name of ['misused', 'unreadable', 'wrongtype', 'unmounted']) same(name, facts[name], undefined);
  if (work.includes('f')) {
    same('full', facts.full, 'yes');
    same('nothing left', facts['full-available'], '0');
  }
  if (work.includes('i')) {
    same('inodes full', facts.inodesfull, 'yes');
    same('no inode left', facts['inodesfull-freeinodes'], '0');
  }
  if (work.includes('g')) {
    same('grown', facts.grown?.split(' ')[0], 'yes');
    const { growsTo, block } = made.geometry;
    const blocks = Math.floor(one.device! / block);
    if (growsTo < blocks) amiss.push(`it was promised to grow to ${growsTo} blocks only, not to ${blocks}`);
    const added = Number(facts['grown-blocks']) - Number(facts['new-blocks']);
    // Of what was added, a twentieth at most goes into structures.
    if (!(added > 0.9 * (blocks - made.geometry.blocks))) amiss.push(`it grew by ${added} blocks only`);
  }
  return amiss;
}

/** What an inode is, as the reader that people browse with says it. */
const WORDS: Readonly<Record<number, string>> = {
  0x1000: 'pipe',
  0x2000: 'character device',
  0x4000: 'folder',
  0x6000: 'block device',
  0x8000: 'file',
  0xa000: 'link',
  0xc000: 'socket',
};

/** Holds the reader that people browse with against the checker: every name, kind, size and target, and that each file can be read. */
async function readAmiss(source: BlockSource, entries: readonly CheckedEntry[]): Promise<string[]> {
  const volume = await openExt(source, 0);
  if (!volume) return ['it cannot be browsed'];
  const amiss: string[] = [];
  const found = new Set<string>();
  for await (const { path: at, entry } of walk(volume, (where, what) => amiss.push(`${where}: ${what}`))) {
    const word = entry.folder ? 'folder' : (entry.special ?? 'file');
    found.add(`${at} ${word} ${word === 'file' ? entry.size : ''} ${entry.target ?? ''}`);
    if (word !== 'file') continue;
    let length = 0;
    for await (const piece of volume.pieces(entry)) length += piece.length;
    if (length !== entry.size) amiss.push(`${at}: ${length} of ${entry.size} bytes`);
  }
  const meant = entries
    .filter(({ path: at }) => at !== '')
    .map(({ path: at, inode: { kind, size }, target }) => {
      const word = WORDS[kind]!;
      return `${at} ${word} ${word === 'file' ? size : ''} ${target ? textOfBytes(target) : ''}`;
    });
  const missing = meant.filter((line) => !found.has(line));
  if (missing.length > 0 || found.size !== meant.length)
    amiss.push(`browsed: ${found.size} entries, checked: ${meant.length}; ${missing.slice(0, 2).join('; ')}`);
  return amiss.slice(0, 4);
}

async function checkedAmiss(file: string, size: number): Promise<string[]> {
  const handle = await open(file, 'r');
  try {
    const source = fileSource(handle, size);
    const { faults, entries } = await checkExt(source, 0, size);
    const wrong = faults.slice(0, 3).map(({ code, where, says }) => `check: ${code}, ${where}: ${says}`);
    return [...wrong, ...(await readAmiss(source, entries))];
  } finally {
    await handle.close();
  }
}

/** Makes the volumes, lets a kernel work on them, and says of each what is amiss. */
export async function runExt(
  cases: readonly ExtCase[],
  shelf: Shelf,
  onBatch?: (done: number, wrong: readonly ExtVerdict[]) => void,
): Promise<ExtVerdict[]> {
  const verdicts: ExtVerdict[] = [];
  for (let from = 0; from < cases.length; from += TOGETHER) {
    const folder = mkdtempSync(path.join(tmpdir(), 'loess-ext-'));
    try {
      verdicts.push(...(await runTogether(cases.slice(from, from + TOGETHER), shelf, folder)));
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
    onBatch?.(
      verdicts.length,
      verdicts.slice(from).filter(({ amiss }) => amiss.length > 0),
    );
  }
  return verdicts;
}

async function runTogether(cases: readonly ExtCase[], shelf: Shelf, folder: string): Promise<ExtVerdict[]> {
  const laid = cases.map((one, i) => {
    const file = path.join(folder, `${i}.img`);
    const made = makeExt(one.wish, one.tree);
    const size = one.device ?? one.wish.bytes;
    if (typeof made !== 'string') layExt(file, size, made.ranges, shelf);
    return { one, made, file, size };
  });
  const ready = laid.filter((each): each is typeof each & { made: MadeExt } => typeof each.made !== 'string');
  const before = await Promise.all(ready.map(({ file, size }) => checkedAmiss(file, size)));
  const disks = ready.map(({ one, file }): GuestDisk => ({
    file,
    sectorSize: one.wish.sectorSize ?? 512,
    keeps: true,
    work: one.work,
  }));
  const report = await lookAt(disks);
  const trouble = report.log.filter((line) => TROUBLE.test(line));
  const verdicts: ExtVerdict[] = [];
  for (const { one, made, file, size } of laid) {
    const name = JSON.stringify(one.wish);
    if (typeof made === 'string') {
      verdicts.push({ name, amiss: [`not made: ${made}`] });
      continue;
    }
    const i = ready.findIndex((each) => each.file === file);
    const device = `vd${String.fromCharCode('a'.charCodeAt(0) + i)}`;
    const facts = report.disks[i]?.partitions[0]?.facts ?? {};
    const logged = trouble.filter((line) => line.includes(`(${device})`) || line.includes(`${device}-`)).slice(0, 3);
    const after = await checkedAmiss(file, size);
    verdicts.push({
      name,
      amiss: [
        ...before[i]!,
        ...factsAmiss(one, made, facts, shelf),
        ...logged,
        ...after.map((text) => `afterwards: ${text}`),
      ],
    });
  }
  return verdicts;
}

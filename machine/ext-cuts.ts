/**
 * Ext volumes that a real kernel writes on when its machine is cut off. Another start of it replays the journals; what it
 * shows then, and what the bitmaps say, is held against our view of the images as they were cut off. What the last cut leaves is
 * repacked.
 */
import { copyFileSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { type ExtWish, makeExt } from '@tests/ext';
import { type ExtForm, forInlineData, inForm } from '@tests/ext-forms';
import { inMemory, type Shelf } from '@tests/filled';
import type { BlockSource } from '@/core/bytes/blocks';
import { decode } from '@/core/bytes/record';
import { checkExt } from '@/core/filesystems/ext/check/check';
import { isInline } from '@/core/filesystems/ext/check/inodes';
import { descriptorAt, type ExtHead } from '@/core/filesystems/ext/read/head';
import { LONG_GROUP, SHORT_GROUP } from '@/core/filesystems/ext/records';
import { type Replay, settled } from '@/core/filesystems/ext/replay/replay';
import { layExt } from './ext';
import { runRepacked } from './ext-repack';
import { entriesAmiss, unsealedIn, withSource } from './ext-seen';
import { cutOff, lookAt, type SeenPartition } from './guest';

export interface CutCase {
  readonly wish: ExtWish;
  /** Letters that say how it is mounted, as `guest-look.sh` reads them. */
  readonly how: string;
  /** What our maker does not offer. */
  readonly form?: ExtForm | 'inline data';
}

/** What came of one cut. */
export interface CutVerdict {
  readonly name: string;
  readonly replay: Pick<Replay, 'transactions' | 'blocks' | 'deleted' | 'shortened' | 'refused'>;
  /** Names whose bytes lie in their inode. */
  readonly inline: number;
  /** Files are refused by both, because they lie in inodes whose checksums the kernel had not come to. */
  readonly isUnsealed: boolean;
  readonly amiss: string[];
}

/** Compares both bitmaps of each group, bit by bit. */
async function bitmapsAmiss(view: BlockSource, after: BlockSource, head: ExtHead): Promise<string[]> {
  const amiss: string[] = [];
  for (let group = 0; group < head.groups; group++) {
    const read = async (source: BlockSource) => {
      const bytes = await source.read(descriptorAt(head, group), head.descriptorBytes);
      const short = decode(SHORT_GROUP, bytes);
      const long = head.descriptorBytes >= 64 ? decode(LONG_GROUP, bytes) : undefined;
      const bits = (low: number, high = 0) => source.read((low + high * 2 ** 32) * head.block, head.block);
      return {
        flags: short.flags & 3,
        counts: `${short.freeBlocks} ${short.freeInodes} ${short.folders}`,
        blocks: await bits(short.blockBitmap, long?.blockBitmapHigh),
        inodes: await bits(short.inodeBitmap, long?.inodeBitmapHigh),
      };
    };
    const [own, kernel] = [await read(view), await read(after)];
    if (own.flags !== kernel.flags) amiss.push(`group ${group}: flags ${own.flags}, the kernel ${kernel.flags}`);
    if (own.counts !== kernel.counts) amiss.push(`group ${group}: counts ${own.counts}, the kernel ${kernel.counts}`);
    for (const one of ['blocks', 'inodes'] as const) {
      let differing = 0;
      own[one].forEach((byte, i) => (differing += byte === kernel[one][i] ? 0 : 1));
      if (differing > 0) amiss.push(`group ${group}: ${differing} bytes of the bitmap of ${one} differ`);
    }
  }
  return amiss.slice(0, 4);
}

/** Holds our view of an image that was cut off against what a kernel made of it. */
async function compared(
  name: string,
  cut: string,
  after: string,
  size: number,
  seen: SeenPartition,
  isInlined: boolean,
): Promise<CutVerdict> {
  return withSource(cut, size, (source) =>
    withSource(after, size, async (later) => {
      const found = await settled(source, 0);
      if (!found || 'refused' in found) throw new Error(`${name}: ${found?.refused ?? 'no ext'}`);
      const { view, replay, inodes } = found;
      const { head } = inodes;
      const { transactions, blocks, deleted, shortened, refused } = replay;
      const { faults, entries } = await checkExt(view, 0, size);
      const unsealed = isInlined ? unsealedIn(faults) : undefined;
      const amiss = [
        ...(refused === undefined ? [] : [`not replayed: ${refused}`]),
        ...replay.troubles,
        ...(seen.facts.mounted === 'yes' ? [] : ['the kernel did not mount it']),
        ...(unsealed ? [] : faults.slice(0, 3).map(({ code, where, says }) => `check: ${code}, ${where}: ${says}`)),
        ...(await entriesAmiss(view, head.block, entries, seen, replay, unsealed)),
        ...(await bitmapsAmiss(view, later, head)),
      ];
      const inline = entries.filter(({ inode }) => isInline(inode)).length;
      return {
        name,
        replay: { transactions, blocks, deleted, shortened, refused },
        inline,
        isUnsealed: unsealed !== undefined,
        amiss,
      };
    }),
  );
}

/** Volumes that can be worked on hard at once; more of them are worked on for longer. */
const ALONE = 6;

/** Makes a volume in a new file. */
async function laid(file: string, { wish, form }: CutCase, shelf: Shelf): Promise<void> {
  const made = makeExt(wish, []);
  if (typeof made === 'string') throw new Error(`${JSON.stringify(wish)}: ${made}`);
  layExt(file, wish.bytes, made.ranges, shelf);
  if (form === undefined) return;
  const bytes = readFileSync(file);
  writeFileSync(file, form === 'inline data' ? await forInlineData(bytes) : await inForm(inMemory(bytes), form));
}

/**
 * Cuts volumes off so many times, each after at most `longest` milliseconds, and says of each time what is amiss; a volume goes on
 * with what the kernel left.
 */
export async function runCuts(
  cases: readonly CutCase[],
  times: number,
  shelf: Shelf,
  seed: number,
  longest: number,
  onRound: (verdicts: readonly CutVerdict[]) => void = () => undefined,
): Promise<CutVerdict[]> {
  const folder = mkdtempSync(path.join(tmpdir(), 'loess-cut-'));
  try {
    const verdicts: CutVerdict[] = [];
    const files = cases.map((_, i) => path.join(folder, `${i}.img`));
    for (const [i, one] of cases.entries()) await laid(files[i]!, one, shelf);
    for (let time = 0; time < times; time++) {
      const disks = files.map((file, i) => ({ file, sectorSize: 512 as const, keeps: true, i }));
      await cutOff(
        disks.map((disk) => ({ ...disk, work: `c${cases[disk.i]!.how}${(seed + 31 * time + disk.i) % 10_000}` })),
        (500 + ((seed * 7919 + time * 104_729) % (longest - 500))) * Math.max(1, cases.length / ALONE),
      );
      for (const file of files) copyFileSync(file, `${file}.cut`);
      const { disks: seen } = await lookAt(disks.map((disk) => ({ ...disk, work: 'ln' })));
      for (const { file, i } of disks) {
        const { wish, how, form = '' } = cases[i]!;
        const name = `${JSON.stringify(wish)} ${form} ${how}, cut ${time + 1}`;
        const [own] = seen[i]!.partitions;
        verdicts.push(await compared(name, `${file}.cut`, file, wish.bytes, own!, form === 'inline data'));
      }
      onRound(verdicts.slice(-cases.length));
      // Whoever is mounted with faults goes on with them: the next cut is one of a sound volume.
      for (const [i, file] of files.entries())
        if (verdicts.at(i - cases.length)!.isUnsealed && time < times - 1) {
          rmSync(file);
          await laid(file, cases[i]!, shelf);
        }
    }
    const packed = await runRepacked(
      files.map((file, i) => ({ cut: `${file}.cut`, size: cases[i]!.wish.bytes, way: seed + i })),
    );
    verdicts
      .slice(-cases.length)
      .forEach(({ amiss }, i) => amiss.push(...packed[i]!.map((what) => `repacked: ${what}`)));
    return verdicts;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

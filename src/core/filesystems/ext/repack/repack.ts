/**
 * Repacking an ext volume: the same volume in another length, as a kernel would see it once its journal is worked off. How
 * small it can be is computed, not tried. Nothing is written here, and the source stays as it is.
 */
import type { BlockSource } from '../../../bytes/blocks';
import { fail, ok, type Result } from '../../../quantity/result';
import { counted, grouped, inBoth } from '../../../quantity/units';
import { BrokenChain } from '../../volume';
import { attributesIn, attributesOfBlock } from '../attribute-places';
import { unknownFeatures } from '../check/volume';
import { hasFeature } from '../feature-bits';
import { INODE } from '../numbers';
import type { ExtHead } from '../read/head';
import { settled, type Settled } from '../replay/replay';
import { dependsOnNumber } from './attributes';
import { MOST_GROUPS } from './form';
import { type Checkpoint, gather, type Gathered } from './gather';
import { firstFree, lastNumber, leastOf, type Numbering, type Places, placesIn } from './place';
import { type RepackedRange, Rewriting } from './rewrite';

export type { Numbering } from './place';
export type { RepackedRange } from './rewrite';

/** A volume whose contents are known, and can be laid anew. */
export interface Repackable {
  readonly settled: Settled;
  /** Byte of the source at which it begins. */
  readonly base: number;
  readonly gathered: Gathered;
}

/** How small a volume can be, in bytes; undefined where no length serves. */
export interface Minima {
  readonly block: number;
  /** Its length now. */
  readonly bytes: number;
  readonly renumbered: number | undefined;
  readonly kept: number | undefined;
  /** Its numbers may not change: names or keys of files depend on them. */
  readonly mustKeep: boolean;
  /** Inodes in use that can be numbered anew, and the highest number among them. */
  readonly inodes: number;
  readonly highest: number;
}

/** A volume as it will be. */
export interface Repacked {
  readonly bytes: number;
  readonly block: number;
  readonly free: number;
  /** What changes for whoever uses it, in sentences. */
  readonly words: readonly string[];
  /** All that the format defines, in no order. */
  readonly ranges: () => AsyncGenerator<RepackedRange>;
}

/** Why a volume is not repacked; undefined where it is. */
function hindrance({ replay, inodes }: Settled): string | undefined {
  const { superblock } = inodes.head;
  const { refused, troubles, hasFast } = replay;
  if (refused !== undefined) return `its journal cannot be replayed: ${refused}`;
  if (hasFast)
    return 'it has fast commits behind its journal, which are not replayed here: mount it once, and let go of it';
  if (troubles.length > 0) return `not everything that was left to do could be done: ${troubles[0]}`;
  if (hasFeature(superblock, 'bigalloc')) return 'its blocks are counted in clusters';
  const unknown = unknownFeatures(superblock);
  if (unknown.length > 0) return `it has features that are not known (${unknown.join(', ')})`;
  if (hasFeature(superblock, 'has_journal') && superblock.journalInode === 0)
    return 'its journal lies on another device';
  const signs = Number(superblock.mmpBlock);
  if (hasFeature(superblock, 'mmp') && (signs < 1 || signs >= inodes.head.blocks))
    return 'the signs of a mount lie outside of it';
  if (inodes.head.groups > MOST_GROUPS) return `it has more than ${grouped(MOST_GROUPS)} groups`;
  const first = firstFree(inodes.head);
  if (first < INODE.first || first > superblock.inodes)
    return `the first inode that it gives to files is said to be ${grouped(first)}, which cannot be: it has ${grouped(superblock.inodes)}, and the first ${INODE.first - 1} are reserved`;
  if (superblock.revision > 1) return `its revision ${superblock.revision} is not known`;
  return undefined;
}

/** Reads what a volume holds, as a kernel would see it; or says why it cannot be repacked. `skipsBroken` as `gather` has it. */
export async function repackable(
  source: BlockSource,
  base: number,
  checkpoint?: Checkpoint,
  skipsBroken = false,
): Promise<Result<Repackable, string>> {
  const found = await settled(source, base);
  if (!found) return fail('there is no ext here');
  if ('refused' in found) return fail(found.refused);
  const why = hindrance(found);
  if (why !== undefined) return fail(why);
  try {
    return ok({ settled: found, base, gathered: await gather(found.inodes, checkpoint, skipsBroken) });
  } catch (error) {
    if (error instanceof BrokenChain) return fail(`it is damaged: ${error.message}`);
    throw error;
  }
}

const mustKeep = ({ superblock }: ExtHead) => hasFeature(superblock, 'stable_inodes');

/** The fewest bytes in which it has room; undefined where no length serves. */
export function leastBytes({ gathered }: Repackable, numbering: Numbering): number | undefined {
  const blocks = leastOf(gathered, numbering);
  return blocks === undefined ? undefined : blocks * gathered.head.block;
}

/** How small it can be made, by both ways to number its inodes. */
export function minimaOf(volume: Repackable): Minima {
  const { gathered } = volume;
  const { head, inodes } = gathered;
  const first = firstFree(head);
  const isFixed = mustKeep(head);
  return {
    block: head.block,
    bytes: head.blocks * head.block,
    renumbered: isFixed ? undefined : leastBytes(volume, 'renumbered'),
    kept: leastBytes(volume, 'kept'),
    mustKeep: isFixed,
    inodes: inodes.filter(({ number }) => number >= first).length,
    highest: lastNumber(gathered, 'kept'),
  };
}

/** What depends on the numbers of inodes, as far as the volume tells. */
async function dependants({ settled: { inodes }, gathered }: Repackable): Promise<string[]> {
  const { block } = gathered.head;
  const seen = new Set<number>();
  const found = { signature: 0, origin: 0 };
  const count = (all: ReturnType<typeof attributesIn>) => {
    for (const one of all) {
      const what = dependsOnNumber(one);
      if (what) found[what] += 1;
    }
  };
  for (const { bytes, attributes } of gathered.inodes) {
    count(attributesIn(bytes));
    if (attributes === 0 || seen.has(attributes)) continue;
    seen.add(attributes);
    count(attributesOfBlock(new Uint8Array(await inodes.read(attributes * block, block))));
  }
  const words = ['Inodes get new numbers: handles that network clients hold do not lead to their files any more.'];
  if (found.origin > 0)
    words.push(
      `${counted(found.origin, 'file')} of layers over each other remember the origin by its number, which changes.`,
    );
  if (found.signature > 0)
    words.push(
      `${counted(found.signature, 'file')} with a signature over what was measured: it holds the number of the inode, and does not hold afterwards.`,
    );
  return words;
}

async function wordsOf(volume: Repackable, places: Places, numbering: Numbering): Promise<string[]> {
  const { gathered } = volume;
  const { head, inodes } = gathered;
  const { superblock } = head;
  const moved = lastNumber(gathered, 'kept') !== lastNumber(gathered, 'renumbered');
  const words = numbering === 'renumbered' && moved ? await dependants(volume) : [];
  if (inodes.some(({ number, ranges }) => number === INODE.loader && ranges.length > 0))
    words.push(
      'It has the file of a boot loader, which knows its blocks by their place: the loader is to be put in again.',
    );
  const maps = inodes.some(
    ({ mapBlocks, ranges }, i) => ranges.length > 0 && mapBlocks !== places.placed[i]!.map.length,
  );
  if (hasFeature(superblock, 'quota') && maps)
    words.push(
      'Maps of files have another length, and quotas count them: they differ by some blocks until they are counted anew.',
    );
  const reserved = superblock.reservedLow + (head.isLong ? superblock.reservedHigh * 2 ** 32 : 0);
  if (reserved > 0) words.push('The same part of it is kept for the administrator.');
  return words;
}

/** The volume in so many bytes, or in as many blocks as they hold; or why that cannot be. */
export async function repacked(
  volume: Repackable,
  bytes: number,
  numbering: Numbering,
): Promise<Result<Repacked, string>> {
  const { gathered, settled: found, base } = volume;
  const { head } = gathered;
  const { block } = head;
  if (numbering === 'renumbered' && mustKeep(head))
    return fail('it says that its inodes keep their numbers, on which keys of its files depend');
  const blocks = Math.floor(bytes / block);
  const places = Number.isSafeInteger(blocks) && blocks > 0 ? placesIn(gathered, blocks, numbering) : undefined;
  if (!places) {
    const least = leastOf(gathered, numbering);
    return fail(
      least === undefined
        ? `${inBoth(bytes)} do not hold it`
        : least > blocks
          ? `${inBoth(bytes)} do not hold it: it needs ${inBoth(least * block)}, ${grouped(least)} blocks`
          : `with blocks of ${grouped(block)} bytes and its groups it cannot have ${inBoth(bytes)}`,
    );
  }
  return ok({
    bytes: places.form.blocks * block,
    block,
    free: places.free.left * block,
    words: await wordsOf(volume, places, numbering),
    ranges: () => new Rewriting(found, base, gathered, places, numbering).ranges(),
  });
}

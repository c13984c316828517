/**
 * The smallest volume that holds a tree, exact to the block. What a size has by rule changes at a few sizes
 * only: between them the structures grow with the volume, but slower than it, so that every size that is
 * short of so many blocks needs about as many more.
 */
import { GIB, MIB } from '../../quantity/units';
import type { Site } from '../kind';
import { filesOf, storedSize, type Tree } from '../tree';
import { extGeometry, mostPerGroup, usualPerInode } from './geometry';
import { extQuestion } from './kind';
import { nodesOf } from './nodes';
import { leastBlocksOf, planExt } from './plan';
import type { ExtContent } from './shape';

/** Sizes from which on other rules hold, in bytes. */
const REGIMES = [0, 8 * MIB, 16 * MIB, 512 * MIB, 1024 * GIB + 1, 2 ** 53] as const;
/** The step of inodes of a group is at most this; a group more or less moves the inode tables by fewer blocks. */
const INODE_STEP = 32;
/** Blocks by which the map of a journal may become shorter, in a larger volume. */
const MAP_STEP = 4;
/** More sizes than these are not tried one by one. */
const STEPS = 400_000;

/** A smallest volume. */
export interface LeastExt {
  readonly bytes: number;
  readonly block: number;
}

/** The smallest volume with these wishes that holds the tree; undefined where there is none. */
export function leastExt(content: ExtContent, site: Omit<Site, 'sectors'>, tree: Tree): LeastExt | undefined {
  const stored = filesOf(tree).reduce((sum, file) => sum + storedSize(file), 0);
  for (let i = 0; i + 1 < REGIMES.length; i++) {
    // Nothing holds more than its own size.
    if (stored >= REGIMES[i + 1]!) continue;
    const found = leastIn(content, site, tree, REGIMES[i]!, REGIMES[i + 1]!);
    if (found) return found;
  }
  return undefined;
}

function leastIn(
  content: ExtContent,
  site: Omit<Site, 'sectors'>,
  tree: Tree,
  from: number,
  to: number,
): LeastExt | undefined {
  const { sectorSize } = site;
  const question = extQuestion(content, { ...site, sectors: Math.max(1, from / sectorSize) }, tree);
  const inRegime = extGeometry({ ...question, bytes: Math.max(from, sectorSize) });
  const block = inRegime.ok ? inRegime.value.block : inRegime.error.block;
  const perGroup = mostPerGroup(block, question.features.has('64bit'));
  const perInode = question.perInode ?? usualPerInode(Math.max(from, 1));
  let blocks = Math.max(1, Math.ceil(from / block));
  for (let step = 0; step < STEPS && blocks * block < to; step++) {
    const made = extGeometry({ ...question, bytes: blocks * block });
    if (!made.ok) {
      const { reason, least } = made.error;
      if (reason === 'too small') blocks += Math.max(1, Math.ceil((least - blocks * block) / block) - MAP_STEP);
      else if (reason === 'journal too large') blocks = Math.max(blocks + 1, Math.floor(least / block));
      else if (reason === 'too few inodes') {
        // Every group may round its inodes up: with so many groups as there would be for exactly those inodes.
        const groups = Math.ceil((least * perInode) / block / perGroup) + 1;
        const sure = Math.floor(((least - groups * INODE_STEP) * perInode) / block);
        blocks = Math.max(blocks + 1, sure);
      } else return undefined;
      continue;
    }
    const geometry = made.value;
    const short = leastBlocksOf(nodesOf(tree, geometry), geometry) - geometry.clusters;
    if (short > 0) {
      // Of so many more blocks structures may take none, and give back what they round up; a last group that was left
      // out may come in.
      const groups = Math.ceil((blocks + short) / perGroup) + 1;
      blocks += Math.max(1, short - MAP_STEP - 2 * groups - Math.ceil(geometry.tail / block));
      continue;
    }
    if (planExt(geometry, tree).misfit === undefined) return { bytes: blocks * block, block };
    blocks += 1;
  }
  return undefined;
}

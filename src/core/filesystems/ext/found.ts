/** What a survey says of an ext volume beyond its superblock: what was worked off in memory, and what its structures say of themselves. */
import type { BlockSource } from '../../bytes/blocks';
import { type BudgetLimits, budgeted, withinBudget } from '../../bytes/budget';
import { MIB } from '../../quantity/units';
import { checkAllocation } from './check/allocation';
import type { Fault } from './check/faults';
import { copiesOf, type ExtHead } from './read/head';
import { replayWords, settled } from './replay/replay';

/** What a survey tells of it. */
export interface ExtLooked {
  /** What was worked off in memory, in sentences. */
  readonly words: readonly string[];
  /** Why nothing of it can be read; why its journal cannot be replayed. */
  readonly refused?: string | undefined;
  readonly broken?: string | undefined;
  /** What was not looked at in full. */
  readonly partly: readonly ('journal' | 'groups')[];
  /** The first faults of its structures, and how many more there are. */
  readonly faults: readonly Fault[];
  readonly more: number;
}

/** Where the structures of a volume begin, in bytes of it; what a ledger needs to open them. */
export interface ExtPlaces {
  readonly descriptors: number;
  readonly descriptorBytes: number;
  /** Groups whose descriptors lie there, one behind the other. */
  readonly groups: number;
  /** Copies of the superblock, as far as they are told, each with its group. */
  readonly copies: readonly { readonly group: number; readonly at: number }[];
}

/** Copies that are told. */
const COPIES_TOLD = 12;

function placesOf(head: ExtHead): ExtPlaces {
  const { superblock, block, descriptorBytes, groups, firstMetaGroup } = head;
  const copies: { group: number; at: number }[] = [];
  for (const group of copiesOf(head)) {
    if (copies.length >= COPIES_TOLD) break;
    if (group > 0) copies.push({ group, at: (superblock.firstDataBlock + group * superblock.blocksPerGroup) * block });
  }
  return {
    descriptors: (superblock.firstDataBlock + 1) * block,
    descriptorBytes,
    groups: Math.min(groups, (firstMetaGroup * block) / descriptorBytes),
    copies,
  };
}

/** What was looked at. */
export interface ExtFound extends ExtLooked {
  /** The source as a kernel would see the volume. */
  readonly view: BlockSource;
  readonly places?: ExtPlaces;
}

/** What may be read for each of both, in a survey: what a volume of a terabyte takes. */
const LIMITS: BudgetLimits = { bytes: 24 * MIB, reads: 6000 };
const FAULTS_TOLD = 12;

/** Looks at the volume at a byte of the source, within a part of what a survey may read. */
export async function lookAtExt(source: BlockSource, base: number, available: number): Promise<ExtFound> {
  const nothing = { view: source, words: [], partly: [], faults: [], more: 0 };
  const found = await withinBudget(settled(budgeted(source, LIMITS), base));
  if (!found) return { ...nothing, partly: ['journal'] };
  if ('refused' in found) return { ...nothing, refused: found.refused };
  const { refused: broken } = found.replay;
  const places = placesOf(found.before);
  if (broken !== undefined) return { ...nothing, places, broken };
  // Another reader, with a part of its own, sees the same.
  const view = found.settle(source);
  const all = await withinBudget(checkAllocation(found.settle(budgeted(source, LIMITS)), base, available));
  // Of a volume that is longer than its place the survey says that already.
  const faults = all?.filter(({ code }) => code !== 'superblock/longer than its place');
  return {
    view,
    places,
    words: replayWords(found.replay),
    partly: faults ? [] : ['groups'],
    faults: faults?.slice(0, FAULTS_TOLD) ?? [],
    more: Math.max(0, (faults?.length ?? 0) - FAULTS_TOLD),
  };
}

/** What a survey says of an ext volume beyond its superblock: what was worked off in memory, and what its structures say of themselves. */
import type { BlockSource } from '../../bytes/blocks';
import { Budget, type BudgetLimits, withinBudget } from '../../bytes/budget';
import { MIB } from '../../quantity/units';
import { checkAllocation } from './check/allocation';
import type { Fault } from './check/faults';
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

/** What was looked at. */
export interface ExtFound extends ExtLooked {
  /** The source as a kernel would see the volume. */
  readonly view: BlockSource;
}

/** What may be read for each of both, in a survey: what a volume of a terabyte takes. */
const LIMITS: BudgetLimits = { bytes: 24 * MIB, reads: 6000 };
const FAULTS_TOLD = 12;

function limited(source: BlockSource): BlockSource {
  const budget = new Budget(LIMITS);
  return {
    size: source.size,
    isHole: (at, length) => source.isHole?.(at, length) === true,
    read: (at, length, into) => {
      budget.spend(length);
      return source.read(at, length, into);
    },
  };
}

/** Looks at the volume at a byte of the source, within a part of what a survey may read. */
export async function lookAtExt(source: BlockSource, base: number, available: number): Promise<ExtFound> {
  const nothing = { view: source, words: [], partly: [], faults: [], more: 0 };
  const found = await withinBudget(settled(limited(source), base));
  if (!found) return { ...nothing, partly: ['journal'] };
  if ('refused' in found) return { ...nothing, refused: found.refused };
  const { refused: broken } = found.replay;
  if (broken !== undefined) return { ...nothing, broken };
  // Another reader, with a part of its own, sees the same.
  const view = found.settle(source);
  const all = await withinBudget(checkAllocation(found.settle(limited(source)), base, available));
  // Of a volume that is longer than its place the survey says that already.
  const faults = all?.filter(({ code }) => code !== 'superblock/longer than its place');
  return {
    view,
    words: replayWords(found.replay),
    partly: faults ? [] : ['groups'],
    faults: faults?.slice(0, FAULTS_TOLD) ?? [],
    more: Math.max(0, (faults?.length ?? 0) - FAULTS_TOLD),
  };
}

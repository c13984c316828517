/** Budgets of whoever reads bytes that others wrote: how much may be read before it is given up and told. */
import { MIB } from '../quantity/units';
import type { BlockSource } from './blocks';

export interface BudgetLimits {
  /** Bytes, and separate reads. */
  readonly bytes: number;
  readonly reads: number;
  /** True when the time is over, or nobody waits any more. */
  readonly isOver?: (() => boolean) | undefined;
}

/** Reading was given up: more of it would go beyond the budget. */
export class BudgetSpent extends Error {}

/** What a survey may read in all, and of one partition: sound media need a hundredth of it. */
export const SURVEY_LIMITS: BudgetLimits = { bytes: 256 * MIB, reads: 60_000 };
export const PARTITION_LIMITS: BudgetLimits = { bytes: 64 * MIB, reads: 20_000 };

export const UNLIMITED: BudgetLimits = { bytes: Infinity, reads: Infinity };

/** What is left of a budget; a part of one spends of the whole too. */
export class Budget {
  private bytes: number;
  private reads: number;
  private readonly isOver: (() => boolean) | undefined;

  constructor(
    limits: BudgetLimits,
    private readonly whole?: Budget,
  ) {
    this.bytes = limits.bytes;
    this.reads = limits.reads;
    this.isOver = limits.isOver;
  }

  /** A part of it for one thing, so that this cannot take all of it from the others. */
  part(limits: BudgetLimits): Budget {
    return new Budget(limits, this);
  }

  /** Takes a reading of so many bytes out of it; throws a BudgetSpent where there is not enough. */
  spend(bytes: number): void {
    this.whole?.spend(bytes);
    this.bytes -= bytes;
    this.reads -= 1;
    if (this.bytes < 0 || this.reads < 0 || this.isOver?.() === true)
      throw new BudgetSpent('the budget of reading is spent');
  }
}

/** A source whose reading is taken out of a budget of its own; reading beyond it throws a BudgetSpent. */
export function budgeted(source: BlockSource, limits: BudgetLimits): BlockSource {
  const budget = new Budget(limits);
  return {
    size: source.size,
    isHole: (offset, length) => source.isHole?.(offset, length) === true,
    read: (offset, length, into) => {
      budget.spend(length);
      return source.read(offset, length, into);
    },
  };
}

/** What work comes to, or undefined where it went beyond its budget. */
export async function withinBudget<T>(work: Promise<T>): Promise<T | undefined> {
  try {
    return await work;
  } catch (error) {
    if (error instanceof BudgetSpent) return undefined;
    throw error;
  }
}

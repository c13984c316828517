/** Reading for a survey: bounded, counted, and never beyond the end of the source. */
import { MIB } from '../quantity/units';
import type { BlockSource } from '../bytes/blocks';
import { Budget, type BudgetLimits, SURVEY_LIMITS, UNLIMITED, withinBudget } from '../bytes/budget';

/** FATs are read in full until so many bytes were read in all; later ones only at both ends. */
const GENEROUS = 32 * MIB;
/** FATs of one volume that are read in full, in bytes. */
const FAT_IN_FULL = MIB;

/** A source that counts what is read of it, within a budget. */
export class SurveyReader implements BlockSource {
  readonly size: number;
  private bytes = 0;
  private budget: Budget;

  /** `isFull`: file systems are read whole, however large. */
  constructor(
    private readonly source: BlockSource,
    readonly isFull: boolean,
    limits: BudgetLimits = isFull ? UNLIMITED : SURVEY_LIMITS,
  ) {
    this.size = source.size;
    this.budget = new Budget(limits);
  }

  /** Reads something within a part of the budget; undefined where it went beyond that. */
  async within<T>(limits: BudgetLimits, work: () => Promise<T>): Promise<T | undefined> {
    if (this.isFull) return work();
    const whole = this.budget;
    this.budget = whole.part(limits);
    try {
      return await withinBudget(work());
    } finally {
      this.budget = whole;
    }
  }

  /** Throws a BudgetSpent where the budget has not that much. */
  async read(offset: number, length: number, into?: Uint8Array): Promise<Uint8Array> {
    this.budget.spend(length);
    this.bytes += length;
    return this.source.read(offset, length, into);
  }

  isHole(offset: number, length: number): boolean {
    return this.source.isHole?.(offset, length) ?? false;
  }

  /** As much of a range as there is. */
  upTo(offset: number, length: number): Promise<Uint8Array> {
    const there = Math.max(0, Math.min(length, this.size - offset));
    return there === 0 ? Promise.resolve(new Uint8Array(0)) : this.read(offset, there);
  }

  /** Bytes read so far. */
  get spent(): number {
    return this.bytes;
  }

  /** Bytes of FATs that may be read of the next volume. */
  get fatBudget(): number {
    if (this.isFull) return Infinity;
    return this.bytes < GENEROUS ? FAT_IN_FULL : 0;
  }
}

/** Index of the first byte that is not zero; -1 where there is none. */
export function firstData(bytes: Uint8Array): number {
  for (let i = 0; i < bytes.length; i++) if (bytes[i] !== 0) return i;
  return -1;
}

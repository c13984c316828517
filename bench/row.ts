/** One line of the table: what was measured in each run, and the limit that it must keep. */
export interface Row {
  readonly name: string;
  /** The figure of each run, in the order of the runs. */
  readonly runs: readonly number[];
  /** Which of them is held against the limit: the middle one, where nothing else is said. */
  readonly of?: 'the largest';
  readonly limit: number;
  readonly unit: string;
  readonly detail: string;
}

/** The middle of some figures. */
export function median(figures: readonly number[]): number {
  const sorted = [...figures].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)]!;
}

/** Ratio of each run to the reference that ran beside it. */
export const ratios = (ours: readonly number[], references: readonly number[]) =>
  ours.map((one, i) => one / references[i]!);

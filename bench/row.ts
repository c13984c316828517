/** One line of the table: what was measured, and the limit that it must keep. */
export interface Row {
  readonly name: string;
  readonly measured: number;
  readonly limit: number;
  readonly unit: string;
  readonly detail: string;
}

/** The middle of some figures. */
export function median(figures: readonly number[]): number {
  const sorted = [...figures].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)]!;
}

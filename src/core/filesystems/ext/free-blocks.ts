/** Blocks that nothing takes yet, and giving them to what lies in a volume. */
import { without } from '../../bytes/extents';
import type { Features } from './features';
import type { Run } from './groups';
import { mapBlocksOf, type Piece, type Range } from './mapping';

/** Blocks that nothing takes yet, given out from the front. */
export class FreeBlocks {
  private readonly runs: { start: number; end: number }[];
  private first = 0;
  /** Blocks that are left. */
  left: number;

  /** `isTight`: what is taken follows what was taken before, in as many pieces as that makes. */
  constructor(
    taken: readonly Run[],
    blocks: number,
    private readonly isTight = false,
  ) {
    this.runs = without({ start: 0, end: blocks }, taken).map((run) => ({ ...run }));
    this.left = this.runs.reduce((sum, { start, end }) => sum + end - start, 0);
  }

  /** So many blocks in as few pieces as there are: in one where there is one that is large enough. Undefined where so many are not left. */
  take(count: number): Run[] | undefined {
    if (count > this.left) return undefined;
    this.left -= count;
    this.toFirst();
    const { runs } = this;
    for (let i = this.first; i < runs.length && !this.isTight; i++) {
      const run = runs[i]!;
      if (run.end - run.start < count) continue;
      run.start += count;
      return [{ start: run.start - count, end: run.start }];
    }
    const parts: Run[] = [];
    let missing = count;
    for (let i = this.first; missing > 0; i++) {
      const run = runs[i]!;
      const some = Math.min(missing, run.end - run.start);
      if (some === 0) continue;
      parts.push({ start: run.start, end: run.start + some });
      run.start += some;
      missing -= some;
    }
    return parts;
  }

  private toFirst(): void {
    const { runs } = this;
    while (this.first < runs.length && runs[this.first]!.start === runs[this.first]!.end) this.first += 1;
  }

  /** Takes so many blocks from the front without saying which; false, and takes none, where the first run has fewer. */
  pass(count: number): boolean {
    this.toFirst();
    const run = this.runs[this.first];
    if (!run || run.end - run.start < count) return false;
    run.start += count;
    this.left -= count;
    return true;
  }

  /** What is still free, ascending. */
  get rest(): readonly Run[] {
    return this.runs.filter(({ start, end }) => end > start);
  }
}

/** Where something lies: its blocks, and those of its map. */
export interface Placed {
  readonly pieces: readonly Piece[];
  readonly map: readonly number[];
}

/** What it takes to say how many blocks a map has. */
export interface MapForm {
  readonly features: Features;
  readonly block: number;
}

/** The blocks of ranges of a file, one behind another in these runs. */
function piecesIn(runs: readonly Run[], ranges: readonly Range[]): Piece[] {
  const pieces: Piece[] = [];
  let which = 0;
  let at = runs[0]?.start ?? 0;
  for (const range of ranges) {
    const { logical, count } = range;
    for (let done = 0; done < count;) {
      while (at === runs[which]!.end) at = runs[++which]!.start;
      const some = Math.min(count - done, runs[which]!.end - at);
      pieces.push({ ...range, logical: logical + done, physical: at, count: some });
      at += some;
      done += some;
    }
  }
  return pieces;
}

export const NOTHING: Placed = { pieces: [], map: [] };

/** Blocks for ranges of a file, its map ahead of them; undefined where there are not enough. */
export function place(form: MapForm, free: FreeBlocks, ranges: readonly Range[]): Placed | undefined {
  const count = ranges.reduce((sum, one) => sum + one.count, 0);
  if (count === 0) return NOTHING;
  const least = mapBlocksOf(form.features, form.block, ranges);
  const runs = free.take(least + count);
  if (!runs) return undefined;
  // As nearly every file lies: in one piece, which needs no blocks for its map.
  if (least === 0 && runs.length === 1 && ranges.length === 1)
    return { pieces: [{ ...ranges[0]!, physical: runs[0]!.start }], map: NOTHING.map };
  const map: number[] = [];
  const rest = runs.map((run) => ({ ...run }));
  for (const run of rest) while (map.length < least && run.start < run.end) map.push(run.start++);
  const pieces = piecesIn(
    rest.filter(({ start, end }) => end > start),
    ranges,
  );
  // In more pieces than one it may have more extents than were counted on.
  const needed = form.features.has('extents') ? mapBlocksOf(form.features, form.block, pieces) : least;
  for (let missing = needed - least; missing > 0; missing--) {
    const more = free.take(1);
    if (!more) return undefined;
    map.push(more[0]!.start);
  }
  return { pieces, map };
}

/** Where the room of a volume is: how much of each stretch of it structures take, how much is in use beside them, how much is free. */

/** A stretch of a volume; what is neither structures nor used is free. All in bytes. */
export interface MapCell {
  readonly from: number;
  readonly bytes: number;
  readonly structures: number;
  readonly used: number;
}

/** Stretches of the same length, the last one perhaps shorter, over all of a volume. */
export interface RoomMap {
  /** Bytes of a block or cluster. */
  readonly unit: number;
  readonly cells: readonly MapCell[];
}

/** Draws a map of a volume of so many bytes in so many cells at most, each of whole units. */
export class MapDrawing {
  private readonly structures: Float64Array;
  private readonly used: Float64Array;
  private readonly cell: number;

  constructor(
    private readonly bytes: number,
    private readonly unit: number,
    cells: number,
  ) {
    this.cell = Math.max(unit, Math.ceil(bytes / cells / unit) * unit);
    const count = Math.ceil(bytes / this.cell);
    this.structures = new Float64Array(count);
    this.used = new Float64Array(count);
  }

  /** Adds a range of the volume; what leaves it is left out. */
  add(what: 'structures' | 'used', from: number, length: number): void {
    const end = Math.min(this.bytes, from + length);
    for (let at = Math.max(0, from); at < end;) {
      const cell = Math.floor(at / this.cell);
      const until = Math.min(end, (cell + 1) * this.cell);
      this[what][cell] = this[what][cell]! + until - at;
      at = until;
    }
  }

  /**
   * The map; nothing is more than full, whatever the volume says. `isAllUsed`: what was added as used counts structures too,
   * which are told once.
   */
  map(isAllUsed = false): RoomMap {
    const cells = Array.from(this.structures, (taken, i): MapCell => {
      const bytes = Math.min(this.cell, this.bytes - i * this.cell);
      const structures = Math.min(bytes, taken);
      const used = this.used[i]! - (isAllUsed ? structures : 0);
      return { from: i * this.cell, bytes, structures, used: Math.max(0, Math.min(bytes - structures, used)) };
    });
    return { unit: this.unit, cells };
  }
}

/** Joins units that are in use to runs of them, and adds those. */
export class UsedRuns {
  private start = 0;
  private end = 0;

  constructor(
    private readonly drawing: MapDrawing,
    private readonly at: (unit: number) => number,
    private readonly unit: number,
  ) {}

  /** A unit that is in use; they come in ascending order. */
  add(unit: number): void {
    if (unit === this.end) this.end += 1;
    else {
      this.flush();
      [this.start, this.end] = [unit, unit + 1];
    }
  }

  flush(): void {
    if (this.end > this.start) this.drawing.add('used', this.at(this.start), (this.end - this.start) * this.unit);
    this.end = this.start;
  }
}

/** What a placement is: the layout computed for one medium, with a reason for every boundary. */
import type { Figures } from '../layout/figures';
import type { Span } from '../bytes/extents';
import type { Made } from '../filesystems/kinds';
import type { Contents } from '../filesystems/supplied';
import type { Layout, PartitionSlot, RawSlot, Slot } from '../layout/document';
import type { Grain } from '../medium/grain';
import type { Medium } from '../medium/medium';
import type { SizeRule } from '../quantity/size-language';
import type { GptPlaces } from '../tables/gpt';

/** Which rule put a boundary where it is. */
export type BoundaryRule =
  | 'table area'
  | 'behind slot'
  | 'behind raw range'
  | 'fixed by the document'
  | 'pinned'
  | 'size asked'
  | 'share of the rest'
  | 'lower bound'
  | 'upper bound'
  | 'share of the space'
  | 'position'
  | 'memory'
  | 'same as another'
  | 'its image';

/** Why a boundary is where it is. `cost` is the number of sectors that rounding lost before it. */
export interface Reason {
  readonly rule: BoundaryRule;
  readonly grain: number;
  readonly cost: number;
  readonly text: string;
}

/** A slot on the medium. Sectors are logical sectors of the medium. */
export interface Placed {
  readonly slot: Slot;
  /** First sector. For a raw range the sector that holds its first byte. */
  readonly start: number;
  /** Sectors covered; 0 when nothing was left. */
  readonly sectors: number;
  /** The exact bytes; only a raw range can begin or end inside a sector. */
  readonly span: Span;
  readonly startReason: Reason;
  readonly endReason: Reason;
  /** The size rule, for slots that have one. */
  readonly rule?: SizeRule;
  /** Its entry in the table: number from 1, type, and the id that systems use. Partitions of a medium with a table only. */
  readonly entry?: { readonly number: number; readonly type: string; readonly id: string } | undefined;
  /** Sector of the record of a logical partition of an MBR. */
  readonly recordAt?: number | undefined;
  /** Geometry of the volume that is made in it, or why there is none. */
  readonly made?: Made | undefined;
}

/** A placed partition. */
export type PlacedPartition = Placed & { readonly slot: PartitionSlot };
/** A placed partition with an entry in the table. */
export type Entered = PlacedPartition & { readonly entry: NonNullable<Placed['entry']> };
/** A placed raw range. */
export type PlacedRaw = Placed & { readonly slot: RawSlot };

/** A run of slots that needs more room than there is. */
export interface Misfit {
  /** What ends the run: the medium, a raw range, a pinned slot, or the position that its last slot ends at. */
  readonly against: { readonly kind: 'medium' } | { readonly kind: 'raw' | 'pinned' | 'position'; readonly id: string };
  /** Slots of the run, in order. */
  readonly slots: readonly string[];
  readonly shortBy: number;
  /** Slots that could give at least one sector, with how many, the most generous first. */
  readonly couldGive: readonly { readonly id: string; readonly sectors: number }[];
}

/** The container of logical partitions of an MBR: from its first record to the end of its last partition. */
export interface Container {
  /** Number of its primary entry. */
  readonly number: number;
  readonly type: string;
  readonly start: number;
  readonly sectors: number;
  /** Its logical partitions, in chain order. */
  readonly slots: readonly string[];
}

/** One layer of the column: a stretch of the medium that is one thing. */
export type Stratum =
  | {
      readonly kind: 'table';
      readonly start: number;
      readonly sectors: number;
      /** What stands there: `sector 0`, `protective sector, header, entries` … */
      readonly text: string;
    }
  | { readonly kind: 'slot'; readonly start: number; readonly sectors: number; readonly placed: Placed }
  | {
      readonly kind: 'gap';
      readonly start: number;
      readonly sectors: number;
      /** Lost to the grain, left before a raw range or pinned slot, closed to partitions by the table, or claimed by nobody. */
      readonly cause: 'grain' | 'before raw range' | 'before pinned slot' | 'closed' | 'unclaimed';
      readonly text: string;
    };

/** A layout placed on its medium. */
export interface Placement {
  readonly layout: Layout;
  /** What it says in numbers. */
  readonly figures: Figures;
  /** What is known of the files that the layout names. */
  readonly contents: Contents;
  readonly medium: Medium;
  readonly sectorSize: 512 | 4096;
  /** Whole logical sectors of the medium. */
  readonly sectors: number;
  /** Sectors between the parts of the table: the first that a slot may take, and the one behind the last. */
  readonly usable: { readonly first: number; readonly end: number };
  /** Parts of the GPT, where there is one. */
  readonly gpt?: GptPlaces;
  readonly grain: Grain;
  /** Unit for the data areas of file systems, in bytes: the write unit, or the grain where that is not known. */
  readonly dataUnit: number;
  /** In the order of the document. */
  readonly placed: readonly Placed[];
  /** Containers of logical partitions; more than one cannot be. */
  readonly containers: readonly Container[];
  /** Every sector of the medium, from the first to the last. */
  readonly strata: readonly Stratum[];
  readonly misfits: readonly Misfit[];
}

/** Last sector of something placed; one less than its start when it is empty. */
export function lastSector(range: { readonly start: number; readonly sectors: number }): number {
  return range.start + range.sectors - 1;
}

/** True for a placed partition. */
export function isPartition(placed: Placed): placed is PlacedPartition {
  return placed.slot.kind === 'partition';
}

/** True for a placed partition with an entry in the table. */
export function isEntered(placed: Placed): placed is Entered {
  return isPartition(placed) && placed.entry !== undefined;
}

/** True for a placed raw range. */
export function isRaw(placed: Placed): placed is PlacedRaw {
  return placed.slot.kind === 'raw';
}

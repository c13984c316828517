/** What server and interface tell each other about image files and what is in them. Types only. */
import type { Minima } from '@/core/filesystems/ext/repack/repack';
import type { RoomMap } from '@/core/filesystems/room-map';
import type { VolumeCheck } from '@/core/filesystems/ext/check/whole';
import type { SurveyFinding } from '@/core/findings/survey/finding';
import type { Survey } from '@/core/survey/found';
import type { Ledger } from '@/core/survey/ledger';
import type { JobProgress } from './builds';

/** A file in the folder of images. */
export interface ImageFile {
  readonly name: string;
  readonly size: number;
  /** ISO 8601, UTC. */
  readonly changedAt: string;
  /** What it is and where it comes from, where somebody wrote it beside it. */
  readonly story?: string;
}

/** Something in the folder of images that is none: a pipe, a folder, a link. */
export interface StrangeFile {
  readonly name: string;
  readonly what: string;
}

/** A survey of an image: `of` says which, as `file:NAME` or `build:ID`. */
export interface SurveyView {
  readonly of: string;
  readonly name: string;
  readonly survey: Survey;
  readonly findings: readonly SurveyFinding[];
  /** True where the sector size was found out and not asked for. */
  readonly isGuess: boolean;
  readonly milliseconds: number;
}

/** One sector of an image, and where its structures are. */
export interface LedgerView {
  readonly ledger: Ledger;
  readonly sectors: number;
  readonly stops: readonly { readonly what: string; readonly start: number }[];
}

/** Where the room of a volume is, and how small it can be, where that can be said. */
export interface VolumeRoomView {
  readonly map: RoomMap | null;
  readonly minima: Minima | null;
  /** Why it cannot be laid anew. */
  readonly refused: string | null;
}

/** Where the check of a volume stands: one of them is there at most, or nothing where it was never checked. */
export interface VolumeCheckView {
  readonly progress: JobProgress | null;
  readonly report: VolumeCheck | null;
  readonly failure: string | null;
}

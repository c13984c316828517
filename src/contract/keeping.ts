/** What server, terminal and interface tell each other about the data folder. Types only. */
import type { JobProgress } from './builds';

/** Something that is not what it was. */
export interface Damage {
  /** `missing`: named by a layout and not stored, or an image that was removed. */
  readonly kind: 'database' | 'revision' | 'missing' | 'content' | 'image';
  /** Its name: a SHA-256, a layout, an image. */
  readonly what: string;
  readonly sentence: string;
  /** The layouts that need it. */
  readonly layouts: readonly string[];
}

/** What a check of the data folder came to. */
export interface CheckReport {
  readonly checkedAt: string;
  readonly revisions: number;
  readonly contents: number;
  /** Bytes of all contents. */
  readonly bytes: number;
  readonly images: number;
  readonly damages: readonly Damage[];
  /** How many files went into quarantine. */
  readonly quarantined: number;
}

/** How many there are of something, and how much. */
export interface Amount {
  readonly number: number;
  readonly bytes: number;
}

/** A day of the trash or of the quarantine. */
export interface KeptDay extends Amount {
  readonly day: string;
}

/** What the data folder holds. */
export interface Holdings {
  readonly root: string;
  /** Bytes that the disk has, and how many of them are free to this program. */
  readonly disk: { readonly size: number; readonly free: number };
  /** Revisions, and the bytes of the database. */
  readonly revisions: Amount;
  readonly contents: Amount;
  /** Contents that no revision names; how many of them could go now. */
  readonly unnamed: Amount;
  /** Why they do not go by themselves. */
  readonly doubts: readonly string[];
  /** Finished images, and bytes that they take on the disk. */
  readonly builds: Amount;
  /** Builds that are over and have no image. */
  readonly overWithout: number;
  readonly images: Amount;
  readonly backups: Amount;
  readonly trash: readonly KeptDay[];
  readonly quarantine: readonly KeptDay[];
  readonly limits: Limits;
  readonly check: {
    readonly progress: JobProgress | null;
    readonly report: CheckReport | null;
    readonly failure: string | null;
  };
}

/** What may be kept at most, in bytes; null without a limit. */
export interface Limits {
  readonly contents: number | null;
  readonly builds: number | null;
}

/** What a person may order of the data folder. */
export type FolderOrder =
  | { readonly do: 'check' | 'stop the check' | 'sweep' | 'empty the trash' }
  | { readonly do: 'bring back'; readonly day: string }
  | { readonly do: 'remove builds'; readonly which: 'without image' | 'all' }
  | ({ readonly do: 'limit' } & Limits);

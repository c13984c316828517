/** What server and interface tell each other about builds. Types only. */
import type { Comparison } from '@/core/compose/compare';
import type { Finding } from '@/core/findings/layout/finding';
import type { Accepted } from '@/core/layout/document';
import type { ChangedReport } from './changes';

/** A range as it was read back. */
export interface ReadBackRange {
  readonly owner?: string;
  readonly what: string;
  readonly offset: number;
  readonly length: number;
  /** Files or folders that it sums up: each byte of them was compared while it was written. */
  readonly files?: number;
  /** Checksum of what was read. Missing for ranges of zeros, which stay holes of the sparse file, and for sums. */
  readonly sha256?: string;
}

/** A volume that was laid anew: where it was, bytes that are free, what changes with it, and paths that did not go along. */
export interface RepackedReport {
  readonly from: string;
  readonly free: number;
  readonly words: readonly string[];
  readonly leftOut: readonly string[];
}

/** What a build says when it is done. */
export interface BuildReport {
  readonly size: number;
  readonly writtenBytes: number;
  readonly ranges: readonly ReadBackRange[];
  readonly comparisons: readonly Comparison[];
  /** Risks that were accepted, with their reasons. Missing in reports of older versions. */
  readonly accepted?: readonly Accepted[];
  /** Partitions of the image whose files can be browsed, as a survey names them. Missing in reports of older versions. */
  readonly volumes?: readonly { readonly partition: string; readonly name: string }[];
  /** Of an image that was made from another one. */
  readonly change?: ChangedReport;
  /** Of a volume that was laid anew. */
  readonly repacked?: RepackedReport;
  /** Milliseconds from the first write to the rename. */
  readonly milliseconds: number;
}

/** What a build would write for one owner: a slot, or the table and the ends of the medium. */
export interface Portion {
  readonly name: string;
  readonly ranges: number;
  readonly written: number;
  readonly zeros: number;
}

/** What a build of a revision would write, and what stands against it. */
export interface BuildPlan {
  readonly findings: readonly Finding[];
  /** Empty while a stop stands. */
  readonly portions: readonly Portion[];
}

/** Where a job stands. Bytes, bytes per second, seconds. */
export interface JobProgress {
  readonly phase: string;
  readonly done: number;
  readonly total: number;
  readonly rate: number;
  readonly secondsLeft: number | null;
}

/** Why a job failed. */
export interface Failure {
  readonly code: string;
  readonly sentence: string;
}

export const BUILD_STATES = ['waiting', 'running', 'done', 'failed', 'cancelled', 'interrupted'] as const;
export type BuildState = (typeof BUILD_STATES)[number];

export const DIGEST_STATES = ['none', ...BUILD_STATES] as const;
export type DigestState = (typeof DIGEST_STATES)[number];

/** A build as the interface sees it. */
export interface BuildView {
  readonly id: string;
  readonly layoutId: string;
  readonly revision: number;
  readonly name: string;
  readonly size: number;
  readonly state: BuildState;
  readonly failure: Failure | null;
  readonly report: BuildReport | null;
  readonly progress: JobProgress | null;
  readonly digest: {
    readonly state: DigestState;
    readonly sha256: string | null;
    readonly progress: JobProgress | null;
  };
  readonly startedAt: string;
  readonly endedAt: string | null;
}

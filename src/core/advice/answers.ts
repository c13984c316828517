/** The questions of the Start, in the order in which a practitioner thinks, and what can be answered. */
import type { MediumSpec } from '../layout/document';
import type { BiosLimit, LoaderBringer, TableKind } from '../layout/vocabulary';
import type { BoardFamily } from '../medium/boards';

/** What boots it. */
export const BOOT_ANSWERS = ['uefi', 'bios', 'both', 'board', 'nothing', 'unknown'] as const;
export type BootAnswer = (typeof BOOT_ANSWERS)[number];

/** What it is for. */
export const USE_ANSWERS = ['desktop', 'server', 'device', 'data', 'unknown'] as const;
export type UseAnswer = (typeof USE_ANSWERS)[number];

/** Who else must read it. */
export const READER_ANSWERS = ['linux', 'others', 'appliances', 'unknown'] as const;
export type ReaderAnswer = (typeof READER_ANSWERS)[number];

/** Logical and physical sectors of a medium, as people say them. */
export const SECTORS = {
  '512': { logicalSector: 512, physicalSector: 512 },
  '512 in 4096': { logicalSector: 512, physicalSector: 4096 },
  '4096': { logicalSector: 4096, physicalSector: 4096 },
} as const;

/** What is on it now; where something stays, only the range from one position to another is used. */
export type ExistingAnswer =
  { readonly kind: 'nothing' | 'unknown' } | { readonly kind: 'stays'; readonly from: string; readonly until: string };

/** All answers. "Don't know" is always one. */
export interface Answers {
  readonly boots: BootAnswer;
  /** Which board, where one boots it and that is known. */
  readonly board?: BoardFamily | undefined;
  /** Where the BIOS of an old machine stops, where that is known. */
  readonly biosLimit?: BiosLimit | undefined;
  /** Who brings the loader, where that is known. */
  readonly loaderFrom?: LoaderBringer | undefined;
  readonly use: UseAnswer;
  /** Whether what people keep has a partition of its own; undefined leaves it to the rule. */
  readonly apart?: boolean | undefined;
  readonly medium: MediumSpec;
  /** The table that is wished for; undefined leaves it to the rule. */
  readonly table?: TableKind | undefined;
  /** An exact size; undefined where nobody knows. */
  readonly memory?: string | undefined;
  readonly hibernates: boolean;
  readonly readers: ReaderAnswer;
  readonly existing: ExistingAnswer;
}

/** The questions, as keys of what is left out or answered. */
export type Question =
  'boots' | 'use' | 'memory' | 'hibernates' | 'readers' | 'existing' | 'medium' | 'table' | 'apart';

/** An answer that a layout does not serve, and why. */
export interface LeftOut {
  readonly question: Question;
  readonly why: string;
}

/** Ids and date for a new layout: they come in, because the core knows no chance and no clock. */
export interface Fresh {
  readonly signature: string;
  readonly diskId: string;
  readonly date: string;
}

/** What is asked of an open file that others may have written, and what comes of it: plain data that goes to a thread and back. */
import type { NotAltered } from '@/core/change/alter';
import type { Plan } from '@/core/change/plan';
import type { Proposed, ProposalWish } from '@/core/change/proposal';
import type { VolumeCheck } from '@/core/filesystems/ext/check/whole';
import type { RepackRefusal, RepackWish } from '@/core/filesystems/ext/repack/order';
import type { Minima } from '@/core/filesystems/ext/repack/repack';
import type { Replay } from '@/core/filesystems/ext/replay/replay';
import type { RoomMap } from '@/core/filesystems/room-map';
import type { Listing, VolumeEntry } from '@/core/filesystems/volume';
import type { Layout } from '@/core/layout/document';
import type { Result } from '@/core/quantity/result';
import type { Survey } from '@/core/survey/found';

/** How long an order may take, in milliseconds: of a survey the rest is told, a folder is given up. */
export const DEADLINE = 10_000;

/** Orders by their kind, each with what it asks for and what it answers. */
export interface Orders {
  /** What is in the file. */
  readonly survey: { readonly asked: { readonly sectorSize: 512 | 4096 }; readonly answer: Survey };
  /** What is to be worked off of the volume at a byte before its files are what a kernel would show; undefined where nothing ever is. */
  readonly unfinished: { readonly asked: { readonly at: number }; readonly answer: Replay | undefined };
  /** All of the ext volume at a byte, in a place of so many bytes; it takes as long as it takes. */
  readonly check: { readonly asked: { readonly at: number; readonly available: number }; readonly answer: VolumeCheck };
  /** Where the room of the volume at a byte is, in so many cells; undefined where it cannot be told. */
  readonly map: {
    readonly asked: { readonly at: number; readonly cells: number };
    readonly answer: RoomMap | undefined;
  };
  /** How small the ext volume at a byte can be, or why that cannot be said. */
  readonly minimum: { readonly asked: { readonly at: number }; readonly answer: Result<Minima, string> };
  /** The ext volume at a byte laid anew in a file of its own, or why that is not done; it takes as long as it takes. */
  readonly repack: {
    readonly asked: {
      readonly from: string;
      readonly at: number;
      readonly available: number;
      readonly wish: RepackWish;
      readonly path: string;
      readonly temporary: string;
    };
    readonly answer: Result<RepackDone, RepackRefusal>;
  };
  /** What would mend, cut or clear it, as it was surveyed; it takes as long as it takes. */
  readonly proposal: {
    readonly asked: { readonly from: string; readonly survey: Survey; readonly wish: ProposalWish };
    readonly answer: Proposed & Foreseen;
  };
  /** What turns it into what a layout says, whose contents lie in a store, or why nothing does; it takes as long as it takes. */
  readonly alteration: {
    readonly asked: {
      readonly from: string;
      readonly survey: Survey;
      readonly document: Layout;
      readonly store: string;
    };
    readonly answer: Result<{ readonly plan: Plan } & Foreseen, NotAltered>;
  };
  /** The SHA-256 of all of it, in hexadecimal; it takes as long as it takes. */
  readonly digest: { readonly asked: object; readonly answer: string };
  /** A folder of the volume that begins at a byte of it; the root without a folder. */
  readonly folder: {
    readonly asked: { readonly at: number; readonly folder: VolumeEntry | undefined };
    readonly answer: Listing;
  };
  /** Where a path in that volume leads to. */
  readonly entry: {
    readonly asked: { readonly at: number; readonly path: string };
    readonly answer: VolumeEntry | 'root' | undefined;
  };
}

/** A survey of it as it would be. */
export interface Foreseen {
  readonly after: Survey;
}

/** A volume that was laid anew. */
export interface RepackDone {
  readonly size: number;
  readonly written: number;
  readonly free: number;
  readonly words: readonly string[];
  readonly leftOut: readonly string[];
}

export type OrderKind = keyof Orders;

/** An open file: its descriptor, how many bytes of it are read, and what changes when it does. */
export interface OpenFile {
  readonly descriptor: number;
  readonly size: number;
  readonly key: string;
}

/** What goes to the thread: an order with a number of its own, or word that nobody waits for it any more. */
export type ToThread =
  | {
      readonly id: number;
      readonly kind: OrderKind;
      readonly file: OpenFile;
      readonly asked: Orders[OrderKind]['asked'];
    }
  | { readonly id: number; readonly cancelled: true };

/** What comes back: how far it is, what came of it, or what was in its way. */
export type FromThread =
  | { readonly id: number; readonly progress: ReadProgress }
  | { readonly id: number; readonly answer: Orders[OrderKind]['answer'] }
  | { readonly id: number; readonly failure: Failure };

/** How far an order is, in bytes; a total of 0 where that is not known. */
export interface ReadProgress {
  readonly phase: string;
  readonly done: number;
  readonly total: number;
}

/** An error as it goes from thread to thread. */
export interface Failure {
  readonly name: string;
  readonly message: string;
  readonly code?: string | undefined;
}

/** Whoever asked does not wait any more. */
export class NoLongerAsked extends Error {}

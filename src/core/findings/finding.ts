/**
 * Findings: what the checks say. A rule is one pure function from a placement to findings; a
 * remedy is a layout edit, so it can be looked at before and undone after.
 */
import type { Edit, SlotPatch } from '../layout/edits';
import type { PartitionSlot } from '../layout/document';
import { isPartition, type PlacedPartition, type Placement } from '../placement/placement';

/** `stop`: no build. `risk`: works here, may fail there. `note`: advice. */
export type Severity = 'stop' | 'risk' | 'note';

/** What a finding speaks of. */
export type Place =
  | { readonly kind: 'medium' }
  | { readonly kind: 'table' }
  | { readonly kind: 'boots' }
  | { readonly kind: 'slot'; readonly id: string };

/** One action that answers a finding. */
export interface Remedy {
  readonly label: string;
  readonly edit: Edit;
}

export interface Finding {
  /** The rule that speaks, as in `fat/too-small`. */
  readonly rule: string;
  readonly severity: Severity;
  readonly place: Place;
  /** What is wrong, with figures. */
  readonly sentence: string;
  /** Why it matters. */
  readonly why: string;
  readonly remedies: readonly Remedy[];
}

export type Rule = (placement: Placement) => Finding[];

/** The place of a slot. */
export function atSlot(id: string): Place {
  return { kind: 'slot', id };
}

/** A remedy that changes fields of one slot. */
export function changing(label: string, id: string, patch: SlotPatch): Remedy {
  return { label, edit: { do: 'change slot', id, patch } };
}

/** The placed partitions, in order. */
export function partitionsOf(placement: Placement): PlacedPartition[] {
  return placement.placed.filter(isPartition);
}

/** Placed partitions that hold a FAT file system. */
export function fatPartitions(placement: Placement) {
  return partitionsOf(placement).filter(
    (one): one is PlacedPartition & { slot: { fileSystem: NonNullable<PartitionSlot['fileSystem']> } } =>
      one.slot.fileSystem !== undefined,
  );
}

/**
 * Findings: what the checks say. A rule is one pure function from a placement to findings; a
 * remedy is a layout edit, so it can be looked at before and undone after.
 */
import type { Edit, SlotPatch } from '../layout/edits';
import type { Accepted, FileSystem, PartitionSlot } from '../layout/document';
import { type Entered, isEntered, isPartition, type PlacedPartition, type Placement } from '../placement/placement';

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
  /** Why a person took this risk, as it is now. */
  readonly accepted?: string;
  /** A reason that was given when the figures were others: it does not hold any more. */
  readonly acceptedBefore?: Accepted;
}

export type Rule = (placement: Placement) => Finding[];

/** The findings that prevent a build whatever anybody says. */
export function stopsAmong(findings: readonly Finding[]): Finding[] {
  return findings.filter((finding) => finding.severity === 'stop');
}

/** The place of a slot. */
export function atSlot(id: string): Place {
  return { kind: 'slot', id };
}

/** A remedy that changes fields of one slot. */
export function changing(label: string, id: string, patch: SlotPatch): Remedy {
  return { label, edit: { do: 'change slot', id, patch } };
}

/** What many rules ask of the same placement is computed once for it. */
export function once<T>(compute: (placement: Placement) => T): (placement: Placement) => T {
  const known = new WeakMap<Placement, T>();
  return (placement) => {
    let value = known.get(placement);
    if (value === undefined) known.set(placement, (value = compute(placement)));
    return value;
  };
}

/** The placed partitions, in order. */
export const partitionsOf: (placement: Placement) => readonly PlacedPartition[] = once(({ placed }) =>
  placed.filter(isPartition),
);

/** The placed partitions with an entry in the table, in order. */
export const entriesOf: (placement: Placement) => readonly Entered[] = once(({ placed }) => placed.filter(isEntered));

type WithFat = PlacedPartition & { readonly slot: PartitionSlot & { readonly fileSystem: FileSystem } };

/** Placed partitions that hold a FAT file system. */
export const fatPartitions: (placement: Placement) => readonly WithFat[] = once((placement) =>
  partitionsOf(placement).filter((one): one is WithFat => one.slot.fileSystem !== undefined),
);

/** True for a partition with a FAT file system: made here, or in an image that was supplied; one that is not known yet may be. */
export function holdsFat({ fileSystem, content }: PartitionSlot, { contents }: Placement): boolean {
  if (fileSystem) return true;
  if (content?.kind !== 'image') return false;
  const facts = contents.blob(content.sha256);
  return facts === undefined || (facts !== 'missing' && facts.image?.variant !== undefined);
}

/** A remedy that changes the file system of a slot; `undefined` takes a choice back. */
export function refitting(
  label: string,
  slot: WithFat['slot'],
  patch: { readonly [Key in keyof FileSystem]?: FileSystem[Key] | undefined },
): Remedy {
  const merged = Object.entries({ ...slot.fileSystem, ...patch }).filter(([, value]) => value !== undefined);
  return changing(label, slot.id, { fileSystem: Object.fromEntries(merged) as FileSystem });
}

/** Index of a slot in the document. */
export function indexOfSlot(placement: Placement, id: string): number {
  return placement.layout.slots.findIndex((slot) => slot.id === id);
}

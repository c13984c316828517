/**
 * Findings: what the checks say. A rule is one pure function from a placement to findings; a
 * remedy is a layout edit, so it can be looked at before and undone after.
 */
import { type CaseOf, declared, type DeclaredRule, type Severity } from '../severity';
import { derivedVolumeId, type Edit, patched, type SlotPatch } from '../../layout/edits';
import { madeAs } from '../../filesystems/kinds';
import type { ContentOf } from '../../filesystems/shapes';
import type { Accepted, PartitionSlot } from '../../layout/document';
import {
  type Entered,
  isEntered,
  isPartition,
  type Placed,
  type PlacedPartition,
  type Placement,
} from '../../placement/placement';
import { alignUp } from '../../quantity/integers';
import { amountInBytes, amountInSectors, parseExact } from '../../quantity/size-language';
import { exactText } from '../../quantity/units';
import type { FileRemedy } from './file-remedies';

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
  /** Remedies that change the files of a slot. */
  readonly fileRemedies?: readonly FileRemedy[];
  /** Why a person took this risk, as it is now. */
  readonly accepted?: string;
  /** A reason that was given when the figures were others: it does not hold any more. */
  readonly acceptedBefore?: Accepted;
}

/** One case of a rule. */
export type Occurrence = CaseOf<Finding>;
export type Rule = DeclaredRule<Placement, Finding>;

/** Declares a rule about layouts. */
export function rule(id: string, severity: Severity, find: (placement: Placement) => readonly Occurrence[]): Rule {
  return declared(id, severity, find);
}

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

/** What many rules ask of the same placement is computed once for it, as long as no other one is asked about. */
export function once<T>(compute: (placement: Placement) => T): (placement: Placement) => T {
  let known: { readonly of: Placement; readonly value: T } | undefined;
  return (placement) => {
    if (known?.of !== placement) known = { of: placement, value: compute(placement) };
    return known.value;
  };
}

/** A system that fills more than this part of its slot has no room to be updated in place. */
export const ROOM_TO_UPDATE = 0.85;

/** The placed partitions, in order. */
export const partitionsOf: (placement: Placement) => readonly PlacedPartition[] = once(({ placed }) =>
  placed.filter(isPartition),
);

/** The placed partitions with an entry in the table, in order. */
export const entriesOf: (placement: Placement) => readonly Entered[] = once(({ placed }) => placed.filter(isEntered));

type WithFat = PlacedPartition & { readonly slot: PartitionSlot & { readonly content: ContentOf<'fat'> } };

/** Placed partitions that hold a FAT file system. */
export const fatPartitions: (placement: Placement) => readonly WithFat[] = once((placement) =>
  partitionsOf(placement).filter((one): one is WithFat => one.slot.content?.kind === 'fat'),
);

/** The geometry of the FAT volume that is made of a partition, or why there is none. */
export const fatOf = (one: PlacedPartition) => madeAs(one, 'fat');

/** True for a partition with a FAT file system: made here, or in an image that was supplied; one that is not known yet may be. */
export function holdsFat({ content }: PartitionSlot, { contents }: Placement): boolean {
  if (content?.kind === 'fat') return true;
  if (content?.kind !== 'image') return false;
  const facts = contents.blob(content.sha256);
  return facts === undefined || (facts !== 'missing' && facts.image?.variant !== undefined);
}

/** A remedy that changes the file system of a slot; `undefined` takes a choice back. */
export function refitting(
  label: string,
  slot: WithFat['slot'],
  patch: { readonly [Key in keyof ContentOf<'fat'>]?: ContentOf<'fat'>[Key] | undefined },
): Remedy {
  return changing(label, slot.id, { content: patched<ContentOf<'fat'>>(slot.content, patch) });
}

/** The remedy that makes a FAT volume exFAT, with the same files; none where firmware or a ROM reads it. */
export function asExfat({ layout }: Placement, { slot }: PlacedPartition): Remedy[] {
  if (slot.role === 'esp' || slot.role === 'boot') return [];
  const {
    label,
    files,
    times,
    volumeId = derivedVolumeId(layout, slot.id),
  } = slot.content?.kind === 'fat' ? slot.content : ({} as Partial<ContentOf<'fat'>>);
  const content: ContentOf<'exfat'> = {
    kind: 'exfat',
    volumeId,
    ...(label !== undefined && { label }),
    ...(files !== undefined && { files }),
    ...(times !== undefined && { times }),
  };
  return [changing(`Make ${slot.name} exFAT`, slot.id, { content })];
}

/** Sectors that slots could have more without pushing anything off: what nobody claims, and what shares hold above their least. */
const spare: (placement: Placement) => number = once(({ strata, placed, grain, sectorSize }) => {
  const unclaimed = strata.reduce(
    (sum, one) => (one.kind === 'gap' && one.cause === 'unclaimed' ? sum + one.sectors : sum),
    0,
  );
  return placed.reduce((sum, one) => sum + surplusOf(one, grain.sectors, sectorSize), unclaimed);
});

/** Sectors that a share holds above its least. */
function surplusOf({ rule, sectors }: Placed, grain: number, sectorSize: number): number {
  if (rule?.kind !== 'rest') return 0;
  const least = rule.atLeast ? amountInSectors(rule.atLeast, sectorSize) : grain;
  return Math.max(0, sectors - least);
}

/** True where a slot could have so many bytes: the medium has them, and nothing else has to go. */
export function hasRoomFor(placement: Placement, one: Placed | undefined, bytes: number): boolean {
  const { sectorSize, grain } = placement;
  const own = one ? one.sectors + surplusOf(one, grain.sectors, sectorSize) : 0;
  return Math.ceil(bytes / sectorSize) - (one?.sectors ?? 0) <= spare(placement) - (own - (one?.sectors ?? 0));
}

/** The remedy that gives a slot so many bytes; none where there is no room for them. */
export function sized(placement: Placement, one: Placed, bytes: number): Remedy[] {
  if (!hasRoomFor(placement, one, bytes)) return [];
  const size = exactText(bytes, placement.sectorSize);
  return [changing(`Make ${one.slot.name} ${size}`, one.slot.id, { size })];
}

/** The remedy that makes a slot large enough, where the medium has room for it. */
export function enlarged(placement: Placement, one: Placed, bytes: number): Remedy[] {
  return sized(placement, one, alignUp(bytes, placement.grain.bytes));
}

/** The first of these sizes for which there is room. */
export function sizedAny(placement: Placement, one: Placed, sizes: readonly number[]): Remedy[] {
  const fitting = sizes.find((bytes) => hasRoomFor(placement, one, bytes));
  return fitting === undefined ? [] : sized(placement, one, fitting);
}

/** The remedy that adds a partition; none where there is no room for it. */
export function addingSlot(placement: Placement, label: string, slot: PartitionSlot, index: number): Remedy[] {
  const size = parseExact(slot.size);
  const bytes = size.ok ? amountInBytes(size.value, placement.sectorSize) : placement.grain.bytes;
  if (!hasRoomFor(placement, undefined, bytes)) return [];
  return [{ label, edit: { do: 'add slot', index, slot } }];
}

/** Index of a slot in the document. */
export function indexOfSlot(placement: Placement, id: string): number {
  return placement.layout.slots.findIndex((slot) => slot.id === id);
}

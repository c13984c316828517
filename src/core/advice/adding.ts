/** Adding a slot where a person wants it: it takes the free space there, and lands where that can be. */
import { checkWith } from '../findings/layout/checking';
import { stopsAmong } from '../findings/layout/finding';
import type { ContentOf } from '../filesystems/shapes';
import type { PartitionSlot, Slot } from '../layout/document';
import { storedExtLabel } from '../filesystems/ext/label';
import { applyEdit, type Edit, freeName, freshContent, newSlotId } from '../layout/edits';
import type { KeptSlot } from '../layout/kept';
import { ROLE_NAMES, SLOT_LIMIT } from '../layout/vocabulary';
import { place } from '../placement/place';
import type { Placement } from '../placement/placement';
import { exactText, GIB, KIB, MIB } from '../quantity/units';

export type NewKind = Slot['kind'];

/** Where a slot is wanted: behind another one, in the free space that begins at a sector, or anywhere. */
export type Wanted =
  | { readonly kind: 'behind'; readonly id: string }
  | { readonly kind: 'gap'; readonly start: number }
  | { readonly kind: 'anywhere' };

/** An added slot, and the edit that adds it. */
export interface Adding {
  readonly edit: Extract<Edit, { do: 'add slot' }>;
  readonly id: string;
}

/** What is asked of a new slot, apart from its id and name. */
type Wish = { readonly [Field in 'size' | 'at' | 'length']?: string } & { readonly logical?: true };

/** How large a share may become on an MBR, and as one FAT: what more would be is a stop. */
const SHARE_LIMITS = [2048 * GIB - MIB, 1900 * GIB] as const;
/** Sizes of free space that is kept where nobody leaves any. */
const FREE_SIZES = ['256 MiB', '16 MiB', '1 MiB'];
/** Lengths of a raw range; a loader of half a MiB is the usual one. */
const RAW_LENGTHS = ['480 KiB', '64 KiB', '4 KiB'];

/** Index in the document for a slot that is to lie in the gap that begins at this sector. */
function indexOfGap({ strata, layout }: Placement, start: number): number {
  const above = strata.filter((one) => one.kind === 'slot' && one.start < start).at(-1);
  if (above?.kind !== 'slot') return 0;
  return layout.slots.findIndex((slot) => slot.id === above.placed.slot.id) + 1;
}

/** Starts of the free space that a slot could take, the largest first. */
function openGaps({ strata, grain }: Placement): number[] {
  return strata
    .filter((one) => one.kind === 'gap' && one.cause !== 'closed' && one.cause !== 'grain')
    .filter(({ sectors }) => sectors >= grain.sectors)
    .sort((a, b) => b.sectors - a.sectors)
    .map(({ start }) => start);
}

function indexesFor(placement: Placement, wanted: Wanted): number[] {
  if (wanted.kind === 'gap') return [indexOfGap(placement, wanted.start)];
  const slots = placement.layout.slots;
  const behind = wanted.kind === 'behind' ? slots.findIndex((slot) => slot.id === wanted.id) : -1;
  const gaps = openGaps(placement).map((start) => indexOfGap(placement, start));
  return [...new Set([...(behind >= 0 ? [behind + 1] : []), ...gaps, slots.length])];
}

/** Places for a raw range: where many loaders begin, and behind each range that is there. */
function rawPlaces({ placed, sectorSize }: Placement): string[] {
  const behind = placed
    .filter(({ slot }) => slot.kind === 'raw')
    .map(({ span }) => exactText(Math.ceil(span.end / (4 * KIB)) * 4 * KIB, sectorSize));
  return ['32 KiB', ...behind];
}

function wishesFor(placement: Placement, kind: NewKind): Wish[] {
  if (kind === 'raw') return RAW_LENGTHS.flatMap((length) => rawPlaces(placement).map((at) => ({ at, length })));
  if (kind === 'free')
    return openGaps(placement).length > 0 ? [{ size: 'rest' }] : FREE_SIZES.map((size) => ({ size }));
  const sizes = ['rest', ...SHARE_LIMITS.map((most) => `rest, at most ${exactText(most, placement.sectorSize)}`)];
  const plain = sizes.map((size): Wish => ({ size }));
  if (placement.layout.table.kind !== 'mbr') return plain;
  return [...plain, ...sizes.map((size): Wish => ({ size, logical: true }))];
}

const NAMES: Readonly<Record<NewKind, string>> = {
  partition: ROLE_NAMES.data,
  raw: 'Loader range',
  free: 'Free on purpose',
};

function slotFor({ layout }: Placement, kind: NewKind, wish: Wish): Slot {
  const id = newSlotId(layout);
  const name = freeName(layout, NAMES[kind]);
  const { size = 'rest', at = '32 KiB', length = '4 KiB', logical } = wish;
  if (kind === 'raw') return { id, kind, name, at, length };
  if (kind === 'free') return { id, kind, name, size };
  return { id, kind, name, role: 'data', size, ...(logical && { logical }) };
}

/** What stands in the way of a layout: its stops, told apart by rule and place. */
function stopsOf(placement: Placement): Set<string> {
  return new Set(stopsAmong(checkWith([], placement)).map(({ rule, place: at }) => `${rule} ${JSON.stringify(at)}`));
}

/**
 * The edit that adds a slot of this kind; undefined where a layout can have no more. It takes the free
 * space that it is added in, or the rest. The first way that brings no new stop is taken; where every way
 * brings one, the first, whose findings say how room is made.
 */
export function adding(placement: Placement, wanted: Wanted, kind: NewKind): Adding | undefined {
  if (placement.layout.slots.length >= SLOT_LIMIT) return undefined;
  const indexes = kind === 'raw' ? [0] : indexesFor(placement, wanted);
  const ways = wishesFor(placement, kind).flatMap((wish) =>
    indexes.map((index): Adding => {
      const slot = slotFor(placement, kind, wish);
      return { id: slot.id, edit: { do: 'add slot', index, slot } };
    }),
  );
  return firstGood(placement, ways);
}

/** The first way of adding that brings no new stop; the first of all where each brings one. */
function firstGood(placement: Placement, ways: readonly Adding[]): Adding | undefined {
  const { layout, contents } = placement;
  const before = stopsOf(placement);
  const isGood = ({ edit, id }: Adding) => {
    const after = place(applyEdit(layout, edit), contents);
    const added = after.placed.find((one) => one.slot.id === id)!;
    return added.sectors > 0 && [...stopsOf(after)].every((stop) => before.has(stop));
  };
  return ways.find(isGood) ?? ways[0];
}

/** What a new slot is to be like: the one that it takes its files from, as far as a new one can be. */
/** Kinds of volume whose files can be put elsewhere; of ext which one. */
export type TakenKind = 'fat' | 'exfat' | 'ext2' | 'ext3' | 'ext4';

export interface FilesTaken {
  readonly like: KeptSlot;
  /** SHA-256 of the list of files. */
  readonly files: string;
  readonly kind: TakenKind;
  readonly label: string | undefined;
}

/** Labels that FAT and exFAT both take. */
const LABEL = /^[A-Z0-9_-](?:[A-Z0-9 _-]{0,9}[A-Z0-9_-])?$/;

/**
 * The edit that adds a slot with the files of a kept one: as large as that, or with the rest of the free space where that
 * does not fit. The kept one stays.
 */
export function takingOver(placement: Placement, { like, files, kind, label }: FilesTaken): Adding | undefined {
  const added = adding(placement, { kind: 'anywhere' }, 'partition');
  if (added?.edit.slot.kind !== 'partition') return undefined;
  const { slot, index } = added.edit;
  const { layout } = placement;
  const version = kind === 'fat' || kind === 'exfat' ? undefined : kind;
  const fresh = freshContent(version ? 'ext' : (kind as 'fat' | 'exfat'), layout, added.id);
  const content = { ...fresh, ...(version && { version }), files } as ContentOf<'fat' | 'exfat' | 'ext'>;
  const isLabel = label && (version ? storedExtLabel(label).text === label : LABEL.test(label));
  const name = freeName(layout, like.name);
  const made: PartitionSlot = {
    ...slot,
    name,
    role: like.role === 'esp' || like.role === 'boot' ? like.role : 'data',
    content: isLabel ? { ...content, label } : content,
  };
  const ways = [like.size, slot.size].map((size): Adding => ({
    id: added.id,
    edit: { do: 'add slot', index, slot: { ...made, size } },
  }));
  return firstGood(placement, ways);
}

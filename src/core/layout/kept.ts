/**
 * Kept partitions: slots that say what a medium holds already. What a slot says beside what was found is what is to
 * change; where both say the same, nothing does.
 */
import { exactBytes } from '../quantity/size-language';
import { exactText, inBoth } from '../quantity/units';
import type { FoundEntry, FoundMedium, Layout, PartitionSlot, RawSlot, Slot } from './document';
import { ROLE_NAMES, type Role, SLOT_NAME_LIMIT } from './vocabulary';
import { promiseOf, type TypeQuestion } from '../tables/types';

/** A slot that keeps a partition. */
export type KeptSlot = PartitionSlot & { readonly keeps: number };

/** True for a slot that keeps a partition, whether or not what is inside stays. */
export function isKept(slot: Slot): slot is KeptSlot {
  return slot.kind === 'partition' && slot.keeps !== undefined;
}

/** True where a slot lies where it does because something is there that stays: no hand, remedy or grain moves it. */
export function isLocked(slot: Slot): boolean {
  return slot.kind !== 'free' && slot.keeps !== undefined;
}

/** True for a raw range in which what lies there stays. */
export function isKeptRaw(slot: Slot): slot is RawSlot & { readonly keeps: true } {
  return slot.kind === 'raw' && slot.keeps === true;
}

/** True where what is inside a partition stays as it is. */
export function keepsInside(slot: Slot): slot is KeptSlot {
  return isKept(slot) && slot.content === undefined;
}

/** True for a partition in which an ext was found. */
const holdsExt = ({ inside }: Pick<FoundEntry, 'inside'>): boolean => /^ext[234]$/.test(inside?.kind ?? '');

/** True for a slot whose inside can be laid anew: an ext that was found, and stays. */
export function canRepack(slot: Slot, found: FoundMedium | undefined): boolean {
  if (!keepsInside(slot)) return false;
  const entry = foundOf({ found }, slot);
  return entry !== undefined && holdsExt(entry);
}

/** What was found, by number: made once, because documents are never changed. */
const numbered = new WeakMap<FoundMedium, ReadonlyMap<number, FoundEntry>>();

function byNumber(found: FoundMedium): ReadonlyMap<number, FoundEntry> {
  const known = numbered.get(found);
  if (known) return known;
  const made = new Map(found.partitions.map((one) => [one.number, one]));
  numbered.set(found, made);
  return made;
}

/** The partition that a slot keeps, as it was found. */
export function foundOf({ found }: Pick<Layout, 'found'>, slot: Slot): FoundEntry | undefined {
  return found && isKept(slot) ? byNumber(found).get(slot.keeps) : undefined;
}

/** Partitions that were found and that no slot keeps: they go. */
export function goneFrom({ found, slots }: Pick<Layout, 'found' | 'slots'>): readonly FoundEntry[] {
  const kept = new Set(slots.filter(isKept).map(({ keeps }) => keeps));
  return (found?.partitions ?? []).filter(({ number }) => !kept.has(number));
}

/** What is inside a partition, in words: `NTFS, label SURVEY`. */
export function insideWords({ inside }: Pick<FoundEntry, 'inside'>): string {
  if (!inside) return 'nothing that is known';
  return inside.label === undefined || inside.label === '' ? inside.kind : `${inside.kind}, label ${inside.label}`;
}

/** What is lost with a partition, in words: what is in it with its size, and what of that is in use. */
export function lossWords({ inside, sectors }: Pick<FoundEntry, 'inside' | 'sectors'>, sectorSize: number): string {
  const size = inBoth(sectors * sectorSize);
  if (!inside) return `${size} in which nothing was recognised`;
  const used = inside.used === undefined ? '' : `, ${inBoth(inside.used)} of it in use`;
  const label = inside.label ? `, label ${inside.label}` : '';
  return `${size} of ${inside.kind}${label}${used}`;
}

/** The role of a partition by its type, and by what is in it. */
function roleOf({ type, inside }: Pick<FoundEntry, 'type' | 'inside'>): Role {
  const promise = type === undefined ? 'other' : promiseOf(type);
  if (promise === 'esp') return 'esp';
  if (promise === 'bios boot') return 'bios-boot';
  if (promise === 'extended boot') return 'boot';
  return promise === 'swap' || inside?.kind.startsWith('swap') ? 'swap' : 'data';
}

/** What decides the type of a kept partition where its own cannot stand: what was recognised in it. */
export function typedByFound({ inside }: Pick<FoundEntry, 'inside'>): TypeQuestion['content'] {
  const kind = inside?.kind;
  if (kind === undefined) return 'none';
  const word = BY_INSIDE[kind];
  if (word !== undefined) return word;
  return kind.startsWith('swap') ? 'swap' : kind.startsWith('LVM') ? 'lvm' : kind.startsWith('LUKS') ? 'luks' : 'linux';
}

const BY_INSIDE: Readonly<Record<string, TypeQuestion['content']>> = {
  FAT12: 12,
  FAT16: 16,
  FAT32: 32,
  NTFS: 'ifs',
  exFAT: 'ifs',
  UFS: 'ufs',
  UFS2: 'ufs',
};

/** Why a layout that keeps something is not built from nothing; undefined where it keeps nothing. */
export function notFromNothing({ slots }: Pick<Layout, 'slots'>): string | undefined {
  const kept = slots.filter(isLocked).map(({ name }) => name);
  if (kept.length === 0) return undefined;
  return `The layout keeps what lies on a medium (${kept.slice(0, 3).join(', ')}${kept.length > 3 ? ' …' : ''}): an image of it is made from that medium’s, and not from nothing.`;
}

/** What a partition is called where its table has no name for it. */
function nameOf(entry: FoundEntry): string {
  const { name, inside, number } = entry;
  if (name) return name.slice(0, SLOT_NAME_LIMIT);
  const role = roleOf(entry);
  if (role !== 'data') return `${ROLE_NAMES[role]} ${number}`;
  return (inside?.label || (number === 0 ? 'Volume' : `Partition ${number}`)).slice(0, SLOT_NAME_LIMIT);
}

/** The slot that keeps a partition as it was found. */
export function keptSlot(entry: FoundEntry, sectorSize: 512 | 4096, table: Layout['table']['kind']): KeptSlot {
  const { number, at, sectors, type, id, attributes = [], active, recordAt } = entry;
  const text = (count: number) => (count === 0 ? '0' : exactText(count * sectorSize, sectorSize));
  const known = attributes.filter((word) => !word.startsWith('bit '));
  return {
    id: `kept-${number}`,
    kind: 'partition',
    name: nameOf(entry),
    role: roleOf(entry),
    size: text(Math.max(1, sectors)),
    at: text(at),
    ...(recordAt !== undefined && { logical: true as const }),
    ...(type !== undefined && type !== '' && { type }),
    ...(table === 'gpt' && id !== undefined && { partitionId: id }),
    ...(table === 'gpt' && known.length > 0 && { attributes: known as NonNullable<PartitionSlot['attributes']> }),
    ...(active && { active }),
    keeps: number,
  };
}

/** What of a kept partition is to be other than it was found. */
export type KeptChange =
  | 'moved'
  | 'made smaller'
  | 'made larger'
  | 'laid anew'
  | 'retyped'
  | 'renamed'
  | 'another id'
  | 'other marks'
  | 'formatted';

/** What of a kept slot is to change, against the partition as it was found. */
export function changesOf(
  slot: KeptSlot,
  entry: FoundEntry,
  layout: Pick<Layout, 'table' | 'found' | 'medium'>,
): KeptChange[] {
  const sectorSize = layout.medium.logicalSector;
  const same = keptSlot(entry, sectorSize, layout.table.kind);
  const at = slot.at === undefined ? undefined : exactBytes(slot.at, sectorSize);
  const bytes = exactBytes(slot.size, sectorSize);
  const was = entry.sectors * sectorSize;
  const isSame = (key: 'type' | 'partitionId' | 'name' | 'active') => slot[key] === same[key];
  const words = ({ attributes = [] }: PartitionSlot) => [...attributes].sort().join();
  const changes: readonly (readonly [KeptChange, boolean])[] = [
    ['moved', at !== entry.at * sectorSize],
    ['made smaller', bytes < was],
    ['made larger', bytes > was],
    ['laid anew', slot.repack !== undefined],
    ['formatted', slot.content !== undefined],
    ['retyped', !isSame('type')],
    ['renamed', layout.table.kind === 'gpt' && !isSame('name')],
    ['another id', layout.table.kind === 'gpt' && !isSame('partitionId')],
    ['other marks', !isSame('active') || words(slot) !== words(same)],
  ];
  return changes.filter(([, is]) => is).map(([change]) => change);
}

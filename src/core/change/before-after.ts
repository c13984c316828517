/**
 * Before and after: every partition that was found beside what becomes of it, with the bytes that are at stake, and the
 * ranges that are written, gathered by what they are.
 */
import { kindOf } from '../filesystems/kinds';
import type { FoundEntry } from '../layout/document';
import { saysAnew, saysGone, saysLaidAnew, saysLarger, saysMoved, saysSmaller } from '../layout/acts';
import { changesOf, foundOf, goneFrom, insideWords, isKept, keepsInside, type KeptChange } from '../layout/kept';
import { isPartition, type PlacedPartition, type Placement } from '../placement/placement';
import { inBoth } from '../quantity/units';
import { type Plan, plannedLength } from './plan';

/** What becomes of a partition; `kept` is where nothing does. */
export type Fate = 'kept' | KeptChange | 'deleted' | 'new' | 'another number';

/** A stretch of the medium, with what the table says of it. */
export interface Side {
  readonly number: number;
  readonly start: number;
  readonly sectors: number;
  readonly name: string;
  readonly type: string;
  readonly inside: string;
}

/** One partition, before and after. */
export interface Becoming {
  /** Stable, for lists: of the slot, or of what is gone. */
  readonly key: string;
  /** Id of the slot; none for what goes. */
  readonly slot: string | undefined;
  readonly fates: readonly Fate[];
  readonly before: Side | undefined;
  readonly after: Side | undefined;
  /** Bytes that are lost, or may be: what was in it. */
  readonly atStake: number;
  /** What becomes of it in words, where anything does. */
  readonly words: readonly string[];
}

function sideBefore(entry: FoundEntry, name: string): Side {
  const { number, at: start, sectors, type = '' } = entry;
  return { number, start, sectors, name: entry.name ?? name, type, inside: insideWords(entry) };
}

function insideAfter(one: PlacedPartition, entry: FoundEntry | undefined): string {
  const { content } = one.slot;
  if (entry && keepsInside(one.slot)) return insideWords(entry);
  if (!content) return 'left to its system';
  const { word, detail } = kindOf(content).summary(content, one.made);
  return detail === undefined ? word : `${word}, label ${detail}`;
}

function sideAfter(one: PlacedPartition, entry: FoundEntry | undefined): Side {
  const { slot, start, sectors } = one;
  return {
    number: one.entry?.number ?? 0,
    start,
    sectors,
    name: slot.name,
    type: one.entry?.type ?? '',
    inside: insideAfter(one, entry),
  };
}

/** What is at stake of a kept partition, and what becomes of it in words. */
function stakes(one: PlacedPartition, entry: FoundEntry, changes: readonly KeptChange[], sectorSize: number) {
  const bytes = entry.sectors * sectorSize;
  if (changes.includes('formatted')) return { atStake: bytes, words: [saysAnew(entry, sectorSize).sentence] };
  const words: string[] = [];
  let atStake = 0;
  const { repack } = one.slot;
  if (repack) words.push(saysLaidAnew(entry, one.sectors, sectorSize, repack).sentence);
  else if (changes.includes('made smaller')) {
    const said = saysSmaller(entry, one.sectors, sectorSize);
    if (said.cost === 'loss') atStake = bytes;
    words.push(said.sentence);
  }
  if (changes.includes('made larger') && !repack) words.push(saysLarger(entry, one.sectors, sectorSize).sentence);
  if (changes.includes('moved')) words.push(saysMoved(entry, one.start, sectorSize).sentence);
  return { atStake, words };
}

function keptBecoming(one: PlacedPartition, entry: FoundEntry, { layout, sectorSize }: Placement): Becoming {
  const { slot } = one;
  const changes = isKept(slot) ? changesOf(slot, entry, layout) : [];
  const number = one.entry?.number ?? 0;
  const isOther = number !== entry.number && layout.table.kind !== 'none';
  const numbered = isOther ? [`It was partition ${entry.number} and becomes partition ${number}.`] : [];
  const { atStake, words } = stakes(one, entry, changes, sectorSize);
  const fates: Fate[] = [...changes, ...(isOther ? (['another number'] as const) : [])];
  return {
    key: slot.id,
    slot: slot.id,
    fates: fates.length > 0 ? fates : ['kept'],
    before: sideBefore(entry, slot.name),
    after: sideAfter(one, entry),
    atStake,
    words: [...words, ...numbered],
  };
}

/** Every partition before and after, in the order of the medium. */
export function becomings(placement: Placement): Becoming[] {
  const { layout, placed, sectorSize } = placement;
  const rows = placed.filter(isPartition).map((one): Becoming => {
    const entry = foundOf(layout, one.slot);
    if (entry) return keptBecoming(one, entry, placement);
    const { id } = one.slot;
    return {
      key: id,
      slot: id,
      fates: ['new'],
      before: undefined,
      after: sideAfter(one, undefined),
      atStake: 0,
      words: [],
    };
  });
  const gone = goneFrom(layout).map((entry): Becoming => ({
    key: `gone-${entry.number}`,
    slot: undefined,
    fates: ['deleted'],
    before: sideBefore(entry, `Partition ${entry.number}`),
    after: undefined,
    atStake: entry.sectors * sectorSize,
    words: [saysGone(entry, sectorSize).sentence],
  }));
  const startOf = ({ before, after }: Becoming) => (after ?? before)!.start;
  return [...rows, ...gone].sort((a, b) => startOf(a) - startOf(b));
}

/** Ranges of a plan that are one thing, as people are told of them. */
export interface Gathered {
  readonly what: string;
  readonly slot: string | undefined;
  /** Byte of the first of them. */
  readonly at: number;
  readonly ranges: number;
  readonly bytes: number;
}

/** The ranges of a plan, gathered by what they are and whose; in the order of the medium. */
export function gathered({ ranges }: Plan): Gathered[] {
  const groups = new Map<string, Gathered>();
  for (const { what, owner, extent } of ranges) {
    const key = `${owner ?? ''}/${what}`;
    const before = groups.get(key);
    const bytes = plannedLength(extent);
    groups.set(key, {
      what,
      slot: owner,
      at: before?.at ?? extent.offset,
      ranges: (before?.ranges ?? 0) + 1,
      bytes: (before?.bytes ?? 0) + bytes,
    });
  }
  return [...groups.values()];
}

/** What is at stake in all, in words; empty where nothing is. */
export function stakeWords(rows: readonly Becoming[]): string {
  const bytes = rows.reduce((sum, { atStake }) => sum + atStake, 0);
  const count = rows.filter(({ atStake }) => atStake > 0).length;
  if (count === 0) return 'Nothing that is kept is lost.';
  return `${inBoth(bytes)} in ${count === 1 ? 'one partition' : `${count} partitions`} will be lost.`;
}

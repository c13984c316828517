/** Entries of the table: which partition has which number, type and id, and where the container of logical ones lies. */
import { kindOf, type Made } from '../filesystems/kinds';
import type { Layout, PartitionSlot } from '../layout/document';
import { treeOfSlot } from '../layout/contents';
import { partitionGuid } from '../layout/edits';
import { foundOf, isKept, typedByFound } from '../layout/kept';
import { isPlainFlash } from '../medium/medium';
import { CHS_REACH, FIRST_LOGICAL, partitionId, PRIMARY_ENTRIES } from '../tables/mbr';
import { fitsTable, twinType, typeByRule } from '../tables/types';
import type { Ground } from './asks';
import { type Container, isPartition, type Placed, type PlacedPartition, type Placement } from './placement';
import { siteOf } from './site';

function typeFor(
  slot: PartitionSlot,
  { start, sectors }: Pick<Placed, 'start' | 'sectors'>,
  made: Made | undefined,
  table: 'mbr' | 'gpt',
  { sectorSize, prefersLba, contents, layout }: Pick<Ground, 'sectorSize' | 'prefersLba' | 'contents' | 'layout'>,
): string {
  if (slot.type !== undefined && fitsTable(slot.type, table)) return slot.type;
  const found = foundOf(layout, slot);
  const content = slot.content
    ? kindOf(slot.content).typed(slot.content, made, contents)
    : found
      ? typedByFound(found)
      : 'none';
  return typeByRule({ table, role: slot.role, content, end: start + sectors, sectors, sectorSize, prefersLba });
}

/**
 * The MBR type of a partition that a hybrid table shows: a GUID cannot stand there. A type that a
 * person chose decides by what means the same, or leaves it to the content: the role was overruled.
 */
export function hybridType(
  one: PlacedPartition,
  { sectorSize, medium, contents, layout }: Pick<Placement, 'sectorSize' | 'medium' | 'contents' | 'layout'>,
): string {
  const chosen = one.slot.type !== undefined && fitsTable(one.slot.type, 'gpt') ? one.slot.type : undefined;
  const twin = chosen === undefined ? undefined : twinType(chosen, 'mbr', one.slot.content?.kind === 'fat');
  const role = chosen === undefined ? one.slot.role : 'data';
  return typeFor({ ...one.slot, role, type: twin }, one, one.made, 'mbr', {
    sectorSize,
    contents,
    layout,
    prefersLba: isPlainFlash(medium.kind),
  });
}

/** Logical partitions that follow each other in the document share a container. */
interface Open {
  readonly number: number;
  readonly members: Placed[];
}

/**
 * Sector behind a container: its last partition ends there, or a container that was found and begins where this one does
 * goes on, as far as nothing else begins in it.
 */
function containerEnd(start: number, last: number, placed: readonly Placed[], { layout: { found } }: Ground): number {
  const was = found?.container;
  const end = was && was.at === start ? was.at + was.sectors : 0;
  const isTaken = placed.some(
    (one) => isPartition(one) && one.recordAt === undefined && one.start < end && one.start + one.sectors > last,
  );
  return isTaken ? last : Math.max(last, end);
}

function closed({ number, members }: Open, placed: readonly Placed[], ground: Ground): Container {
  const { table } = ground.layout;
  const start = members[0]!.recordAt!;
  const last = Math.max(...members.map((one) => one.start + one.sectors));
  const end = containerEnd(start, last, placed, ground);
  const byRule = ground.sectorSize === 512 && end <= CHS_REACH && !ground.prefersLba ? '05' : '0F';
  const type = (table.kind === 'mbr' ? table.containerType : undefined) ?? byRule;
  return { number, type, start, sectors: end - start, slots: members.map((one) => one.slot.id) };
}

/** A placed partition with what is made in it and its entry. All have one shape, so that going over many of them is fast. */
function entering(
  { slot, start, sectors, span, startReason, endReason, rule, recordAt }: PlacedPartition,
  made: Placed['made'],
  entry: Placed['entry'],
): PlacedPartition {
  return { slot, start, sectors, span, startReason, endReason, ...(rule && { rule }), recordAt, made, entry };
}

/**
 * Numbers of entries. Kept partitions have theirs, the container that was found too; new ones get those that are free, in
 * the order of the document. Logical partitions are numbered along their chain: as they were found where all of them
 * stay where they are, else in the order of the document, from 5.
 */
class Numbers {
  private readonly taken: ReadonlySet<number>;
  private readonly keepsChain: boolean;
  private next = 1;
  private logical = FIRST_LOGICAL;
  private isFirstContainer = true;

  constructor(
    private readonly layout: Layout,
    placed: readonly Placed[],
  ) {
    const kept = placed.flatMap(({ slot }) => keptNumber(slot, layout) ?? []);
    const chain = placed.filter(({ recordAt }) => recordAt !== undefined);
    const container = chain.length > 0 ? layout.found?.container?.number : undefined;
    this.taken = new Set([...kept, ...(container === undefined ? [] : [container])]);
    const found = layout.found?.partitions.filter(({ recordAt }) => recordAt !== undefined) ?? [];
    this.keepsChain =
      chain.length === found.length &&
      chain.every(({ slot, start }) => isInChain(slot, layout) && foundOf(layout, slot)?.at === start);
  }

  /** The next number that no kept entry has. */
  private free(): number {
    while (this.taken.has(this.next)) this.next += 1;
    return this.next++;
  }

  container(): number {
    const found = this.isFirstContainer ? this.layout.found?.container?.number : undefined;
    this.isFirstContainer = false;
    return found ?? this.free();
  }

  entry(slot: PartitionSlot): number {
    return keptNumber(slot, this.layout) ?? this.free();
  }

  inChain(slot: PartitionSlot): number {
    const along = this.logical++;
    return this.keepsChain && isKept(slot) ? slot.keeps : along;
  }
}

/** The number that an entry keeps: its own, where the table has it beside the chain. */
function keptNumber(slot: Placed['slot'], layout: Layout): number | undefined {
  if (!isKept(slot) || slot.keeps === 0) return undefined;
  if (layout.table.kind === 'gpt') return slot.keeps;
  return slot.logical || slot.keeps > PRIMARY_ENTRIES || isInChain(slot, layout) ? undefined : slot.keeps;
}

/** True for a kept partition that was found in a chain. */
function isInChain(slot: Placed['slot'], layout: Layout): boolean {
  return foundOf(layout, slot)?.recordAt !== undefined;
}

/** Gives the placed partitions their file systems and entries. */
export function enter(placed: readonly Placed[], ground: Ground): { placed: Placed[]; containers: Container[] } {
  const { layout } = ground;
  const { table } = layout;
  const open: Open[] = [];
  let inside = false;
  const numbers = new Numbers(layout, placed);
  const signature = table.kind === 'mbr' ? parseInt(table.signature, 16) : 0;
  const entered = placed.map((one): Placed => {
    if (!isPartition(one)) return one;
    const { slot } = one;
    const tree = treeOfSlot(slot, ground.contents);
    const made = slot.content && kindOf(slot.content).geometry?.(slot.content, siteOf(slot, one, ground), tree);
    if (table.kind === 'none') return entering(one, made, undefined);
    const type = typeFor(slot, one, made, table.kind, ground);
    if (table.kind === 'gpt')
      return entering(one, made, { number: numbers.entry(slot), type, id: partitionGuid(table.diskId, slot) });
    const isLogical = one.recordAt !== undefined;
    if (isLogical && !inside) open.push({ number: numbers.container(), members: [] });
    inside = isLogical;
    const own = isLogical ? numbers.inChain(slot) : numbers.entry(slot);
    const done = entering(one, made, { number: own, type, id: partitionId(signature, own) });
    if (isLogical) open.at(-1)!.members.push(done);
    return done;
  });
  return { placed: entered, containers: open.map((one) => closed(one, entered, ground)) };
}

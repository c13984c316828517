/** Entries of the table: which partition has which number, type and id, and where the container of logical ones lies. */
import { kindOf, type Made } from '../filesystems/kinds';
import type { PartitionSlot } from '../layout/document';
import { treeOfSlot } from '../layout/contents';
import { partitionGuid } from '../layout/edits';
import { isPlainFlash } from '../medium/medium';
import { CHS_REACH, FIRST_LOGICAL, partitionId } from '../tables/mbr';
import { fitsTable, twinType, typeByRule } from '../tables/types';
import type { Ground } from './asks';
import { type Container, isPartition, type Placed, type PlacedPartition, type Placement } from './placement';
import { siteOf } from './site';

function typeFor(
  slot: PartitionSlot,
  { start, sectors }: Pick<Placed, 'start' | 'sectors'>,
  made: Made | undefined,
  table: 'mbr' | 'gpt',
  { sectorSize, prefersLba, contents }: Pick<Ground, 'sectorSize' | 'prefersLba' | 'contents'>,
): string {
  if (slot.type !== undefined && fitsTable(slot.type, table)) return slot.type;
  const content = slot.content ? kindOf(slot.content).typed(slot.content, made, contents) : 'none';
  return typeByRule({ table, role: slot.role, content, end: start + sectors, sectors, sectorSize, prefersLba });
}

/**
 * The MBR type of a partition that a hybrid table shows: a GUID cannot stand there. A type that a
 * person chose decides by what means the same, or leaves it to the content: the role was overruled.
 */
export function hybridType(
  one: PlacedPartition,
  { sectorSize, medium, contents }: Pick<Placement, 'sectorSize' | 'medium' | 'contents'>,
): string {
  const chosen = one.slot.type !== undefined && fitsTable(one.slot.type, 'gpt') ? one.slot.type : undefined;
  const twin = chosen === undefined ? undefined : twinType(chosen, 'mbr', one.slot.content?.kind === 'fat');
  const role = chosen === undefined ? one.slot.role : 'data';
  return typeFor({ ...one.slot, role, type: twin }, one, one.made, 'mbr', {
    sectorSize,
    contents,
    prefersLba: isPlainFlash(medium.kind),
  });
}

/** Logical partitions that follow each other in the document share a container. */
interface Open {
  readonly number: number;
  readonly members: Placed[];
}

function closed({ number, members }: Open, ground: Ground): Container {
  const { table } = ground.layout;
  const start = members[0]!.recordAt!;
  const end = Math.max(...members.map((one) => one.start + one.sectors));
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

/** Gives the placed partitions their file systems and entries. Primaries count in the order of the document, logical ones from 5. */
export function enter(placed: readonly Placed[], ground: Ground): { placed: Placed[]; containers: Container[] } {
  const { table } = ground.layout;
  const open: Open[] = [];
  let inside = false;
  let number = 1;
  let logical = FIRST_LOGICAL;
  const signature = table.kind === 'mbr' ? parseInt(table.signature, 16) : 0;
  const entered = placed.map((one): Placed => {
    if (!isPartition(one)) return one;
    const { slot } = one;
    const tree = treeOfSlot(slot, ground.contents);
    const made = slot.content && kindOf(slot.content).geometry?.(slot.content, siteOf(slot, one, ground), tree);
    if (table.kind === 'none') return entering(one, made, undefined);
    const type = typeFor(slot, one, made, table.kind, ground);
    if (table.kind === 'gpt')
      return entering(one, made, { number: number++, type, id: partitionGuid(table.diskId, slot) });
    const isLogical = one.recordAt !== undefined;
    if (isLogical && !inside) open.push({ number: number++, members: [] });
    inside = isLogical;
    const own = isLogical ? logical++ : number++;
    const done = entering(one, made, { number: own, type, id: partitionId(signature, own) });
    if (isLogical) open.at(-1)!.members.push(done);
    return done;
  });
  return { placed: entered, containers: open.map((one) => closed(one, ground)) };
}

/** Entries of the table: which partition has which number, type and id, and where the container of logical ones lies. */
import { fatGeometry, type FatQuestion } from '../filesystems/fat/geometry';
import type { Layout, PartitionSlot } from '../layout/document';
import { partitionGuid } from '../layout/edits';
import { exactBytes } from '../layout/medium-spec';
import { isPlainFlash } from '../medium/medium';
import { CHS_REACH, FIRST_LOGICAL, partitionId } from '../tables/mbr';
import { fitsTable, typeByRule, type TypeQuestion } from '../tables/types';
import type { Ground } from './asks';
import { type Container, isPartition, type Placed, type PlacedPartition, type Placement } from './placement';

/** What the document asks of a FAT volume in this place. */
export function fatQuestion(
  slot: PartitionSlot,
  place: { readonly start: number; readonly sectors: number },
  ground: { readonly layout: Layout; readonly sectorSize: 512 | 4096; readonly unit: number },
): FatQuestion {
  const { kind, cluster, rootEntries, padding } = slot.fileSystem ?? { kind: 'fat' };
  const { layout, sectorSize, unit } = ground;
  return {
    sectorSize,
    start: place.start,
    sectors: place.sectors,
    unit,
    prefersFat32: slot.role === 'esp',
    wholeMedium: layout.table.kind === 'none',
    ...(kind !== 'fat' && { variant: kind === 'fat12' ? 12 : kind === 'fat16' ? 16 : 32 }),
    ...(cluster !== undefined && { cluster: exactBytes(cluster, sectorSize) }),
    ...(rootEntries !== undefined && { rootEntries }),
    ...(padding !== undefined && { padding }),
  };
}

function typeFor(
  slot: PartitionSlot,
  { start, sectors }: Pick<Placed, 'start' | 'sectors'>,
  fat: Placed['fat'],
  table: 'mbr' | 'gpt',
  { sectorSize, prefersLba }: Pick<Ground, 'sectorSize' | 'prefersLba'>,
): string {
  if (slot.type !== undefined && fitsTable(slot.type, table)) return slot.type;
  const content: TypeQuestion['content'] = fat === undefined ? 'none' : fat.ok ? fat.value.variant : fat.error.variant;
  return typeByRule({ table, role: slot.role, content, end: start + sectors, sectors, sectorSize, prefersLba });
}

/** The MBR type of a partition that a hybrid table shows: a GUID cannot stand there. */
export function hybridType(
  one: PlacedPartition,
  { sectorSize, medium }: Pick<Placement, 'sectorSize' | 'medium'>,
): string {
  return typeFor({ ...one.slot, type: undefined }, one, one.fat, 'mbr', {
    sectorSize,
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
    const fat = slot.fileSystem && fatGeometry(fatQuestion(slot, one, ground));
    if (table.kind === 'none') return { ...one, fat };
    const type = typeFor(slot, one, fat, table.kind, ground);
    if (table.kind === 'gpt')
      return { ...one, fat, entry: { number: number++, type, id: partitionGuid(table.diskId, slot) } };
    const isLogical = one.recordAt !== undefined;
    if (isLogical && !inside) open.push({ number: number++, members: [] });
    inside = isLogical;
    const own = isLogical ? logical++ : number++;
    const done = { ...one, fat, entry: { number: own, type, id: partitionId(signature, own) } };
    if (isLogical) open.at(-1)!.members.push(done);
    return done;
  });
  return { placed: entered, containers: open.map((one) => closed(one, ground)) };
}

/** Entries of the table: which partition has which number, type and id, and where the container of logical ones lies. */
import { exfatGeometry } from '../filesystems/exfat/geometry';
import { fatGeometry, type FatQuestion } from '../filesystems/fat/geometry';
import { blobOf, type Contents } from '../layout/contents';
import type { Layout, PartitionSlot } from '../layout/document';
import { partitionGuid } from '../layout/edits';
import { exactBytes } from '../layout/medium-spec';
import { isPlainFlash } from '../medium/medium';
import { CHS_REACH, FIRST_LOGICAL, partitionId } from '../tables/mbr';
import { fitsTable, twinType, typeByRule, type TypeQuestion } from '../tables/types';
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

/** What of an image decides a type, by the name of what was recognised. */
const IMAGE_CONTENTS: Readonly<Record<string, TypeQuestion['content']>> = {
  exFAT: 'exfat',
  NTFS: 'exfat',
};

function contentOf(slot: PartitionSlot, fat: Placed['fat'], contents: Contents): TypeQuestion['content'] {
  if (fat) return fat.ok ? fat.value.variant : fat.error.variant;
  const { content } = slot;
  if (content?.kind === 'exfat' || content?.kind === 'swap') return content.kind;
  const image = content?.kind === 'image' ? blobOf(content.sha256, contents)?.image : undefined;
  if (!image || image.disk !== undefined) return 'none';
  if (image.name.startsWith('swap')) return 'swap';
  return image.variant ?? IMAGE_CONTENTS[image.name] ?? 'linux';
}

function typeFor(
  slot: PartitionSlot,
  { start, sectors }: Pick<Placed, 'start' | 'sectors'>,
  fat: Placed['fat'],
  table: 'mbr' | 'gpt',
  { sectorSize, prefersLba, contents }: Pick<Ground, 'sectorSize' | 'prefersLba' | 'contents'>,
): string {
  if (slot.type !== undefined && fitsTable(slot.type, table)) return slot.type;
  const content = contentOf(slot, fat, contents);
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
  const twin = chosen === undefined ? undefined : twinType(chosen, 'mbr', one.fat !== undefined);
  const role = chosen === undefined ? one.slot.role : 'data';
  return typeFor({ ...one.slot, role, type: twin }, one, one.fat, 'mbr', {
    sectorSize,
    contents,
    prefersLba: isPlainFlash(medium.kind),
  });
}

/** The geometry of an exFAT volume, where one is asked for. */
function exfatOf(
  { content }: PartitionSlot,
  { start, sectors }: Placed,
  { sectorSize, unit }: Ground,
): Placed['exfat'] {
  if (content?.kind !== 'exfat') return undefined;
  const { cluster } = content;
  const asked = { sectorSize, start, sectors, unit };
  return exfatGeometry(cluster === undefined ? asked : { ...asked, cluster: exactBytes(cluster, sectorSize) });
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
    const exfat = exfatOf(slot, one, ground);
    const volumes = { fat, ...(exfat && { exfat }) };
    if (table.kind === 'none') return { ...one, ...volumes };
    const type = typeFor(slot, one, fat, table.kind, ground);
    if (table.kind === 'gpt')
      return { ...one, ...volumes, entry: { number: number++, type, id: partitionGuid(table.diskId, slot) } };
    const isLogical = one.recordAt !== undefined;
    if (isLogical && !inside) open.push({ number: number++, members: [] });
    inside = isLogical;
    const own = isLogical ? logical++ : number++;
    const done = { ...one, ...volumes, entry: { number: own, type, id: partitionId(signature, own) } };
    if (isLogical) open.at(-1)!.members.push(done);
    return done;
  });
  return { placed: entered, containers: open.map((one) => closed(one, ground)) };
}

/** Comparing: what a survey found against what a placement meant, fact by fact. */
import { compareContent } from '../filesystems/readers';
import { blobOf } from '../filesystems/supplied';
import { TABLE_NAMES } from '../layout/vocabulary';
import { isPartition, type PlacedPartition, type Placement } from '../placement/placement';
import { siteIn } from '../placement/site';
import { roomOf } from '../placement/volumes';
import { grouped } from '../quantity/units';
import type { FoundGpt, FoundPartition, Survey } from '../survey/found';
import { storedName } from '../tables/gpt';
import { typeCode, typeName } from '../tables/types';
import { besideEntries } from './compose';

/** One fact that was compared. `slot` is missing for facts about the table. */
export interface Comparison {
  readonly slot?: string;
  readonly fact: string;
  readonly meant: string;
  readonly found: string;
  readonly agrees: boolean;
}

type Value = string | number | undefined;

function fact(slot: string | undefined, name: string, meant: Value, found: Value): Comparison {
  const format = (value: Value) =>
    value === undefined ? 'nothing' : typeof value === 'number' ? grouped(value) : value;
  return { ...(slot && { slot }), fact: name, meant: format(meant), found: format(found), agrees: meant === found };
}

function compareEntry(meant: PlacedPartition, found: FoundPartition | undefined, isGpt: boolean): Comparison[] {
  const { slot, entry } = meant;
  if (!entry) return [];
  const type = found && typeName(found.type);
  const facts = [fact(slot.id, 'type', typeName(entry.type), type), fact(slot.id, 'id', entry.id, found?.id)];
  if (isGpt)
    return [
      ...facts,
      fact(slot.id, 'name', storedName(slot.name), found?.name),
      fact(slot.id, 'attributes', phrase(slot.attributes ?? []), found && phrase(found.attributes)),
    ];
  const mark = (active: boolean) => (active ? 'active' : 'not active');
  if (meant.recordAt !== undefined)
    return [...facts, fact(slot.id, 'record in sector', meant.recordAt, found?.recordAt)];
  return [...facts, fact(slot.id, 'mark', mark(slot.active === true), found && mark(found.active))];
}

function phrase(words: readonly string[]): string {
  return [...words].sort().join(', ') || 'none';
}

function compareInside(placed: PlacedPartition, found: FoundPartition | undefined, placement: Placement): Comparison[] {
  const { content, id } = placed.slot;
  if (!content) return [];
  const meant = {
    content,
    site: siteIn(placed, placement),
    made: placed.made,
    room: roomOf(placed, placement),
    image: content.kind === 'image' ? blobOf(content.sha256, placement.contents)?.image : undefined,
  };
  return compareContent(meant, found?.inside).map(([name, phrase, read]) => fact(id, name, phrase, read));
}

function comparePartition(
  meant: PlacedPartition,
  found: FoundPartition | undefined,
  placement: Placement,
): Comparison[] {
  const { id } = meant.slot;
  const isGpt = placement.layout.table.kind === 'gpt';
  return [
    fact(id, 'first sector', meant.start, found?.start),
    ...(meant.entry ? [fact(id, 'sectors', meant.sectors, found?.sectors)] : []),
    ...compareEntry(meant, found, isGpt),
    ...compareInside(meant, found, placement),
  ];
}

function compareCopy(
  what: string,
  meant: { diskId: string; sector: number; other: number },
  found: FoundGpt | undefined,
) {
  const sound = found && (found.headerSound && found.arraySound ? 'right' : 'wrong');
  return [
    fact(undefined, `${what}: sector`, meant.sector, found?.sector),
    fact(undefined, `${what}: the other copy`, meant.other, found?.other),
    fact(undefined, `${what}: disk id`, meant.diskId, found?.diskId),
    fact(undefined, `${what}: checksums`, 'right', sound),
  ];
}

/** Entries of an MBR that stand beside the protective one. */
function compareBeside(placement: Placement, { partitions }: Survey): Comparison[] {
  const meant = besideEntries(placement);
  const found = partitions.filter((one) => one.kind === 'primary');
  return [
    fact(undefined, 'partitions in an MBR too', meant.length, found.length),
    ...meant.flatMap((one, i) => [
      fact(undefined, `MBR entry ${i + 2}: first sector`, one.first, found[i]?.start),
      fact(undefined, `MBR entry ${i + 2}: sectors`, one.count, found[i]?.sectors),
      fact(undefined, `MBR entry ${i + 2}: type`, typeCode(one.type), found[i]?.type),
    ]),
  ];
}

function compareContainers({ containers }: Placement, { partitions }: Survey): Comparison[] {
  const found = partitions.filter((one) => one.kind === 'container');
  return [
    fact(undefined, 'containers', containers.length, found.length),
    ...containers.flatMap((one, i) => [
      fact(undefined, `container: entry`, one.number, found[i]?.number),
      fact(undefined, `container: first sector`, one.start, found[i]?.start),
      fact(undefined, `container: sectors`, one.sectors, found[i]?.sectors),
      fact(undefined, `container: type`, typeName(one.type), found[i] && typeName(found[i].type)),
    ]),
  ];
}

/** Sectors that the protective entry counts. */
function protectedSectors(placement: Placement): number {
  const until = Math.min(placement.sectors, ...besideEntries(placement).map((one) => one.first));
  return Math.min(until - 1, 2 ** 32 - 1);
}

/** True where the medium has no table and holds a file of no known kind. */
function broughtAsIs({ layout }: Placement): boolean {
  return layout.slots.some((slot) => slot.kind === 'partition' && slot.content?.kind === 'file');
}

function compareTable(placement: Placement, survey: Survey): Comparison[] {
  const { layout, sectors, gpt } = placement;
  const { table } = layout;
  const kind = fact(undefined, 'table', TABLE_NAMES[table.kind], TABLE_NAMES[survey.table]);
  if (table.kind === 'none') return [kind];
  if (table.kind === 'mbr')
    return [
      kind,
      fact(undefined, 'signature', table.signature, survey.mbr?.signature.toString(16).padStart(8, '0')),
      ...compareContainers(placement, survey),
    ];
  const { diskId } = table;
  return [
    kind,
    fact(undefined, 'protective entry', protectedSectors(placement), survey.mbr?.protectiveCount),
    fact(undefined, 'entries of the array', gpt?.entries, survey.gpt.first?.entries),
    fact(undefined, 'first sector of the array', gpt?.array, survey.gpt.first?.array),
    ...compareBeside(placement, survey),
    ...compareCopy('GPT', { diskId, sector: 1, other: sectors - 1 }, survey.gpt.first),
    ...compareCopy('GPT copy', { diskId, sector: sectors - 1, other: 1 }, survey.gpt.copy),
    fact(undefined, 'both copies', 'agree', survey.gptCopiesAgree ? 'agree' : 'differ'),
  ];
}

/** Compares everything that the placement says with what the survey found. */
export function compare(placement: Placement, survey: Survey): Comparison[] {
  // A file that is put in as it is may bring anything, a table too: its bytes are compared, and nothing else.
  if (placement.layout.table.kind === 'none' && broughtAsIs(placement)) return [];
  const meant = placement.placed.filter(isPartition);
  const isGpt = placement.layout.table.kind === 'gpt';
  // Containers and entries beside a GPT are compared with the table.
  const partitions = survey.partitions.filter((one) => one.kind !== 'container' && !(isGpt && one.kind === 'primary'));
  const byNumber = new Map(partitions.map((one) => [one.number, one]));
  return [
    ...compareTable(placement, survey),
    fact(undefined, 'partitions', meant.length, partitions.length),
    ...meant.flatMap((one) => comparePartition(one, byNumber.get(one.entry?.number ?? 0), placement)),
  ];
}

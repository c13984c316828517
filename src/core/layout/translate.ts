/**
 * Another kind of table for a layout: types, roles and marks are translated, and what the new
 * table cannot hold is said. It is one edit, so that one undo brings everything back.
 */
import { guidFrom, hashText } from '../bytes/guid';
import type { Attribute } from '../tables/gpt';
import { PRIMARY_ENTRIES } from '../tables/mbr';
import { fitsTable, twinType, typeName } from '../tables/types';
import type { Layout, PartitionSlot, Table } from './document';
import { type Edit, machineEdit, newSlotId, seedOf, type SlotPatch } from './edits';
import { foundOf } from './kept';
import { TABLE_NAMES, type TableKind } from './vocabulary';

/** A change of table: the edit, and what people should know about it. */
export interface Translation {
  readonly edit: Edit;
  readonly remarks: readonly string[];
}

/** A table of another kind, with an id that follows from what the layout has now. */
function tableOf(layout: Layout, kind: TableKind): Table {
  const seed = seedOf(layout);
  if (kind === 'mbr') return { kind, signature: (hashText(seed) || 1).toString(16).padStart(8, '0') };
  return kind === 'gpt' ? { kind, diskId: guidFrom(seed) } : { kind };
}

const isPartition = (slot: Layout['slots'][number]): slot is PartitionSlot => slot.kind === 'partition';

/** Which partitions become logical where there are more than four entries: the last ones, from the fourth on. */
function logicalOnes(partitions: readonly PartitionSlot[]): ReadonlySet<string> {
  if (partitions.some((slot) => slot.logical) || partitions.length <= PRIMARY_ENTRIES) return new Set();
  return new Set(partitions.slice(PRIMARY_ENTRIES - 1).map((slot) => slot.id));
}

/** What happens to one partition, in a patch and in words. */
interface Carried {
  readonly patch: SlotPatch;
  readonly remarks: readonly string[];
}

function holdsFat(layout: Layout, slot: PartitionSlot): boolean {
  return slot.content?.kind === 'fat' || (foundOf(layout, slot)?.inside?.kind.startsWith('FAT') ?? false);
}

function typeCarried(layout: Layout, slot: PartitionSlot, kind: TableKind): Carried {
  if (slot.type === undefined || kind === 'none' || fitsTable(slot.type, kind)) return { patch: {}, remarks: [] };
  const twin = twinType(slot.type, kind, holdsFat(layout, slot));
  const text = twin
    ? `${slot.name}: type ${typeName(slot.type)} becomes ${typeName(twin)}.`
    : `${slot.name}: type ${typeName(slot.type)} has no one counterpart; role and content decide now.`;
  return { patch: { type: twin }, remarks: [text] };
}

const LEGACY: Attribute = 'legacy boot';

function carriedAttributes(slot: PartitionSlot, kind: TableKind, mayMark: boolean): Carried {
  const attributes = slot.attributes ?? [];
  if (kind === 'gpt' && slot.active) {
    const more = attributes.includes(LEGACY) ? attributes : [...attributes, LEGACY];
    return {
      patch: { active: undefined, attributes: more },
      remarks: [`${slot.name}: the active mark becomes the attribute “${LEGACY}”.`],
    };
  }
  if (kind === 'gpt' || (attributes.length === 0 && !(kind === 'none' && slot.active)))
    return { patch: {}, remarks: [] };
  const marks = kind === 'mbr' && mayMark && attributes.includes(LEGACY);
  const lost = attributes.filter((one) => !(marks && one === LEGACY));
  return {
    patch: { attributes: undefined, ...(marks && { active: true }), ...(kind === 'none' && { active: undefined }) },
    remarks: [
      ...(marks ? [`${slot.name}: the attribute “${LEGACY}” becomes the active mark.`] : []),
      ...(lost.length > 0 ? [`${slot.name}: ${lost.map((one) => `“${one}”`).join(', ')} cannot be carried over.`] : []),
      ...(kind === 'none' && slot.active ? [`${slot.name}: there is no place for the active mark.`] : []),
    ],
  };
}

function idCarried(slot: PartitionSlot, kind: TableKind): Carried {
  if (slot.partitionId === undefined || kind === 'gpt') return { patch: {}, remarks: [] };
  return { patch: { partitionId: undefined }, remarks: [`${slot.name}: its partition id cannot be carried over.`] };
}

function logicalCarried(slot: PartitionSlot, kind: TableKind, logical: ReadonlySet<string>): Carried {
  if (kind === 'mbr' && logical.has(slot.id))
    return {
      patch: { logical: true },
      remarks: [`${slot.name} becomes a logical partition: sector 0 has four entries.`],
    };
  if (kind !== 'mbr' && slot.logical)
    return { patch: { logical: undefined }, remarks: [`${slot.name} is a partition like the others.`] };
  return { patch: {}, remarks: [] };
}

/** A BIOS loader lies in the gap under an MBR and in a partition of its own under a GPT. */
function loaderCarried(
  layout: Layout,
  kind: TableKind,
): { edits: Edit[]; remarks: string[]; gone: ReadonlySet<string> } {
  const places = layout.slots.filter(isPartition).filter((slot) => slot.role === 'bios-boot');
  const machine = layout.machine;
  if (kind !== 'gpt' && places.length > 0)
    return {
      edits: [
        ...places.map(({ id }): Edit => ({ do: 'remove slot', id })),
        ...(kind === 'mbr' && machine?.loader === 'bios boot partition'
          ? [machineEdit(layout, { loader: 'gap' })]
          : []),
      ],
      remarks: [
        `${places.map((slot) => slot.name).join(', ')} goes: the loader lies in the gap ahead of the first partition.`,
      ],
      gone: new Set(places.map((slot) => slot.id)),
    };
  if (kind !== 'gpt' || machine?.loader !== 'gap' || places.length > 0)
    return { edits: [], remarks: [], gone: new Set() };
  const slot: PartitionSlot = {
    id: newSlotId(layout),
    kind: 'partition',
    name: 'BIOS boot',
    role: 'bios-boot',
    size: '1 MiB',
  };
  const index = Math.max(0, layout.slots.findIndex(isPartition));
  return {
    edits: [{ do: 'add slot', slot, index }, machineEdit(layout, { loader: 'bios boot partition' })],
    remarks: ['A BIOS boot partition is added: a GPT has no gap for the loader.'],
    gone: new Set(),
  };
}

function describeTable({ table }: Layout, kind: TableKind): string[] {
  if (table.kind === kind) return [];
  const remarks: string[] = [];
  if (table.kind === 'gpt') {
    if (table.hybrid) remarks.push('The entries beside the protective one go with the GPT.');
    if (table.entries !== undefined || table.array !== undefined)
      remarks.push('Number and place of the GPT entries go with it.');
    remarks.push(`${TABLE_NAMES[kind]} keeps no names of partitions.`);
  }
  if (table.kind === 'mbr' && (table.packed || table.containerType))
    remarks.push('How the chain of logical partitions is written goes with it.');
  return remarks;
}

/**
 * The change to another kind of table. Partitions past what sector 0 can hold become logical;
 * where there are more than four, three stay primary, because the container takes an entry.
 */
export function translation(layout: Layout, kind: TableKind): Translation {
  if (layout.table.kind === kind) return { edit: { do: 'several', edits: [] }, remarks: [] };
  const loader = loaderCarried(layout, kind);
  const partitions = layout.slots.filter(isPartition).filter((slot) => !loader.gone.has(slot.id));
  const logical = kind === 'mbr' ? logicalOnes(partitions) : new Set<string>();
  let mayMark = !partitions.some((slot) => slot.active);
  const carried = partitions.map((slot) => {
    const marks = carriedAttributes(slot, kind, mayMark && !logical.has(slot.id));
    if (marks.patch.active) mayMark = false;
    const parts = [logicalCarried(slot, kind, logical), typeCarried(layout, slot, kind), marks, idCarried(slot, kind)];
    const patch: SlotPatch = Object.assign({}, ...parts.map((one) => one.patch)) as SlotPatch;
    return { id: slot.id, patch, said: parts.flatMap((one) => one.remarks) };
  });
  const changes = carried.flatMap(({ id, patch }): Edit[] =>
    Object.keys(patch).length > 0 ? [{ do: 'change slot', id, patch }] : [],
  );
  return {
    edit: {
      do: 'several',
      edits: [{ do: 'change layout', patch: { table: tableOf(layout, kind) } }, ...changes, ...loader.edits],
    },
    remarks: [...describeTable(layout, kind), ...carried.flatMap((one) => one.said), ...loader.remarks],
  };
}

/** The edit alone. */
export function retable(layout: Layout, kind: TableKind): Edit {
  return translation(layout, kind).edit;
}

/** Makes a partition and all that follow it logical, so that at most three stay primary: the way out of a fifth primary. */
export function makeLogical(layout: Layout): Edit {
  const partitions = layout.slots.filter(isPartition);
  const first = Math.min(PRIMARY_ENTRIES - 1, ...partitions.flatMap((slot, i) => (slot.logical ? [i] : [])));
  return {
    do: 'several',
    edits: partitions
      .slice(first)
      .filter((slot) => !slot.logical)
      .map(({ id }): Edit => ({ do: 'change slot', id, patch: { logical: true } })),
  };
}

/**
 * Edits: every change of a layout, as plain data and one pure function. An edit never
 * mutates; it gives a new layout in which everything untouched is the same object.
 */
import { guidFrom } from '../bytes/guid';
import { kindNamed, kindOf, KINDS } from '../filesystems/kinds';
import type { Content, ContentKind } from '../filesystems/shapes';
import { canonicalSize, nameInSize, parseSize } from '../quantity/size-language';
import { type Role, ROLE_NAMES, SLOT_NAME_LIMIT } from './vocabulary';
import type { FreeSlot, Layout, Machine, PartitionSlot, RawSlot, Slot } from './document';

/** New values for fields of a slot; `undefined` removes an optional field. */
export type SlotPatch = Partial<Omit<PartitionSlot, 'id' | 'kind'>> &
  Partial<Omit<RawSlot, 'id' | 'kind'>> &
  Partial<Omit<FreeSlot, 'id' | 'kind'>>;

/** One change. `several` is applied as one, and is one step of undo. */
export type Edit =
  | { readonly do: 'add slot'; readonly slot: Slot; readonly index: number }
  | { readonly do: 'remove slot'; readonly id: string }
  | { readonly do: 'move slot'; readonly id: string; readonly index: number }
  | { readonly do: 'change slot'; readonly id: string; readonly patch: SlotPatch }
  /** Puts another slot in the place of the one with its id. */
  | { readonly do: 'put slot'; readonly slot: Slot }
  | {
      readonly do: 'change layout';
      readonly patch: Partial<
        Pick<
          Layout,
          | 'name'
          | 'story'
          | 'medium'
          | 'boots'
          | 'machine'
          | 'table'
          | 'grain'
          | 'date'
          | 'accepted'
          | 'entries'
          | 'found'
        >
      >;
    }
  | { readonly do: 'several'; readonly edits: readonly Edit[] };

/** A value with other fields; `undefined` takes one away. */
export function patched<T extends object>(target: T, patch: { readonly [Key in keyof T]?: unknown }): T {
  const merged = Object.entries({ ...target, ...patch }).filter(([, value]) => value !== undefined);
  return Object.fromEntries(merged) as T;
}

/** A table that does not show a slot beside its entries any more. */
function withoutHybrid(table: Layout['table'], id: string): Layout['table'] {
  if (table.kind !== 'gpt' || !table.hybrid?.includes(id)) return table;
  const { hybrid, ...rest } = table;
  const left = hybrid.filter((one) => one !== id);
  return left.length > 0 ? { ...rest, hybrid: left } : rest;
}

/** Nothing starts from a slot that is gone. */
function withoutEntries({ entries = [] }: Layout, id: string): Pick<Layout, 'entries'> {
  return entries.some(({ root }) => root === id) ? { entries: entries.filter(({ root }) => root !== id) } : {};
}

/** A layout in which nothing names a slot as a partition: no table beside the GPT, no boot entry. */
function unnamed(layout: Layout, id: string): Layout {
  return { ...layout, table: withoutHybrid(layout.table, id), ...withoutEntries(layout, id) };
}

/** A slot that says `same as` goes on meaning the same slot when that one gets another name. */
function followed(layout: Layout, slot: Slot, renamed: string, name: string | undefined): Slot {
  if (name === undefined || slot.kind === 'raw') return slot;
  const rule = parseSize(slot.size);
  if (!rule.ok || rule.value.kind !== 'same') return slot;
  const meant = layout.slots.find((one) => rule.ok && rule.value.kind === 'same' && one.name === rule.value.as);
  return meant?.id === renamed ? { ...slot, size: `same as ${nameInSize(name)}` } : slot;
}

/**
 * Every slot as it stands in a document: sizes in the words of the size language, and a swap partition of
 * which nothing else is said made swap.
 */
export function settled(layout: Layout): Layout {
  const slots = layout.slots.map((slot) => settledSlot(slot, layout));
  return slots.every((slot, i) => slot === layout.slots[i]) ? layout : { ...layout, slots };
}

function settledSlot(slot: Slot, layout: Layout): Slot {
  const content = isBareSwap(slot) ? { content: freshContent('swap', layout, slot.id) } : undefined;
  const size = slot.kind === 'raw' ? undefined : canonicalSize(slot.size);
  const isSaid = slot.kind === 'raw' || size === slot.size;
  if (isSaid && !content) return slot;
  return { ...slot, ...(!isSaid && { size }), ...content } as Slot;
}

function isBareSwap(slot: Slot): slot is PartitionSlot {
  return slot.kind === 'partition' && slot.role === 'swap' && slot.content === undefined && slot.keeps === undefined;
}

/** Applies an edit. Naming a slot that is not there changes nothing. */
export function applyEdit(layout: Layout, edit: Edit): Layout {
  return settled(applied(layout, edit));
}

function applied(layout: Layout, edit: Edit): Layout {
  switch (edit.do) {
    case 'add slot': {
      const index = Math.max(0, Math.min(edit.index, layout.slots.length));
      return { ...layout, slots: layout.slots.toSpliced(index, 0, edit.slot) };
    }
    case 'remove slot':
      return {
        ...unnamed(layout, edit.id),
        slots: layout.slots.filter((slot) => slot.id !== edit.id),
      };
    case 'move slot': {
      const slot = layout.slots.find((one) => one.id === edit.id);
      if (!slot) return layout;
      const others = layout.slots.filter((one) => one.id !== edit.id);
      return { ...layout, slots: others.toSpliced(Math.max(0, edit.index), 0, slot) };
    }
    case 'change slot':
      return {
        ...layout,
        slots: layout.slots.map((slot) =>
          slot.id === edit.id ? patched(slot, edit.patch) : followed(layout, slot, edit.id, edit.patch.name),
        ),
      };
    case 'put slot': {
      const slots = layout.slots.map((slot) => (slot.id === edit.slot.id ? edit.slot : slot));
      // What is no partition any more is named by nothing that names partitions.
      return edit.slot.kind === 'partition' ? { ...layout, slots } : { ...unnamed(layout, edit.slot.id), slots };
    }
    case 'change layout': {
      const changed = patched(layout, edit.patch);
      return edit.patch.table ? { ...changed, table: patched(edit.patch.table, {}) } : changed;
    }
    case 'several':
      return edit.edits.reduce(applyEdit, layout);
  }
}

/** An id that no slot of the layout has; the same layout gives the same id. */
export function newSlotId(layout: Layout): string {
  const taken = new Set(layout.slots.map((slot) => slot.id));
  let n = layout.slots.length + 1;
  while (taken.has(`slot-${n}`)) n += 1;
  return `slot-${n}`;
}

/** A name that no slot of the layout has: this one, or with the next number behind it; never longer than a name may be. */
export function freeName(layout: Layout, name: string): string {
  const taken = new Set(layout.slots.map((slot) => slot.name));
  if (!taken.has(name)) return name;
  const stem = name.replace(/ \d{1,4}$/, '');
  let n = 2;
  const numbered = () => `${stem.slice(0, SLOT_NAME_LIMIT - String(n).length - 1)} ${n}`;
  while (taken.has(numbered())) n += 1;
  return numbered();
}

/** The edit that gives a partition another role; a name that it has by its role goes along. */
export function roleEdit(layout: Layout, { id, name, role: before }: PartitionSlot, role: Role): Edit {
  const stem = name.replace(/ \d{1,4}$/, '');
  const others = { ...layout, slots: layout.slots.filter((slot) => slot.id !== id) };
  const patch = stem === ROLE_NAMES[before] ? { role, name: freeName(others, ROLE_NAMES[role]) } : { role };
  return { do: 'change slot', id, patch };
}

/** The same for several, one after the other, so that their names differ. */
export function roleEdits(layout: Layout, slots: readonly PartitionSlot[], role: Role): Edit[] {
  return editsInTurn(layout, slots, (so, slot) => roleEdit(so, slot, role));
}

/** An edit for each of some things, made for the layout that those before it leave. */
export function editsInTurn<T>(layout: Layout, things: readonly T[], editOf: (so: Layout, thing: T) => Edit): Edit[] {
  let so = layout;
  return things.map((thing) => {
    const edit = editOf(so, thing);
    so = applyEdit(so, edit);
    return edit;
  });
}

/**
 * An id for a new content of a slot: follows from the id of the disk and of the slot, so that the same
 * document always gives the same bytes.
 */
function derivedId(
  layout: Pick<Layout, 'table' | 'name'>,
  slotId: string,
  { from, suffix }: { from(text: string): string; readonly suffix: string },
): string {
  return from(`${seedOf(layout)}/${slotId}${suffix}`);
}

/** A volume id for a new volume of a slot. */
export function derivedVolumeId(layout: Pick<Layout, 'table' | 'name'>, slotId: string): string {
  return derivedId(layout, slotId, KINDS.fat.identity!);
}

/** Ids for new file systems of a slot, by their kind. */
export function freshIdFor(layout: Pick<Layout, 'table' | 'name'>, slotId: string): (kind: 'fat' | 'ext') => string {
  return (kind) => derivedId(layout, slotId, kindNamed(kind).identity!);
}

/** A new content of this kind for a slot; undefined for what can only be supplied. */
export function freshContent(kind: ContentKind, layout: Layout, slotId: string): Content | undefined {
  const { fresh, identity } = kindNamed(kind);
  return fresh?.(identity ? derivedId(layout, slotId, identity) : '');
}

/** The content with an id of its own, where it has one that is not brought along. */
export function withFreshId(content: Content, layout: Layout, slotId: string): Content | undefined {
  const { identity } = kindOf(content);
  return identity && identity.with(content, derivedId(layout, slotId, identity));
}

/** What makes the ids of this layout differ from those of others. */
export function seedOf({ table, name }: Pick<Layout, 'table' | 'name'>): string {
  return table.kind === 'mbr' ? table.signature : table.kind === 'gpt' ? table.diskId : name;
}

/** The id of a GPT partition: the one in the document, or one that follows from the disk's and the slot's. */
export function partitionGuid(diskId: string, slot: PartitionSlot): string {
  return slot.partitionId ?? guidFrom(`${diskId}/${slot.id}`);
}

/** Marks one partition active and takes the mark from all others. */
export function activateOnly(layout: Layout, id: string): Edit {
  const edits = layout.slots
    .filter((slot) => slot.kind === 'partition' && (slot.id === id) !== (slot.active === true))
    .map((slot): Edit => ({
      do: 'change slot',
      id: slot.id,
      patch: { active: slot.id === id ? true : undefined },
    }));
  return { do: 'several', edits };
}

/** The edit that says something about the machine; `undefined` takes it back. */
export function machineEdit(
  layout: Layout,
  patch: { readonly [Key in keyof Machine]?: Machine[Key] | undefined },
): Edit {
  const machine = patched<Machine>(layout.machine ?? {}, patch);
  return { do: 'change layout', patch: { machine: Object.keys(machine).length > 0 ? machine : undefined } };
}

/** Edits in words, for the list of revisions: what a person did, in one short line. */
import type { Layout } from './document';
import type { Edit, SlotPatch } from './edits';

const FIELD_NAMES: Readonly<Record<string, string>> = {
  name: 'name',
  size: 'size',
  role: 'role',
  type: 'type',
  active: 'active mark',
  content: 'content',
  blob: 'loader file',
  mount: 'mount point',
  at: 'start',
  length: 'length',
  medium: 'medium',
  boots: 'what starts from it',
  machine: 'machine',
  logical: 'logical',
  endsOnGrain: 'end on the grain',
  table: 'table',
  accepted: 'accepted risks',
  entries: 'boot entries',
  attributes: 'attributes',
  partitionId: 'partition id',
  mounting: 'how it is mounted',
  writes: 'what is written into it',
  repack: 'whether its ext is laid anew',
  grain: 'grain',
  story: 'story',
  date: 'date',
};

function fieldText(key: string, value: unknown): string {
  const name = FIELD_NAMES[key] ?? key;
  if (value === undefined) return `no ${name}`;
  if (typeof value === 'string') return `${name} ${value}`;
  return value === true ? name : `${name} changed`;
}

function patchText(patch: SlotPatch | object): string {
  return Object.entries(patch)
    .map(([key, value]) => fieldText(key, value))
    .join(', ');
}

/** One line for an edit of this layout (as it was before the edit). */
export function describeEdit(layout: Layout, edit: Edit): string {
  const nameOf = (id: string) => layout.slots.find((slot) => slot.id === id)?.name ?? id;
  switch (edit.do) {
    case 'add slot':
      return `Added ${edit.slot.name}`;
    case 'remove slot':
      return `Deleted ${nameOf(edit.id)}`;
    case 'move slot':
      return `Moved ${nameOf(edit.id)} to line ${edit.index + 1}`;
    case 'change slot':
      return `${nameOf(edit.id)}: ${patchText(edit.patch)}`;
    case 'change layout':
      return `Layout: ${patchText(edit.patch)}`;
    case 'put slot':
      return `${nameOf(edit.slot.id)}: said anew`;
    case 'several':
      return edit.edits.map((one) => describeEdit(layout, one)).join('; ');
  }
}

/** What differs between two placed layouts, slot by slot and as a whole, in words and figures. */
import type { Slot } from '../layout/document';
import { writeLine } from '../layout/line-write';
import { mediumText } from '../layout/medium-spec';
import { TABLE_NAMES } from '../layout/vocabulary';
import type { Placed, Placement } from '../placement/placement';
import { grouped, inBoth, sectorCount } from '../quantity/units';

/** One thing that differs. */
export interface Difference {
  /** The slot, or undefined for the layout as a whole. */
  readonly id: string | undefined;
  readonly name: string;
  readonly kind: 'added' | 'removed' | 'changed';
  readonly what: readonly string[];
}

function moved(a: Placed, b: Placed, sectorSize: number): string[] {
  const sentences: string[] = [];
  if (a.start !== b.start) sentences.push(`starts at sector ${grouped(b.start)}, before at ${grouped(a.start)}`);
  if (a.sectors !== b.sectors) {
    const more = b.sectors - a.sectors;
    sentences.push(
      `${inBoth(Math.abs(more) * sectorSize)} (${sectorCount(Math.abs(more))}) ${more > 0 ? 'larger' : 'smaller'}`,
    );
  }
  if (a.entry?.number !== b.entry?.number)
    sentences.push(`partition ${b.entry?.number ?? 'none'}, before ${a.entry?.number ?? 'none'}`);
  if (a.entry?.id !== b.entry?.id) sentences.push(`id ${b.entry?.id ?? 'none'}, before ${a.entry?.id ?? 'none'}`);
  const [before, after] = [writeLine(a.slot), writeLine(b.slot)];
  if (before !== after) sentences.push(`says “${after}”, before “${before}”`);
  return [...sentences, ...handedOver(a.slot, b.slot)];
}

/** What no line of a slot says: how a mount table has it, and what is written into it. */
function handedOver(a: Slot, b: Slot): string[] {
  if (a.kind !== 'partition' || b.kind !== 'partition') return [];
  const sentences: string[] = [];
  if (JSON.stringify(a.mounting) !== JSON.stringify(b.mounting)) sentences.push('the mount table has it otherwise');
  const [before, after] = [a, b].map(({ writes }) => [...(writes ?? [])].sort().join(' and ') || 'nothing');
  if (before !== after) sentences.push(`${after} written into it, before ${before}`);
  return sentences;
}

function ofLayouts(a: Placement, b: Placement): string[] {
  const sentences: string[] = [];
  const [x, y] = [a.layout, b.layout];
  if (x.table.kind !== y.table.kind)
    sentences.push(`${TABLE_NAMES[y.table.kind]}, before ${TABLE_NAMES[x.table.kind]}`);
  else if (JSON.stringify(x.table) !== JSON.stringify(y.table)) sentences.push('the table is written otherwise');
  if (JSON.stringify(x.medium) !== JSON.stringify(y.medium))
    sentences.push(
      `for ${mediumText(y.medium)} of ${inBoth(b.medium.capacity)}, before ${mediumText(x.medium)} of ${inBoth(a.medium.capacity)}`,
    );
  if (a.grain.bytes !== b.grain.bytes)
    sentences.push(`grain ${inBoth(b.grain.bytes)}, before ${inBoth(a.grain.bytes)}`);
  if (x.boots.join() !== y.boots.join())
    sentences.push(`starts from ${y.boots.join(', ') || 'nothing'}, before ${x.boots.join(', ') || 'nothing'}`);
  if (JSON.stringify(x.machine) !== JSON.stringify(y.machine))
    sentences.push('other things are said about the machine');
  if (JSON.stringify(x.entries) !== JSON.stringify(y.entries)) sentences.push('the boot entries are others');
  if (JSON.stringify(x.accepted) !== JSON.stringify(y.accepted)) sentences.push('other risks are accepted');
  if (x.name !== y.name) sentences.push(`named “${y.name}”, before “${x.name}”`);
  if (x.date !== y.date) sentences.push(`date inside ${y.date}, before ${x.date}`);
  return sentences;
}

/** Everything that differs, the whole first, then slots in the order of the second layout, then those that are gone. */
export function differences(a: Placement, b: Placement): Difference[] {
  const before = new Map(a.placed.map((one) => [one.slot.id, one]));
  const after = new Set(b.placed.map((one) => one.slot.id));
  const whole = ofLayouts(a, b);
  const slots = b.placed.flatMap((one): Difference[] => {
    const old = before.get(one.slot.id);
    const { id, name } = one.slot;
    if (!old) return [{ id, name, kind: 'added', what: [writeLine(one.slot)] }];
    const what = moved(old, one, b.sectorSize);
    return what.length > 0 ? [{ id, name, kind: 'changed', what }] : [];
  });
  const gone = a.placed
    .filter((one) => !after.has(one.slot.id))
    .map(({ slot }): Difference => ({ id: slot.id, name: slot.name, kind: 'removed', what: [writeLine(slot)] }));
  return [
    ...(whole.length > 0 ? [{ id: undefined, name: 'Layout', kind: 'changed' as const, what: whole }] : []),
    ...slots,
    ...gone,
  ];
}

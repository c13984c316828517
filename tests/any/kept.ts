/** Media that hold something already, and edits of layouts that keep it: what plans of changes are tested on. */
import fc from 'fast-check';
import type { BlockSource } from '@/core/bytes/blocks';
import { compose } from '@/core/compose/compose';
import { check } from '@/core/findings/layout/check';
import { stopsAmong } from '@/core/findings/layout/finding';
import type { Layout, PartitionSlot, Slot } from '@/core/layout/document';
import { applyEdit, type Edit, newSlotId } from '@/core/layout/edits';
import { deleting, moving, renewing, resizing } from '@/core/layout/acts';
import { isKept } from '@/core/layout/kept';
import { translation } from '@/core/layout/translate';
import { place } from '@/core/placement/place';
import { overOldBytes } from '../over-noise';
import { readStored } from './contents';
import { fatPart, GPT_TABLE, layoutOn, part } from '../samples';

/** Figures that become a medium: what is drawn is numbers, so that a counterexample shrinks. */
export interface AnyMedium {
  readonly table: 'gpt' | 'mbr';
  readonly large: boolean;
  readonly mebibytes: number;
  readonly parts: readonly {
    readonly size: number;
    readonly what: number;
    readonly gap: number;
    readonly logical: boolean;
  }[];
}

export const anyMedium: fc.Arbitrary<AnyMedium> = fc.record({
  table: fc.constantFrom('gpt' as const, 'mbr' as const),
  large: fc.boolean(),
  mebibytes: fc.integer({ min: 24, max: 80 }),
  parts: fc.array(
    fc.record({
      size: fc.integer({ min: 1, max: 24 }),
      what: fc.nat(4),
      gap: fc.nat(6),
      logical: fc.boolean(),
    }),
    { maxLength: 6 },
  ),
});

function slotFor(what: number, id: string, size: string, more: Partial<PartitionSlot>): PartitionSlot {
  if (what === 0) return fatPart(id, size, { label: id.toUpperCase() }, more);
  if (what === 1)
    return part(id, size, { ...more, content: { kind: 'exfat', volumeId: `7A1D-00${id.charCodeAt(0).toString(16)}` } });
  if (what === 2)
    return part(id, size, {
      ...more,
      content: {
        kind: 'ext',
        version: 'ext4',
        uuid: `7a1d0000-616d-4c0a-8d05-0000000000${id.charCodeAt(0).toString(16)}`,
      },
    });
  return part(id, size, what === 3 ? more : { ...more, type: undefined, role: 'swap' });
}

/** The layout that made such a medium, as far as it fits. */
function madeFrom({ table, large, mebibytes, parts }: AnyMedium): Layout {
  const sector = large ? 4096 : 512;
  const logicalFrom = table === 'mbr' ? parts.findIndex(({ logical }) => logical) : -1;
  const slots = parts.flatMap(({ size, what, gap }, i): Slot[] => {
    const id = String.fromCharCode(97 + i);
    const logical = logicalFrom >= 0 && i >= logicalFrom ? { logical: true as const } : {};
    const slot = slotFor(what, id, `${size} MiB`, logical);
    const free: Slot[] = gap > 3 ? [{ id: `f${id}`, kind: 'free', name: `Free ${id}`, size: `${gap - 3} MiB` }] : [];
    return [...free, slot];
  });
  return layoutOn(`${mebibytes} MiB`, slots, {
    ...(table === 'gpt' ? { table: GPT_TABLE } : {}),
    medium: { kind: 'image', capacity: { exact: `${mebibytes} MiB` }, logicalSector: sector, physicalSector: sector },
  });
}

/** The medium itself, over noise; undefined where its layout is stopped. */
export function mediumOf(any: AnyMedium): BlockSource | undefined {
  const placement = place(madeFrom(any));
  if (stopsAmong(check(placement)).length > 0) return undefined;
  const { size, ...source } = overOldBytes(
    any.mebibytes * 1024 * 1024,
    compose(placement).map(({ extent }) => extent),
    readStored,
  );
  return { size, read: (offset, length) => source.read(offset, length) };
}

/** One thing that a person does to a layout that keeps something; `which` and `much` are taken as they fit. */
export interface AnyAct {
  readonly act: 'delete' | 'add' | 'smaller' | 'larger' | 'move' | 'anew' | 'rename' | 'retype' | 'mark' | 'convert';
  readonly which: number;
  readonly much: number;
}

export const anyActs: fc.Arbitrary<readonly AnyAct[]> = fc.array(
  fc.record({
    act: fc.constantFrom<AnyAct['act']>(
      'delete',
      'delete',
      'add',
      'add',
      'add',
      'smaller',
      'larger',
      'move',
      'anew',
      'rename',
      'retype',
      'mark',
      'convert',
    ),
    which: fc.nat(7),
    much: fc.nat(40),
  }),
  { maxLength: 5 },
);

function editFor({ act, which, much }: AnyAct, layout: Layout): Edit | undefined {
  const kept = layout.slots.filter(isKept);
  const slot = kept[which % Math.max(1, kept.length)];
  const { logicalSector } = layout.medium;
  const sectors = (bytes: number) => Math.floor(bytes / logicalSector);
  const found = layout.found!.partitions.find(({ number }) => number === slot?.keeps);
  if (act === 'add') {
    const id = newSlotId(layout);
    const added = slotFor(which % 5, id, much % 3 === 0 ? 'rest' : `${1 + (much % 12)} MiB`, {
      ...(layout.table.kind === 'mbr' && much % 2 === 1 && { logical: true as const }),
    });
    return {
      do: 'add slot',
      slot: { ...added, content: fresh(added, id) } as Slot,
      index: which % (layout.slots.length + 1),
    };
  }
  if (act === 'convert') return translation(layout, layout.table.kind === 'gpt' ? 'mbr' : 'gpt').edit;
  if (!slot || !found) return undefined;
  switch (act) {
    case 'delete':
      return deleting(layout, slot.id)?.edit;
    case 'smaller':
    case 'larger': {
      const to = found.sectors + (act === 'smaller' ? -1 : 1) * sectors((1 + much) * 65_536);
      const done = resizing(layout, slot.id, Math.max(1, to));
      return done.ok ? done.value.edit : undefined;
    }
    case 'move': {
      const done = moving(layout, slot.id, sectors((1 + much) * 1024 * 1024));
      return done.ok ? done.value.edit : undefined;
    }
    case 'anew':
      return renewing(layout, slot.id, much % 2 === 0 ? 'fat' : 'ext')?.edit;
    case 'rename':
      return { do: 'change slot', id: slot.id, patch: { name: `Renamed ${much}` } };
    case 'retype':
      return {
        do: 'change slot',
        id: slot.id,
        patch: { type: layout.table.kind === 'gpt' ? 'ebd0a0a2-b9e5-4433-87c0-68b6b72699c7' : '0C' },
      };
    case 'mark':
      return { do: 'change slot', id: slot.id, patch: { active: slot.active ? undefined : true } };
  }
}

/** Contents with ids of their own, so that two added slots are not told apart by chance alone. */
function fresh(slot: PartitionSlot, id: string): PartitionSlot['content'] {
  const { content } = slot;
  if (content?.kind !== 'fat') return content;
  return { kind: 'fat', volumeId: content.volumeId, label: id.toUpperCase().slice(0, 11) };
}

/** The layout with these acts, one after the other. */
export function acted(layout: Layout, acts: readonly AnyAct[]): Layout {
  return acts.reduce((so, act) => {
    const edit = editFor(act, so);
    return edit ? applyEdit(so, edit) : so;
  }, layout);
}

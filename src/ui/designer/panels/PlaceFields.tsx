'use client';

import type { FreeSlot, PartitionSlot } from '@/core/layout/document';
import { lastSector, type Placed } from '@/core/placement/placement';
import { describeRange, type Typed, typedEdit, typedRange } from '@/core/placement/typed';
import { grouped } from '@/core/quantity/units';
import { Button } from '../../kit/Button';
import { SeveralChoice } from '../../kit/Choice';
import { Fold } from '../../kit/Fold';
import { exactEcho, Pointed } from '../../kit/size-echo';
import { type Echo, TextField } from '../../kit/TextField';
import { useDesigner } from '../state/context';
import { useSettled, useSlotEditing } from '../state/editing';

/** A field for one of start, last sector and length; the other two follow. */
function TypedField({ placed, which, label, value }: { placed: Placed; which: Typed; label: string; value: number }) {
  const placement = useDesigner((state) => state.base);
  const commit = useDesigner((state) => state.commit);
  const preview = useDesigner((state) => state.preview);
  const before = placement.placed.find((one) => one.slot.id === placed.slot.id) ?? placed;
  const shown = grouped(value);
  const echo = (draft: string): Echo | undefined => {
    if (draft === shown) return undefined;
    const range = typedRange(before, which, draft, placement.sectorSize);
    return range.ok
      ? { wrong: false, text: describeRange(range.value) }
      : { wrong: true, text: <Pointed text={draft} error={range.error} /> };
  };
  return (
    <div className="min-w-0">
      <TextField
        label={label}
        mono
        value={shown}
        echo={echo}
        onDraft={(draft) => preview(draft === undefined ? undefined : typedEdit(placement, before, which, draft))}
        onCommit={(draft) => {
          const edit = typedEdit(placement, before, which, draft);
          if (edit) commit(edit);
        }}
      />
    </div>
  );
}

function grainText(slot: PartitionSlot | FreeSlot): string {
  const marks = [
    slot.grain ?? 'that of the layout',
    ...(slot.endsOnGrain ? ['ends on it'] : []),
    ...(slot.kind === 'partition' && slot.logical ? ['logical'] : []),
  ];
  return marks.join(', ');
}

/** Where a slot stands, in sectors: each of the three can be typed, in sectors or units. */
export function PlaceFields({ placed }: { placed: Placed & { slot: PartitionSlot | FreeSlot } }) {
  const layout = useDesigner((state) => state.document);
  const sectorSize = useDesigner((state) => state.placement.sectorSize);
  const { slot } = placed;
  const settled = useSettled(slot);
  const { change, draft } = useSlotEditing(slot.id);
  const isLogical = slot.kind === 'partition' && slot.logical === true;
  const marks = [...(slot.endsOnGrain ? (['ends'] as const) : []), ...(isLogical ? (['logical'] as const) : [])];
  const isMbr = slot.kind === 'partition' && layout.table.kind === 'mbr';
  return (
    <div className="mt-2 border-t border-hair pt-2">
      <div className="grid grid-cols-3 gap-x-2">
        <TypedField placed={placed} which="start" label="Start" value={placed.start} />
        <TypedField placed={placed} which="last" label="Last sector" value={lastSector(placed)} />
        <TypedField placed={placed} which="length" label="Length" value={placed.sectors} />
      </div>
      {slot.at !== undefined && (
        <p className="mt-1 flex items-center justify-between text-soft">
          <span>
            pinned to <span className="font-mono text-sm text-ink">{slot.at}</span>
          </span>
          <Button className="py-0" onClick={() => change({ at: undefined })}>
            Let it follow
          </Button>
        </p>
      )}
      <Fold title="Grain" said={grainText(slot)}>
        <TextField
          label="Grain"
          mono
          value={slot.grain ?? ''}
          settled={settled.grain ?? ''}
          placeholder="that of the layout"
          echo={exactEcho(sectorSize, { empty: '' })}
          onDraft={(text) => draft(text?.trim() ? { grain: text.trim() } : undefined)}
          onCommit={(text) => change({ grain: text.trim() === '' ? undefined : text.trim() })}
        />
        <span className="text-soft">Place</span>
        <SeveralChoice<'ends' | 'logical'>
          label="How it is placed"
          dense
          values={marks}
          options={[
            { value: 'ends', text: 'ends on the grain' },
            ...(isMbr ? [{ value: 'logical', text: 'logical' } as const] : []),
          ]}
          onChange={(next) =>
            change({
              endsOnGrain: next.includes('ends') ? true : undefined,
              ...(slot.kind === 'partition' && { logical: next.includes('logical') ? true : undefined }),
            })
          }
        />
      </Fold>
    </div>
  );
}

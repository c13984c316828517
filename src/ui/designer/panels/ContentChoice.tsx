'use client';

import type { ContentKind } from '@/core/filesystems/shapes';
import type { PartitionSlot } from '@/core/layout/document';
import { Choice } from '../../kit/Choice';
import { useRemembered } from '../../kit/remembered';
import { contentPatch, fittingKinds, KIND_CHOICES } from '../state/content-edit';
import { useDesigner } from '../state/context';
import { useSlotEditing } from '../state/editing';

/** What is made in a partition, or put into it: the few kinds that fit its role first, the others on demand. */
export function ContentChoice({ slot }: { slot: PartitionSlot }) {
  const layout = useDesigner((state) => state.document);
  const { change } = useSlotEditing(slot.id);
  const [isAll, setAll] = useRemembered('all kinds');
  const chosen = slot.content?.kind ?? 'left';
  const fitting = fittingKinds(slot.role);
  const shown = KIND_CHOICES.filter(
    // Files are supplied among the contents: they are shown only while they are there.
    ({ value, isSupplied }) => value === chosen || (!isSupplied && (isAll || fitting.includes(value))),
  );
  const rank = (kind: ContentKind) => (fitting.includes(kind) ? fitting.indexOf(kind) : fitting.length);
  return (
    <>
      <span className="self-start pt-1 text-soft">Inside</span>
      <div className="flex flex-wrap items-center gap-1.5">
        <Choice<ContentKind>
          label="What is inside"
          dense
          value={chosen}
          options={[...shown].sort((a, b) => rank(a.value) - rank(b.value))}
          onChange={(kind) => change(contentPatch(layout, slot, kind))}
        />
        {!isAll && (
          <button
            type="button"
            onClick={() => setAll(true)}
            className="rounded-sm text-sm text-soft underline decoration-line underline-offset-2 hover:text-ink"
          >
            other kinds
          </button>
        )}
      </div>
    </>
  );
}

'use client';

import { PAGE_SIZES, type PageSize } from '@/core/filesystems/swap/format';
import type { Slot } from '@/core/layout/document';
import type { SlotPatch } from '@/core/layout/edits';
import type { SizeFacts } from '@/core/quantity/size-language';
import { inBinary } from '@/core/quantity/units';
import type { Echo } from '../../kit/TextField';
import { useDesigner } from './context';

/** Id of the field of the slot line, which the slash key goes to. */
export const LINE_FIELD = 'line-field';

/** Id of the field that Enter on a selected slot goes to. */
export const SIZE_FIELD = 'size-field';

/** Sizes of a memory page, to choose from; any other text stands for none of them. */
export const PAGE_CHOICES: readonly { readonly value: string; readonly text: string }[] = PAGE_SIZES.map((size) => ({
  value: String(size),
  text: inBinary(size).replace(' KiB', 'K'),
}));

export function pageSizeChosen(value: string): PageSize | undefined {
  return PAGE_SIZES.find((size) => String(size) === value);
}

/** What a size may refer to in this layout. */
export function useSizeFacts(): SizeFacts {
  const { figures, usable } = useDesigner((state) => state.placement);
  return { memory: figures.memory, space: usable.end - usable.first };
}

/** Finished and unfinished changes of one slot. */
export function useSlotEditing(id: string) {
  const preview = useDesigner((state) => state.preview);
  const commit = useDesigner((state) => state.commit);
  return {
    change: (patch: SlotPatch) => commit({ do: 'change slot', id, patch }),
    draft: (patch: SlotPatch | undefined) => preview(patch && { do: 'change slot', id, patch }),
    commit,
  };
}

/** The slot as it was before a gesture that is not finished. */
export function useSettled<T extends Slot>(slot: T): T {
  const settled = useDesigner((state) => state.base.layout.slots.find((one) => one.id === slot.id));
  return settled?.kind === slot.kind ? (settled as T) : slot;
}

/** What is wrong with a name, if anything. */
export function nameEcho(what: string, limit: number): (draft: string) => Echo | undefined {
  return (draft) => {
    if (draft.trim() === '') return { wrong: true, text: `${what} has a name.` };
    return draft.length > limit ? { wrong: true, text: `A name has at most ${limit} characters.` } : undefined;
  };
}

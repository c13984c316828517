/** What choosing a content means for a partition. */
import { isFillable, kindNamed, KINDS } from '@/core/filesystems/kinds';
import type { Content, ContentKind } from '@/core/filesystems/shapes';
import { fillingOf } from '@/core/layout/contents';
import type { Layout, PartitionSlot } from '@/core/layout/document';
import { freshContent, type SlotPatch } from '@/core/layout/edits';

/** Variants of FAT that can be chosen; `fat` leaves it to the size. */
const VARIANTS = { fat: undefined, fat12: 12, fat16: 16, fat32: 32 } as const;

/** What a person can choose for a partition; images and other files are supplied among the contents. */
export type Chosen = ContentKind | keyof typeof VARIANTS;

/** Everything that can be chosen, and its name; what can only be supplied comes last. */
export const CHOICES: readonly { readonly value: Chosen; readonly text: string; readonly isSupplied: boolean }[] = (
  Object.keys(KINDS) as ContentKind[]
).flatMap((kind): { value: Chosen; text: string; isSupplied: boolean }[] => {
  const { word, fresh } = kindNamed(kind);
  if (kind === 'fat')
    return Object.keys(VARIANTS).map((one) => ({ value: one as Chosen, text: one.toUpperCase(), isSupplied: false }));
  if (!fresh) return [{ value: kind, text: `${/^[aeiou]/.test(word) ? 'an' : 'a'} ${word}`, isSupplied: true }];
  return [{ value: kind, text: kind === 'left' ? 'left' : word, isSupplied: false }];
});

/** What a partition holds now. */
export function chosenOf({ content }: PartitionSlot): Chosen {
  if (content?.kind !== 'fat') return content?.kind ?? 'left';
  return content.variant === undefined ? 'fat' : `fat${content.variant}`;
}

/** Nothing said of a partition; one that is swap would be made swap then. */
export function unstated({ role }: PartitionSlot): Content | undefined {
  return role === 'swap' ? { kind: 'left' } : undefined;
}

function isFat(kind: Chosen): kind is keyof typeof VARIANTS {
  return kind in VARIANTS;
}

/** A FAT file system of another variant, everything else of it as it was. */
function asVariant(content: Content, variant: 12 | 16 | 32 | undefined): Content {
  if (content.kind !== 'fat') return content;
  const { variant: _, ...rest } = content;
  return { ...rest, ...(variant !== undefined && { variant }) };
}

/** The patch that gives a partition another content. Label, id and files stay where the new one can hold them. */
export function contentPatch(layout: Layout, slot: PartitionSlot, chosen: Chosen): SlotPatch {
  const kind = isFat(chosen) ? 'fat' : chosen;
  if (kind === 'left') return { content: unstated(slot) };
  const fresh = slot.content?.kind === kind ? slot.content : freshContent(kind, layout, slot.id);
  if (!fresh) return {};
  const { label, files, times, volumeId } = fillingOf(slot) ?? {};
  const kept = Object.entries({ label, files, times, volumeId }).filter(([, value]) => value !== undefined);
  const content = isFillable(fresh) ? { ...fresh, ...(Object.fromEntries(kept) as object) } : fresh;
  return { content: isFat(chosen) ? asVariant(content, VARIANTS[chosen]) : content };
}

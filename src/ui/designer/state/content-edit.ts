/** What choosing a content means for a partition. */
import { isFillable, kindNamed, KINDS } from '@/core/filesystems/kinds';
import type { Content, ContentKind, ContentOf } from '@/core/filesystems/shapes';
import { fillingOf } from '@/core/layout/contents';
import type { Layout, PartitionSlot } from '@/core/layout/document';
import type { Role } from '@/core/layout/vocabulary';
import { freshContent, type SlotPatch } from '@/core/layout/edits';

/** Variants of FAT that can be chosen; `fat` leaves it to the size. */
const VARIANTS = { fat: undefined, fat12: 12, fat16: 16, fat32: 32 } as const;

/** A variant of FAT, as it is chosen. */
export type FatChoice = keyof typeof VARIANTS;

/** What a person can choose for a partition; images and other files are supplied among the contents. */
export type Chosen = ContentKind | keyof typeof VARIANTS;

/** Every kind of content, and what it is called; what can only be supplied comes last. */
export const KIND_CHOICES: readonly {
  readonly value: ContentKind;
  readonly text: string;
  readonly isSupplied: boolean;
}[] = (Object.keys(KINDS) as ContentKind[]).map((kind) => {
  const { word, fresh } = kindNamed(kind);
  const text = kind === 'fat' ? 'FAT' : kind === 'left' ? 'left to its system' : word;
  if (!fresh) return { value: kind, text: `${/^[aeiou]/.test(word) ? 'an' : 'a'} ${word}`, isSupplied: true };
  return { value: kind, text, isSupplied: false };
});

const FITTING: Readonly<Record<Role, readonly ContentKind[]>> = {
  esp: ['fat'],
  boot: ['fat', 'ext', 'left'],
  'bios-boot': ['left'],
  system: ['left', 'ext'],
  data: ['left', 'ext', 'fat', 'exfat'],
  swap: ['swap', 'left'],
};

/** The few kinds that a partition of this role usually holds, the most usual first. */
export function fittingKinds(role: Role): readonly ContentKind[] {
  return FITTING[role];
}

/** The variants of FAT to choose from. */
export const VARIANT_CHOICES: readonly { readonly value: FatChoice; readonly text: string }[] = [
  { value: 'fat', text: 'by size' },
  { value: 'fat12', text: 'FAT12' },
  { value: 'fat16', text: 'FAT16' },
  { value: 'fat32', text: 'FAT32' },
];

/** Which of them a FAT is. */
export function variantChosen({ variant }: ContentOf<'fat'>): FatChoice {
  return variant === undefined ? 'fat' : `fat${variant}`;
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
  const old = fillingOf(slot);
  const { label, files, times } = old ?? {};
  // The id stays with the file system that has it, and between those whose ids are alike.
  const volumeId = old && 'volumeId' in old && 'volumeId' in fresh ? old.volumeId : undefined;
  const kept = Object.entries({ label, files, times, volumeId }).filter(([, value]) => value !== undefined);
  const content = isFillable(fresh) ? { ...fresh, ...(Object.fromEntries(kept) as object) } : fresh;
  return { content: isFat(chosen) ? asVariant(content, VARIANTS[chosen]) : content };
}

/** Making copies of a series, one after another: by the program itself, or by one of its threads. */
import { check } from '@/core/findings/layout/check';
import { kindOf } from '@/core/filesystems/kinds';
import type { Layout } from '@/core/layout/document';
import { copyOf } from '@/core/layout/series';
import { place } from '@/core/placement/place';
import type { Placement } from '@/core/placement/placement';
import { writeImage } from '@/files/image-file';
import { refuseBuild } from './findings-end';
import { type Gathered, suppliesOf } from './supplies';

/** What all copies of a series have in common. Plain data: it goes to threads. */
export interface CopiesJob {
  readonly layout: Layout;
  readonly gathered: Gathered;
}

/** One copy to make. */
export interface CopyOrder {
  readonly copy: number;
  readonly image: string;
  readonly temporary: string;
}

/** The ids of a copy that was made. */
export interface MadeCopy {
  readonly copy: number;
  readonly image: string;
  readonly bytes: number;
  /** Signature or id of the medium, where it has a table. */
  readonly medium?: string;
  readonly slots: readonly { readonly id: string; readonly partition?: string; readonly content?: string }[];
}

function idsOf({ layout, placed }: Placement): Pick<MadeCopy, 'medium' | 'slots'> {
  const { table } = layout;
  const medium = { mbr: 'signature', gpt: 'diskId', none: undefined } as const;
  const field = medium[table.kind];
  return {
    ...(field && { medium: (table as Readonly<Record<string, unknown>>)[field] as string }),
    slots: placed.flatMap(({ slot, entry }) => {
      const content = slot.kind === 'partition' ? slot.content : undefined;
      const identity = content && kindOf(content).identity;
      if (!entry && !identity) return [];
      return [
        { id: slot.id, ...(entry && { partition: entry.id }), ...(identity && { content: identity.of(content) }) },
      ];
    }),
  };
}

/** Makes one copy. Rejects as a build does. */
export async function makeCopy(
  { layout, gathered }: CopiesJob,
  order: CopyOrder,
  signal: AbortSignal,
): Promise<MadeCopy> {
  const { copy, image, temporary } = order;
  const { contents, fileOf } = await suppliesOf(gathered);
  const placement = place(copyOf(layout, copy), contents);
  refuseBuild(check(placement));
  const { size } = await writeImage({
    placement,
    path: image,
    temporary,
    isNew: true,
    fileOf,
    signal,
    onProgress: () => undefined,
  });
  return { copy, image, bytes: size, ...idsOf(placement) };
}

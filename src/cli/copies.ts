/** Making copies of a series, one after another: by the program itself, or by one of its threads. */
import { check } from '@/core/findings/layout/check';
import { checkedCopy } from '@/core/findings/layout/copies';
import type { Finding } from '@/core/findings/layout/finding';
import { kindOf } from '@/core/filesystems/kinds';
import { placeWritten } from '@/core/naming/written';
import type { Placement } from '@/core/placement/placement';
import { writeImage } from '@/files/image-file';
import { refuseBuild, refuseKept } from './findings-end';
import { type Filling, type Gathered, suppliesOf } from './supplies';

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

/** What makes copies of a layout, one by one: what fills them is read once. Rejects as a build does. */
export function copyMaker(gathered: Gathered, signal: AbortSignal): (order: CopyOrder) => Promise<MadeCopy> {
  let filling: Promise<Filling> | undefined;
  let own: readonly Finding[] | undefined;
  return async ({ copy, image, temporary }) => {
    const { contents, fileOf } = await (filling ??= suppliesOf(gathered));
    own ??= check(placeWritten(gathered.layout, contents));
    const { placement, findings } = checkedCopy(gathered.layout, copy, contents, own);
    refuseKept(placement.layout);
    refuseBuild(findings);
    const onProgress = () => undefined;
    const { size } = await writeImage({ placement, path: image, temporary, isNew: true, fileOf, signal, onProgress });
    return { copy, image, bytes: size, ...idsOf(placement) };
  };
}

/** What joins a partition to a line of text that names it. */
import type { NamedBy } from '@/core/layout/vocabulary';
import type { Nameable } from '@/core/naming/nameable';

/** A partition, by the name of its medium and its id there. */
export function tieKey({ medium, placed }: Nameable): string {
  return `${medium.name}/${placed.slot.id}`;
}

export interface Tie {
  /** The partition that is named; undefined where nobody has the name: the stroke leads nowhere. */
  readonly to: string | undefined;
  readonly by: NamedBy;
  /** It names another partition than it should. */
  readonly isWrong: boolean;
}

/** Strokes by the kind of name, told apart without colour. */
export const STROKES: Readonly<Record<NamedBy, string | undefined>> = {
  UUID: undefined,
  PARTUUID: '7 3',
  LABEL: '1.5 3',
  PARTLABEL: '1.5 3',
  'device name': '8 3 2 3',
};

export const STROKE_WORDS: readonly (readonly [NamedBy, string])[] = [
  ['UUID', 'id of the file system'],
  ['PARTUUID', 'id of the partition'],
  ['LABEL', 'label or name'],
  ['device name', 'device'],
];

/** What a case of a finding is, and the media that cases lie on. */
import type { Severity } from '@/core/findings/severity';
import type { Contents } from '@/core/filesystems/supplied';
import type { Layout, Slot } from '@/core/layout/document';
import { layoutOn, part } from '../samples';

const SECTORS = { logicalSector: 512, physicalSector: 512 } as const;
export const CARD = { kind: 'card', capacity: { nominal: '8 GB' }, ...SECTORS } as const;
export const STICK = { kind: 'stick', capacity: { nominal: '8 GB' }, ...SECTORS } as const;
export const DISK = { kind: 'disk', capacity: { nominal: '500 GB' }, ...SECTORS } as const;
export const fat = { kind: 'fat', variant: 32, volumeId: '7A1D-10C5' } as const;

/** A layout on a medium of this kind. */
export const on = (medium: Layout['medium'], slots: Slot[], more: Partial<Layout> = {}): Layout =>
  layoutOn('1 GiB', slots, { medium, ...more });

/** A layout on an image file of exactly this size. */
export const image = (exact: string, slots: Slot[] = [part('a', 'rest')], more: Partial<Layout> = {}): Layout =>
  layoutOn(exact, slots, more);

export interface Case {
  readonly rule: string;
  readonly severity: Severity;
  readonly bad: Layout;
  readonly good: Layout;
  /** What the layouts name by content. */
  readonly contents?: Contents;
  /** A part of the sentence, with its figures. */
  readonly says: string | RegExp;
  /** Labels of the remedies; each cures. */
  readonly remedies: readonly (string | RegExp)[];
  /** Labels of the remedies that change files; each cures. */
  readonly fileRemedies?: readonly string[];
}

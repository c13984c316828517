/** The 32-bit ids of FAT and exFAT volumes, as people write them: `3A1F-77C0`. */

import { hashText } from '../bytes/guid';
import type { Identity } from './kind';

/** A volume id in text. */
export const VOLUME_ID = /^[0-9A-F]{4}-[0-9A-F]{4}$/;

/** An unsigned 32-bit volume id as text. */
export function volumeIdText(id: number): string {
  const digits = id.toString(16).toUpperCase().padStart(8, '0');
  return `${digits.slice(0, 4)}-${digits.slice(4)}`;
}

/** The 32-bit volume id of its text. */
export function volumeIdNumber(text: string): number {
  return parseInt(text.replace('-', ''), 16);
}

/** The identity of a content that systems find by its volume id. */
export function identityOfVolume<C extends { readonly volumeId: string }>(): Identity<C> {
  return {
    of: ({ volumeId }) => volumeId,
    with: (content, volumeId) => ({ ...content, volumeId }),
    from: (text) => volumeIdText(hashText(text) || 1),
    suffix: '',
  };
}

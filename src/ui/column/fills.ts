import type { Slot } from '@/core/layout/document';
import { isKeptRaw, keepsInside } from '@/core/layout/kept';
import type { Stratum } from '@/core/placement/placement';
import type { Fill } from './Patterns';

const BY_ROLE: Readonly<Record<string, Fill>> = {
  boot: 'boot',
  esp: 'boot',
  system: 'system',
  data: 'data',
  swap: 'swap',
};

function fillOfSlot(slot: Slot): Fill {
  if (keepsInside(slot) || isKeptRaw(slot)) return 'kept';
  if (slot.kind === 'raw') return 'loader';
  if (slot.kind === 'free') return 'free';
  return BY_ROLE[slot.role] ?? 'data';
}

/** The fill of a stratum, by its role and never by its file system. */
export function fillOf(stratum: Stratum): Fill {
  if (stratum.kind === 'slot') return fillOfSlot(stratum.placed.slot);
  return stratum.kind === 'table' ? 'table' : 'gap';
}

/** Layouts for tests, from the made-up world of the demo; and sources of noise. */
import type { ContentOf } from '@/core/filesystems/shapes';
import { hashText } from '@/core/bytes/guid';
import { kindOf } from '@/core/filesystems/kinds';
import { volumeIdText } from '@/core/filesystems/volume-id';
import type { Layout, PartitionSlot, Slot } from '@/core/layout/document';
import { place } from '@/core/placement/place';

/** A layout on a medium of exactly this size, without slots unless given. */
export function layoutOn(exact: string, slots: readonly Slot[] = [], more: Partial<Layout> = {}): Layout {
  return {
    format: 'loess-layout',
    version: 2,
    name: 'Test gauge',
    date: '2026-03-01T12:34:56',
    medium: { kind: 'image', capacity: { exact }, logicalSector: 512, physicalSector: 512 },
    boots: [],
    table: { kind: 'mbr', signature: '6d617272' },
    slots: [...slots],
    ...more,
  };
}

/** A partition named like its id. */
export function part(id: string, size: string, more: Partial<PartitionSlot> = {}): PartitionSlot {
  return { id, kind: 'partition', name: id, role: 'data', size, ...more };
}

/** A volume id that follows from a slot id. */
function volumeIdFor(id: string): string {
  return volumeIdText(hashText(id));
}

/** A table of each kind. */
export const GPT_TABLE = { kind: 'gpt', diskId: '6d617272-616d-4c0a-8d05-7469646573aa' } as const;
export const NO_TABLE = { kind: 'none' } as const;

/** A partition with FAT32, or another variant. */
export function fatPart(
  id: string,
  size: string,
  more: Partial<ContentOf<'fat'>> = {},
  slot: Partial<PartitionSlot> = {},
): PartitionSlot {
  return part(id, size, {
    ...slot,
    content: { kind: 'fat', variant: 32, volumeId: volumeIdFor(id), ...more },
  });
}

/** The id by which systems find what is in a slot. */
export function contentIdOf({ content }: PartitionSlot): string | undefined {
  return content && kindOf(content).identity?.of(content);
}

/** A raw range. */
export function raw(id: string, at: string, length: string): Slot {
  return { id, kind: 'raw', name: id, at, length };
}

/** Deliberate free space. */
export function free(id: string, size: string): Slot {
  return { id, kind: 'free', name: id, size };
}

/** Where a slot of a layout lands: first sector and number of sectors. */
export function where(layout: Layout, id: string): [number, number] {
  const placed = place(layout).placed.find((one) => one.slot.id === id);
  if (!placed) throw new Error(`no slot ${id}`);
  return [placed.start, placed.sectors];
}

/** Bytes that look like the leftovers of an earlier life: the same for the same seed. */
export function noise(length: number, seed = 1): Uint8Array {
  const bytes = new Uint8Array(length);
  let state = seed >>> 0 || 1;
  for (let i = 0; i < length; i++) {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    bytes[i] = state & 0xff;
  }
  return bytes;
}

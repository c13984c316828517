/** Where the content of a slot goes: what its kind asks about the place. */
import type { Site } from '../filesystems/kind';
import type { Layout, PartitionSlot } from '../layout/document';
import type { PlacedPartition, Placement } from './placement';

/** Most machines have pages of this many bytes. */
const USUAL_PAGE = 4096;

/** The site of a slot that covers these sectors. `unit` is that of data areas, in bytes. */
export function siteOf(
  slot: Pick<PartitionSlot, 'role'>,
  { start, sectors }: { readonly start: number; readonly sectors: number },
  { layout, sectorSize, unit }: { readonly layout: Layout; readonly sectorSize: 512 | 4096; readonly unit: number },
): Site {
  return {
    start,
    sectors,
    sectorSize,
    unit,
    wholeMedium: layout.table.kind === 'none',
    isEsp: slot.role === 'esp',
    isSystem: slot.role === 'system',
    pageSize: layout.machine?.pageSize ?? USUAL_PAGE,
    date: layout.date,
  };
}

/** The site of a placed partition. */
export function siteIn(
  placed: Pick<PlacedPartition, 'slot' | 'start' | 'sectors'>,
  { layout, sectorSize, dataUnit: unit }: Pick<Placement, 'layout' | 'sectorSize' | 'dataUnit'>,
): Site {
  return siteOf(placed.slot, placed, { layout, sectorSize, unit });
}

/** Where the room of a FAT volume is: what stands ahead of its clusters, and the clusters that its first FAT says are in use. */
import type { BlockSource } from '../../bytes/blocks';
import { MapDrawing, type RoomMap, UsedRuns } from '../room-map';
import type { FatShape } from './header';
import { entryOf } from './read-fats';

/** Bytes of a FAT that are read at once: whole entries of every width. */
const WINDOW = 3 * 2 ** 18;

/** Draws the map of the volume that begins at a byte of the source; `number` is that of the FAT that is believed, from 0. */
export async function fatMap(
  source: BlockSource,
  base: number,
  shape: FatShape,
  number: number,
  cells: number,
): Promise<RoomMap> {
  const { sectorSize, sectorsPerCluster, totalSectors, dataStart, clusters, width, fatSectors, reserved } = shape;
  const fat = base + (reserved + number * fatSectors) * sectorSize;
  const cluster = sectorSize * sectorsPerCluster;
  const heap = dataStart * sectorSize;
  const drawing = new MapDrawing(totalSectors * sectorSize, cluster, cells);
  drawing.add('structures', 0, heap);
  const used = new UsedRuns(drawing, (one) => heap + (one - 2) * cluster, cluster);
  const perWindow = (WINDOW * 8) / width;
  const most = Math.min(clusters + 2, Math.floor((fatSectors * sectorSize * 8) / width));
  for (let first = 0; first < most; first += perWindow) {
    const count = Math.min(perWindow, most - first);
    const at = fat + (first * width) / 8;
    const length = Math.min(Math.ceil((count * width) / 8), source.size - at);
    if (length <= 0) break;
    // What was never written is free.
    if (source.isHole?.(at, length) === true) continue;
    const bytes = new Uint8Array(await source.read(at, length));
    const there = Math.min(count, Math.floor((length * 8) / width));
    for (let i = first === 0 ? 2 : 0; i < there; i++) if (entryOf(width, bytes, i) !== 0) used.add(first + i);
  }
  used.flush();
  return drawing.map();
}

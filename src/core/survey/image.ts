/** What a supplied file is, if it holds a file system: told by the same looks as in a survey. */
import type { BlockSource } from '../bytes/blocks';
import { isOfTwoMinds } from '../filesystems/fat/shape';
import { volumeIdText } from '../filesystems/label';
import type { ImageFacts } from '../layout/contents';
import { Reader } from './reader';
import { lookInside } from './survey';

/** Least bytes in which a file system is looked for. */
const LEAST = 512;

/** Facts of a file system that begins with the first byte of the source; undefined where none is recognised. */
export async function imageFacts(source: BlockSource): Promise<ImageFacts | undefined> {
  if (source.size < LEAST) return undefined;
  const sectors = Math.floor(source.size / LEAST);
  const inside = await lookInside(new Reader(source, true), 0, sectors, LEAST);
  if (inside.kind === 'fat') {
    const { shape, hidden, volumeId, root, labelInHeader, freeCounted, fatsAgree } = inside.fat;
    const cluster = shape.sectorsPerCluster * shape.sectorSize;
    return {
      name: `FAT${shape.variant}`,
      variant: shape.variant,
      ...(isOfTwoMinds(shape) && { headerOf: shape.width }),
      label: root.label || labelInHeader,
      id: volumeIdText(volumeId),
      sectorSize: shape.sectorSize,
      bytes: shape.totalSectors * shape.sectorSize,
      hidden,
      fatsAgree,
      ...(shape.backupSector > 0 && shape.backupSector < shape.reserved && { backupSector: shape.backupSector }),
      ...(freeCounted !== undefined && { used: (shape.clusters - freeCounted) * cluster }),
    };
  }
  if (inside.kind === 'exfat') {
    const { shape, label, serial, free } = inside.exfat;
    return {
      name: 'exFAT',
      label,
      id: volumeIdText(serial),
      sectorSize: shape.sectorSize,
      bytes: shape.volumeSectors * shape.sectorSize,
      ...(free !== undefined && { used: (shape.clusters - free) * shape.clusterBytes }),
    };
  }
  if (inside.kind !== 'known') return undefined;
  const { name, size, ...rest } = inside.content;
  return { name, ...rest, ...(size !== undefined && { bytes: size }) };
}

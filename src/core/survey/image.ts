/** What a supplied file is, if it holds a file system or a whole disk: told by the same looks as in a survey. */
import type { BlockSource } from '../bytes/blocks';
import { isOfTwoMinds } from '../filesystems/fat/shape';
import { volumeIdText } from '../filesystems/label';
import type { ImageFacts } from '../layout/contents';
import { decodeMbr } from '../tables/mbr';
import { authority, type Inside } from './found';
import { readGpt } from './gpt';
import { isTable } from './is-table';
import { Reader } from './reader';
import { lookInside } from './survey';

/** Least bytes in which a file system is looked for. */
const LEAST = 512;

/** Facts of what is inside; undefined where nothing is recognised. */
export function imageInside(inside: Inside): ImageFacts | undefined {
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

/** Facts of a whole disk: the table that it begins with, and what that names. */
async function diskFacts(reader: Reader): Promise<ImageFacts | undefined> {
  for (const sectorSize of [512, 4096] as const) {
    const sectors = Math.floor(reader.size / sectorSize);
    const { first, copy } = await readGpt(reader, sectorSize, sectors);
    const gpt = authority({ gpt: { first: first?.found, copy: copy?.found } });
    const entries = gpt === first?.found ? first?.entries : copy?.entries;
    if (gpt) return { name: 'disk with a GPT', disk: 'gpt', partitions: entries?.length ?? 0, sectorSize };
  }
  const sector = await reader.upTo(0, LEAST);
  const mbr = decodeMbr(sector);
  if (typeof mbr === 'string' || mbr.entries.length === 0) return undefined;
  const isOne = await isTable(reader, sector, mbr, Math.floor(reader.size / LEAST));
  return isOne ? { name: 'disk with an MBR', disk: 'mbr', partitions: mbr.entries.length } : undefined;
}

/** Facts of what begins with the first byte of the source: a file system, or a whole disk; undefined where nothing is recognised. */
export async function imageFacts(source: BlockSource): Promise<ImageFacts | undefined> {
  if (source.size < LEAST) return undefined;
  const reader = new Reader(source, true);
  const inside = await lookInside(reader, 0, Math.floor(source.size / LEAST), LEAST);
  return imageInside(inside) ?? diskFacts(reader);
}

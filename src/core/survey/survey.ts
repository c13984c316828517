/**
 * The survey: what a medium says of itself. Reads by ranges only, never the whole medium,
 * and takes nothing from the layout that may have made it.
 */
import type { BlockSource } from '../bytes/blocks';
import { type Fat32Found, readFat32 } from '../filesystems/fat32/read';
import { decodeMbr, type Mbr, type MbrEntry } from '../tables/mbr';

/** A partition as found, with the FAT32 volume in it where there is one. */
export interface FoundPartition {
  readonly entry: MbrEntry;
  readonly fat?: Fat32Found;
}

/** What was found. `table` is missing where sector 0 is no boot record. */
export interface Survey {
  readonly table?: Mbr;
  readonly trouble?: string;
  readonly partitions: readonly FoundPartition[];
}

/** Surveys a source whose sectors have `sectorSize` bytes. */
export async function surveyMedium(source: BlockSource, sectorSize: number): Promise<Survey> {
  if (source.size < sectorSize) return { trouble: 'shorter than one sector', partitions: [] };
  const table = decodeMbr(await source.read(0, sectorSize));
  if (typeof table === 'string') return { trouble: `sector 0: ${table}`, partitions: [] };
  const partitions: FoundPartition[] = [];
  for (const entry of table.entries) {
    const fat = await readFat32(source, entry.first * sectorSize, entry.count * sectorSize);
    partitions.push(fat ? { entry, fat } : { entry });
  }
  return { table, partitions };
}

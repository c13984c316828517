/** What a supplied file is, if it holds a file system or a whole disk: told by the same looks as in a survey. */
import type { BlockSource } from '../bytes/blocks';
import { PARTITION_LIMITS, withinBudget } from '../bytes/budget';
import { factsInside } from '../filesystems/readers';
import type { ImageFacts } from '../filesystems/supplied';
import { decodeMbr } from '../tables/mbr';
import { authority } from './found';
import { readGpt } from './gpt';
import { isTable } from './is-table';
import { SurveyReader } from './reader';
import { lookInside } from './survey';

/** Least bytes in which a file system is looked for. */
const LEAST = 512;

/** Facts of a whole disk: the table that it begins with, and what that names. */
async function diskFacts(reader: SurveyReader): Promise<ImageFacts | undefined> {
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
  const reader = new SurveyReader(source, false);
  const inside = await reader.within(PARTITION_LIMITS, () =>
    lookInside(reader, 0, Math.floor(source.size / LEAST), LEAST),
  );
  return (inside && factsInside(inside)) ?? withinBudget(diskFacts(reader));
}

/** Looking for a GPT: both copies, wherever the medium says that they are. */
import { MIB } from '../quantity/units';
import { crc32 } from '../bytes/crc32';
import { decodeEntries, decodeHeader, GPT_ENTRY_LENGTH, type GptEntry, type GptHeader } from '../tables/gpt';
import type { FoundGpt } from './found';
import type { SurveyReader } from './reader';

/** Longest array that is read, in bytes: 64 times the usual one. */
const ARRAY_LIMIT = MIB;

/** A copy with the entries of its array. */
export interface Copy {
  readonly found: FoundGpt;
  readonly entries: readonly GptEntry[];
}

function arrayLength({ entries, entrySize }: GptHeader): number | undefined {
  const isSize = entrySize >= GPT_ENTRY_LENGTH && entrySize % 8 === 0;
  const length = entries * entrySize;
  return isSize && length > 0 && length <= ARRAY_LIMIT ? length : undefined;
}

async function readCopy(reader: SurveyReader, sector: number, sectorSize: number): Promise<Copy | undefined> {
  if (sector < 1 || (sector + 1) * sectorSize > reader.size) return undefined;
  const header = decodeHeader(await reader.read(sector * sectorSize, sectorSize));
  if (!header) return undefined;
  const length = arrayLength(header);
  const isThere = length !== undefined && header.array * sectorSize + length <= reader.size;
  const array = isThere ? await reader.read(header.array * sectorSize, length) : undefined;
  const { sound, ...rest } = header;
  const found: FoundGpt = {
    ...rest,
    sector,
    headerSound: sound,
    arraySound: array && crc32(array) === header.arrayCrc,
  };
  return { found, entries: array ? decodeEntries(array, header.entrySize) : [] };
}

/** Both copies: the first in sector 1; the other in the last sector, or where the first says it is. */
export async function readGpt(
  reader: SurveyReader,
  sectorSize: number,
  sectors: number,
): Promise<{ first: Copy | undefined; copy: Copy | undefined }> {
  const first = await readCopy(reader, 1, sectorSize);
  const atEnd = await readCopy(reader, sectors - 1, sectorSize);
  const declared = first && first.found.other !== sectors - 1 ? first.found.other : undefined;
  const copy =
    atEnd ?? (declared === undefined || declared === 1 ? undefined : await readCopy(reader, declared, sectorSize));
  return { first, copy };
}

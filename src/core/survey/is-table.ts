/**
 * Is it a table at all? The mark 55h AAh ends boot sectors of file systems and bare boot code too.
 * Decided in the spirit of the kernel, which asks for sound status bytes and skips what is empty.
 */
import { HEAD_LENGTH } from '../filesystems/signatures';
import { isVolumeHead, recognise } from '../filesystems/readers';
import { type DecodedMbr, isStatus, type RawEntry } from '../tables/mbr';
import type { SurveyReader } from './reader';

/** True where all records that are used lie on the medium behind sector 0, and none over another. */
function holdTogether(used: readonly RawEntry[], sectors: number): boolean {
  const inOrder = [...used].sort((a, b) => a.first - b.first);
  return inOrder.every(({ first, count }, i) => first > 0 && first + count <= (inOrder[i + 1]?.first ?? sectors));
}

/**
 * True where sector 0 holds a table. Not one: a status byte is neither 00h nor 80h; no record lies
 * on the medium; it is the head of a volume over the whole medium, unless its records hold
 * together, as those of a table over an older volume do; or it is empty and some other file
 * system lies over the whole medium.
 */
export async function isTable(
  reader: SurveyReader,
  sector: Uint8Array,
  { records }: DecodedMbr,
  sectors: number,
): Promise<boolean> {
  if (records.some(({ status }) => !isStatus(status))) return false;
  const filled = records.filter(({ count }) => count > 0);
  if (filled.length > 0 && filled.every(({ first }) => first >= sectors)) return false;
  if (isVolumeHead(sector)) {
    const used = filled.filter(({ type }) => type !== 0);
    return used.length > 0 && holdTogether(used, sectors);
  }
  if (filled.length > 0) return true;
  return recognise(await reader.upTo(0, HEAD_LENGTH), new Uint8Array(0)) === undefined;
}

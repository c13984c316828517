/** Space between things: is there data in it? Large gaps are sampled, so that a survey stays short. */
import { KIB } from '../quantity/units';
import type { FoundGap } from './found';
import { firstData, type SurveyReader } from './reader';

/** A gap up to this many bytes is read whole; the one before the first partition, up to 16 MiB. */
const WHOLE = 256 * KIB;
const WHOLE_FIRST = 16 * 1024 * KIB;
/** What is read of a larger gap: its head, its end, and probes in between. */
const HEAD = 64 * KIB;
const TAIL = 16 * KIB;
const PROBE = 4 * KIB;
const PROBES = 16;
/** Bytes read at a time. */
const WINDOW = 256 * KIB;

/** Ranges of a gap to look at, in bytes of the medium. */
function samples(start: number, length: number, isFirst: boolean): { at: number; length: number }[] {
  if (length <= (isFirst ? WHOLE_FIRST : WHOLE)) {
    const count = Math.ceil(length / WINDOW);
    return Array.from({ length: count }, (_, i) => ({
      at: start + i * WINDOW,
      length: Math.min(WINDOW, length - i * WINDOW),
    }));
  }
  const step = Math.floor((length - HEAD - TAIL) / (PROBES + 1) / PROBE) * PROBE;
  const probes = Array.from({ length: PROBES }, (_, i) => ({ at: start + HEAD + (i + 1) * step, length: PROBE }));
  return [{ at: start, length: HEAD }, ...probes, { at: start + length - TAIL, length: TAIL }];
}

/** Looks into one gap, given in sectors. */
export async function lookInto(
  reader: SurveyReader,
  gap: { readonly start: number; readonly sectors: number },
  sectorSize: number,
  isFirst: boolean,
): Promise<FoundGap> {
  const [start, length] = [gap.start * sectorSize, gap.sectors * sectorSize];
  const ranges = samples(start, length, isFirst);
  const seen = ranges.reduce((sum, range) => sum + range.length, 0);
  const { start: first, sectors } = gap;
  for (const { at, length: piece } of ranges) {
    if (reader.isHole(at, piece)) continue;
    const data = firstData(await reader.upTo(at, piece));
    if (data >= 0) return { start: first, sectors, dataAt: at + data, seenWhole: seen === length };
  }
  return { start: first, sectors, dataAt: undefined, seenWhole: seen === length };
}

/**
 * Clearing a medium: its table, both copies of a GPT, and every mark by which a system would recognise a file system, at
 * every place where one may hide: in every old partition, and where earlier ones began. What leftovers say makes other
 * systems guess wrongly.
 */
import type { BlockSource } from '../bytes/blocks';
import { type Span, without } from '../bytes/extents';
import { GIB, MIB } from '../quantity/units';
import { insideText, named } from '../survey/structures';
import { lastOf, type Survey } from '../survey/found';
import { type Plan, planOf, type Put } from './plan';

export interface Clearing {
  readonly plan: Plan;
  /** What it was. */
  readonly words: readonly string[];
}

/** How far from both ends of a medium, and of a partition, marks may stand. */
const END = MIB;
/** Copies of a superblock deep inside, by what has them: btrfs. */
const DEEP = [64 * MIB, 256 * GIB];
const DEEP_LENGTH = 4096;

interface Wanted extends Span {
  readonly what: string;
}

function ends(what: string, start: number, end: number): Wanted[] {
  if (end - start <= 2 * END) return [{ what, start, end }];
  return [
    { what: `${what}, start`, start, end: start + END },
    { what: `${what}, end`, start: end - END, end },
  ];
}

function wanted(survey: Survey): Wanted[] {
  const { sectorSize, size, partitions, leftovers, gpt } = survey;
  const at = (sector: number) => sector * sectorSize;
  const inside = partitions
    .filter(({ kind, sectors }) => kind !== 'container' && sectors > 0)
    .flatMap((one) => {
      const [start, end] = [at(one.start), Math.min(at(lastOf(one) + 1), size)];
      if (start >= size) return [];
      const deep = DEEP.map((offset) => ({
        what: `${named(one)}, copies deep inside`,
        start: start + offset,
        end: start + offset + DEEP_LENGTH,
      }));
      return [...ends(named(one), start, end), ...deep.filter((span) => span.end <= end)];
    });
  const records = partitions
    .filter(({ recordAt }) => recordAt > 0 && at(recordAt + 1) <= size)
    .map(({ recordAt, number }) => ({
      what: `record of partition ${number}`,
      start: at(recordAt),
      end: at(recordAt + 1),
    }));
  const copies = [gpt.first, gpt.copy].flatMap((copy) => {
    if (!copy) return [];
    const array = Math.min(copy.entries * copy.entrySize, END);
    return [
      { what: 'GPT header', start: at(copy.sector), end: at(copy.sector + 1) },
      { what: 'GPT entries', start: at(copy.array), end: at(copy.array) + array },
    ].filter(({ end }) => end <= size);
  });
  const former = leftovers.map(({ sector, what }) => ({
    what: `${what}, of an earlier use`,
    start: at(sector),
    end: Math.min(at(sector) + END, size),
  }));
  return [...ends('the medium', 0, size), ...copies, ...records, ...inside, ...former];
}

/** The plan that clears a medium; what it was is said. */
export async function clearing(survey: Survey, source: BlockSource): Promise<Clearing> {
  const taken: Span[] = [];
  const puts: Put[] = [];
  for (const { what, start, end } of wanted(survey)) {
    for (const left of without({ start, end }, taken)) {
      puts.push({ what, extent: { offset: left.start, zeros: left.end - left.start } });
      taken.push(left);
    }
  }
  return {
    plan: await planOf(source, puts),
    words: [
      ...survey.partitions.map((one) => `${named(one)}: ${insideText(one.inside)}.`),
      ...survey.leftovers.map(({ sector, what }) => `Of an earlier use: ${what}, at sector ${sector}.`),
    ],
  };
}

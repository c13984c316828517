/**
 * Cutting an image behind its last partition, so that it can be written to any medium that holds what is in it. With a GPT
 * its copy goes to the new end; what is cut off is named.
 */
import type { BlockSource } from '../bytes/blocks';
import { factsInside } from '../filesystems/readers';
import { alignUp } from '../quantity/integers';
import { fail, ok, type Result } from '../quantity/result';
import { grouped, inBoth, MIB } from '../quantity/units';
import { isBeside, type FoundGpt, lastOf, type Survey } from '../survey/found';
import { arraySectors } from '../tables/gpt';
import { firstData } from '../survey/reader';
import { withCopyAt } from './gpt-parts';
import { eachWindow, type Plan, planOf, type Put } from './plan';
import { protect, protectivePlace } from './protective';

/** Where an image is cut: directly behind its last sector, or so that it is whole MiB. */
export type CutTo = 'sector' | 'MiB';

export interface Cut {
  readonly plan: Plan;
  /** What goes, and what that was. */
  readonly words: readonly string[];
}

/** Sector behind everything that partitions and the volume of a medium without a table hold. */
function endOfContents({ partitions, table, sectorSize, iso }: Survey): number | undefined {
  const isoEnd = Math.ceil((iso?.size ?? 0) / sectorSize);
  if (table !== 'none') return Math.max(isoEnd, 1, ...partitions.map((one) => lastOf(one) + 1));
  const [whole] = partitions;
  const bytes = whole && factsInside(whole.inside)?.bytes;
  return bytes === undefined ? undefined : Math.max(isoEnd, Math.ceil(bytes / sectorSize));
}

/** The parts of a GPT for a medium of so many sectors; the entries stay as they are. */
async function tableFor(survey: Survey, first: FoundGpt, sectors: number, source: BlockSource): Promise<Put[]> {
  const { sectorSize, partitions } = survey;
  const copy = await withCopyAt(first, sectors, sectorSize, source);
  return [
    ...(await protectiveFor(sectors, partitions.some(isBeside), sectorSize, source)),
    ...copy.map(({ what, at, bytes }): Put => ({ what, extent: { offset: at, bytes } })),
  ];
}

/** Sector 0 with a protective entry that covers so many sectors; beside other entries it stays as it is. */
async function protectiveFor(
  sectors: number,
  isHybrid: boolean,
  sectorSize: number,
  source: BlockSource,
): Promise<Put[]> {
  const bytes = Uint8Array.from(await source.read(0, sectorSize));
  const place = protectivePlace(bytes);
  if (place === undefined || isHybrid) return [];
  protect(bytes, place, sectors);
  return [{ what: 'protective master boot record', extent: { offset: 0, bytes } }];
}

/** Byte of the first data in what goes; a copy of the GPT there is none. */
async function dataBehind(survey: Survey, from: number, source: BlockSource): Promise<number | undefined> {
  const { copy } = survey.gpt;
  const until = survey.table === 'gpt' && copy ? Math.max(from, copy.array * survey.sectorSize) : survey.size;
  let found: number | undefined;
  await eachWindow(from, until - from, async (at, length) => {
    if (found !== undefined || source.isHole?.(at, length)) return;
    const first = firstData(await source.read(at, length));
    if (first >= 0) found = at + first;
  });
  return found;
}

/** The plan that cuts an image behind what is in it, or why that cannot be. */
export async function cutting(survey: Survey, source: BlockSource, to: CutTo): Promise<Result<Cut, string>> {
  const { sectorSize, table, gpt } = survey;
  const contents = endOfContents(survey);
  if (contents === undefined) return fail('nothing was recognised in it that says how long it is');
  if (contents > survey.sectors) return fail('a partition reaches beyond its end: it is cut already');
  const { first } = gpt;
  if (table === 'gpt' && (first?.headerSound !== true || first.arraySound !== true))
    return fail('its first GPT cannot be believed: it is mended first');
  const tail = table === 'gpt' ? arraySectors(first!, sectorSize) + 1 : 0;
  const least =
    table === 'gpt'
      ? Math.max(contents, first!.array + arraySectors(first!, sectorSize), first!.firstUsable)
      : contents;
  const bytes = (least + tail) * sectorSize;
  const becomes = to === 'MiB' ? alignUp(bytes, MIB) : bytes;
  if (becomes >= survey.size) return fail('there is nothing behind its last partition that could go');
  const sectors = Math.floor(becomes / sectorSize);
  const puts = table === 'gpt' ? await tableFor(survey, first!, sectors, source) : [];
  const { ranges } = await planOf(source, puts);
  const data = await dataBehind(survey, becomes, source);
  return ok({
    plan: { size: survey.size, becomes, ranges },
    words: [
      `${inBoth(survey.size - becomes)} behind byte ${grouped(becomes)} go; ${inBoth(becomes)} stay.`,
      ...(data === undefined ? [] : [`There is data among what goes, from byte ${grouped(data)} on: it is lost.`]),
    ],
  });
}

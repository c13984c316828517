/** What is made to keep a reader busy: a survey, a listing and a walk of each end soon, in little memory, and stay in the medium. */
import { type Hostile, HOSTILE } from '@tests/hostile';
import type { BlockSource } from '../bytes/blocks';
import { differingFiles } from '../filesystems/fat/differing';
import { openVolume } from '../filesystems/readers';
import { BrokenChain, contentOf, walk } from '../filesystems/volume';
import { checkSurvey } from '../findings/survey/check';
import { imageFacts } from './image';
import { surveyFitting, surveyMedium } from './survey';

/** What one of them may take: milliseconds, and bytes above what the process has. */
const TIME = 2000;
const MEMORY = 64 * 2 ** 20;
/** Entries of a walk, and bytes of a file, that are looked at here: whoever walks further has a limit of its own. */
const ENTRIES = 2000;
const BYTES = 2 ** 20;

async function worked(source: BlockSource): Promise<string[]> {
  const survey = await surveyFitting((sectorSize) => surveyMedium(source, { sectorSize }));
  checkSurvey(survey);
  await imageFacts(source);
  const kinds = survey.partitions.map(({ inside }) => (inside.kind === 'known' ? inside.content.name : inside.kind));
  for (const { start, inside } of survey.partitions.slice(0, 4)) {
    const base = start * survey.sectorSize;
    const volume = base < source.size ? await openVolume(source, base) : undefined;
    if (!volume) continue;
    let entries = 0;
    for await (const { entry } of walk(volume, () => undefined)) {
      if ((entries += 1) > ENTRIES) break;
      if (entry.folder || entries > 20) continue;
      let read = 0;
      try {
        for await (const bytes of contentOf(volume, source, entry)) if ((read += bytes.length) > BYTES) break;
      } catch (error) {
        if (!(error instanceof BrokenChain)) throw error;
      }
    }
    if (inside.kind === 'fat' && inside.fat.shape.fats === 2) await differingFiles(source, base, inside.fat.shape);
  }
  return kinds;
}

test.each<Hostile>(HOSTILE)('%s', async (name, make) => {
  const image = make();
  let outside = 0;
  const source: BlockSource = {
    size: image.size,
    isHole: (at, length) => image.isHole(at, length),
    read: (at, length) => {
      if (at < 0 || at + length > image.size) outside += 1;
      return image.read(at, length);
    },
  };
  globalThis.gc?.();
  const before = process.memoryUsage();
  const started = performance.now();
  const kinds = await worked(source);
  const time = performance.now() - started;
  const after = process.memoryUsage();
  // A case that nobody takes for what it is keeps nobody busy.
  const meant = /^an? (exFAT|NTFS)/.exec(name)?.[1];
  if (meant) expect(kinds.map((kind) => kind.toLowerCase())).toEqual([meant.toLowerCase()]);
  if (/^a FAT.* (round|through|fro|themselves)/.test(name)) expect(kinds).toEqual(['fat']);
  expect(outside).toBe(0);
  expect(time).toBeLessThan(TIME);
  expect(after.heapUsed + after.arrayBuffers - before.heapUsed - before.arrayBuffers).toBeLessThan(MEMORY);
});

/** What is made to keep a reader busy: a survey, a listing and a walk of each end soon, in little memory, and stay in the medium. */
import { type Hostile, HOSTILE } from '@tests/hostile';
import { HOSTILE_EXT } from '@tests/hostile-ext';
import { walkVolume } from '@tests/walked';
import type { BlockSource } from '../bytes/blocks';
import { budgeted, withinBudget } from '../bytes/budget';
import { minimaOf, repackable } from '../filesystems/ext/repack/repack';
import { openVolume } from '../filesystems/readers';
import { BrokenChain } from '../filesystems/volume';
import { differingFiles } from '../filesystems/fat/differing';
import { checkSurvey } from '../findings/survey/check';
import { imageFacts } from './image';
import { surveyFitting, surveyMedium } from './survey';

/** What one of them may take: milliseconds, and bytes above what the process has. */
const TIME = 2000;
const MEMORY = 64 * 2 ** 20;
/** What is looked at here: whoever walks further has a limit of its own. */
const LIMITS = { entries: 2000, contents: 20, bytes: 2 ** 20 };

async function worked(source: BlockSource): Promise<string[]> {
  const survey = await surveyFitting((sectorSize) => surveyMedium(source, { sectorSize }));
  checkSurvey(survey);
  await imageFacts(source);
  const kinds = survey.partitions.map(({ inside }) => (inside.kind === 'known' ? inside.content.name : inside.kind));
  for (const { start, inside } of survey.partitions.slice(0, 4)) {
    const base = start * survey.sectorSize;
    if (base >= source.size) continue;
    await walkVolume(source, base, LIMITS);
    await roomLooked(source, base);
    if (inside.kind === 'fat' && inside.fat.shape.fats === 2) await differingFiles(source, base, inside.fat.shape);
  }
  return kinds;
}

/** Its map, and how small it can be, as the page of its files asks for them; what cannot be told is no crash. */
async function roomLooked(source: BlockSource, base: number): Promise<void> {
  const limited = budgeted(source, { bytes: 512 * 2 ** 20, reads: 500_000 });
  const volume = await openVolume(source, base);
  try {
    await volume?.map?.(64);
  } catch (error) {
    if (!(error instanceof BrokenChain)) throw error;
  }
  const found = await withinBudget(repackable(limited, base));
  if (found?.ok) minimaOf(found.value);
}

test.each<Hostile>([...HOSTILE, ...HOSTILE_EXT])('%s', async (name, make) => {
  const image = await make();
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
  let time = performance.now() - started;
  const after = process.memoryUsage();
  // A case that nobody takes for what it is keeps nobody busy.
  const meant = /^an? (exFAT|NTFS|ext)/.exec(name)?.[1];
  if (meant) expect(kinds.map((kind) => kind.toLowerCase().replace(/\d$/, ''))).toEqual([meant.toLowerCase()]);
  if (/^a FAT.* (round|through|fro|themselves)/.test(name)) expect(kinds).toEqual(['fat']);
  // Other tests run beside it, and may make it wait.
  for (let again = 0; again < 2 && time > TIME; again++) {
    const anew = performance.now();
    await worked(source);
    time = performance.now() - anew;
  }
  expect(outside).toBe(0);
  expect(time).toBeLessThan(TIME);
  expect(after.heapUsed + after.arrayBuffers - before.heapUsed - before.arrayBuffers).toBeLessThan(MEMORY);
});

/**
 * Goes through all hostile media, or all hostile archives, one after another in one process, and prints a line of JSON for
 * each. The process is started with a limit of its heap (`tests/hostile-results.ts`).
 *
 *   hostile-run.ts media
 *   hostile-run.ts archives FOLDER
 */
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import type { BlockSource } from '@/core/bytes/blocks';
import { budgeted, withinBudget } from '@/core/bytes/budget';
import { minimaOf, repackable } from '@/core/filesystems/ext/repack/repack';
import { differingFiles } from '@/core/filesystems/fat/differing';
import { openVolume } from '@/core/filesystems/readers';
import { BrokenChain } from '@/core/filesystems/volume';
import { checkSurvey } from '@/core/findings/survey/check';
import { imageFacts } from '@/core/survey/image';
import { surveyFitting, surveyMedium } from '@/core/survey/survey';
import { unpackFile } from '@/files/archives';
import { HOSTILE } from './hostile';
import { HOSTILE_ARCHIVES } from './hostile-archives';
import { HOSTILE_EXT } from './hostile-ext';
import type { ArchiveResult, MediumResult } from './hostile-results';
import { NOWHERE } from './nowhere';
import { StepCounter } from './steps';
import { walkVolume } from './walked';

/** How far each volume is walked; pages that walk further have limits of their own. */
const LIMITS = { entries: 2000, contents: 20, bytes: 2 ** 20 };

const print = (result: MediumResult | ArchiveResult) => console.log(JSON.stringify(result));

/** Surveys, lists, walks, maps: what the pages of an image ask for. Returns the kinds of what is in the partitions. */
async function visit(source: BlockSource): Promise<string[]> {
  const survey = await surveyFitting((sectorSize) => surveyMedium(source, { sectorSize }));
  checkSurvey(survey);
  await imageFacts(source);
  const kinds = survey.partitions.map(({ inside }) => (inside.kind === 'known' ? inside.content.name : inside.kind));
  for (const { start, inside } of survey.partitions.slice(0, 4)) {
    const base = start * survey.sectorSize;
    if (base >= source.size) continue;
    await walkVolume(source, base, LIMITS);
    await mapVolume(source, base);
    if (inside.kind === 'fat' && inside.fat.shape.fats === 2) await differingFiles(source, base, inside.fat.shape);
  }
  return kinds;
}

/** The map of a volume and how small it can be; a broken chain is no fault of the reader. */
async function mapVolume(source: BlockSource, base: number): Promise<void> {
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

async function media(counter: StepCounter): Promise<void> {
  for (const [name, make] of [...HOSTILE, ...HOSTILE_EXT]) {
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
    await counter.taken();
    const kinds = await visit(source);
    print({ name, kinds, outside, steps: await counter.taken() });
  }
}

async function archives(counter: StepCounter, folder: string): Promise<void> {
  const file = path.join(folder, 'archive');
  for (const [name, make] of HOSTILE_ARCHIVES) {
    const bytes = make();
    writeFileSync(file, bytes);
    await counter.taken();
    const refusal = await unpackFile(file, bytes.length, NOWHERE, { leaveOut: false, keepsAll: true }).then(
      () => undefined,
      (error: Error) => error.message,
    );
    print({ name, refusal, steps: await counter.taken() });
  }
}

async function main([what, folder = '']: readonly string[]): Promise<void> {
  const counter = new StepCounter();
  await counter.start();
  await (what === 'media' ? media(counter) : archives(counter, folder));
}

main(process.argv.slice(2)).catch((error: Error) => {
  console.error(error.stack);
  process.exit(1);
});

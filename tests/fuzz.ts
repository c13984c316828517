/**
 * Mutants: sound images with bytes changed in tables, chains, FATs and directories, half of them
 * with their checksums mended afterwards, so that wrong figures are believed. Surveying one
 * must end soon, within bounded memory, whatever it says.
 */
import { alteration } from '@/core/change/alter';
import { clearing } from '@/core/change/clear';
import { cutting } from '@/core/change/cut';
import { layoutKeeping } from '@/core/change/keep';
import { plannedEnd, type PlannedRange } from '@/core/change/plan';
import { check } from '@/core/findings/layout/check';
import { stopsAmong } from '@/core/findings/layout/finding';
import { validateLayout } from '@/core/layout/validate';
import { place } from '@/core/placement/place';
import type { Survey } from '@/core/survey/found';
import { SURVEY_LIMITS } from '@/core/bytes/budget';
import { checkSurvey } from '@/core/findings/survey/check';
import { ledgerOf } from '@/core/survey/ledger';
import { structureAt, structuresOf } from '@/core/survey/structures';
import { surveyMedium } from '@/core/survey/survey';
import { agreesWithTheBook } from './agreement';
import { chained, exfat, gpt, gpt4096, inBothFats, installer, mbr, VOLUME, whole } from './found-base';
import type { FoundImage } from './found-image';
import { extBases } from './hostile-ext';
import { asleep } from './ntfs';
import { numbersFrom } from './tier';

/** What a survey may read, and how long its answer may be, in bytes. */
const MOST_READ = SURVEY_LIMITS.bytes;
const MOST_TOLD = 4 * 2 ** 20;

/** Numbers that break things more often than others. */
const EDGES = [0, 1, 2, 0x7f, 0x80, 0xff, 0x55, 0xaa, 0x05, 0x0f, 0xee];

/** Sound images with something in every structure. */
export async function bases(): Promise<FoundImage[]> {
  const long = [8, 3, 0, 0, 0, 4, 0, 0, 0, 0xff, 0xff, 0xff, 0x0f];
  return [
    mbr(),
    chained(5),
    gpt(),
    gpt4096(),
    whole(16),
    whole(32),
    exfat(),
    installer(),
    gpt().entry(0, 1, { type: 0x0c, first: 2048, count: 34 * 2048 }),
    asleep(),
    ...(await extBases()),
    // A root directory of three clusters.
    inBothFats(gpt(), VOLUME, 8, long.slice(1)).text(VOLUME + 512 * 200, 'GAUGE   CSV'),
  ];
}

export type Draw = (below: number) => number;

/** Bytes of the image that hold structures: its filled pages, and the ends of the medium. */
function anyPlace(image: FoundImage, draw: Draw): number {
  const pages = image.filled;
  const page = pages[draw(pages.length)]!;
  // Structures begin at the start of sectors, and most of their fields are near it.
  const within = draw(3) === 0 ? draw(4096) : draw(8) * 512 + draw(96);
  if (draw(6) === 0) return Math.min(image.size - 1, 446 + draw(66));
  return Math.min(image.size - 1, page * 4096 + within);
}

function change(image: FoundImage, draw: Draw): void {
  const at = anyPlace(image, draw);
  const width = ([1, 2, 4, 8] as const)[draw(4)]!;
  if (at + width > image.size) return;
  if (draw(2) === 0)
    image.number(at, draw(2) === 0 ? 2n ** BigInt(8 * width) - 1n : BigInt(EDGES[draw(EDGES.length)]!), width);
  else
    image.put(
      at,
      Array.from({ length: width }, () => draw(256)),
    );
}

/** Computes the checksums of both GPT headers again, where they are. */
function mend(image: FoundImage): void {
  const last = Math.floor(image.size / image.sectorSize) - 1;
  for (const sector of [1, last])
    if (sector > 0 && image.bytes(sector * image.sectorSize, 8).join() === '69,70,73,32,80,65,82,84')
      image.mend(sector);
}

export function mutant(base: FoundImage, draw: Draw): FoundImage {
  const image = base.clone();
  for (let i = draw(8) + 1; i > 0; i--) change(image, draw);
  if (draw(12) === 0) image.resized(Math.max(0, draw(2) === 0 ? draw(image.size) : image.size + draw(2 ** 30)));
  if (draw(2) === 0) mend(image);
  return image;
}

/** The first bytes that a range would change: place, now, then. */
function differences({ extent, head }: PlannedRange): string {
  if (!('bytes' in extent)) return 'no bytes of its own';
  const places = [...head.keys()].filter((i) => head[i] !== extent.bytes[i]).slice(0, 8);
  return places.map((i) => `${i}: ${head[i]} ${extent.bytes[i]}`).join(', ');
}

/** What keeps all of a mutant is a valid layout that writes nothing; clearing and cutting it end in a plan that fits. */
async function keptAndChanged(image: FoundImage, survey: Survey, draw: Draw): Promise<void> {
  const kept = layoutKeeping(survey, { name: 'Mutant', date: '2026-03-01T12:00:00' });
  if (kept.ok) {
    const valid = validateLayout(JSON.parse(JSON.stringify(kept.value)));
    if (!valid.ok) throw new Error(`what keeps it is invalid: ${JSON.stringify(valid.error)}`);
    const placement = place(valid.value);
    if (stopsAmong(check(placement)).length === 0) {
      const plan = await alteration(placement, survey, image);
      if (!plan.ok) throw new Error(`what keeps it cannot be done: ${plan.error.lines.join('; ')}`);
      const [written] = plan.value.ranges;
      if (written) throw new Error(`what keeps it writes ${written.what}: ${differences(written)}`);
    }
  }
  // What is cleared and cut is summed byte by byte, which takes a while.
  if (draw(16) !== 0) return;
  const cut = await cutting(survey, image, 'MiB');
  for (const plan of [(await clearing(survey, image)).plan, ...(cut.ok ? [cut.value.plan] : [])]) {
    let end = 0;
    for (const { extent } of plan.ranges) {
      if (extent.offset < end) throw new Error('ranges of a plan overlap');
      end = plannedEnd(extent);
    }
    if (end > plan.becomes) throw new Error(`a plan writes up to ${end} of ${plan.becomes} bytes`);
  }
}

/** Surveys one mutant and looks at its answer, and at what keeps it; throws an Error that names what is wrong. */
export async function lookAt(image: FoundImage, draw: Draw): Promise<void> {
  await keptAndChanged(image, await surveyed(image, draw), draw);
}

/** Surveys one mutant and looks at its answer; throws an Error that names what is wrong. */
export async function surveyed(image: FoundImage, draw: Draw): Promise<Survey> {
  const sectorSize = draw(8) === 0 ? (image.sectorSize === 512 ? 4096 : 512) : image.sectorSize;
  const survey = await surveyMedium(image, { sectorSize });
  const findings = checkSurvey(survey);
  await agreesWithTheBook(image, survey);
  if (survey.read > MOST_READ) throw new Error(`${survey.read} bytes were read`);
  if (JSON.stringify({ survey, findings }).length > MOST_TOLD) throw new Error('the answer is too long');
  if (survey.sectors > 0) {
    const sector = draw(Math.min(survey.sectors, 2 ** 31));
    const near = Math.min([0, 1, sector, survey.sectors - 1][draw(4)]!, survey.sectors - 1);
    const bytes = await image.read(near * sectorSize, sectorSize);
    ledgerOf(bytes, near, structureAt(structuresOf(survey), near));
  }
  return survey;
}

/** Surveys so many mutants; the seed makes them the same every time. Tells the first that fails. */
export async function fuzz(count: number, seed: number, onDone: (n: number) => void = () => undefined): Promise<void> {
  const all = await bases();
  for (let n = 0; n < count; n++) {
    const draw = numbersFrom(seed + n * 7919);
    draw(2);
    const image = mutant(all[n % all.length]!, draw);
    const before = n % 97 === 0 ? image.snapshot() : undefined;
    await lookAt(image, draw).catch((error: unknown) => {
      throw new Error(`mutant ${n} of seed ${seed}: ${(error as Error).stack ?? String(error)}`);
    });
    if (before !== undefined && image.snapshot() !== before) throw new Error(`mutant ${n} of seed ${seed} was changed`);
    onDone(n + 1);
  }
}

/** `keep` and `change`: a layout that keeps what an image holds, and a new image that is as such a layout says. */
import { createHash } from 'node:crypto';
import path from 'node:path';
import { alteration } from '@/core/change/alter';
import { type Becoming, becomings, gathered, type Side, stakeWords } from '@/core/change/before-after';
import { layoutKeeping } from '@/core/change/keep';
import { changedSource, type Plan } from '@/core/change/plan';
import { check } from '@/core/findings/layout/check';
import { checkSurvey } from '@/core/findings/survey/check';
import type { Layout } from '@/core/layout/document';
import { applyEdit } from '@/core/layout/edits';
import { translation } from '@/core/layout/translate';
import { validateLayout, writeLayout } from '@/core/layout/validate';
import { placeWritten } from '@/core/naming/written';
import type { Placement } from '@/core/placement/placement';
import { grouped, inBoth } from '@/core/quantity/units';
import { surveyMedium } from '@/core/survey/survey';
import { typeName } from '@/core/tables/types';
import { StoredReader } from '@/files/stored-reader';
import { answerText } from './answering';
import { gatheredText, imageChanged, type IntoArguments, leftData, leftText } from './changed';
import { type DocumentOptions, supplied } from './commands';
import { Ended, EXIT, type Exit } from './exit';
import { refuseBuild } from './findings-end';
import { freshDate } from './fresh';
import { type Io, writeNew } from './io';
import { surveyed, withImage, withWholeImage } from './open-image';
import { columns, printable } from './text';

export interface KeepArguments {
  readonly name?: string;
  readonly table?: 'mbr' | 'gpt';
  readonly sectorSize?: 512 | 4096;
  readonly into?: string;
}

/** The layout with another kind of table; what that changes is said. */
function withTable(io: Io, layout: Layout, table: KeepArguments['table']): Layout {
  if (table === undefined) return layout;
  const { edit, remarks } = translation(layout, table);
  for (const remark of remarks) io.remark(remark);
  return applyEdit(layout, edit);
}

/** `keep`: a document in which everything that an image holds stays as it is. */
export async function keep(io: Io, image: string, options: KeepArguments): Promise<Exit> {
  const survey = await withImage(image, (source) => surveyed(source, options.sectorSize));
  const name = options.name ?? path.basename(image).replace(/\.[a-z0-9]+$/i, '');
  const made = layoutKeeping(survey, { name, date: freshDate() });
  if (!made.ok)
    throw new Ended(EXIT.stop, 'not-kept', `No layout can be made of “${image}”: ${made.error}.`, [
      'What is wrong with a table: loess survey, loess repair.',
    ]);
  const valid = validateLayout(withTable(io, made.value, options.table));
  if (!valid.ok)
    throw new Ended(
      EXIT.fault,
      'not-kept',
      'What was made of the image is no valid layout: this is a fault of the program.',
      valid.error.map((one) => `${one.path} ${one.message}`),
    );
  await writeNew(io, writeLayout(valid.value), options.into);
  return EXIT.done;
}

export interface ChangeArguments extends DocumentOptions, IntoArguments {
  readonly on: string;
  readonly sectorSize?: 512 | 4096;
}

/** Everything about a change before it is made. */
interface Change {
  readonly placement: Placement;
  readonly rows: readonly Becoming[];
  readonly plan: Plan;
  /** What a survey of the new image would find. */
  readonly left: ReturnType<typeof checkSurvey>;
}

const SIDE_HEAD = ['no', 'first', 'last', 'size', 'type', 'inside'];

function sideCells(side: Side | undefined, sectorSize: number): string[] {
  if (!side) return ['-', '', '', '', '', ''];
  const { number, start, sectors, type, inside } = side;
  const last = grouped(start + sectors - 1);
  const size = inBoth(sectors * sectorSize);
  return [number === 0 ? '-' : String(number), grouped(start), last, size, type && typeName(type), inside];
}

function changeText({ placement, rows, plan, left }: Change): string {
  const { sectorSize } = placement;
  const names = new Map(placement.placed.map(({ slot }) => [slot.id, slot.name]));
  const cells = rows.flatMap(({ fates, before, after }) => [
    [`${(after ?? before)!.name}: ${fates.join(', ')}`, 'before', ...sideCells(before, sectorSize)],
    ['', 'after', ...sideCells(after, sectorSize)],
  ]);
  const words = rows.flatMap((one) => one.words.map((text) => `${(one.after ?? one.before)!.name}: ${text}\n`));
  const ranges = gathered(plan).map((one) => {
    const whose = one.slot === undefined ? '' : `${names.get(one.slot) ?? one.slot}: `;
    return gatheredText(one, whose);
  });
  return [
    columns(['partition', '', ...SIDE_HEAD], cells, [2, 3, 4]),
    `\n${stakeWords(rows)}\n`,
    ...words,
    `\nWould be written:\n${ranges.join('') || 'nothing\n'}`,
    `\nA survey would find afterwards:\n${leftText(left)}`,
  ].join('');
}

function changeData({ rows, plan, left }: Change, image: string | undefined) {
  return {
    partitions: rows.map(({ slot, fates, before, after, atStake, words }) => ({
      slot,
      fates: [...fates],
      before: before && { ...before },
      after: after && { ...after },
      atStake,
      words: [...words],
    })),
    ranges: gathered(plan).map(({ what, slot, at, ranges, bytes }) => ({ what, slot, at, ranges, bytes })),
    left: leftData(left),
    image,
  };
}

/** `change`: shows an image before and after; makes a new image of it where that is asked. */
export async function change(io: Io, document: string, options: ChangeArguments): Promise<Exit> {
  const supplies = await supplied(io, document, options);
  const stored = new StoredReader(supplies.fileOf);
  try {
    const placement = placeWritten(supplies.layout, supplies.contents);
    const made = await withWholeImage(options.on, async (source): Promise<Change> => {
      const survey = await surveyMedium(source, { sectorSize: placement.sectorSize });
      refuseBuild(check(placement));
      const plan = await alteration(placement, survey, source, () => createHash('sha256'));
      if (!plan.ok)
        throw new Ended(
          EXIT.stop,
          plan.error.isOther ? 'not-the-medium' : 'not-changed',
          plan.error.isOther
            ? `“${options.on}” is not what the layout was made from.`
            : `“${options.on}” cannot become what the layout says.`,
          plan.error.lines,
        );
      const after = await surveyMedium(changedSource(source, plan.value, stored.read), {
        sectorSize: placement.sectorSize,
      });
      return { placement, rows: becomings(placement), plan: plan.value, left: checkSurvey(after) };
    });
    const { into } = options;
    const said = into === undefined ? '' : await imageChanged(io, options.on, into, made.plan, options, stored.read);
    io.out(options.json ? answerText('change', changeData(made, into)) : printable(changeText(made) + said));
    return EXIT.done;
  } finally {
    await stored.close();
    await supplies.close();
  }
}

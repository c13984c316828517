/** A survey as layers of a column: the whole medium from the first sector to the last. */
import { inBinary } from '@/core/quantity/units';
import { isBeside, type FoundPartition, type Survey } from '@/core/survey/found';
import { insideText, named } from '@/core/survey/structures';
import { gptPlaces } from '@/core/tables/gpt';
import { promiseOf, typeName } from '@/core/tables/types';
import type { Fill } from '../column/Patterns';

/** One layer that was found. */
export interface FoundLayer {
  readonly key: string;
  readonly kind: 'slot' | 'thin';
  readonly start: number;
  readonly sectors: number;
  readonly fill: Fill;
  readonly title: string;
  readonly detail: string;
  readonly inside: string;
  readonly partition?: FoundPartition;
}

function fillOf({ type, inside }: FoundPartition): Fill {
  const promise = promiseOf(type);
  if (promise === 'esp' || promise === 'extended boot') return 'boot';
  if (promise === 'bios boot') return 'loader';
  if (promise === 'swap') return 'swap';
  return inside.kind === 'known' || typeName(type).startsWith('Linux root') ? 'system' : 'data';
}

function partitionLayer(one: FoundPartition, sectors: number): FoundLayer {
  const start = Math.min(one.start, sectors);
  return {
    key: one.key,
    kind: 'slot',
    start,
    sectors: Math.max(0, Math.min(one.start + one.sectors, sectors) - start),
    fill: fillOf(one),
    title: named(one),
    detail: one.type === '' ? 'without a table' : typeName(one.type),
    inside: insideText(one.inside),
    partition: one,
  };
}

const thin = (key: string, start: number, sectors: number, fill: Fill, title: string): FoundLayer => ({
  key,
  kind: 'thin',
  start,
  sectors,
  fill,
  title,
  detail: '',
  inside: '',
});

function tableLayers(survey: Survey): FoundLayer[] {
  if (survey.table === 'none') return [];
  if (survey.table === 'mbr') return [thin('table', 0, 1, 'table', 'Boot record in sector 0')];
  const { gpt, sectorSize, sectors } = survey;
  const usual = gptPlaces(sectorSize, sectors);
  const first = gpt.first?.headerSound ? Math.min(gpt.first.firstUsable, sectors) : usual.firstUsable;
  const last = gpt.first?.headerSound ? Math.min(gpt.first.lastUsable + 1, sectors - 1) : usual.backupArray;
  const array = gpt.first?.headerSound ? Math.min(gpt.first.array, first) : 2;
  const top =
    array <= 2
      ? [thin('table', 0, first, 'table', 'Protective record, GPT')]
      : [
          thin('table', 0, 2, 'table', 'Protective record, GPT header'),
          thin('table-entries', array, first - array, 'table', 'GPT entries'),
        ];
  return [...top, thin('table-copy', last, sectors - last, 'table', 'GPT, copy')];
}

/** Layers by depth. Containers are drawn as the records and partitions that they hold. */
export function layersOf(survey: Survey): FoundLayer[] {
  const partitions = survey.partitions
    .filter((one) => one.kind !== 'container' && !isBeside(one))
    .map((one) => partitionLayer(one, survey.sectors));
  const records = survey.partitions
    .filter((one) => one.recordAt > 0)
    .map((one) => thin(`record-${one.recordAt}`, one.recordAt, 1, 'table', `Record of partition ${one.number}`));
  const gaps = survey.gaps.map((gap) =>
    thin(
      `gap-${gap.start}`,
      gap.start,
      gap.sectors,
      gap.dataAt === undefined ? 'gap' : 'loader',
      gap.dataAt === undefined
        ? gap.seenWhole
          ? 'zeros'
          : 'no data seen in samples'
        : `data from ${inBinary(gap.dataAt)} on`,
    ),
  );
  return [...tableLayers(survey), ...partitions, ...records, ...gaps].sort((a, b) => a.start - b.start);
}

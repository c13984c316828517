import { GPT_TABLE, layoutOn, part, raw } from '@tests/samples';
import { compose } from '@/core/compose/compose';
import { composedSource } from '@/core/compose/source';
import type { Layout } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import { surveyMedium } from '@/core/survey/survey';
import { layersOf } from './layers';

/** The layers of what a build of this layout would hold. */
async function layers(layout: Layout) {
  const placement = place(layout);
  const survey = await surveyMedium(composedSource(compose(placement), placement.medium.capacity), {
    sectorSize: placement.sectorSize,
  });
  return layersOf(survey).map((one) => [one.fill, one.title, one.start, one.sectors] as const);
}

test('an MBR: table, gaps, partitions by what they promise', async () => {
  const slots = [
    part('boot', '10 MiB', { type: 'EF' }),
    part('swap', '10 MiB', { role: 'swap' }),
    part('rest', 'rest'),
  ];
  expect(await layers(layoutOn('64 MiB', slots))).toEqual([
    ['table', 'Boot record in sector 0', 0, 1],
    ['gap', 'zeros', 1, 2047],
    ['boot', 'Partition 1', 2048, 20_480],
    ['swap', 'Partition 2', 22_528, 20_480],
    ['data', 'Partition 3', 43_008, 88_064],
  ]);
});

test('a chain: each record is a layer, the container none', async () => {
  const slots = [part('a', '10 MiB', { logical: true }), part('b', '10 MiB', { logical: true })];
  const found = await layers(layoutOn('64 MiB', slots));
  expect(found.filter(([, title]) => title.startsWith('Record'))).toEqual([
    ['table', 'Record of partition 5', 2048, 1],
    ['table', 'Record of partition 6', 24_576, 1],
  ]);
  expect(found.filter(([, title]) => title.startsWith('Partition')).map(([, title]) => title)).toEqual([
    'Partition 5',
    'Partition 6',
  ]);
  expect(found.some(([, title]) => title.startsWith('Container'))).toBe(false);
});

test('a GPT: both copies of the table; entries beside the protective one are no layers', async () => {
  const table: Layout['table'] = { ...GPT_TABLE, hybrid: ['a'] };
  const found = await layers(layoutOn('64 MiB', [part('a', 'rest')], { table }));
  expect(found.map(([fill, title]) => [fill, title])).toEqual([
    ['table', 'Protective record, GPT'],
    ['gap', 'zeros'],
    ['data', 'Partition 1, a'],
    ['table', 'GPT, copy'],
  ]);
});

test('entries that were moved, and the loader ahead of them', async () => {
  const found = await layers(
    layoutOn('64 MiB', [raw('l', '8 KiB', '504 KiB'), part('a', 'rest')], {
      table: { ...GPT_TABLE, array: '1008 KiB' },
    }),
  );
  expect(found.slice(0, 3)).toEqual([
    ['table', 'Protective record, GPT header', 0, 2],
    ['gap', 'zeros', 2, 2014],
    ['table', 'GPT entries', 2016, 32],
  ]);
  expect(found[3]).toEqual(['data', 'Partition 1, a', 2048, 128_991]);
});

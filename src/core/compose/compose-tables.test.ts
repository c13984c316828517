/** Tables of every shape, composed and read back by the survey: what was placed is what is found. */
import { fatPart, free, GPT_TABLE, layoutOn, part, raw } from '@tests/samples';
import type { Layout } from '../layout/document';
import { check } from '../findings/layout/check';
import { stopsAmong } from '../findings/layout/finding';
import { checkSurvey } from '../findings/survey/check';
import { place } from '../placement/place';
import { isEntered } from '../placement/placement';
import { surveyMedium } from '../survey/survey';
import { chs, decodeMbr, ENTRY_RECORD, MBR_RECORD } from '../tables/mbr';
import { decode } from '../bytes/record';
import { compare } from './compare';
import { compose } from './compose';
import { composedSource } from './source';

const logical = (id: string, size: string, more = {}) => part(id, size, { logical: true, ...more });
const MBR = { kind: 'mbr', signature: '6d617272' } as const;

const LAYOUTS: readonly [string, Layout][] = [
  ['one logical', layoutOn('100 MiB', [logical('a', 'rest')])],
  [
    'twelve logicals among primaries',
    layoutOn('4 GiB', [
      part('p', '10 MiB'),
      ...Array.from({ length: 12 }, (_, i) => logical(`l${i}`, `${i + 1} MiB`)),
      part('q', 'rest'),
    ]),
  ],
  [
    'a gap inside the container',
    layoutOn('1 GiB', [logical('a', '10 MiB'), free('f', '50 MiB'), fatPart('b', '40 MiB', {}, { logical: true })]),
  ],
  [
    'packed',
    layoutOn('1 GiB', [logical('a', '10 MiB'), logical('b', '7 MB'), part('c', 'rest')], {
      table: { ...MBR, packed: true },
    }),
  ],
  [
    'cylinders',
    layoutOn('40 GB', [part('a', '100 MiB', { active: true }), logical('b', '10 GiB'), logical('c', 'rest')], {
      grain: 'cylinders',
    }),
  ],
  [
    'a container type of its own',
    layoutOn('1 GiB', [logical('a', '10 MiB')], { table: { ...MBR, containerType: '85' } }),
  ],
  [
    'logicals on 4096-byte sectors',
    layoutOn('1 GiB', [part('p', '10 MiB'), logical('a', '10 MiB'), logical('b', 'rest')], {
      medium: { kind: 'image', capacity: { exact: '1 GiB' }, logicalSector: 4096, physicalSector: 4096 },
    }),
  ],
  [
    'a GPT of 56 entries',
    layoutOn('1 GiB', [raw('l', '8 KiB', '504 KiB'), part('a', 'rest')], { table: { ...GPT_TABLE, entries: 56 } }),
  ],
  [
    'a GPT of 4 entries on 4096-byte sectors',
    layoutOn('1 GiB', [part('a', 'rest')], {
      table: { ...GPT_TABLE, entries: 4 },
      medium: { kind: 'image', capacity: { exact: '1 GiB' }, logicalSector: 4096, physicalSector: 4096 },
    }),
  ],
  [
    'a GPT whose entries stand before 1 MiB',
    layoutOn(
      '1 GiB',
      [raw('l', '8 KiB', '504 KiB'), part('a', '10 MiB', { attributes: ['grow'] }), part('b', 'rest')],
      { table: { ...GPT_TABLE, array: '1008 KiB' } },
    ),
  ],
  [
    'a hybrid with a mark on its protective entry',
    layoutOn('1 GiB', [part('sys', '100 MiB'), part('boot', '100 MiB', { active: true }), part('data', 'rest')], {
      table: { ...GPT_TABLE, hybrid: ['boot', 'data'], markProtective: true },
    }),
  ],
  [
    'a GPT of 200 entries, many used',
    layoutOn(
      '4 GiB',
      Array.from({ length: 140 }, (_, i) => part(`p${i}`, '2 MiB')),
      { table: { ...GPT_TABLE, entries: 200 } },
    ),
  ],
];

describe.each(LAYOUTS)('%s', (_, layout) => {
  const placement = place(layout);

  test('is found as it was placed', async () => {
    expect(stopsAmong(check(placement))).toEqual([]);
    const survey = await surveyMedium(composedSource(compose(placement), placement.medium.capacity), {
      sectorSize: placement.sectorSize,
    });
    const entered = placement.placed.filter(isEntered);
    const partitions = survey.partitions.filter(
      (one) => one.kind === 'gpt' || one.kind === 'logical' || (!placement.gpt && one.kind === 'primary'),
    );
    expect(partitions.map((one) => [one.number, one.start, one.sectors, one.type, one.id]).sort(byNumber)).toEqual(
      entered.map((one) => [one.entry.number, one.start, one.sectors, one.entry.type, one.entry.id]).sort(byNumber),
    );
    expect(
      survey.partitions
        .filter((one) => one.kind === 'container')
        .map((one) => [one.number, one.start, one.sectors, one.type]),
    ).toEqual(placement.containers.map((one) => [one.number, one.start, one.sectors, one.type]));
  });

  test('every fact of the comparison agrees', async () => {
    const survey = await surveyMedium(composedSource(compose(placement), placement.medium.capacity), {
      sectorSize: placement.sectorSize,
      isFull: true,
    });
    expect(compare(placement, survey).filter((one) => !one.agrees)).toEqual([]);
  });

  test('and a survey has nothing worse than a note about its table', async () => {
    const survey = await surveyMedium(composedSource(compose(placement), placement.medium.capacity), {
      sectorSize: placement.sectorSize,
    });
    const grave = checkSurvey(survey).filter((one) => one.severity === 'stop');
    expect(grave.map((one) => one.sentence)).toEqual([]);
  });
});

function byNumber(a: readonly unknown[], b: readonly unknown[]): number {
  return Number(a[0]) - Number(b[0]);
}

describe('bytes of a chain, computed by hand', () => {
  const placement = place(layoutOn('100 MiB', [part('p', '10 MiB'), logical('x', '10 MiB'), logical('y', '20 MiB')]));
  const bytesAt = (sector: number) => {
    const range = compose(placement).find(({ extent }) => extent.offset === sector * 512 && 'bytes' in extent)!;
    return 'bytes' in range.extent ? range.extent.bytes : new Uint8Array();
  };
  const entriesAt = (sector: number) => {
    const { entries, mark } = decode(MBR_RECORD, bytesAt(sector));
    expect(mark).toBe(0xaa55);
    return [0, 1, 2, 3].map((i) => {
      const { type, first, count, chsFirst } = decode(ENTRY_RECORD, entries.subarray(i * 16));
      return [type, first, count, [...chsFirst]] as const;
    });
  };

  test('the container in sector 0', () => {
    expect(entriesAt(0).map(([type, first, count]) => [type, first, count])).toEqual([
      [0x83, 2048, 20_480],
      [0x05, 22_528, 65_536],
      [0, 0, 0],
      [0, 0, 0],
    ]);
  });

  test('the first entry counts from its record, the link from the container', () => {
    expect(entriesAt(22_528)).toEqual([
      [0x83, 2048, 20_480, [...chs(24_576)]],
      [0x05, 22_528, 43_008, [...chs(45_056)]],
      [0, 0, 0, [0, 0, 0]],
      [0, 0, 0, [0, 0, 0]],
    ]);
    expect(entriesAt(45_056).map(([type, first, count]) => [type, first, count])).toEqual([
      [0x83, 2048, 40_960],
      [0, 0, 0],
      [0, 0, 0],
      [0, 0, 0],
    ]);
  });
});

describe('a hybrid', () => {
  const table: Layout['table'] = { ...GPT_TABLE, hybrid: ['boot', 'data'], markProtective: true };
  const placement = place(
    layoutOn(
      '1 GiB',
      [part('sys', '100 MiB'), fatPart('boot', '100 MiB', {}, { active: true }), fatPart('data', 'rest')],
      { table },
    ),
  );

  test('shows the chosen partitions in sector 0 behind a protective entry that ends before them', () => {
    const sector = compose(placement)[0]!.extent;
    const read = decodeMbr('bytes' in sector ? sector.bytes : new Uint8Array());
    if (typeof read === 'string') throw new Error(read);
    const [, boot, data] = placement.placed;
    expect(read.signature).toBe(0x6d617272);
    expect(read.entries.map((one) => [one.index, one.active, one.type, one.first, one.count])).toEqual([
      [0, true, 0xee, 1, boot!.start - 1],
      [1, true, 0x0b, boot!.start, boot!.sectors],
      [2, false, 0x0b, data!.start, data!.sectors],
    ]);
  });

  test('gives a partition whose type was chosen the MBR type that means the same, or that of its content', () => {
    const types = ['deadbeef-f81f-11d2-ba4b-00a0c93ec93b', 'c12a7328-f81f-11d2-ba4b-00a0c93ec93b'];
    const shown = place(
      layoutOn(
        '1 GiB',
        [
          part('odd', '10 MiB', { role: 'esp', type: types[0] }),
          part('esp', '10 MiB', { type: types[1] }),
          fatPart('fat', '100 MiB', {}, { type: 'ebd0a0a2-b9e5-4433-87c0-68b6b72699c7' }),
        ],
        { table: { ...GPT_TABLE, hybrid: ['odd', 'esp', 'fat'] } },
      ),
    );
    const sector = compose(shown)[0]!.extent;
    const read = decodeMbr('bytes' in sector ? sector.bytes : new Uint8Array());
    if (typeof read === 'string') throw new Error(read);
    expect(read.entries.slice(1).map(({ type }) => type)).toEqual([0x83, 0xef, 0x0b]);
  });
});

test('a mark in a chain is not written: it means nothing there', () => {
  const logical = layoutOn('64 MiB', [part('a', '8 MiB', { logical: true, active: true })]);
  const placement = place(logical);
  const record = compose(placement).find(({ what }) => what === 'record of partition 5')!;
  expect('bytes' in record.extent && record.extent.bytes[446]).toBe(0);
});

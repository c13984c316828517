/** What the document says about the machine, its board and its table beyond the kind. */
import { GIB } from '../quantity/units';
import { fatPart, free, GPT_TABLE, layoutOn, part, raw } from '@tests/samples';
import { BOARD_FAMILIES, boardProfile } from '../medium/boards';
import { grainFor } from '../medium/grain';
import { twinType } from '../tables/types';
import { describeEdit } from './describe';
import type { Layout } from './document';
import { applyEdit } from './edits';
import { boardOf, chosenGrain, mediumOf, memoryOf } from './medium-spec';
import { swapAdvice } from './swap';
import { validateLayout } from './validate';

const errors = (layout: object) => {
  const checked = validateLayout(JSON.parse(JSON.stringify(layout)));
  return checked.ok ? [] : checked.error.map((one) => one.path);
};

describe('validation', () => {
  const good: Layout = layoutOn(
    '1 GiB',
    [part('a', '25 %', { at: '1 MiB', grain: '64 KiB', endsOnGrain: true, logical: true }), free('f', 'rest')],
    {
      grain: 'cylinders',
      machine: {
        use: 'desktop',
        memory: '8 GiB',
        hibernates: true,
        esp: 'kept',
        root: 'elsewhere',
        loader: 'gap',
        biosLimit: '33.8 GB',
        board: {
          name: 'Pier board',
          ranges: [{ name: 'Stage', at: '0', length: '440 B', instead: true }],
          tables: ['mbr'],
          first: 'fat active',
        },
      },
      table: { kind: 'mbr', signature: '6d617272', packed: true, containerType: '0F' },
    },
  );

  test('everything that can be said is kept, in the document’s order', () => {
    const checked = validateLayout(JSON.parse(JSON.stringify(good)));
    expect(checked).toMatchObject({ ok: true, value: good });
    expect(checked.ok && Object.keys(checked.value)).toEqual([
      'format',
      'version',
      'name',
      'date',
      'medium',
      'boots',
      'machine',
      'table',
      'grain',
      'slots',
    ]);
  });

  test.each<[string, object, string]>([
    ['an unknown use', { machine: { use: 'ship' } }, 'machine.use'],
    ['a wall that no BIOS had', { machine: { biosLimit: '1 TB' } }, 'machine.biosLimit'],
    ['a share as memory', { machine: { memory: 'rest' } }, 'machine.memory'],
    ['a family that nobody knows', { machine: { board: { family: 'abacus' } } }, 'machine.board.family'],
    ['too few entries', { table: { ...GPT_TABLE, entries: 3 } }, 'table.entries'],
    ['four in a hybrid', { table: { ...GPT_TABLE, hybrid: ['a', 'b', 'c', 'd'] } }, 'table.hybrid'],
    ['nobody in a hybrid', { table: { ...GPT_TABLE, hybrid: ['zz'] } }, 'table.hybrid[0]'],
    ['one twice in a hybrid', { table: { ...GPT_TABLE, hybrid: ['a', 'a'] } }, 'table.hybrid[1]'],
    ['free space in a hybrid', { table: { ...GPT_TABLE, hybrid: ['f'] } }, 'table.hybrid[0]'],
    ['a grain off the sector', { slots: [part('a', 'rest', { grain: '1000 B' })] }, 'slots[0].grain'],
    ['another word for a grain', { grain: 'cylinder' }, 'grain'],
    ['a device of other sectors', { medium: { ...good.medium, goesOnto: 2048 } }, 'medium.goesOnto'],
  ])('%s is refused with its path', (_, patch, path) => {
    expect(errors({ ...good, ...patch })[0]).toMatch(new RegExp(`^${path.replace(/[[\].]/g, '\\$&')}`));
  });

  test('blanks around a size go, so that it can stand in a line', () => {
    const checked = validateLayout(
      JSON.parse(JSON.stringify(layoutOn('1 GiB', [part('a', '  rest,\tat least 1 MiB ')]))),
    );
    expect(checked.ok && checked.value.slots[0]).toMatchObject({ size: 'rest, at least 1 MiB' });
  });
});

describe('what follows from it', () => {
  test('memory, grain and board in figures', () => {
    const layout = layoutOn('1 GiB', [], {
      grain: 'cylinders',
      machine: {
        memory: '512 MiB',
        board: {
          name: 'Mine',
          ranges: [{ name: 'Stage', at: '33 KiB', length: '1 MiB' }],
          tables: ['gpt'],
          first: 'any',
        },
      },
    });
    expect(memoryOf(layout)).toBe(512 * 2 ** 20);
    expect(memoryOf(layoutOn('1 GiB'))).toBeUndefined();
    expect(boardOf(layout)).toMatchObject({
      name: 'Mine',
      source: 'a profile of one’s own',
      ranges: [{ at: 33_792, length: 2 ** 20 }],
    });
    expect(boardOf(layoutOn('1 GiB', [], { machine: { board: { family: 'zynq' } } }))).toBe(boardProfile('zynq'));
    expect(boardOf(layoutOn('1 GiB'))).toBeUndefined();
    expect(grainFor(mediumOf(layout.medium), chosenGrain(layout))).toMatchObject({
      rule: 'cylinders',
      sectors: 16_065,
      bytes: 8_225_280,
      first: 63,
    });
  });

  test.each([
    [0.5, false, 1],
    [1, false, 2],
    [2, false, 4],
    [3, false, 4],
    [4, false, 4],
    [6, false, 6],
    [8, false, 8],
    [64, false, 8],
    [2, true, 4],
    [4, true, 6],
    [8, true, 11],
    [16, true, 20],
    [64, true, 72],
  ])('%d GiB of memory, hibernating %s: %d GiB of swap', (memory, hibernates, swap) => {
    expect(swapAdvice(memory * GIB, hibernates)).toBe(swap * GIB);
  });

  test('swap is rounded up to 256 MiB', () => {
    expect(swapAdvice(1_300_000_000, false) % 2 ** 28).toBe(0);
    expect(swapAdvice(1_300_000_000, false)).toBeGreaterThanOrEqual(2_600_000_000);
  });
});

describe('boards', () => {
  test.each(BOARD_FAMILIES)('%s: ranges in order, disjoint unless one is enough, a source, a table', (family) => {
    const { ranges, source, tables, name } = boardProfile(family);
    expect(name.length).toBeGreaterThan(3);
    expect(source).toMatch(/; to be checked against the manual of the board$/);
    expect(tables.length).toBeGreaterThan(0);
    const fixed = ranges.filter((range) => !range.instead);
    fixed.slice(1).forEach((range, i) => expect(range.at).toBeGreaterThanOrEqual(fixed[i]!.at + fixed[i]!.length));
    for (const range of ranges) expect(range.length).toBeGreaterThan(0);
    // A ROM that needs bytes where a GPT has its header or its usual entries cannot be served by the usual one.
    if (fixed.some((range) => range.at < 1024 && range.at + range.length > 512)) expect(tables).toEqual(['mbr']);
  });
});

describe('types of the two tables', () => {
  test.each([
    ['83', 'gpt', '0fc63daf-8483-4772-8e79-3d69d8477de4'],
    ['0C', 'gpt', 'ebd0a0a2-b9e5-4433-87c0-68b6b72699c7'],
    ['EF', 'gpt', 'c12a7328-f81f-11d2-ba4b-00a0c93ec93b'],
    ['A5', 'gpt', undefined],
    ['4f68bce3-e8cd-4db1-96e7-fbcaf984b709', 'mbr', '83'],
    ['0657fd6d-a4ab-43c4-84e5-0933c84b4f4f', 'mbr', '82'],
    ['516e7cba-6ecf-11d6-8ff8-00022d09712b', 'mbr', undefined],
  ] as const)('%s on %s', (type, table, twin) => {
    expect(twinType(type, table)).toBe(twin);
  });
});

describe('edits', () => {
  const layout = layoutOn('1 GiB', [part('a', '10 MiB'), fatPart('b', '20 MiB'), raw('r', '1 MiB', '1 MiB')], {
    table: { ...GPT_TABLE, hybrid: ['a', 'b'] },
  });

  test('a slot that goes leaves the hybrid too, and the last one takes the word with it', () => {
    const once = applyEdit(layout, { do: 'remove slot', id: 'a' });
    expect(once.table).toMatchObject({ hybrid: ['b'] });
    expect(applyEdit(once, { do: 'remove slot', id: 'b' }).table).toEqual(GPT_TABLE);
  });

  test('a slot is put in the place of another', () => {
    const after = applyEdit(layout, { do: 'put slot', slot: free('a', 'rest') });
    expect(after.slots[0]).toEqual(free('a', 'rest'));
    expect(after.slots[1]).toBe(layout.slots[1]);
    expect(describeEdit(layout, { do: 'put slot', slot: free('a', 'rest') })).toBe('a: said anew');
  });

  test('fields of the table that are taken back leave no trace', () => {
    const after = applyEdit(layout, {
      do: 'change layout',
      patch: { table: { ...GPT_TABLE, hybrid: undefined } as unknown as Layout['table'] },
    });
    expect(Object.keys(after.table)).toEqual(['kind', 'diskId']);
  });
});

import { madeAs } from '../filesystems/kinds';
import fc from 'fast-check';
import { everything } from '@tests/any/contents';
import { anyLayout } from '@tests/any/layout';
import { free, GPT_TABLE, layoutOn, part, raw, where } from '@tests/samples';
import { cases } from '@tests/tier';
import { compose } from '../compose/compose';
import { check } from '../findings/layout/check';
import { stopsAmong } from '../findings/layout/finding';
import type { Layout, Slot } from '../layout/document';
import { applyEdit } from '../layout/edits';
import { boundaryBelow, moveBoundary } from './boundary';
import { leastSectors, nextNominal, onSectors } from './least';
import { place } from './place';
import { lastSector, type Placement } from './placement';
import { placementCsv, placementTable } from './tabular';
import { typedEdit, typedRange, typedSectors } from './typed';

const MIB = 2048;
const logical = (id: string, size: string, more = {}) => part(id, size, { logical: true, ...more });
const reason = (layout: Layout, id: string) => place(layout).placed.find((one) => one.slot.id === id)!;

describe('size rules', () => {
  test('per cent count the space between the table areas, down to the grain', () => {
    const layout = layoutOn('1 GiB', [part('a', '25 %'), part('b', '25 %'), part('c', 'rest')], { table: GPT_TABLE });
    expect(where(layout, 'a')).toEqual([MIB, 255 * MIB]);
    expect(where(layout, 'b')).toEqual([256 * MIB, 255 * MIB]);
    expect(reason(layout, 'a').endReason).toMatchObject({
      rule: 'share of the space',
      text: '255 MiB: 25 % of the space between the table areas, down to the grain.',
    });
  });

  test('less than a grain of per cent is kept to the sector', () => {
    expect(where(layoutOn('10 MiB', [part('a', '0.01 %')]), 'a')).toEqual([128, 2]);
  });

  test('its image, and the same as one that takes the size of its own', () => {
    const supplied = { sha256: 'a'.repeat(64), name: 'tide.img', size: 5 * 2 ** 20 + 513 };
    const layout = layoutOn('1 GiB', [
      part('a', 'its image', { content: { kind: 'image', ...supplied } }),
      part('b', 'same as a'),
      part('c', 'its file', { endsOnGrain: true, content: { kind: 'file', ...supplied, size: 1 } }),
      part('d', 'its file', { content: { kind: 'file', ...supplied, size: 0 } }),
    ]);
    expect(where(layout, 'a')).toEqual([MIB, 5 * MIB + 2]);
    expect(where(layout, 'b')).toEqual([7 * MIB, 5 * MIB + 2]);
    expect(where(layout, 'c')).toEqual([13 * MIB, MIB]);
    expect(where(layout, 'd')).toEqual([14 * MIB, 1]);
    expect(reason(layout, 'a').endReason).toMatchObject({
      rule: 'its image',
      text: expect.stringMatching(/^≈ 5/) as string,
    });
  });

  test('memory', () => {
    const layout = layoutOn('64 GiB', [part('s', 'memory × 1.5')], { machine: { memory: '8 GiB' } });
    expect(where(layout, 's')).toEqual([MIB, 12 * 1024 * MIB]);
    expect(reason(layout, 's').endReason.text).toBe('12 GiB: “memory × 1.5” of a machine with 8 GiB.');
    expect(where(layoutOn('64 GiB', [part('s', 'memory')]), 's')).toEqual([MIB, MIB]);
  });

  test('a size that reaches a position: exclusive, and slots ahead of it share what it leaves', () => {
    const layout = layoutOn('1 GiB', [part('a', 'rest'), part('b', 'ending at 300 MiB'), part('c', 'rest')]);
    expect(where(layout, 'a')).toEqual([MIB, 150 * MIB]);
    expect(where(layout, 'b')).toEqual([151 * MIB, 149 * MIB]);
    expect(where(layout, 'c')).toEqual([300 * MIB, 724 * MIB]);
    expect(lastSector(reason(layoutOn('1 GiB', [part('b', 'ending at 20000 sectors')]), 'b'))).toBe(19_999);
  });

  test('same as another: to the sector, exact or shared, ahead or behind, across fixed places', () => {
    const equal = (slots: Slot[]) => {
      const { placed } = place(layoutOn('1 GiB', slots));
      return placed.filter(({ slot }) => slot.name !== 'x').map((one) => one.sectors);
    };
    expect(equal([part('A', '100 MB'), part('B', 'same as A')])).toEqual([195_313, 195_313]);
    expect(equal([part('A', 'rest'), part('B', 'same as A'), part('C', 'same as B')])).toEqual([
      341 * MIB,
      341 * MIB,
      341 * MIB,
    ]);
    expect(equal([part('B', 'same as A'), part('A', 'rest, at most 100 MiB')])).toEqual([100 * MIB, 100 * MIB]);
    const behind = [part('B', 'same as A'), raw('x', '512 MiB', '1 MiB'), part('A', 'rest')];
    expect(equal(behind)).toEqual([511 * MIB, 511 * MIB]);
    const ahead = [part('A', 'rest'), raw('x', '512 MiB', '1 MiB'), part('B', 'same as A')];
    expect(equal(ahead)).toEqual([511 * MIB, 511 * MIB]);
  });

  test('renaming a slot takes those along that say same as', () => {
    const layout = layoutOn('1 GiB', [part('A', '100 MiB'), part('B', 'same as A')]);
    const after = applyEdit(layout, { do: 'change slot', id: 'A', patch: { name: 'System, one' } });
    expect(after.slots[1]).toMatchObject({ size: 'same as "System, one"' });
    expect(where(after, 'B')[1]).toBe(100 * MIB);
  });

  test('a circle of same as is a stop, never a crash', () => {
    const layout = layoutOn('1 GiB', [part('A', 'same as B'), part('B', 'same as A')]);
    expect(stopsAmong(check(place(layout))).map((one) => one.rule)).toEqual([
      'size/same-as-nobody',
      'size/same-as-nobody',
    ]);
  });
});

describe('places', () => {
  test('a pinned slot stands where it is said, and what lies ahead of it shares the space before it', () => {
    const layout = layoutOn('1 GiB', [part('a', 'rest'), part('b', '1 MiB', { at: '100 MB' }), part('c', 'rest')]);
    expect(where(layout, 'b')).toEqual([195_313, MIB]);
    expect(where(layout, 'a')).toEqual([MIB, 195_313 - MIB]);
    expect(where(layout, 'c')[0]).toBe(97 * MIB);
    expect(reason(layout, 'b').startReason).toMatchObject({ rule: 'pinned', cost: 0 });
  });

  test('a grain of its own, and an end on it', () => {
    const layout = layoutOn('1 GiB', [
      part('a', '3 sectors', { endsOnGrain: true }),
      part('b', 'rest', { grain: '16 MiB' }),
    ]);
    expect(where(layout, 'a')).toEqual([MIB, MIB]);
    expect(where(layout, 'b')).toEqual([16 * MIB, 1008 * MIB]);
  });

  test('shares between slots of different grains still end with the medium', () => {
    const layout = layoutOn('1 GiB', [
      part('a', 'rest'),
      part('b', '5 MiB', { grain: '32 MiB' }),
      part('c', 'rest', { grain: '24 MiB' }),
    ]);
    const { placed, misfits } = place(layout);
    expect(misfits).toEqual([]);
    expect(placed[1]!.start % (32 * MIB)).toBe(0);
    expect(placed[2]!.start % (24 * MIB)).toBe(0);
    expect(lastSector(placed[2]!)).toBe(1024 * MIB - 1);
  });

  test('cylinders: the first partition at sector 63, all others and all ends on cylinders', () => {
    const layout = layoutOn('40 GB', [part('a', '100 MiB'), part('b', '1 GiB'), logical('c', 'rest')], {
      grain: 'cylinders',
    });
    const { placed } = place(layout);
    expect(placed[0]!.start).toBe(63);
    for (const one of placed) expect((one.start + one.sectors) % 16_065).toBe(0);
    expect(placed[1]!.start % 16_065).toBe(0);
    expect(placed[2]!.recordAt! % 16_065).toBe(0);
    expect(placed[2]!.start - placed[2]!.recordAt!).toBe(63);
  });
});

describe('logical partitions', () => {
  const slots = [part('p', '10 MiB'), logical('x', '10 MiB'), logical('y', 'rest, at most 20 MiB'), part('q', '5 MiB')];

  test('each leaves a grain for its record; the container reaches from the first record to the last end', () => {
    const { placed, containers } = place(layoutOn('100 MiB', slots));
    expect(placed.map((one) => [one.entry!.number, one.recordAt, one.start, one.sectors])).toEqual([
      [1, undefined, MIB, 10 * MIB],
      [5, 11 * MIB, 12 * MIB, 10 * MIB],
      [6, 22 * MIB, 23 * MIB, 20 * MIB],
      [3, undefined, 43 * MIB, 5 * MIB],
    ]);
    expect(containers).toEqual([{ number: 2, type: '05', start: 11 * MIB, sectors: 32 * MIB, slots: ['x', 'y'] }]);
  });

  test('packed: one sector each', () => {
    const { placed } = place(
      layoutOn('100 MiB', slots, { table: { kind: 'mbr', signature: '6d617272', packed: true } }),
    );
    expect(placed.map((one) => [one.recordAt, one.start])).toEqual([
      [undefined, MIB],
      [11 * MIB, 11 * MIB + 1],
      [21 * MIB + 1, 21 * MIB + 2],
      [undefined, 42 * MIB],
    ]);
  });

  test('strata show the record with the room that it keeps', () => {
    const { strata } = place(layoutOn('100 MiB', slots));
    expect(strata.filter((one) => one.kind === 'table').map((one) => [one.text, one.start, one.sectors])).toEqual([
      ['Sector 0, four entries', 0, 1],
      ['Record of partition 5', 11 * MIB, MIB],
      ['Record of partition 6', 22 * MIB, MIB],
    ]);
  });

  test('a pinned logical partition keeps its record ahead of it', () => {
    const { placed, misfits } = place(
      layoutOn('100 MiB', [part('a', 'rest'), logical('b', '10 MiB', { at: '50 MiB' })]),
    );
    expect(misfits).toEqual([]);
    expect(lastSector(placed[0]!)).toBe(49 * MIB - 1);
    expect(placed[1]!.recordAt).toBe(49 * MIB);
  });
});

describe('a GPT of another shape', () => {
  test('fewer entries leave room for a loader at 8 KiB', () => {
    const table = { ...GPT_TABLE, entries: 56 } as const;
    const placement = place(layoutOn('1 GiB', [raw('l', '8 KiB', '504 KiB'), part('a', 'rest')], { table }));
    expect(placement.usable).toEqual({ first: 16, end: 2_097_152 - 15 });
    expect(stopsAmong(check(placement))).toEqual([]);
  });

  test('entries behind the loader close what lies ahead of them to partitions', () => {
    const table = { ...GPT_TABLE, array: '1008 KiB' } as const;
    const placement = place(layoutOn('1 GiB', [raw('l', '8 KiB', '504 KiB'), part('a', 'rest')], { table }));
    expect(placement.usable.first).toBe(2048);
    expect(stopsAmong(check(placement))).toEqual([]);
    expect(placement.strata.map((one) => [one.kind, one.start, one.kind === 'gap' ? one.cause : ''])).toEqual(
      [
        ['table', 0, ''],
        ['gap', 2, 'before raw range'],
        ['slot', 16, ''],
        ['gap', 1024, 'closed'],
        ['table', 2016, ''],
        ['slot', 2048, ''],
        ['gap', 2_097_152 - 2048, 'unclaimed'],
        ['table', 2_097_152 - 33, ''],
      ].filter(([, start]) => start !== 2_097_152 - 2048),
    );
  });
});

/** Everything that must hold of a placement without a stop. */
function sound({ placed, strata, usable, sectors, sectorSize, layout, containers }: Placement): void {
  const spans = [...placed].sort((a, b) => a.span.start - b.span.start).map((one) => one.span);
  spans.slice(1).forEach((span, i) => expect(span.start).toBeGreaterThanOrEqual(spans[i]!.end));
  for (const { slot, start, sectors: length, recordAt, startReason } of placed) {
    if (slot.kind === 'raw') continue;
    expect(recordAt ?? start).toBeGreaterThanOrEqual(usable.first);
    expect(start + length).toBeLessThanOrEqual(usable.end);
    expect(length).toBeGreaterThan(0);
    const packed = layout.table.kind === 'mbr' && layout.table.packed && recordAt !== undefined;
    if (
      startReason.rule !== 'pinned' &&
      start !== 63 &&
      !packed &&
      !(recordAt !== undefined && layout.grain === 'cylinders')
    )
      expect(start % startReason.grain).toBe(0);
  }
  let cursor = 0;
  for (const { start, sectors: length } of strata) {
    expect(start).toBeLessThanOrEqual(cursor);
    cursor = Math.max(cursor, start + length);
  }
  expect(cursor).toBe(Math.max(sectors, cursor));
  for (const box of containers)
    for (const id of box.slots) {
      const inside = placed.find((one) => one.slot.id === id)!;
      expect(inside.recordAt).toBeGreaterThanOrEqual(box.start);
      expect(inside.start + inside.sectors).toBeLessThanOrEqual(box.start + box.sectors);
    }
  expect(sectorSize * sectors).toBeGreaterThan(0);
}

describe('properties', () => {
  test('no layout crashes placing or checking; an accepted one overlaps nowhere and composes to the same bytes twice', async () => {
    let accepted = 0;
    const contents = await everything();
    fc.assert(
      fc.property(anyLayout, (layout) => {
        const placement = place(layout, contents);
        if (stopsAmong(check(placement)).length > 0) return;
        accepted += 1;
        sound(placement);
        const bytes = () =>
          JSON.stringify(
            compose(place(structuredClone(layout), contents)).map(({ what, extent }) => [what, extent.offset]),
          );
        expect(bytes()).toBe(bytes());
      }),
      { numRuns: cases(150, 1500) },
    );
    expect(accepted).toBeGreaterThan(cases(20, 250));
  });

  const weights = fc.array(
    fc.record({ weight: fc.integer({ min: 1, max: 9 }), least: fc.nat(40), room: fc.nat(400), exact: fc.boolean() }),
    { minLength: 1, maxLength: 8 },
  );

  test('shares: the sum is the space to the sector, bounds and ratios hold exactly', () => {
    fc.assert(
      fc.property(weights, fc.integer({ min: 140_000, max: 4_000_000 }), (list, sectors) => {
        const slots = list.map(({ weight, least, room, exact }, i) =>
          part(
            `s${i}`,
            exact ? `${least + 1} MiB` : `rest × ${weight}, at least ${least + 1} MiB, at most ${least + room + 1} MiB`,
          ),
        );
        const layout = layoutOn(`${sectors} sectors`, [...slots, part('open', 'rest')]);
        const { placed, misfits } = place(layout);
        if (misfits.length > 0) return;
        placed.forEach((one, i) => {
          const asked = list[i];
          if (!asked) return;
          if (asked.exact) return expect(one.sectors).toBe((asked.least + 1) * MIB);
          expect(one.sectors).toBeGreaterThanOrEqual((asked.least + 1) * MIB);
          expect(one.sectors).toBeLessThanOrEqual((asked.least + asked.room + 1) * MIB);
          expect(one.sectors % MIB).toBe(0);
        });
        const open = placed.at(-1)!;
        expect(lastSector(open)).toBe(sectors - 1);
        // One level for all that no bound holds: shares differ from it by less than a grain.
        const level = Math.floor(open.sectors / MIB);
        placed.slice(0, -1).forEach((one, i) => {
          const { weight, exact } = list[i]!;
          if (exact || one.endReason.rule !== 'share of the rest') return;
          expect(Math.abs(one.sectors / MIB - level * weight)).toBeLessThanOrEqual(weight + 1);
        });
      }),
      { numRuns: cases(100, 800) },
    );
  });

  test('the least medium fits, and none that is a sector smaller', () => {
    const slots = fc.array(
      fc
        .constantFrom('10 MiB', '7 MB', 'rest', 'rest, at least 30 MiB', '10 %', '25 %', 'same as s0', 'memory')
        .chain((size) =>
          fc.record({ size: fc.constant(size), logical: fc.boolean(), grain: fc.constantFrom(undefined, '4 MiB') }),
        ),
      { minLength: 1, maxLength: 4 },
    );
    fc.assert(
      fc.property(slots, fc.boolean(), (list, isGpt) => {
        const layout = layoutOn(
          '1 GiB',
          list.map(({ size, logical: isLogical, grain }, i) =>
            part(`s${i}`, i === 0 && size.startsWith('same') ? '3 MiB' : size, {
              ...(isLogical && { logical: true }),
              ...(grain && { grain }),
            }),
          ),
          { ...(isGpt && { table: GPT_TABLE }), machine: { memory: '64 MiB' } },
        );
        const least = leastSectors(layout);
        const fits = (sectors: number) => place(onSectors(layout, sectors)).misfits.length === 0;
        if (least === undefined) return expect(fits(2 ** 31)).toBe(false);
        expect(fits(least)).toBe(true);
        expect(fits(least - 1)).toBe(false);
      }),
      { numRuns: cases(40, 300) },
    );
  });
});

describe('the least medium', () => {
  test('counts table, grain and bounds', () => {
    expect(leastSectors(layoutOn('1 GiB', [part('a', '100 MiB'), part('b', 'rest')]))).toBe(102 * MIB);
    expect(leastSectors(layoutOn('1 GiB', [part('a', '100 MiB')], { table: GPT_TABLE }))).toBe(101 * MIB + 33);
    expect(leastSectors(layoutOn('1 GiB', [part('a', '100 %'), part('b', '10 %')]))).toBeUndefined();
    expect(leastSectors(layoutOn('1 GiB', [part('a', '100 %')]))).toBe(2);
    // One sector for the table and a quarter of five, rounded down, four times.
    const quarters = ['a', 'b', 'c', 'd'].map((id) => part(id, '25 %'));
    expect(leastSectors(layoutOn('1 GiB', quarters))).toBe(5);
    expect(leastSectors(layoutOn('1 GiB', [part('a', '2 MiB'), raw('r', '1 MiB', '1 MiB')]))).toBeUndefined();
  });

  test('counts what a file system needs', () => {
    const volumeId = '3A1F-77C0';
    const layout = layoutOn('1 GiB', [
      part('a', '10 MiB'),
      part('b', 'rest', { content: { kind: 'fat', variant: 32, volumeId } }),
    ]);
    const least = leastSectors(layout)!;
    expect(madeAs(place(onSectors(layout, least)).placed[1]!, 'fat')).toMatchObject({ ok: true });
    expect(madeAs(place(onSectors(layout, least - MIB)).placed[1]!, 'fat')).toMatchObject({ ok: false });
  });

  test('names the next size that is sold', () => {
    const medium = { kind: 'card', capacity: { nominal: '8 GB' }, logicalSector: 512, physicalSector: 512 } as const;
    expect(nextNominal(layoutOn('1 GiB', [part('a', '10 GiB')], { medium }))).toBe('16 GB');
    expect(nextNominal(layoutOn('1 GiB', [part('a', '15 GB')], { medium }))).toBe('32 GB');
    expect(nextNominal(layoutOn('1 GiB', [part('a', '10 GiB')]))).toBeUndefined();
    expect(nextNominal(layoutOn('1 GiB', [part('a', '10 TiB')], { medium }))).toBeUndefined();
  });
});

describe('boundaries of other rules', () => {
  const layout = layoutOn('1 GiB', [
    part('a', '10 %'),
    part('b', 'ending at 500 MiB'),
    logical('c', '100 MiB'),
    part('d', 'rest'),
  ]);
  const moved = (id: string, sector: number) => {
    const placement = place(layout);
    return applyEdit(layout, moveBoundary(placement, boundaryBelow(placement, id)!, sector).edit).slots.map(
      (slot) => (slot as { size: string }).size,
    );
  };

  test('a position stays a position, and gives way where it is the lower one', () => {
    expect(moved('b', 400 * MIB)).toEqual(['10 %', 'ending at 400 MiB', '200 MiB', 'rest']);
    expect(moved('a', 50 * MIB)).toEqual(['49 MiB', 'ending at 500 MiB', '100 MiB', 'rest']);
  });

  test('the record of a logical partition moves with it', () => {
    const placement = place(
      applyEdit(layout, moveBoundary(place(layout), boundaryBelow(place(layout), 'b')!, 400 * MIB).edit),
    );
    const c = placement.placed[2]!;
    expect([c.recordAt, c.start, lastSector(c) + 1]).toEqual([400 * MIB, 401 * MIB, 601 * MIB]);
  });
});

describe('typed places', () => {
  const layout = layoutOn('1 GiB', [part('a', '100 MiB'), part('b', 'rest'), raw('r', '900 MiB', '1 MiB')]);
  const typed = (id: string, which: 'start' | 'last' | 'length', text: string) => {
    const placement = place(layout);
    const edit = typedEdit(
      placement,
      placement.placed.find((one) => one.slot.id === id)!,
      which,
      text,
    );
    return edit && where(applyEdit(layout, edit), id);
  };

  test('start, last sector and length, in sectors or units; the others follow', () => {
    expect(typed('b', 'start', '409600')).toEqual([409_600, 900 * MIB - 409_600]);
    expect(typed('a', 'last', '409,599')).toEqual([MIB, 409_600 - MIB]);
    expect(typed('a', 'last', '200 MiB')).toEqual([MIB, 199 * MIB]);
    expect(typed('a', 'length', '50 MiB')).toEqual([MIB, 50 * MIB]);
    expect(typed('a', 'length', '2048')).toEqual([MIB, 2048]);
    expect(typed('r', 'start', '950 MiB')).toEqual([950 * MIB, MIB]);
    expect(typed('r', 'length', '10')).toEqual([900 * MIB, 10]);
  });

  test('what cannot be is said', () => {
    const [a] = place(layout).placed;
    expect(typedRange(a!, 'last', '100', 512)).toMatchObject({
      ok: false,
      error: { message: expect.stringMatching(/starts at sector 2,048/) as string },
    });
    expect(typedRange(a!, 'length', '0', 512)).toMatchObject({ ok: false });
    expect(typedSectors('5 parsecs', 512)).toMatchObject({ ok: false, error: { at: 2 } });
    expect(typedSectors('9'.repeat(17), 512)).toMatchObject({ ok: false });
    expect(typed('a', 'start', 'rest')).toBeUndefined();
  });
});

describe('a placement to take along', () => {
  const placement = place(
    layoutOn('100 MiB', [part('=cmd, "x"', '10 MiB'), logical('log', '20 MiB'), free('f', '5 MiB')]),
  );

  test('as CSV by RFC 4180, with no cell that a table program would compute', () => {
    expect(placementCsv(placement)).toBe(
      [
        'number,name,kind,first sector,last sector,sectors,bytes',
        '1,"\'=cmd, ""x""",type 83,2048,22527,20480,10485760',
        '2,Container of logical partitions,type 05,22528,65535,43008,22020096',
        '5,log,"logical, type 83",24576,65535,40960,20971520',
        ',f,free on purpose,65536,75775,10240,5242880',
        '',
      ].join('\r\n'),
    );
  });

  test('as text, in columns', () => {
    const lines = placementTable(placement).split('\n');
    expect(lines[0]).toBe('Test gauge: 204,800 sectors of 512 bytes, last sector 204,799');
    expect(lines[5]).toBe(
      '5  log                              logical, type 83  24,576  65,535   40,960  20 MiB ≈ 20.97 MB',
    );
  });
});

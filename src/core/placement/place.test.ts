import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { fatPart, free, layoutOn, part, raw, where } from '@tests/samples';
import type { Layout, Slot } from '../layout/document';
import { applyEdit } from '../layout/edits';
import { boundaryBelow, moveBoundary } from './boundary';
import { place } from './place';
import { isEntered, type Placement } from './placement';

const MIB = 2048;
const GAUGE = JSON.parse(readFileSync('demo/gauge-logger.json', 'utf8')) as Layout;

describe('the gauge logger, computed by hand', () => {
  const placement = place(GAUGE);

  test('every slot lands where the sums on paper say', () => {
    expect(placement.placed.map(({ slot, start, sectors }) => [slot.id, start, sectors])).toEqual([
      ['loader', 16, 2032],
      ['boot', 8192, 524_288],
      ['system-a', 532_480, 5_242_880],
      ['system-b', 5_775_360, 5_242_880],
      ['log', 11_018_240, 3_350_528],
    ]);
    expect(placement.placed.map((one) => one.entry?.id)).toEqual([
      undefined,
      '6d617272-01',
      '6d617272-02',
      '6d617272-03',
      '6d617272-04',
    ]);
  });

  test('a board gets the LBA code whatever the size', () => {
    expect(placement.placed.filter(isEntered).map((one) => one.entry.type)).toEqual(['0C', '83', '83', '0C']);
  });

  test('each boundary and each lost sector has its reason', () => {
    const [loader, boot, systemA, , log] = placement.placed;
    expect(loader!.startReason).toMatchObject({ rule: 'fixed by the document', cost: 0 });
    expect(boot!.startReason).toMatchObject({ rule: 'behind raw range', cost: 6144, grain: 8192 });
    expect(boot!.startReason.text).toBe(
      'Follows First-stage loader; rounded up to the grain of 4 MiB: 6,144 sectors lost.',
    );
    expect(systemA!.startReason).toMatchObject({ rule: 'behind slot', cost: 0 });
    expect(systemA!.endReason).toMatchObject({ rule: 'size asked' });
    expect(log!.endReason).toMatchObject({ rule: 'share of the rest' });
  });

  test('strata cover the medium', () => {
    expect(placement.strata.map((one) => [one.kind, one.start, one.sectors])).toEqual([
      ['table', 0, 1],
      ['gap', 1, 15],
      ['slot', 16, 2032],
      ['gap', 2048, 6144],
      ['slot', 8192, 524_288],
      ['slot', 532_480, 5_242_880],
      ['slot', 5_775_360, 5_242_880],
      ['slot', 11_018_240, 3_350_528],
    ]);
    expect(placement.strata.filter((one) => one.kind === 'gap').map((one) => one.cause)).toEqual([
      'before raw range',
      'grain',
    ]);
  });
});

describe('sizes', () => {
  test('exact sizes are kept to the sector, and the next start is rounded up', () => {
    const layout = layoutOn('1 GiB', [part('a', '100 MB'), part('b', '1 MiB')]);
    expect(where(layout, 'a')).toEqual([MIB, 195_313]);
    expect(where(layout, 'b')).toEqual([97 * MIB, MIB]);
    expect(place(layout).placed[1]!.startReason.cost).toBe(97 * MIB - MIB - 195_313);
  });

  test('the rest ends with the medium, even off the grain', () => {
    const layout = layoutOn('2000001 sectors', [part('a', '100 MiB'), part('b', 'rest')]);
    expect(where(layout, 'b')).toEqual([101 * MIB, 2_000_001 - 101 * MIB]);
    expect(place(layout).strata.at(-1)!.kind).toBe('slot');
  });

  test('a rest in the middle leaves what stands behind it on the grain', () => {
    const layout = layoutOn('2000001 sectors', [part('a', 'rest'), part('b', '100 MiB')]);
    const [start, sectors] = where(layout, 'b');
    expect([start % MIB, sectors]).toEqual([0, 100 * MIB]);
    expect(2_000_001 - start - sectors).toBeLessThan(MIB);
  });

  test('weights and bounds', () => {
    const layout = layoutOn('1001 MiB', [part('a', 'rest'), part('b', 'rest × 3'), free('c', 'rest, at most 100 MiB')]);
    expect([where(layout, 'a')[1], where(layout, 'b')[1], where(layout, 'c')[1]]).toEqual([
      225 * MIB,
      675 * MIB,
      100 * MIB,
    ]);
    const reasons = place(layout).placed.map((one) => one.endReason.rule);
    expect(reasons).toEqual(['share of the rest', 'share of the rest', 'upper bound']);
  });

  test('an upper bound off the grain is not passed by the tail', () => {
    const layout = layoutOn('1001 MiB', [part('a', 'rest, at most 100.3 MiB')]);
    expect(where(layout, 'a')[1]).toBeLessThanOrEqual(Math.ceil(100.3 * MIB));
  });

  test('a lower bound holds and says so', () => {
    const layout = layoutOn('101 MiB', [part('a', 'rest, at least 80 MiB'), part('b', 'rest')]);
    expect([where(layout, 'a')[1], where(layout, 'b')[1]]).toEqual([80 * MIB, 20 * MIB]);
    expect(place(layout).placed[0]!.endReason.rule).toBe('lower bound');
  });
});

describe('the grain', () => {
  test('a chosen one is used as it is', () => {
    expect(where(layoutOn('1 GiB', [part('a', '1 MiB')], { grain: '63 sectors' }), 'a')[0]).toBe(63);
  });

  test('a known write unit raises it', () => {
    const medium = { ...layoutOn('1 GiB').medium, writeUnit: '16 MiB' };
    expect(where(layoutOn('1 GiB', [part('a', '1 MiB')], { medium }), 'a')[0]).toBe(16 * MIB);
  });

  test('it counts in logical sectors', () => {
    const medium = { ...layoutOn('1 GiB').medium, logicalSector: 4096 as const, physicalSector: 4096 as const };
    expect(where(layoutOn('1 GiB', [part('a', '8 MiB')], { medium }), 'a')).toEqual([256, 2048]);
  });
});

describe('raw ranges', () => {
  test('cut the medium into runs, each with its own rest', () => {
    const layout = layoutOn('100 MiB', [part('a', 'rest'), raw('r', '50 MiB', '1 MiB'), part('b', 'rest')]);
    expect(where(layout, 'a')).toEqual([MIB, 49 * MIB]);
    expect(where(layout, 'b')).toEqual([51 * MIB, 49 * MIB]);
    expect(place(layout).misfits).toEqual([]);
  });

  test('may begin and end inside a sector', () => {
    const placed = place(layoutOn('100 MiB', [raw('r', '600 B', '1000 B'), part('a', '1 MiB')])).placed[0]!;
    expect([placed.start, placed.sectors, placed.span]).toEqual([1, 3, { start: 600, end: 1600 }]);
  });

  test('one that is named behind another, and stands in a slot ahead of both, is a misfit', () => {
    const { misfits } = place(
      layoutOn('100 MiB', [part('a', 'rest'), raw('far', '60 MiB', '1 MiB'), raw('near', '20 MiB', '1 MiB')]),
    );
    expect(misfits).toEqual([
      { against: { kind: 'raw', id: 'near' }, slots: ['a'], shortBy: 40 * 2048, couldGive: [] },
    ]);
  });

  test('a slot that runs into one is a misfit with figures', () => {
    const layout = layoutOn('100 MiB', [part('a', '60 MiB'), raw('r', '50 MiB', '1 MiB')]);
    expect(place(layout).misfits).toEqual([
      {
        against: { kind: 'raw', id: 'r' },
        slots: ['a'],
        shortBy: 11 * MIB,
        couldGive: [{ id: 'a', sectors: 59 * MIB }],
      },
    ]);
  });
});

describe('what cannot fit', () => {
  test('says by how much and who could give, the most generous first', () => {
    const layout = layoutOn('100 MiB', [part('a', '30 MiB'), part('b', '90 MiB'), part('c', 'rest')]);
    const [misfit] = place(layout).misfits;
    // 1 + 30 + 90 MiB, and one grain for the rest: 22 MiB too much.
    expect(misfit).toMatchObject({ against: { kind: 'medium' }, shortBy: 22 * MIB, slots: ['a', 'b', 'c'] });
    expect(misfit!.couldGive).toEqual([
      { id: 'b', sectors: 89 * MIB },
      { id: 'a', sectors: 29 * MIB },
    ]);
  });

  test('lower bounds that do not fit', () => {
    const layout = layoutOn('100 MiB', [part('a', 'rest, at least 80 MiB'), part('b', 'rest, at least 40 MiB')]);
    expect(place(layout).misfits[0]).toMatchObject({ shortBy: 21 * MIB, couldGive: [] });
  });
});

const slotText = fc.oneof(
  fc.integer({ min: 1, max: 400_000 }).map((n) => `${n} sectors`),
  fc.constantFrom('64 MiB', '100 MB', '1 GiB', 'rest', 'rest × 3', 'rest, at least 100 MiB', 'rest, at most 300 MiB'),
);
const slots = fc.array(fc.tuple(slotText, fc.nat(9)), { maxLength: 12 }).map((list) =>
  list.map(([size, kind], i): Slot => {
    if (kind === 0) return raw(`s${i}`, `${(i + 1) * 37} MiB`, '1000000 B');
    if (kind === 1) return free(`s${i}`, size);
    return kind < 5 ? fatPart(`s${i}`, size) : part(`s${i}`, size);
  }),
);

/** True when no slot has anything in common with another. */
function isDisjoint(placement: Placement): boolean {
  const spans = placement.placed.map((one) => one.span).sort((a, b) => a.start - b.start);
  return spans.every((span, i) => i === 0 || span.start >= spans[i - 1]!.end);
}

test('any layout that fits has no overlap, lands on its grain and covers the medium', () => {
  fc.assert(
    fc.property(slots, fc.integer({ min: 3_000, max: 20_000_000 }), (list, sectors) => {
      const placement = place(layoutOn(`${sectors} sectors`, list));
      for (const { slot, start } of placement.placed)
        if (slot.kind !== 'raw') expect(start % placement.grain.sectors).toBe(0);
      const raws = placement.placed.filter((one) => one.slot.kind === 'raw');
      const rawsInOrder = raws.every((one, i) => i === 0 || one.start >= raws[i - 1]!.start + raws[i - 1]!.sectors);
      const isInside = raws.every((one) => one.span.end <= sectors * 512);
      if (placement.misfits.length > 0 || !rawsInOrder || !isInside) return;
      expect(isDisjoint(placement)).toBe(true);
      let cursor = 0;
      for (const stratum of placement.strata) {
        expect(stratum.start).toBe(cursor);
        cursor += stratum.sectors;
      }
      expect(cursor).toBe(sectors);
    }),
    { numRuns: 800 },
  );
});

describe('moving a boundary', () => {
  const layout = layoutOn('1001 MiB', [part('a', '100 MiB'), part('b', '200 MiB'), part('c', 'rest')]);
  const move = (from: Layout, id: string, sector: number) => {
    const placement = place(from);
    const moved = moveBoundary(placement, boundaryBelow(placement, id)!, sector);
    return { ...moved, after: applyEdit(from, moved.edit) };
  };

  test('between two exact sizes: both change, nothing behind them moves', () => {
    const { after, sector, upperSectors, lowerSectors } = move(layout, 'a', 151 * MIB + 700);
    expect([sector, upperSectors, lowerSectors]).toEqual([151 * MIB, 150 * MIB, 150 * MIB]);
    expect(after.slots.map((slot) => slot.kind !== 'raw' && slot.size)).toEqual(['150 MiB', '150 MiB', 'rest']);
    expect(where(after, 'c')).toEqual(where(layout, 'c'));
  });

  test('above the rest: only the exact size changes', () => {
    const { after } = move(layout, 'b', 351 * MIB);
    expect(after.slots.map((slot) => slot.kind !== 'raw' && slot.size)).toEqual(['100 MiB', '250 MiB', 'rest']);
  });

  test('below the only rest: it goes on taking the rest', () => {
    const turned = layoutOn('1001 MiB', [part('a', 'rest'), part('b', '200 MiB')]);
    const { after } = move(turned, 'a', 701 * MIB);
    expect(after.slots.map((slot) => slot.kind !== 'raw' && slot.size)).toEqual(['rest', '300 MiB']);
    expect(where(after, 'a')).toEqual([MIB, 700 * MIB]);
  });

  test('between two shares: the upper one becomes exact', () => {
    const shares = layoutOn('1001 MiB', [part('a', 'rest'), part('b', 'rest')]);
    const { after } = move(shares, 'a', 301 * MIB);
    expect(after.slots.map((slot) => slot.kind !== 'raw' && slot.size)).toEqual(['300 MiB', 'rest']);
  });

  test('it stops one grain from either end', () => {
    expect(move(layout, 'a', 0).upperSectors).toBe(MIB);
    expect(move(layout, 'a', 10 ** 9).lowerSectors).toBe(MIB);
    expect(move(layout, 'c', 10 ** 9).edit).toEqual({ do: 'several', edits: [] });
  });

  test('a raw range has no boundary to move', () => {
    const placement = place(layoutOn('100 MiB', [raw('r', '1 MiB', '1 MiB'), part('a', '8 MiB')]));
    expect(boundaryBelow(placement, 'r')).toBeUndefined();
    expect(boundaryBelow(placement, 'nobody')).toBeUndefined();
    expect(boundaryBelow(placement, 'a')!.most).toBe(100 * MIB);
  });

  test('wherever it is put, the result is what was shown', () => {
    fc.assert(
      fc.property(fc.constantFrom('a', 'b', 'c'), fc.nat(2_100_000), (id, sector) => {
        const { after, sector: at, upperSectors } = move(layout, id, sector);
        const [start, sectors] = where(after, id);
        expect([start + sectors, sectors]).toEqual([at, upperSectors]);
        expect(place(after).misfits).toEqual([]);
      }),
    );
  });
});

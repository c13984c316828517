import { readFileSync } from 'node:fs';
import { layoutOn, part } from '@tests/samples';
import type { Layout } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import {
  brokenBands,
  depthOf,
  heightAt,
  legibleBands,
  LINE_HEIGHT,
  sectorAt,
  THIN,
  trueBands,
  levelBands,
} from './geometry';

const GAUGE = place(JSON.parse(readFileSync('demo/gauge-logger.json', 'utf8')) as Layout);

test('in the legible scale every stratum has room for its line, and the room is used', () => {
  const bands = legibleBands(GAUGE.strata, 560);
  GAUGE.strata.forEach((one, i) =>
    expect(bands[i]!.height).toBeGreaterThanOrEqual(one.kind === 'slot' ? LINE_HEIGHT : THIN),
  );
  expect(depthOf(bands)).toBeLessThanOrEqual(560);
  expect(depthOf(bands)).toBeGreaterThan(540);
  bands.forEach((band, i) => expect(band.y).toBe(depthOf(bands.slice(0, i))));
});

test('larger slots are not shorter', () => {
  const bands = legibleBands(GAUGE.strata, 600);
  const heightOf = (name: string) =>
    bands[GAUGE.strata.findIndex((one) => one.kind === 'slot' && one.placed.slot.name === name)]!.height;
  expect(heightOf('System A')).toBe(heightOf('System B'));
  expect(heightOf('System A')).toBeGreaterThan(heightOf('Boot'));
  expect(heightOf('Boot')).toBeGreaterThan(heightOf('First-stage loader'));
});

test('six partitions need no more than the height of the screen leaves', () => {
  const six = place(
    layoutOn(
      '10 GiB',
      ['a', 'b', 'c', 'd', 'e', 'f'].map((id) => part(id, '1 GiB')),
    ),
  );
  expect(depthOf(legibleBands(six.strata, 0))).toBeLessThan(480);
});

test('in the true scale heights are in proportion, and nothing vanishes', () => {
  const bands = trueBands(GAUGE.strata, 500);
  const total = GAUGE.strata.reduce((sum, one) => sum + one.sectors, 0);
  expect(depthOf(bands)).toBeCloseTo(500);
  GAUGE.strata.forEach((one, i) => {
    expect(bands[i]!.height).toBeGreaterThanOrEqual(1);
    if (one.sectors > total / 20) expect(bands[i]!.height / 500).toBeCloseTo(one.sectors / total, 1);
  });
});

test('a break is drawn where the scale jumps, and only there', () => {
  const broken = brokenBands(GAUGE.strata, legibleBands(GAUGE.strata, 560));
  const names = GAUGE.strata.flatMap((one, i) => (broken[i] && one.kind === 'slot' ? [one.placed.slot.name] : []));
  expect(names).toEqual(['Boot', 'System A']);
});

describe('heights and sectors around a boundary', () => {
  const around = {
    upper: { y: 100, height: 60 },
    lower: { y: 160, height: 40 },
    first: 1000,
    boundary: 1600,
    end: 9600,
  };

  test('each band has its own scale, and the boundary stays where it is', () => {
    expect([100, 130, 160, 180, 200].map((y) => sectorAt(y, around))).toEqual([1000, 1300, 1600, 5600, 9600]);
    expect([-10, 500].map((y) => sectorAt(y, around))).toEqual([1000, 9600]);
  });

  test('height is the inverse of sector', () => {
    for (const y of [100, 117, 159, 160, 171, 200]) expect(heightAt(sectorAt(y, around), around)).toBeCloseTo(y, 0);
  });

  test('a band without height or sectors is no trouble', () => {
    const none = { ...around, lower: { y: 160, height: 0 }, end: 1600 };
    expect(sectorAt(170, none)).toBe(1600);
    expect(heightAt(1600, none)).toBe(160);
  });
});

describe('columns side by side', () => {
  const layer = (key: string | undefined, sectors: number) => ({ kind: key ? 'slot' : 'gap', key, sectors });
  const tops = (bands: ReturnType<typeof levelBands>, columns: { key: string | undefined }[][], key: string) =>
    columns.map((one, c) => bands[c]![one.findIndex((each) => each.key === key)]!.y);

  test('equal things begin level, and nothing lies over anything', () => {
    const columns = [
      [layer(undefined, 1), layer('a', 10), layer('b', 1000), layer('c', 5)],
      [layer('a', 10_000), layer(undefined, 1), layer('b', 3), layer(undefined, 1), layer('c', 50_000)],
      [layer('a', 1), layer('b', 1), layer('c', 1)],
    ];
    const bands = levelBands(columns, 300);
    for (const key of ['b', 'c']) expect(new Set(tops(bands, columns, key)).size).toBe(1);
    for (const column of bands)
      column.forEach((band, i) => i > 0 && expect(band.y).toBe(column[i - 1]!.y + column[i - 1]!.height));
  });

  test('what stands in another order, or is not there, is left where it is', () => {
    const columns = [[layer('a', 10), layer('b', 10)], [layer('b', 10), layer('a', 10)], [layer('b', 10)]];
    expect(levelBands(columns, 100).map((one) => one.length)).toEqual([2, 2, 1]);
    expect(levelBands([], 100)).toEqual([]);
  });
});

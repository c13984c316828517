import { MIB } from '../quantity/units';
import { readFileSync } from 'node:fs';
import { fatPart, free, GPT_TABLE, layoutOn, NO_TABLE, noise, part, raw } from '@tests/samples';
import { cases } from '@tests/tier';
import { memoryBlocks, writeAll } from '../bytes/blocks';
import { endOf, type Extent, lengthOf } from '../bytes/extents';
import { check } from '../findings/layout/check';
import { stopsAmong } from '../findings/layout/finding';
import { checkSurvey } from '../findings/survey/check';
import type { Layout } from '../layout/document';
import { place } from '../placement/place';
import { surveyMedium } from '../survey/survey';
import { compare } from './compare';
import { compose } from './compose';
import fc from 'fast-check';

const GAUGE = JSON.parse(readFileSync('demo/gauge-logger.json', 'utf8')) as Layout;

function extentsOf(layout: Layout): Extent[] {
  return compose(place(layout)).map((range) => range.extent);
}

/** Builds a layout over a medium full of old bytes and surveys the result. */
async function builtOnNoise(layout: Layout, seed = 3) {
  const placement = place(layout);
  const bytes = noise(placement.medium.capacity, seed);
  const old = bytes.slice();
  const blocks = memoryBlocks(bytes);
  const ranges = compose(placement);
  await writeAll(
    ranges.map((range) => range.extent),
    blocks,
  );
  return {
    placement,
    bytes,
    old,
    ranges,
    blocks,
    survey: await surveyMedium(blocks, { sectorSize: placement.sectorSize, isFull: true }),
  };
}

test('ranges ascend, do not overlap and stay on the medium', () => {
  const ranges = compose(place(GAUGE));
  ranges.reduce((end, { extent }) => {
    expect(extent.offset).toBeGreaterThanOrEqual(end);
    return endOf(extent);
  }, 0);
  expect(endOf(ranges.at(-1)!.extent)).toBe(14_368_768 * 512);
});

test('only a handful of blocks of an 8 GB card are not zero', () => {
  const literal = extentsOf(GAUGE).filter((extent) => 'bytes' in extent);
  expect(literal.reduce((sum, extent) => sum + lengthOf(extent), 0)).toBe(15 * 512);
});

test('both ends of the medium and of an empty partition are cleared, its middle is not touched', async () => {
  const layout = layoutOn('64 MiB', [part('a', '16 MiB'), raw('r', '20 MiB', '3000 B')]);
  const { bytes, old } = await builtOnNoise(layout);
  const isZero = (from: number, to: number) => bytes.subarray(from, to).every((byte) => byte === 0);
  const isOld = (from: number, to: number) => Buffer.compare(bytes.subarray(from, to), old.subarray(from, to)) === 0;
  expect(isZero(512, 2 * MIB)).toBe(true);
  expect(isOld(2 * MIB, 16 * MIB)).toBe(true);
  expect(isZero(16 * MIB, 17 * MIB)).toBe(true);
  expect(isOld(17 * MIB, 20 * MIB)).toBe(true);
  expect(isZero(20 * MIB, 20 * MIB + 3000)).toBe(true);
  expect(isOld(20 * MIB + 3000, 63 * MIB)).toBe(true);
  expect(isZero(63 * MIB, 64 * MIB)).toBe(true);
});

test('a partition smaller than both clearings is cleared once', () => {
  const ranges = compose(place(layoutOn('64 MiB', [part('a', '1.5 MiB')]))).filter((range) => range.owner === 'a');
  // Its first half of a MiB is not hidden by the clearing of the medium, which yields to it.
  expect(ranges.reduce((sum, range) => sum + lengthOf(range.extent), 0)).toBe(1.5 * MIB);
});

test('over noise, everything reads back as it was meant', async () => {
  for (const sectorSize of [512, 4096] as const) {
    const medium = { ...layoutOn('400 MiB').medium, logicalSector: sectorSize, physicalSector: sectorSize };
    const size = sectorSize === 512 ? '100 MiB' : '280 MiB';
    const layout = layoutOn(
      '400 MiB',
      [fatPart('a', size, { label: 'TIDELOG' }), part('b', 'rest', { active: true })],
      { medium },
    );
    const { placement, survey } = await builtOnNoise(layout);
    expect(stopsAmong(check(placement))).toEqual([]);
    const facts = compare(placement, survey);
    expect(facts.filter((one) => !one.agrees)).toEqual([]);
    // Table, containers, partitions; place and entry of both; and what there is to a FAT32.
    expect(facts.length).toBe(4 + 5 + 16 + 5);
  }
});

test('any accepted layout, built onto a target full of noise, reads back clean', async () => {
  const size = fc.constantFrom('3 MiB', '34 MiB', '36000001 B', 'rest', 'rest, at most 50 MiB', '500 KiB');
  const content = fc.constantFrom('none' as const, 'free' as const, undefined, 12 as const, 16 as const, 32 as const);
  const padding = fc.constantFrom(undefined, 'root directory', 'none');
  const slot = fc.record({ size, content, padding });
  const table = fc.constantFrom<Layout['table']>({ kind: 'mbr', signature: '6d617272' }, GPT_TABLE, NO_TABLE);
  const sectors = fc.constantFrom<512 | 4096>(512, 4096);
  let built = 0;
  await fc.assert(
    fc.asyncProperty(
      fc.array(slot, { maxLength: 5 }),
      table,
      sectors,
      fc.nat(999),
      async (list, kind, sector, seed) => {
        const chosen = kind.kind === 'none' ? list.slice(0, 1) : list;
        const slots = chosen.map((one, i) => {
          if (one.content === 'free' && kind.kind !== 'none') return free(`f${i}`, one.size);
          if (one.content === 'none' || one.content === 'free') return part(`p${i}`, one.size);
          const more = {
            variant: one.content,
            label: `GAUGE ${i}`,
            ...(one.padding && { padding: one.padding as 'none' }),
          };
          return fatPart(`v${i}`, one.size, more);
        });
        const medium = {
          kind: 'image',
          capacity: { exact: '80 MiB' },
          logicalSector: sector,
          physicalSector: sector,
        } as const;
        const layout = layoutOn('80 MiB', slots, { table: kind, medium });
        const { placed, grain, strata, sectors: total } = place(layout);
        if (stopsAmong(check(place(layout))).length > 0) return;
        // No overlap, every start on the grain, and every sector in exactly one stratum.
        for (const one of placed) expect(one.start % grain.sectors).toBe(0);
        expect(strata.reduce((at, one) => (expect(one.start).toBe(at), one.start + one.sectors), 0)).toBe(total);
        const { placement, survey } = await builtOnNoise(layout, seed);
        expect(compare(placement, survey).filter((one) => !one.agrees)).toEqual([]);
        expect(checkSurvey(survey).filter((one) => !TOLERATED.includes(one.rule))).toEqual([]);
        built += 1;
      },
    ),
    { numRuns: cases(8, 24) },
  );
  expect(built).toBeGreaterThanOrEqual(cases(2, 6));
});

/** What a survey may say of a sound build over noise: old bytes where nobody claims them, a medium of nothing. */
const TOLERATED = ['found-place/data-between-partitions', 'found-table/no-table-and-no-volume'];

describe('the comparison notices', () => {
  const layout = layoutOn('100 MiB', [fatPart('a', '50 MiB', { label: 'TIDELOG' }), part('b', 'rest')]);
  const wrong = async (offset: number, value: number) => {
    const { placement, bytes, blocks } = await builtOnNoise(layout);
    bytes[offset] = value;
    return compare(placement, await surveyMedium(blocks, { sectorSize: 512, isFull: true }))
      .filter((one) => !one.agrees)
      .map((one) => one.fact);
  };

  test.each([
    ['a signature', 440, 0x11, ['signature', 'id', 'id']],
    ['a mark', 446, 0x80, ['mark']],
    ['a type', 450, 0x0e, ['type']],
    ['a start', 446 + 16 + 8, 1, ['first sector']],
    ['a volume id', MIB + 67, 0x99, ['volume id', 'boot sector copy']],
    ['FSInfo', MIB + 512 + 488, 0x99, ['free clusters, told']],
  ])('%s', async (_, offset, value, facts) => {
    expect(await wrong(offset, value)).toEqual(facts);
  });

  test('a missing table', async () => {
    const facts = await wrong(510, 0);
    expect(facts).toContain('table');
    expect(facts).toContain('first sector');
  });
});

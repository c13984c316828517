/** Generators of layouts for property tests (fast-check): anything that a document can say. */
import fc from 'fast-check';
import type { FileSystem, FreeSlot, Layout, PartitionSlot, RawSlot, Slot } from '@/core/layout/document';
import { ROLES } from '@/core/layout/vocabulary';
import { ATTRIBUTES } from '@/core/tables/gpt';

/** Names as people give them, and some that nobody should. */
const anyName = fc
  .oneof(
    fc.constantFrom(
      'System A',
      'Boot',
      'Log data',
      'Name: with, all',
      '"quoted"',
      ' outer ',
      'rest',
      'same as X',
      '1 GiB',
      'Gezeiten/März',
      '潮汐',
      '😀',
    ),
    fc.string({ unit: 'grapheme', minLength: 1, maxLength: 20 }),
  )
  .filter((name) => /^[^\p{Cc}\p{Zl}\p{Zp}]+$/u.test(name) && name.length <= 72);

const anyExact = fc.oneof(
  fc
    .tuple(fc.integer({ min: 1, max: 4000 }), fc.constantFrom('MiB', 'MB', 'KiB', 'sectors'))
    .map(([n, unit]) => `${n} ${unit}`),
  fc.constantFrom('1.5 GiB', '1500 × 1 MiB', '3*2M', '14,368 sec', '0.5 GB', '4 KiB'),
);

const anySize = fc.oneof(
  anyExact,
  fc.constantFrom('rest', 'rest × 3', 'rest, at least 8 MiB', 'Rest x 2, at most 1 GiB, at least 4 MiB'),
  fc.constantFrom(
    '25 %',
    '0.5%',
    '100 %',
    'memory',
    'memory × 1.5',
    'ending at 2 GiB',
    'same as System A',
    'same as "a, b"',
  ),
);

const maybe = <T>(arb: fc.Arbitrary<T>) => fc.option(arb, { nil: undefined, freq: 2 });

function defined<T extends object>(value: T): T {
  return Object.fromEntries(Object.entries(value).filter(([, one]) => one !== undefined)) as T;
}

const anyLabel = fc.oneof(
  fc.constantFrom('TIDELOG', '', 'a "b", c', 'Gaugé'),
  fc.string({ unit: 'grapheme-ascii', maxLength: 11 }),
);

const anyFileSystem = fc
  .record({
    kind: fc.constantFrom('fat', 'fat12', 'fat16', 'fat32'),
    cluster: maybe(fc.constantFrom('4 KiB', '512 B', '32 KiB')),
    rootEntries: maybe(fc.integer({ min: 1, max: 65_535 })),
    padding: maybe(fc.constantFrom('reserved', 'root directory', 'none')),
    label: maybe(anyLabel),
    volumeId: fc.constantFrom('3A1F-77C0', '0000-0001'),
  })
  .map((one) => defined(one) as FileSystem);

const placing = {
  at: maybe(fc.oneof(anyExact, fc.constant('0'))),
  grain: maybe(fc.constantFrom('64 KiB', '1 MiB', '8 sectors')),
  endsOnGrain: maybe(fc.constant(true as const)),
};

const GUID_TYPE = 'c12a7328-f81f-11d2-ba4b-00a0c93ec93b';

/** Any partition. */
const anyPartition = (id: string): fc.Arbitrary<PartitionSlot> =>
  fc
    .record({
      id: fc.constant(id),
      kind: fc.constant('partition' as const),
      name: anyName,
      role: fc.constantFrom(...ROLES),
      size: anySize,
      ...placing,
      logical: maybe(fc.constant(true as const)),
      type: maybe(fc.constantFrom('0C', '83', 'DA', GUID_TYPE)),
      partitionId: maybe(fc.constant('6d617272-616d-4c0a-8d05-7469646573aa')),
      attributes: maybe(fc.uniqueArray(fc.constantFrom(...ATTRIBUTES), { minLength: 1, maxLength: 4 })),
      active: maybe(fc.constant(true as const)),
      fileSystem: maybe(anyFileSystem),
      mount: maybe(fc.constantFrom('/', '/boot', '/srv/a,b', '/odd"path', '/x;y')),
    })
    .map((one) => defined(one) as PartitionSlot);

const anyRaw = (id: string): fc.Arbitrary<RawSlot> =>
  fc.record({
    id: fc.constant(id),
    kind: fc.constant('raw' as const),
    name: anyName,
    at: fc.oneof(anyExact, fc.constant('0')),
    length: anyExact,
  });

const anyFree = (id: string): fc.Arbitrary<FreeSlot> =>
  fc
    .record({ id: fc.constant(id), kind: fc.constant('free' as const), name: anyName, size: anySize, ...placing })
    .map((one) => defined(one) as FreeSlot);

/** Any slot of any kind. */
export function anySlot(id: string): fc.Arbitrary<Slot> {
  return fc.oneof({ weight: 4, arbitrary: anyPartition(id) }, anyRaw(id), anyFree(id));
}

const anyTable = fc.oneof(
  fc.record({
    kind: fc.constant('mbr' as const),
    signature: fc.constant('6d617272'),
    packed: maybe(fc.constant(true as const)),
  }),
  fc.record({
    kind: fc.constant('gpt' as const),
    diskId: fc.constant('6d617272-616d-4c0a-8d05-7469646573aa'),
    entries: maybe(fc.constantFrom(4, 56, 128, 200)),
    array: maybe(fc.constantFrom('1 MiB', '24 KiB')),
  }),
  fc.constant({ kind: 'none' as const }),
);

/** Any layout: most of them cannot be built, none may crash anything. */
export const anyLayout: fc.Arbitrary<Layout> = fc
  .record({
    exact: fc.constantFrom('64 MiB', '1 GiB', '40 GB', '100 sectors', '3 TiB', '7 MB'),
    sectors: fc.constantFrom([512, 512], [512, 4096], [4096, 4096]),
    kind: fc.constantFrom('image', 'card', 'disk'),
    table: anyTable,
    grain: maybe(fc.constantFrom('64 KiB', '1 MiB', 'cylinders')),
    memory: maybe(fc.constantFrom('2 GiB', '16 GiB')),
    slots: fc
      .integer({ min: 0, max: 9 })
      .chain((n) => fc.tuple(...Array.from({ length: n }, (_, i) => anySlot(`s${i}`)))),
  })
  .map(({ exact, sectors, kind, table, grain, memory, slots }): Layout => {
    const [logicalSector, physicalSector] = sectors as [512 | 4096, 512 | 4096];
    return defined({
      format: 'loess-layout',
      version: 1,
      name: 'Any',
      date: '2026-03-01T12:34:56',
      medium: { kind: kind as 'image', capacity: { exact }, logicalSector, physicalSector },
      boots: [],
      machine: memory === undefined ? undefined : { memory },
      table: defined(table) as Layout['table'],
      grain,
      slots,
    }) as Layout;
  });

/**
 * Any layout that the document allows: every kind of table, slot, content, bound, pin, grain and
 * sector size, on media from 64 KiB to 16 TiB. Sizes are drawn beside the medium, so that many of
 * the layouts can be built; all the others must be stopped.
 */
import { EXPECTED } from '@/core/filesystems/left/expected';
import fc from 'fast-check';
import type { Content, ContentOf } from '@/core/filesystems/shapes';
import type { Layout, Slot, Table } from '@/core/layout/document';
import type { Stored } from '@/core/filesystems/fields';
import {
  BIOS_LIMIT_NAMES,
  BOOTS,
  CONTAINER_TYPES,
  LOADER_BRINGERS,
  LOADERS,
  NAMED_BY,
  ROLES,
  USES,
  WRITABLE,
} from '@/core/layout/vocabulary';
import { validateLayout } from '@/core/layout/validate';
import { mediumOf } from '@/core/layout/medium-spec';
import { BOARD_FAMILIES } from '@/core/medium/boards';
import { MEDIUM_KINDS } from '@/core/medium/medium';
import { ATTRIBUTES } from '@/core/tables/gpt';
import { EXT_VERSIONS, PROFILES } from '@/core/filesystems/ext/words';
import { BLOBS, IMAGES, TREES } from './contents';

/** Leaves out what is not said. */
function defined<T extends object>(value: T): T {
  return Object.fromEntries(Object.entries(value).filter(([, one]) => one !== undefined)) as T;
}

/** Said once in `freq` times. */
const maybe = <T>(arb: fc.Arbitrary<T>, freq = 4) =>
  fc.option(arb, { nil: undefined, freq: freq - 1 }).map((one) => one);
const seldom = <T>(arb: fc.Arbitrary<T>) =>
  fc.oneof({ weight: 15, arbitrary: fc.constant(undefined) }, { weight: 1, arbitrary: arb });
const sometimes = <T>(arb: fc.Arbitrary<T>) =>
  fc.oneof({ weight: 4, arbitrary: fc.constant(undefined) }, { weight: 1, arbitrary: arb });

/** Names as people give them, and some that nobody should. */
const anyName = fc
  .oneof(
    { weight: 4, arbitrary: fc.constantFrom('System A', 'Boot', 'Log data', 'Tide archive', 'Spare', 'fsbl1') },
    {
      weight: 2,
      arbitrary: fc.constantFrom(
        'Name: with, all',
        '"quoted"',
        ' outer ',
        'rest',
        'same as X',
        '1 GiB',
        'März',
        '潮汐',
        '😀',
      ),
    },
    { weight: 1, arbitrary: fc.string({ unit: 'grapheme', minLength: 1, maxLength: 72 }) },
    { weight: 1, arbitrary: fc.string({ unit: 'binary', minLength: 1, maxLength: 12 }) },
    { weight: 1, arbitrary: fc.constantFrom('half \ud800', '\udc00 other', 'x'.repeat(35) + '😀', 'nul\u00adsoft') },
  )
  .filter((name) => /^[^\p{Cc}\p{Zl}\p{Zp}]+$/u.test(name) && name.length <= 72);

/** Labels over the whole alphabet of each kind, and beyond. */
const anyLabel = fc
  .oneof(
    { weight: 3, arbitrary: fc.constantFrom('TIDELOG', 'GAUGE_A', 'Shared tide data', 'März', 'ÄÖÜß', '') },
    { weight: 2, arbitrary: fc.string({ unit: 'grapheme-ascii', maxLength: 11 }) },
    { weight: 1, arbitrary: fc.string({ unit: 'grapheme', maxLength: 16 }) },
    {
      weight: 1,
      arbitrary: fc.constantFrom(
        'NO NAME',
        'half \ud83d',
        '  ',
        ' lead',
        'tail ',
        'å',
        'σΣ',
        '潮汐潮汐潮汐',
        'é'.repeat(11),
      ),
    },
  )
  .filter((label) => label.length <= 64 && /^[^\p{Cc}\p{Zl}\p{Zp}]*$/u.test(label));

const IDS = ['0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5', '11111111-2222-8333-8444-555555555555'] as const;
const DISK_ID = '6d617272-616d-4c0a-8d05-7469646573aa';
const NIL = '00000000-0000-0000-0000-000000000000';

/** A position or size as a part of the medium, in a unit of its own. */
const anyPart = fc.record({
  thousandth: fc.oneof(fc.integer({ min: 0, max: 1000 }), fc.integer({ min: 1, max: 60 })),
  unit: fc.constantFrom('MiB', 'MiB', 'KiB', 'sectors', 'MB', 'B'),
});
type Part = { readonly thousandth: number; readonly unit: string };
const UNITS: Readonly<Record<string, number>> = { MiB: 2 ** 20, KiB: 1024, MB: 1e6, B: 1 };

function partText({ thousandth, unit }: Part, capacity: number, sectorSize: number): string {
  const bytes = (capacity * thousandth) / 1000;
  const each = unit === 'sectors' ? sectorSize : UNITS[unit]!;
  return `${Math.max(1, Math.floor(bytes / each))} ${unit}`;
}

const FIXED = [
  ...['100 KiB', '512 KiB', '1 MiB', '1 MiB', '3 MiB', '4 MiB', '5000 sectors', '17 MiB', '18 MiB', '34 MiB', '35 MiB'],
  ...['64 MiB', '260 MiB', '300 MiB', '1.5 GiB', '3 × 1 MiB', '1 sector', '2 TiB', '5 TB'],
];

/** A size, said beside the medium. */
const anySize = fc.oneof(
  { weight: 4, arbitrary: fc.constantFrom(...FIXED) },
  { weight: 3, arbitrary: anyPart },
  { weight: 3, arbitrary: fc.constantFrom('rest', 'rest', 'rest × 3') },
  { weight: 1, arbitrary: fc.record({ most: anyPart }) },
  { weight: 1, arbitrary: fc.record({ least: anyPart }) },
  { weight: 1, arbitrary: fc.record({ least: anyPart, most: anyPart }) },
  { weight: 1, arbitrary: fc.constantFrom('rest, at most 100 KiB', 'rest, at least 1000 KiB, at most 1010 KiB') },
  { weight: 1, arbitrary: fc.constantFrom('5 %', '25 %', '0.01 %', '99.9 %', 'memory', 'memory × 0.5') },
  { weight: 1, arbitrary: fc.record({ until: anyPart }) },
  { weight: 1, arbitrary: fc.constantFrom('same as System A', 'same as Boot', 'same as "a, b"', 'its image') },
);
type Size = string | Part | { readonly least?: Part; readonly most?: Part } | { readonly until: Part };

function sizeText(size: Size, capacity: number, sectorSize: number): string {
  const say = (one: Part) => partText(one, capacity, sectorSize);
  if (typeof size === 'string') return size;
  if ('thousandth' in size) return say(size);
  if ('until' in size) return `ending at ${say(size.until)}`;
  // A least above the most is no document.
  const [least, most] = [size.least, size.most];
  const isTurned = least && most && least.thousandth > most.thousandth;
  const low = isTurned ? most : least;
  const high = isTurned ? least : most;
  return `rest${low ? `, at least ${say(low)}` : ''}${high ? `, at most ${say({ ...high, unit: low?.unit ?? high.unit })}` : ''}`;
}

const anyStored = (from: typeof BLOBS): fc.Arbitrary<Stored> =>
  fc.oneof(
    { weight: 12, arbitrary: fc.constantFrom(...from).map(({ stored }) => stored) },
    // What the document says of it is not so.
    { weight: 1, arbitrary: fc.constantFrom(...from).map(({ stored }) => ({ ...stored, size: stored.size + 512 })) },
    { weight: 1, arbitrary: fc.constantFrom(...from).map(({ stored }) => ({ ...stored, size: stored.size >> 1 })) },
  );

const filling = {
  files: sometimes(fc.constantFrom(...TREES)),
  times: seldom(fc.constant('of the files' as const)),
};
const anyVolumeId = fc.oneof(
  {
    weight: 8,
    arbitrary: fc.integer({ min: 1, max: 0xffff }).map((n) => `3A1F-${n.toString(16).toUpperCase().padStart(4, '0')}`),
  },
  { weight: 1, arbitrary: fc.constantFrom('0000-0000', 'FFFF-FFFF', '3A1F-77C0') },
);

const anyFat: fc.Arbitrary<ContentOf<'fat'>> = fc
  .record({
    kind: fc.constant('fat' as const),
    variant: fc.constantFrom(undefined, undefined, 12, 16, 32),
    cluster: sometimes(fc.constantFrom('512 B', '1 KiB', '4 KiB', '32 KiB', '64 KiB')),
    rootEntries: seldom(fc.oneof(fc.constantFrom(512, 640, 65_535, 65_520), fc.integer({ min: 1, max: 65_535 }))),
    padding: sometimes(fc.constantFrom('reserved', 'root directory', 'none')),
    label: sometimes(anyLabel),
    volumeId: anyVolumeId,
    ...filling,
    code: seldom(anyStored(BLOBS)),
  })
  .map((one) => defined(one) as ContentOf<'fat'>);

const anyExt: fc.Arbitrary<ContentOf<'ext'>> = fc
  .record({
    kind: fc.constant('ext' as const),
    version: fc.constantFrom(...EXT_VERSIONS, 'ext4' as const),
    profile: sometimes(fc.constantFrom(...PROFILES)),
    label: sometimes(anyLabel),
    uuid: fc.constantFrom(...IDS, NIL),
    // Small blocks on the largest media are hundreds of thousands of groups: seldom.
    block: fc.oneof(
      { weight: 12, arbitrary: sometimes(fc.constantFrom('4 KiB', '8 KiB', '32 KiB')) },
      { weight: 1, arbitrary: fc.constantFrom('1 KiB', '2 KiB') },
    ),
    perInode: sometimes(fc.constantFrom('1 KiB', '4 KiB', '64 KiB', '1 MiB', '128 MiB')),
    inodeSize: seldom(fc.constantFrom(128 as const, 256 as const)),
    journal: sometimes(fc.constantFrom('none', '4 MiB', '16 MiB', '512 KiB')),
    reserved: seldom(fc.constantFrom(0, 1.5, 5, 50)),
    checkDays: seldom(fc.integer({ min: 0, max: 3650 })),
    growTo: seldom(fc.constantFrom('none', '64 GiB', '1 MiB')),
    rootUser: seldom(fc.integer({ min: 0, max: 2 ** 32 - 2 })),
    rootGroup: seldom(fc.integer({ min: 0, max: 70_000 })),
    tables: seldom(fc.constant('left to the kernel' as const)),
    ...filling,
  })
  .map((one) => defined(one) as ContentOf<'ext'>);

const anyContent: fc.Arbitrary<Content> = fc.oneof(
  anyExt,
  anyExt,
  fc
    .record({
      kind: fc.constant('exfat' as const),
      cluster: sometimes(fc.constantFrom('512 B', '4 KiB', '128 KiB', '32 MiB')),
      label: sometimes(anyLabel),
      volumeId: anyVolumeId,
      ...filling,
    })
    .map((one) => defined(one) as Content),
  fc
    .record({
      kind: fc.constant('swap' as const),
      label: sometimes(anyLabel),
      uuid: fc.constantFrom(...IDS, NIL),
      pageSize: sometimes(fc.constantFrom(4096 as const, 16_384 as const, 65_536 as const)),
    })
    .map((one) => defined(one) as Content),
  fc
    .record({ stored: anyStored(IMAGES), hidden: sometimes(fc.constant('corrected' as const)) })
    .map(({ stored, hidden }): Content => defined({ kind: 'image' as const, ...stored, hidden }) as Content),
  anyStored([...BLOBS, ...IMAGES]).map((stored): Content => ({ kind: 'file', ...stored })),
  fc.constant<Content>({ kind: 'zeros' }),
  sometimes(fc.constantFrom(...EXPECTED)).map((expects): Content => defined({ kind: 'left' as const, expects })),
);

const placing = {
  at: seldom(fc.oneof(anyPart, fc.constantFrom('0', '1 MiB', '63 sectors'))),
  grain: seldom(fc.constantFrom('4 KiB', '64 KiB', '1 MiB', '16 MiB', '12 KiB')),
  endsOnGrain: seldom(fc.constant(true as const)),
};

const MBR_TYPES = ['0C', '0B', '83', '82', 'DA', 'EF', '05', '0F', '85', 'EE', '07', '06'];
const GPT_TYPES = [
  'c12a7328-f81f-11d2-ba4b-00a0c93ec93b',
  'ebd0a0a2-b9e5-4433-87c0-68b6b72699c7',
  'DEADBEEF-F81F-11D2-BA4B-00A0C93EC93B',
  NIL,
];

const anyPartition = fc.record({
  kind: fc.constant('partition' as const),
  name: anyName,
  role: fc.constantFrom(...ROLES, 'data' as const, 'data' as const),
  size: anySize,
  ...placing,
  logical: sometimes(fc.constant(true as const)),
  type: seldom(fc.constantFrom(...MBR_TYPES, ...GPT_TYPES)),
  partitionId: seldom(fc.constantFrom(...IDS, NIL, DISK_ID)),
  attributes: seldom(fc.uniqueArray(fc.constantFrom(...ATTRIBUTES), { minLength: 1, maxLength: 6 })),
  active: seldom(fc.constant(true as const)),
  inside: fc.oneof(
    { weight: 3, arbitrary: fc.constant({}) },
    { weight: 4, arbitrary: anyFat.map((content) => ({ content })) },
    { weight: 4, arbitrary: anyContent.map((content) => ({ content })) },
  ),
  mount: seldom(fc.constantFrom('/', '/boot', '/home', '/etc', '/srv/a,b', '/odd"path', '/x;y')),
  mounting: seldom(
    fc
      .record({
        by: sometimes(fc.constantFrom(...NAMED_BY)),
        options: seldom(fc.constantFrom('noatime', 'ro,nodev', 'x=')),
        pass: sometimes(fc.constantFrom(0, 1, 2)),
        mayBeAbsent: seldom(fc.boolean()),
        leftOut: seldom(fc.constant(true as const)),
      })
      .map((one) => defined(one)),
  ),
  writes: seldom(fc.subarray([...WRITABLE], { minLength: 1 })),
});

const anyRaw = fc.record({
  kind: fc.constant('raw' as const),
  name: anyName,
  at: fc.oneof(
    {
      weight: 3,
      arbitrary: fc.constantFrom('8 KiB', '32 KiB', '1 KiB', '17408 B', '128 KiB', '1 sector', '512 B', '600 B'),
    },
    { weight: 2, arbitrary: fc.constantFrom('0', '100 B', '440 B', '446 B', '300 B', '1023 B') },
    { weight: 2, arbitrary: anyPart },
  ),
  length: fc.oneof(
    {
      weight: 3,
      arbitrary: fc.constantFrom('440 B', '100 B', '512 B', '8 KiB', '480 KiB', '1016 KiB', '3000 B', '1 sector'),
    },
    { weight: 1, arbitrary: anyPart },
  ),
  blob: maybe(
    fc.record({
      stored: anyStored(BLOBS),
      from: sometimes(fc.constantFrom(0, 1, 100, 440, 512, 4096)),
      take: sometimes(fc.constantFrom(1, 100, 440, 512, 4096)),
    }),
    2,
  ),
});

const anyFree = fc.record({ kind: fc.constant('free' as const), name: anyName, size: anySize, ...placing });

const anySlotSpec = fc.oneof(
  { weight: 8, arbitrary: anyPartition },
  { weight: 1, arbitrary: anyRaw },
  { weight: 1, arbitrary: anyFree },
);
type SlotSpec = typeof anySlotSpec extends fc.Arbitrary<infer T> ? T : never;

function slotOf(spec: SlotSpec, id: string, capacity: number, sectorSize: number): Slot {
  const place = (at: string | Part | undefined) =>
    at === undefined || typeof at === 'string' ? at : at.thousandth === 0 ? '0' : partText(at, capacity, sectorSize);
  if (spec.kind === 'raw') {
    const { blob, at, length, ...rest } = spec;
    const { stored, ...piece } = blob ?? {};
    return defined({
      id,
      ...rest,
      at: place(at)!,
      length: place(length)! === '0' ? '1 sector' : place(length)!,
      blob: stored && defined({ ...stored, ...piece }),
    }) as Slot;
  }
  const size = sizeText(spec.size as Size, capacity, sectorSize);
  if (spec.kind === 'free') return defined({ id, ...spec, size, at: place(spec.at) }) as Slot;
  const { inside, ...rest } = spec;
  return defined({ id, ...rest, size, at: place(spec.at), ...inside }) as Slot;
}

/** Any slot, on a medium of 1 GiB. */
export const anySlot = (id: string): fc.Arbitrary<Slot> =>
  anySlotSpec.map((spec) => {
    const slot = slotOf(spec, id, 2 ** 30, 512);
    // As the document keeps it: GUIDs in lower case.
    return slot.kind === 'partition' && slot.type && slot.type.length > 2
      ? { ...slot, type: slot.type.toLowerCase() }
      : slot;
  });

const anyTable: fc.Arbitrary<Table> = fc.oneof(
  {
    weight: 4,
    arbitrary: fc
      .record({
        kind: fc.constant('mbr' as const),
        signature: fc.constantFrom('6d617272', '6d617272', '00000000', 'ffffffff'),
        packed: sometimes(fc.constant(true as const)),
        containerType: sometimes(fc.constantFrom(...CONTAINER_TYPES)),
        code: seldom(anyStored(BLOBS)),
      })
      .map((one) => defined(one) as Table),
  },
  {
    weight: 5,
    arbitrary: fc
      .record({
        kind: fc.constant('gpt' as const),
        diskId: fc.oneof(
          { weight: 12, arbitrary: fc.constant(DISK_ID) },
          { weight: 1, arbitrary: fc.constantFrom(NIL, IDS[0]) },
        ),
        entries: seldom(fc.oneof(fc.constantFrom(4, 56, 128, 200, 1024), fc.integer({ min: 4, max: 1024 }))),
        array: seldom(fc.constantFrom('1 MiB', '24 KiB', '5000 B', '20 MiB', '2 sectors')),
        hybrid: seldom(fc.uniqueArray(fc.constantFrom('s0', 's1', 's2', 's3'), { minLength: 1, maxLength: 3 })),
        markProtective: seldom(fc.constant(true as const)),
        code: seldom(anyStored(BLOBS)),
      })
      .map((one) => defined(one) as Table),
  },
  { weight: 2, arbitrary: fc.constant<Table>({ kind: 'none' }) },
);

const EXACT = [
  ...[
    '64 KiB',
    '100 sectors',
    '160 KiB',
    '360 KiB',
    '720 KiB',
    '1440 KiB',
    '1 MiB',
    '2 MiB',
    '4 MiB',
    '7 MB',
    '18 MiB',
  ],
  ...['64 MiB', '64 MiB', '300 MiB', '300 MiB', '1 GiB', '1 GiB', '5 GiB', '40 GB', '120034123776 B', '600 GiB'],
  ...['2 TiB', '4294967296 sectors', '3 TiB', '8 TB', '16 TiB', '20000000000 sectors', '1000000000000 B'],
];
const anyCapacity = fc.oneof(
  { weight: 5, arbitrary: fc.constantFrom(...EXACT).map((exact) => ({ exact })) },
  { weight: 2, arbitrary: fc.integer({ min: 1, max: 4000 }).map((n) => ({ exact: `${n} MiB` })) },
  { weight: 1, arbitrary: fc.integer({ min: 128, max: 2 ** 22 }).map((n) => ({ exact: `${n} sectors` })) },
  { weight: 1, arbitrary: fc.constantFrom('64 MB', '8 GB', '32 GB', '256 GB', '8 TB').map((nominal) => ({ nominal })) },
  { weight: 1, arbitrary: fc.integer({ min: 50, max: 100 }).map((floor) => ({ nominal: '16 GB', floor })) },
);

const anyMachine = fc.record({
  use: sometimes(fc.constantFrom(...USES)),
  memory: fc.constantFrom(undefined, '2 GiB', '256 MiB', '16 GiB'),
  hibernates: seldom(fc.constant(true as const)),
  esp: sometimes(fc.constantFrom('elsewhere' as const, 'kept' as const)),
  root: sometimes(fc.constant('elsewhere' as const)),
  loader: sometimes(fc.constantFrom(...LOADERS)),
  loaderFrom: sometimes(fc.constantFrom(...LOADER_BRINGERS)),
  biosLimit: seldom(fc.constantFrom(...BIOS_LIMIT_NAMES)),
  board: seldom(fc.constantFrom(...BOARD_FAMILIES).map((family) => ({ family }))),
  pageSize: seldom(fc.constantFrom(4096 as const, 65_536 as const)),
});

/** A way to start; `root` is counted among the partitions. */
const anyEntry = fc.record({
  root: fc.nat(40),
  rootBy: seldom(fc.constantFrom(...NAMED_BY)),
  kernel: fc.constantFrom('/vmlinuz', '/a/b', '/Image'),
  initrd: sometimes(fc.constant(['/initrd.img'])),
  options: seldom(fc.constantFrom('quiet', 'console=ttyS0 "a b"', 'x='.repeat(200))),
});

const anySpec = fc.record({
  kind: fc.constantFrom(...MEDIUM_KINDS),
  capacity: anyCapacity,
  sectors: fc.constantFrom([512, 512], [512, 512], [512, 4096], [4096, 4096]) as fc.Arbitrary<[512 | 4096, 512 | 4096]>,
  writeUnit: seldom(fc.constantFrom('64 KiB', '4 MiB', '12 KiB')),
  optimalIo: seldom(fc.constantFrom('1 MiB', '33553920 B', '64 KiB')),
  boots: fc.oneof({ weight: 4, arbitrary: fc.constant([]) }, { weight: 1, arbitrary: fc.subarray([...BOOTS]) }),
  machine: anyMachine,
  table: anyTable,
  entries: seldom(fc.array(anyEntry, { minLength: 1, maxLength: 3 })),
  grain: seldom(fc.constantFrom('4 KiB', '64 KiB', '1 MiB', '4 MiB', 'cylinders', '1 sector')),
  slots: fc.oneof(
    { weight: 30, arbitrary: fc.array(anySlotSpec, { minLength: 1, maxLength: 1 }) },
    { weight: 60, arbitrary: fc.array(anySlotSpec, { minLength: 0, maxLength: 6 }) },
    { weight: 10, arbitrary: fc.array(anySlotSpec, { minLength: 0, maxLength: 40 }) },
    // As many as a layout may have, of a few kinds.
    {
      weight: 1,
      arbitrary: fc
        .tuple(fc.array(anySlotSpec, { minLength: 1, maxLength: 6 }), fc.integer({ min: 120, max: 256 }))
        .map(([some, n]) => Array.from({ length: n }, (_, i) => some[i % some.length]!)),
    },
  ),
});

function layoutOf(spec: typeof anySpec extends fc.Arbitrary<infer T> ? T : never): Layout {
  const [logicalSector, physicalSector] = spec.sectors;
  const medium = defined({
    kind: spec.kind,
    capacity: spec.capacity,
    logicalSector,
    physicalSector,
    writeUnit: spec.writeUnit,
    optimalIo: spec.optimalIo,
  }) as Layout['medium'];
  const { capacity } = mediumOf(medium);
  const slots = spec.slots.map((one, i) => slotOf(one, `s${i}`, capacity, logicalSector));
  const { table } = spec;
  const isThere = (id: string) => slots.some((slot) => slot.id === id && slot.kind === 'partition');
  const hybrid = table.kind === 'gpt' ? table.hybrid?.filter(isThere) : undefined;
  const machine = defined(spec.machine);
  const partitions = slots.filter((slot) => slot.kind === 'partition');
  const entries =
    partitions.length === 0
      ? undefined
      : spec.entries?.map(({ root, ...one }, i) =>
          defined({ ...one, id: `e${i}`, title: `Way ${i}`, root: partitions[root % partitions.length]!.id }),
        );
  return defined({
    format: 'loess-layout',
    version: 2,
    name: 'Any',
    date: '2026-03-01T12:34:56',
    medium,
    boots: spec.boots,
    machine: Object.keys(machine).length > 0 ? machine : undefined,
    table: table.kind === 'gpt' ? (defined({ ...table, hybrid: hybrid?.length ? hybrid : undefined }) as Table) : table,
    grain: spec.grain,
    slots,
    entries: entries?.length ? entries : undefined,
  }) as Layout;
}

/** Any layout: many can be built, none may crash anything. */
export const anyLayout: fc.Arbitrary<Layout> = anySpec.map(layoutOf).map((layout) => {
  const read = validateLayout(JSON.parse(JSON.stringify(layout)));
  // What the document does not allow is no layout: what is left is one.
  return read.ok ? read.value : { ...layout, slots: [], table: { kind: 'none' as const } };
});

/** Forty layouts of every shape that a table can have: chains, moved arrays, odd names, two tables at once. */
import type { Layout, PartitionSlot, Slot } from '@/core/layout/document';
import { ATTRIBUTES } from '@/core/tables/gpt';

const DISK_ID = '6d617272-616d-4c0a-8d05-7469646573';
const NAMES = [
  'Tide log',
  'Gezeitenprotokoll März',
  '潮汐記録',
  'Ω≈ç√',
  'a',
  'Thirty-six units of UTF-16, exactly:',
  'emoji 🌊🌊 pair',
  'quote "x" and \\',
  ' leading blank',
  'ends with dot.',
];
const SIZES = ['1 MiB', '3 MiB', '5000 sectors', '7 MB', '2 %', '12 MiB'];

/** Numbers that look random and are the same every time. */
function chance(seed: number): () => number {
  let state = seed * 7919 + 1;
  return () => {
    state = (Math.imul(state, 1_103_515_245) + 12_345) >>> 0;
    return (state >>> 8) / 2 ** 24;
  };
}

function document(
  name: string,
  sectorSize: 512 | 4096,
  table: Layout['table'],
  slots: Slot[],
  more: Partial<Layout> = {},
): Layout {
  return {
    format: 'loess-layout',
    version: 2,
    name,
    date: '2026-03-01T12:00:00',
    medium: { kind: 'image', capacity: { exact: '2 GiB' }, logicalSector: sectorSize, physicalSector: sectorSize },
    boots: [],
    table,
    slots,
    ...more,
  };
}

const partition = (id: string, more: Partial<PartitionSlot>): PartitionSlot => ({
  id,
  kind: 'partition',
  name: id,
  role: 'data',
  size: '3 MiB',
  ...more,
});

/** An MBR with so many logical partitions, primaries around them, and every way to write the chain. */
function chained(logicals: number, seed: number): Layout {
  const next = chance(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(next() * list.length)]!;
  const sectorSize = seed % 4 === 3 ? 4096 : 512;
  const ahead = Math.floor(next() * 3);
  const behind = logicals === 0 ? 2 : Math.floor(next() * (4 - ahead));
  const of = (id: string, more: Partial<PartitionSlot> = {}) =>
    partition(id, { size: pick(SIZES), type: pick(['83', '07', 'DA', '8E']), ...more });
  const slots: Slot[] = [
    ...Array.from({ length: ahead }, (_, i) => of(`p${i}`, i === 0 ? { active: true } : {})),
    ...Array.from({ length: logicals }, (_, i) =>
      of(`l${i}`, { logical: true, ...(i === logicals - 1 && behind === 0 && { size: 'rest' }) }),
    ),
    ...(behind > 0 ? [{ id: 'gap', kind: 'free', name: 'gap', size: '9 MiB' } as const] : []),
    ...Array.from({ length: behind }, (_, i) => of(`q${i}`)),
  ];
  const table = {
    kind: 'mbr',
    signature: (0x6d610000 + seed).toString(16),
    ...(seed % 3 === 1 && { packed: true as const }),
    ...(seed % 5 === 2 && { containerType: '85' as const }),
  } as const;
  const grain = seed % 7 === 5 && sectorSize === 512 ? { grain: 'cylinders' } : {};
  return document(`MBR with ${logicals} logical`, sectorSize, table, slots, grain);
}

/** A GPT with odd names and attributes; its array short, long or moved; some partitions in an MBR too. */
function gpt(seed: number): Layout {
  const next = chance(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(next() * list.length)]!;
  const sectorSize = seed % 3 === 2 ? 4096 : 512;
  const count = 1 + Math.floor(next() * 9);
  const shape = [
    {},
    { entries: sectorSize === 512 ? 56 : 32 },
    { array: '1008 KiB' },
    { entries: 200 },
    { hybrid: ['g0'] },
    { markProtective: true as const },
    { entries: 12, array: '512 KiB' },
  ][seed % 7]!;
  const slots: Slot[] = [
    ...('array' in shape
      ? [{ id: 'loader', kind: 'raw', name: 'Loader', at: '8 KiB', length: '400 KiB' } as const]
      : []),
    ...Array.from({ length: count }, (_, i) =>
      partition(`g${i}`, {
        name: NAMES[(seed + i) % NAMES.length]!,
        size: pick(SIZES),
        ...(next() < 0.6 && { attributes: ATTRIBUTES.filter(() => next() < 0.4) }),
        ...(i === 1 && { at: '777 MiB' }),
      }),
    ),
  ];
  const table = { kind: 'gpt', diskId: `${DISK_ID}${seed.toString(16).padStart(2, '0')}`, ...shape } as const;
  return document(`GPT ${seed}`, sectorSize, table as Layout['table'], slots);
}

/** MBR with 0 to 12 logical partitions, each number once and some again, and as many GPTs. */
export const SHAPES: readonly Layout[] = [
  ...Array.from({ length: 20 }, (_, i) => chained(i <= 12 ? i : i - 12, i)),
  ...Array.from({ length: 20 }, (_, i) => gpt(i)),
];

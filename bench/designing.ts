/** Placing and checking what people design: random layouts, growth with slots and media, fit, and the Start. */
import { fitOn } from '@/core/advice/fit';
import { propose } from '@/core/advice/propose';
import { check } from '@/core/findings/layout/check';
import type { Layout, Slot } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import { startCombinations } from '@tests/start-combinations';
import { median, ratios, type Row } from './row';

const FRESH = { signature: '6d617272', diskId: '6d617272-616d-4c0a-8d05-7469646573aa', date: '2026-03-01T12:00:00' };

/** All answers of the Start, each proposed, placed and checked; seconds for all together. */
function benchStart(): Row {
  const answers = startCombinations();
  let slots = 0;
  const runs = Array.from({ length: 3 }, () => {
    const started = performance.now();
    slots = answers.reduce((sum, one) => sum + propose(one, FRESH).layout.slots.length, 0);
    return (performance.now() - started) / 1000;
  });
  return {
    name: 'start: all combinations proposed, placed and checked',
    runs,
    limit: 10,
    unit: 's',
    detail: `${answers.length} combinations, ${slots} slots`,
  };
}

/** Numbers that look random and are the same every time. */
function chance(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1_103_515_245) + 12_345) >>> 0;
    return state / 2 ** 32;
  };
}

const SIZES = ['rest', 'rest, at least 1 GiB', '512 MiB', '2 GiB', '10 %', 'memory', '300 MB'];

function randomLayout(seed: number): Layout {
  const next = chance(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(next() * list.length)]!;
  const isMbr = next() < 0.5;
  const count = 3 + Math.floor(next() * 12);
  const slots = Array.from({ length: count }, (_, i): Slot => {
    if (i === 0 && isMbr) return { id: 'raw', kind: 'raw', name: 'Loader', at: '8 KiB', length: '504 KiB' };
    if (next() < 0.1) return { id: `f${i}`, kind: 'free', name: `Free ${i}`, size: '256 MiB' };
    const size = i > 2 && next() < 0.1 ? 'same as Slot 1' : pick(SIZES);
    return {
      id: `s${i}`,
      kind: 'partition',
      name: `Slot ${i}`,
      role: pick(['data', 'system', 'boot', 'swap'] as const),
      size,
      ...(isMbr && i > 3 && { logical: true as const }),
      ...(next() < 0.4 && { content: { kind: 'fat' as const, label: `TIDE ${i}`, volumeId: '7A1D-10C5' } }),
    };
  });
  return {
    format: 'loess-layout',
    version: 2,
    name: `Random ${seed}`,
    date: FRESH.date,
    medium: {
      kind: 'disk',
      capacity: { nominal: pick(['120 GB', '500 GB', '2000 GB']) },
      logicalSector: 512,
      physicalSector: 4096,
    },
    boots: [pick(['uefi', 'bios', 'board'] as const)],
    machine: { memory: '8 GiB' },
    table: isMbr ? { kind: 'mbr', signature: FRESH.signature } : { kind: 'gpt', diskId: FRESH.diskId },
    slots,
  };
}

function benchRandom(): Row {
  const layouts = Array.from({ length: 1000 }, (_, i) => randomLayout(i + 1));
  const run = () =>
    layouts.map((layout) => {
      const started = performance.now();
      check(place(layout));
      return performance.now() - started;
    });
  run();
  const times = run();
  return {
    name: 'place and check 1,000 random layouts, median',
    runs: times,
    limit: 0.3,
    unit: 'ms',
    detail: `slowest ${Math.max(...times).toFixed(2)} ms`,
  };
}

/** A layout of so many partitions on a disk of this size. */
function disk(slots: number, nominal: string): Layout {
  return {
    ...randomLayout(1),
    medium: { kind: 'disk', capacity: { nominal }, logicalSector: 512, physicalSector: 4096 },
    table: { kind: 'gpt', diskId: FRESH.diskId },
    boots: [],
    slots: Array.from({ length: slots }, (_, i) => ({
      id: `s${i}`,
      kind: 'partition' as const,
      name: `Slot ${i}`,
      role: 'data' as const,
      size: i % 4 === 0 ? 'rest' : '40 MiB',
      ...(i % 2 === 0 && {
        content: {
          kind: 'fat' as const,
          variant: 32 as const,
          label: `TIDE ${i}`,
          volumeId: `7A1D-${(4096 + i).toString(16).toUpperCase()}`,
        },
      }),
    })),
  };
}

/** Milliseconds for each of two layouts, measured in turns so that both meet the same machine. */
function inTurns(one: Layout, other: Layout): [number[], number[]] {
  const times: [number[], number[]] = [[], []];
  for (let i = 0; i < 1200; i++)
    [one, other].forEach((layout, which) => {
      const started = performance.now();
      check(place(layout));
      if (i >= 200) times[which]!.push(performance.now() - started);
    });
  return times;
}

function benchGrowth(): Row[] {
  const [few, many] = inTurns(disk(16, '500 GB'), disk(128, '500 GB'));
  const [small, large] = inTurns(disk(24, '80 GB'), disk(24, '8000 GB'));
  return [
    {
      name: 'place and check: 128 slots / 16 slots, a slot',
      runs: ratios(many, few).map((one) => (one * 16) / 128),
      limit: 1.2,
      unit: '×',
      detail: `${median(few).toFixed(3)} and ${median(many).toFixed(3)} ms`,
    },
    {
      name: 'place and check: 8 TB disk / 80 GB disk',
      runs: ratios(large, small),
      limit: 1.2,
      unit: '×',
      detail: `${median(small).toFixed(3)} and ${median(large).toFixed(3)} ms`,
    },
  ];
}

/** One layout on twelve media. */
function benchFit(): Row {
  const layout = randomLayout(7);
  const media = [80, 120, 250, 320, 500, 750, 1000, 2000, 3000, 4000, 6000, 8000].map((gigabytes) => ({
    ...layout.medium,
    capacity: { nominal: `${gigabytes} GB` },
  }));
  const times = Array.from({ length: 60 }, () => {
    const started = performance.now();
    fitOn(layout, media);
    return performance.now() - started;
  });
  return {
    name: 'fit on 12 media, median',
    runs: times.slice(10),
    limit: 10,
    unit: 'ms',
    detail: `${layout.slots.length} slots, slowest ${Math.max(...times.slice(10)).toFixed(1)} ms`,
  };
}

export function benchDesigning(): Row[] {
  return [benchFit(), benchRandom(), ...benchGrowth(), benchStart()];
}

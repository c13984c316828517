/** Placing and checking a layout of twelve slots. */
import { check } from '@/core/findings/layout/check';
import type { Layout, Slot } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import { quickly } from './options';
import type { Row } from './row';

function twelveSlots(): Layout {
  const slots = Array.from({ length: 12 }, (_, i): Slot => {
    if (i === 0) return { id: 'raw', kind: 'raw', name: 'Loader', at: '8 KiB', length: '1016 KiB' };
    if (i === 6) return { id: 'free', kind: 'free', name: 'Spare', size: '1 GiB' };
    const size = i % 4 === 0 ? 'rest, at least 1 GiB' : `${i} GiB`;
    const content = { kind: 'fat', variant: 32, label: `GAUGE ${i}`, volumeId: '7A1D-10C5' } as const;
    return {
      id: `s${i}`,
      kind: 'partition',
      name: `Slot ${i}`,
      role: 'data',
      size,
      ...(i % 2 === 0 && { content }),
    };
  });
  return {
    format: 'loess-layout',
    version: 2,
    name: 'Twelve slots',
    date: '2026-03-01T12:00:00',
    medium: { kind: 'card', capacity: { nominal: '128 GB' }, logicalSector: 512, physicalSector: 512 },
    boots: ['board'],
    table: { kind: 'mbr', signature: '6d617272' },
    slots,
  };
}

/** A GPT with as many partitions as it holds, FAT volumes among them. */
function manySlots(): Layout {
  const slots = Array.from({ length: 128 }, (_, i): Slot => {
    const digits = i.toString(16).toUpperCase().padStart(4, '0');
    const content = { kind: 'fat', label: `GAUGE ${i}`, volumeId: `7A1D-${digits}` } as const;
    const size = i % 8 === 0 ? 'rest, at least 1 GiB' : `${(i % 5) + 1} GiB`;
    return {
      id: `s${i}`,
      kind: 'partition',
      name: `Slot ${i}`,
      role: 'data',
      size,
      ...(i % 2 === 0 && { content }),
    };
  });
  return {
    ...twelveSlots(),
    medium: { kind: 'disk', capacity: { nominal: '2000 GB' }, logicalSector: 512, physicalSector: 4096 },
    table: { kind: 'gpt', diskId: '6d617272-616d-4c0a-8d05-7469646573aa' },
    slots,
  };
}

/** So many that the time of the compiler, about a second, does not decide the median. */
const RUNS = quickly(3000, 10_000);

function placed(name: string, layout: Layout, limit: number): Row {
  const times: number[] = [];
  for (let i = 0; i < RUNS; i++) {
    const started = performance.now();
    check(place(layout));
    times.push(performance.now() - started);
  }
  const detail = 'a document as it is opened, to its findings';
  return { name, runs: times, limit, unit: 'ms', detail };
}

export function benchPlacing(): Row[] {
  return [
    placed('place and check 12 slots, median', twelveSlots(), 0.3),
    placed('place and check 128 slots, median', manySlots(), 2),
  ];
}

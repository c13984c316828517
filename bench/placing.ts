/** Placing and checking a layout of twelve slots. */
import { check } from '@/core/findings/check';
import type { Layout, Slot } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import { median, type Row } from './row';

function twelveSlots(): Layout {
  const slots = Array.from({ length: 12 }, (_, i): Slot => {
    if (i === 0) return { id: 'raw', kind: 'raw', name: 'Loader', at: '8 KiB', length: '1016 KiB' };
    if (i === 6) return { id: 'free', kind: 'free', name: 'Spare', size: '1 GiB' };
    const size = i % 4 === 0 ? 'rest, at least 1 GiB' : `${i} GiB`;
    const fileSystem = { kind: 'fat32', label: `GAUGE ${i}`, volumeId: '7A1D-10C5' } as const;
    return {
      id: `s${i}`,
      kind: 'partition',
      name: `Slot ${i}`,
      role: 'data',
      size,
      ...(i % 2 === 0 && { fileSystem }),
    };
  });
  return {
    format: 'loess-layout',
    version: 1,
    name: 'Twelve slots',
    date: '2026-03-01T12:00:00',
    medium: { kind: 'card', capacity: { nominal: '128 GB' }, logicalSector: 512, physicalSector: 512 },
    boots: ['board'],
    table: { kind: 'mbr', signature: '6d617272' },
    slots,
  };
}

export function benchPlacing(): Row[] {
  const layout = twelveSlots();
  const times: number[] = [];
  for (let i = 0; i < 3000; i++) {
    const started = performance.now();
    check(place(layout));
    times.push(performance.now() - started);
  }
  return [
    {
      name: 'place and check 12 slots, median',
      measured: median(times),
      limit: 1,
      unit: 'ms',
      detail: `${times.length} runs, slowest ${Math.max(...times).toFixed(2)} ms`,
    },
  ];
}

import type { Layout } from '@/core/layout/document';

/** A medium to begin with; everything about it can be changed later. */
export interface Start {
  readonly name: string;
  readonly text: string;
  readonly medium: Layout['medium'];
  readonly boots: Layout['boots'];
}

const SECTORS = { logicalSector: 512, physicalSector: 512 } as const;

export const STARTS: readonly Start[] = [
  {
    name: 'Card for a board',
    text: 'any 8 GB card, started by a boot ROM',
    medium: { kind: 'card', capacity: { nominal: '8 GB' }, ...SECTORS },
    boots: ['board'],
  },
  {
    name: 'Stick',
    text: 'any 32 GB stick, to carry data',
    medium: { kind: 'stick', capacity: { nominal: '32 GB' }, ...SECTORS },
    boots: [],
  },
  {
    name: 'Disk of a BIOS machine',
    text: 'a 500 GB disk, started by a BIOS',
    medium: { kind: 'disk', capacity: { nominal: '500 GB' }, logicalSector: 512, physicalSector: 4096 },
    boots: ['bios'],
  },
  {
    name: 'Image file',
    text: 'exactly 1 GiB, to try things out',
    medium: { kind: 'image', capacity: { exact: '1 GiB' }, ...SECTORS },
    boots: [],
  },
];

/** An empty layout on the medium of a start. Signature and date come in: the core knows no chance and no clock. */
export function emptyLayout(start: Start, signature: string, date: string): Layout {
  return {
    format: 'loess-layout',
    version: 1,
    name: start.name,
    date,
    medium: start.medium,
    boots: start.boots,
    table: { kind: 'mbr', signature },
    slots: [],
  };
}

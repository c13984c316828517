import type { Layout } from '@/core/layout/document';
import { derivedVolumeId } from '@/core/layout/edits';
import type { TableKind } from '@/core/layout/vocabulary';

/** A medium to begin with; everything about it can be changed later. */
export interface Start {
  readonly name: string;
  readonly text: string;
  readonly medium: Layout['medium'];
  readonly boots: Layout['boots'];
  readonly table: TableKind;
}

const SECTORS = { logicalSector: 512, physicalSector: 512 } as const;

export const STARTS: readonly Start[] = [
  {
    name: 'Card for a board',
    text: 'any 8 GB card, started by a boot ROM',
    medium: { kind: 'card', capacity: { nominal: '8 GB' }, ...SECTORS },
    boots: ['board'],
    table: 'mbr',
  },
  {
    name: 'Stick',
    text: 'any 32 GB stick, to carry data',
    medium: { kind: 'stick', capacity: { nominal: '32 GB' }, ...SECTORS },
    boots: [],
    table: 'mbr',
  },
  {
    name: 'Disk of a UEFI machine',
    text: 'a 500 GB solid-state disk with a GPT, started by UEFI',
    medium: { kind: 'solid-state', capacity: { nominal: '500 GB' }, logicalSector: 512, physicalSector: 4096 },
    boots: ['uefi'],
    table: 'gpt',
  },
  {
    name: 'Disk of a BIOS machine',
    text: 'a 500 GB disk, started by a BIOS',
    medium: { kind: 'disk', capacity: { nominal: '500 GB' }, logicalSector: 512, physicalSector: 4096 },
    boots: ['bios'],
    table: 'mbr',
  },
  {
    name: 'Card of an old instrument',
    text: 'a 64 MB card, one FAT volume without a table',
    medium: { kind: 'card', capacity: { nominal: '64 MB' }, ...SECTORS },
    boots: [],
    table: 'none',
  },
  {
    name: 'Image file',
    text: 'exactly 1 GiB, to try things out',
    medium: { kind: 'image', capacity: { exact: '1 GiB' }, ...SECTORS },
    boots: [],
    table: 'mbr',
  },
];

/** Ids and date for a new layout: they come in, because the core knows no chance and no clock. */
export interface Fresh {
  readonly signature: string;
  readonly diskId: string;
  readonly date: string;
}

function tableOf(kind: TableKind, { signature, diskId }: Fresh): Layout['table'] {
  if (kind === 'mbr') return { kind, signature };
  return kind === 'gpt' ? { kind, diskId } : { kind };
}

/** An empty layout on the medium of a start; without a table, with the one volume that it is. */
export function emptyLayout(start: Start, fresh: Fresh): Layout {
  const layout: Layout = {
    format: 'loess-layout',
    version: 1,
    name: start.name,
    date: fresh.date,
    medium: start.medium,
    boots: start.boots,
    table: tableOf(start.table, fresh),
    slots: [],
  };
  if (start.table !== 'none') return layout;
  const fileSystem = { kind: 'fat', volumeId: derivedVolumeId(layout, 'volume') } as const;
  return {
    ...layout,
    slots: [{ id: 'volume', kind: 'partition', name: 'Volume', role: 'data', size: 'rest', fileSystem }],
  };
}

/** Media of a made-up machine, for tests of what is handed over. */
import type { MachineMedium } from '@/core/naming/nameable';
import type { Layout, PartitionSlot } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import { fatPart, GPT_TABLE, layoutOn, part } from './samples';

/** A layout, placed, under its name. */
export const mediumOf = (layout: Layout): MachineMedium => ({ name: layout.name, placement: place(layout) });

const ext = (uuid: string, more: object = {}): PartitionSlot['content'] => ({
  kind: 'ext',
  version: 'ext4',
  uuid,
  ...more,
});

/** The disk of a harbour office: made here but for the archive, which its system makes XFS. */
export const OFFICE_DISK: Layout = layoutOn(
  '20 GiB',
  [
    fatPart(
      'esp',
      '300 MiB',
      { volumeId: '7A1D-E5B0', label: 'ESP' },
      { name: 'ESP', role: 'esp', mount: '/boot/efi' },
    ),
    part('system', '8 GiB', {
      name: 'System',
      role: 'system',
      mount: '/',
      partitionId: 'a3f1c2d4-5b6e-4f70-8192-a3b4c5d6e7f8',
      content: ext('0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5', { label: 'quay-system' }),
    }),
    part('home', '4 GiB', {
      name: 'Home',
      mount: '/home',
      content: ext('1d7c2f0b-63de-4c1f-8b46-8b31c3f4d5e6', { label: 'quay-home' }),
    }),
    part('swap', '1 GiB', {
      name: 'Swap',
      role: 'swap',
      content: { kind: 'swap', uuid: '2e8d3a1c-74ef-4d20-9c57-9c42d4a5e6f7' },
    }),
    part('archive', 'rest', {
      name: 'Tide archive',
      mount: '/srv/archive',
      partitionId: 'b4a2d3e5-6c7f-4081-92a3-b4c5d6e7f809',
      content: { kind: 'left', expects: 'xfs' },
    }),
  ],
  {
    name: 'Harbour office',
    medium: { kind: 'solid-state', capacity: { exact: '20 GiB' }, logicalSector: 512, physicalSector: 4096 },
    machine: { use: 'server' },
    boots: ['uefi'],
    table: GPT_TABLE,
  },
);

/** The stick that the harbour office exchanges files with. */
export const SHARE_STICK: Layout = layoutOn(
  '4 GiB',
  [fatPart('share', 'rest', { volumeId: '51A0-0C5E', label: 'TIDESHARE' }, { name: 'Share', mount: '/srv/share' })],
  {
    name: 'Share stick',
    medium: { kind: 'stick', capacity: { exact: '4 GiB' }, logicalSector: 512, physicalSector: 512 },
    table: { kind: 'mbr', signature: '51a00c5e' },
  },
);

/** Machines whose mount tables a real system uses: every table, kind of name, file system and option that is written here. */
import { fatPart, GPT_TABLE, layoutOn, NO_TABLE, part } from '@tests/samples';
import { OFFICE_DISK, SHARE_STICK } from '@tests/machine-media';
import type { Layout, PartitionSlot } from '@/core/layout/document';

type Content = NonNullable<PartitionSlot['content']>;

let ids = 0;
/** Ids that no two volumes share, in the order in which they are asked for. */
const uuid = () => `5a17c0a5-0000-4000-8000-${String((ids += 1)).padStart(12, '0')}`;
const ext = (label: string, more: object = {}): Content => ({
  kind: 'ext',
  version: 'ext4',
  uuid: uuid(),
  label,
  ...more,
});
const exfat = (label: string): Content => ({
  kind: 'exfat',
  volumeId: `5A17-${String((ids += 1)).padStart(4, '0')}`,
  label,
});
const fat = (label: string, variant: 12 | 16 | 32 = 32) => ({
  volumeId: `5A17-${String((ids += 1)).padStart(4, '0')}`,
  label,
  variant,
});
const swap = (label: string): Content => ({ kind: 'swap', uuid: uuid(), label });
const gpt = (n: number) => ({ ...GPT_TABLE, diskId: `6d617272-616d-4c0a-8d05-${String(n).padStart(12, '0')}` });
const sectors4096 = (exact: string) =>
  ({ kind: 'image', capacity: { exact }, logicalSector: 4096, physicalSector: 4096 }) as const;
const card = (exact: string) =>
  ({ kind: 'card', capacity: { exact }, logicalSector: 512, physicalSector: 512 }) as const;

/** The office disk with an archive that is made here too. */
const OFFICE: Layout = {
  ...OFFICE_DISK,
  slots: OFFICE_DISK.slots.map((slot) =>
    slot.id === 'archive' && slot.kind === 'partition'
      ? { ...slot, mounting: { by: 'PARTUUID' }, content: ext('tide-archive', { version: 'ext2' }) }
      : slot,
  ),
};

/** A machine by its name: its media, of which BusyBox reads the table where the name says so. */
export const MACHINES: Readonly<Record<string, readonly Layout[]>> = {
  office: [OFFICE, SHARE_STICK],
  logger: [
    layoutOn(
      '400 MiB',
      [
        fatPart('boot', '48 MiB', fat('LOGGER'), { role: 'boot', mount: '/boot', active: true }),
        part('a', '64 MiB', { role: 'system', mount: '/', content: ext('system-a', { profile: 'old loaders' }) }),
        part('b', '64 MiB', { role: 'system', content: ext('system-b') }),
        part('log', '64 MiB', { mount: '/var/tide', logical: true, content: exfat('tidelog') }),
        part('data', 'rest', {
          mount: '/var/tide/archive',
          logical: true,
          content: ext('archive', { version: 'ext3' }),
        }),
      ],
      { name: 'Logger', medium: card('400 MiB'), table: { kind: 'mbr', signature: '5a170001' } },
    ),
  ],
  vault: [
    layoutOn(
      '600 MiB',
      [
        fatPart('esp', '300 MiB', fat('VAULT ESP'), { role: 'esp', mount: '/efi' }),
        part('root', '128 MiB', { role: 'system', mount: '/', content: ext('vault') }),
        part('more', 'rest', { mount: '/srv/vault', content: ext('more'), attributes: ['read-only'] }),
      ],
      { name: 'Vault', medium: sectors4096('600 MiB'), table: gpt(1) },
    ),
  ],
  labels: [
    layoutOn(
      '200 MiB',
      [
        part('root', '64 MiB', { role: 'system', mount: '/', mounting: { by: 'LABEL' }, content: ext('tide \\ root') }),
        part('home', '64 MiB', { mount: '/home', mounting: { by: 'LABEL' }, content: ext('Köln') }),
        fatPart('share', '40 MiB', fat('TIDE SHARE'), { mount: '/home/share', mounting: { by: 'LABEL' } }),
      ],
      { name: 'Labels', table: gpt(2) },
    ),
  ],
  'partition-names': [
    layoutOn(
      '200 MiB',
      [
        part('root', '64 MiB', {
          name: 'Tide root',
          role: 'system',
          mount: '/',
          mounting: { by: 'PARTLABEL' },
          content: ext('r'),
        }),
        part('home', '64 MiB', {
          name: 'Zuhause für alle',
          mount: '/home',
          mounting: { by: 'PARTLABEL' },
          content: ext('h'),
        }),
      ],
      { name: 'Names of partitions', table: gpt(3) },
    ),
  ],
  'partition-ids': [
    layoutOn(
      '300 MiB',
      ['a', 'b', 'c', 'd', 'e'].map((id, i) =>
        part(id, '32 MiB', {
          mount: `/srv/${id}`,
          mounting: { by: 'PARTUUID' },
          content: ext(`part-${id}`),
          ...(i > 2 && { logical: true }),
        }),
      ),
      { name: 'Ids of partitions', table: { kind: 'mbr', signature: '5a170002' } },
    ),
  ],
  whole: [
    layoutOn('64 MiB', [part('all', 'rest', { mount: '/srv/whole', content: ext('whole') })], {
      name: 'Whole medium',
      table: NO_TABLE,
    }),
  ],
  swaps: [
    layoutOn(
      '200 MiB',
      [
        part('one', '32 MiB', { role: 'swap', content: swap('first') }),
        part('two', '32 MiB', { role: 'swap', mounting: { by: 'LABEL' }, content: swap('second') }),
        part('three', '32 MiB', { role: 'swap', mounting: { by: 'PARTUUID' }, content: swap('third') }),
      ],
      { name: 'Swaps', table: gpt(4) },
    ),
  ],
  options: [
    layoutOn(
      '300 MiB',
      [
        part('root', '64 MiB', {
          role: 'system',
          mount: '/',
          content: ext('opt', { rootUser: 1000, rootGroup: 100 }),
          mounting: { options: 'errors=remount-ro,commit=30' },
        }),
        part('var', '64 MiB', {
          mount: '/var',
          content: ext('var'),
          mounting: { options: 'nodev,nosuid,noexec,data=writeback' },
        }),
        fatPart('stick', '40 MiB', fat('OPTIONS', 16), {
          mount: '/var/stick',
          mounting: { options: 'uid=7,gid=8,fmask=0177,dmask=0077,flush,shortname=winnt' },
        }),
        part('photos', '64 MiB', { mount: '/var/photos', content: exfat('photos') }),
      ],
      { name: 'Options', table: gpt(5) },
    ),
  ],
  small: [
    layoutOn(
      '40 MiB',
      [
        fatPart('a', '2 MiB', fat('TINY', 12), { mount: '/srv/tiny' }),
        part('b', '4 MiB', { mount: '/srv/small', content: ext('small', { version: 'ext2', profile: 'tiny' }) }),
      ],
      { name: 'Small', medium: card('40 MiB'), table: { kind: 'mbr', signature: '5a170003' } },
    ),
  ],
  'busybox-recorder': [
    layoutOn(
      '200 MiB',
      [
        fatPart('boot', '40 MiB', fat('RECORDER'), { mount: '/srv/busybox/boot', role: 'boot' }),
        part('data', '64 MiB', { mount: '/srv/busybox/data', content: ext('recorder') }),
        part('swap', '32 MiB', { role: 'swap', content: swap('recorder') }),
      ],
      { name: 'Recorder', machine: { mountTool: 'busybox' }, table: { kind: 'mbr', signature: '5a170004' } },
    ),
  ],
  'busybox-labels': [
    layoutOn(
      '200 MiB',
      [
        part('data', '64 MiB', { mount: '/srv/busybox', mounting: { by: 'LABEL' }, content: ext('station 7') }),
        part('more', '64 MiB', {
          mount: '/srv/busybox/more',
          mounting: { options: 'noatime,nodev' },
          content: ext('more-7', { version: 'ext3' }),
        }),
      ],
      { name: 'Station', machine: { mountTool: 'busybox' }, table: gpt(6) },
    ),
  ],
  'four-kibibytes': [
    layoutOn(
      '300 MiB',
      [
        part('data', '64 MiB', { mount: '/srv/data', content: exfat('four') }),
        part('more', '64 MiB', { mount: '/srv/data/more', content: ext('four-more'), attributes: ['grow'] }),
        part('swap', '32 MiB', { role: 'swap', content: swap('four') }),
      ],
      {
        name: 'Four KiB',
        machine: { use: 'server', root: 'elsewhere' },
        medium: sectors4096('300 MiB'),
        table: gpt(7),
      },
    ),
  ],
};

/** Mistakes in the table of the office that a real system refuses, by their names in the list of all. */
export const REFUSED = [
  'letters exchanged',
  'an option of FAT on ext',
  'a value that is none of the words',
  'fat32',
  'FAT as ext',
  'a digit of an id is wrong',
  'the id of a file system as that of a partition',
  'the id of a partition as that of a file system',
  'an id of FAT in lower case',
  'a tag in lower case',
  'nothing but an id',
  'letters for a number',
];

/** Findings about the machine: firmware and loaders, boards, and what its use asks for. */
import type { Layout, Slot } from '@/core/layout/document';
import { fatPart, GPT_TABLE, part, raw } from '../samples';
import { type Case, CARD, DISK, image, on } from './case';

const bios = (machine: Layout['machine'], slots?: Slot[], more: Partial<Layout> = {}) =>
  image('40 GB', slots, { boots: ['bios'], machine, ...more });

const board = (
  family: 'allwinner' | 'rockchip' | 'amlogic' | 'zynq' | 'am335x' | 'stm32mp1' | 'fu740',
  slots: Slot[],
  more = {},
) => on(CARD, slots, { boots: ['board'], machine: { board: { family } }, ...more });

const LUKS = 'ca7d7ccb-63ed-4c53-861c-1742536059cc';
const boot = (id: string, more = {}) => fatPart(id, '256 MiB', {}, { role: 'boot', ...more });

export const MACHINE_CASES: readonly Case[] = [
  {
    rule: 'machine/bios-loader-not-known',
    severity: 'risk',
    bad: bios(undefined),
    good: bios({ loader: 'gap' }),
    says: 'where its loader goes on from the 440 bytes in sector 0 is not said',
    remedies: ['Sector 0 starts the active partition', 'It lies in the gap ahead of the first partition'],
  },
  {
    rule: 'machine/gap-too-small',
    severity: 'risk',
    bad: bios({ loader: 'gap' }, undefined, { grain: 'cylinders' }),
    good: bios({ loader: 'gap' }),
    says: 'which has 62 sectors (31 KiB = 31.744 kB)',
    remedies: ['Use the grain by rule', 'Sector 0 starts the active partition'],
  },
  {
    rule: 'machine/loader-without-a-place',
    severity: 'risk',
    bad: bios({ loader: 'gap' }, undefined, { table: GPT_TABLE }),
    good: bios({ loader: 'bios boot partition' }, undefined, { table: GPT_TABLE }),
    says: 'The loader is to lie in the gap, and a GPT has none: its entries begin in sector 2',
    remedies: ['It lies in the BIOS boot partition'],
  },
  {
    rule: 'machine/old-bios-on-gpt',
    severity: 'risk',
    bad: bios({ biosLimit: '137 GB' }, undefined, { table: GPT_TABLE }),
    good: bios({ biosLimit: '137 GB' }),
    says: 'its BIOS stops at 137 GB, and the medium has a GPT',
    remedies: ['The machine is not that old'],
  },
  {
    rule: 'machine/past-an-old-bios-limit',
    severity: 'risk',
    bad: bios({ biosLimit: '8.4 GB' }, [part('sys', 'rest', { role: 'system', mount: '/', active: true })]),
    good: bios({ biosLimit: '8.4 GB' }, [
      part('boot', '256 MiB', { role: 'boot', active: true }),
      part('sys', 'rest', { role: 'system', mount: '/' }),
    ]),
    says: 'the BIOS of this machine reads up to ≈ 7.844 GiB ≈ 8.422 GB (its 8.4 GB wall)',
    remedies: ['Add a boot partition of 256 MiB ahead of it', 'The machine is not that old'],
  },
  {
    rule: 'machine/one-of-two-firmwares-served',
    severity: 'risk',
    bad: image('4 GiB', [fatPart('esp', '300 MiB', {}, { role: 'esp' })], {
      boots: ['uefi', 'bios'],
      table: GPT_TABLE,
    }),
    good: image('4 GiB', [part('bb', '1 MiB', { role: 'bios-boot' }), fatPart('esp', '300 MiB', {}, { role: 'esp' })], {
      boots: ['uefi', 'bios'],
      table: GPT_TABLE,
    }),
    says: 'of its partitions (1) only UEFI finds what it needs, a BIOS does not',
    remedies: ['Add a BIOS boot partition', 'It need not start from BIOS'],
  },
  {
    rule: 'machine/type-decides-the-boot',
    severity: 'stop',
    bad: image('1 GiB', [boot('a', { type: '82' })]),
    good: image('1 GiB', [boot('a', { type: '0C' })]),
    says: 'a (partition 1) is for booting and holds FAT, and its type 82',
    remedies: ['Let role and content decide the type'],
  },
  {
    rule: 'esp/on-another-disk',
    severity: 'risk',
    bad: image('1 GiB', undefined, { boots: ['uefi'], table: GPT_TABLE, machine: { esp: 'elsewhere' } }),
    good: image('1 GiB', [fatPart('esp', '300 MiB', {}, { role: 'esp' })], {
      boots: ['uefi'],
      table: GPT_TABLE,
      machine: { esp: 'elsewhere' },
    }),
    says: 'none of the partitions (1) here is one',
    remedies: ['Add an ESP ahead of the partitions'],
  },
  {
    rule: 'board/not-known',
    severity: 'risk',
    bad: on(CARD, [raw('l', '8 KiB', '504 KiB'), part('a', 'rest')], { boots: ['board'] }),
    good: board('allwinner', [raw('l', '8 KiB', '504 KiB'), part('a', 'rest')]),
    says: 'which one is not said. 1 raw range is kept for it',
    remedies: ['It is one with Allwinner'],
  },
  {
    rule: 'board/range-missing',
    severity: 'stop',
    bad: board('allwinner', [part('a', 'rest')]),
    good: board('allwinner', [raw('l', '128 KiB', '512 KiB'), part('a', 'rest')]),
    says: 'Allwinner loads its first-stage loader from byte 8,192 (8 KiB), or at 128 KiB, and no raw range keeps that place',
    remedies: ['Keep 1016 KiB ≈ 1.040 MB for it there', 'Keep 896 KiB = 917.504 kB at 128 KiB'],
  },
  {
    rule: 'board/cannot-use-this-table',
    severity: 'stop',
    bad: board('zynq', [boot('a')], { table: GPT_TABLE }),
    good: board('zynq', [boot('a')]),
    says: 'Zynq starts from MBR; the layout has GPT with 1 partition',
    remedies: ['Write an MBR'],
  },
  {
    rule: 'board/not-the-partition-the-rom-reads',
    severity: 'stop',
    bad: board('zynq', [part('a', '1 GiB'), boot('b')]),
    good: board('zynq', [boot('b'), part('a', '1 GiB')]),
    says: 'here partition 1 is a, 1 GiB ≈ 1.073 GB, and it is not such a one',
    remedies: ['Put b first'],
  },
  {
    rule: 'board/partition-missing',
    severity: 'stop',
    bad: board('stm32mp1', [part('fsbl1', '1 MiB'), part('a', 'rest')], { table: GPT_TABLE }),
    good: board('stm32mp1', [part('fsbl1', '1 MiB'), part('fsbl2', '1 MiB')], { table: GPT_TABLE }),
    says: 'looks for 2 partitions named fsbl…, and there is 1',
    remedies: ['Add 1 of 1 MiB'],
  },
  {
    rule: 'board/ahead-of-the-customary-start',
    severity: 'note',
    bad: board('rockchip', [part('a', '1 MiB')]),
    good: board('rockchip', [part('a', '1 MiB', { at: '16 MiB' })]),
    says: 'a starts at 4 MiB; on Rockchip partitions begin at 16 MiB by custom',
    remedies: ['Pin it to 16 MiB'],
  },
  {
    rule: 'system/no-root',
    severity: 'stop',
    bad: on(DISK, [part('boot', '1 GiB', { mount: '/boot' }), part('home', 'rest', { mount: '/home' })]),
    good: on(DISK, [part('boot', '1 GiB', { mount: '/boot' }), part('root', 'rest', { mount: '/' })]),
    says: 'The layout names /boot, /home of a system, and none of its partitions (2) is mounted at /',
    remedies: ['Add a system partition', 'It is on another disk'],
  },
  {
    rule: 'swap/missing-for-hibernation',
    severity: 'risk',
    bad: on(DISK, [part('root', '20 GiB', { mount: '/' })], { machine: { memory: '16 GiB', hibernates: true } }),
    good: on(DISK, [part('s', '20 GiB', { role: 'swap' })], { machine: { memory: '16 GiB', hibernates: true } }),
    says: 'The machine is to hibernate with 16 GiB ≈ 17.17 GB of memory, and none of its partitions (1) is swap',
    remedies: ['Add 20 GiB of swap', 'It need not hibernate'],
  },
  {
    rule: 'swap/under-the-memory',
    severity: 'risk',
    bad: on(DISK, [part('s', '8 GiB', { role: 'swap' })], { machine: { memory: '16 GiB', hibernates: true } }),
    good: on(DISK, [part('s', '16 GiB', { role: 'swap' })], { machine: { memory: '16 GiB', hibernates: true } }),
    says: 's has 8 GiB ≈ 8.589 GB, and the machine is to hibernate with 16 GiB',
    remedies: ['Make s 20 GiB', 'It need not hibernate'],
  },
  {
    rule: 'system/mount-point-of-a-layer',
    severity: 'risk',
    bad: on(DISK, [part('v', '20 GiB', { mount: '/srv', type: LUKS })], { table: GPT_TABLE }),
    good: on(DISK, [part('v', '20 GiB', { type: LUKS })], { table: GPT_TABLE }),
    says: 'v is to be mounted at /srv, and its type LUKS says that another layer is inside',
    remedies: ['Leave v without a mount point', 'Let role and content decide the type'],
  },
  {
    rule: 'system/small-root',
    severity: 'note',
    bad: on(DISK, [part('root', '6 GiB', { mount: '/' })], { machine: { use: 'desktop' } }),
    good: on(DISK, [part('root', '8 GiB', { mount: '/' })], { machine: { use: 'desktop' } }),
    says: 'root has 6 GiB ≈ 6.442 GB for the root of a desktop system',
    remedies: ['Make root 16 GiB'],
  },
  {
    rule: 'system/no-home',
    severity: 'note',
    bad: on(DISK, [part('root', '60 GiB', { mount: '/' })], { machine: { use: 'desktop' } }),
    good: on(DISK, [part('root', '60 GiB', { mount: '/' }), part('home', 'rest', { mount: '/home' })], {
      machine: { use: 'desktop' },
    }),
    says: 'People’s files will lie in root',
    remedies: ['Add one that shares the rest'],
  },
];

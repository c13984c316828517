/** Findings about places, and about the system: for each rule a layout that it speaks about, and one that it is silent about. */
import { free, part, raw } from '../samples';
import { CARD, type Case, DISK, image, on } from './case';

const systems = (a: string, b: string) => [
  part('a', a, { name: 'System A', role: 'system' }),
  part('b', b, { name: 'System B', role: 'system' }),
];

const GONE = { rule: 'boot/no-code-in-sector-0', sentence: '440 bytes of code are zero', reason: 'installed later' };

export const PLACE_CASES: readonly Case[] = [
  {
    rule: 'place/does-not-fit',
    severity: 'stop',
    bad: image('100 MiB', [part('a', '70 MiB'), part('b', '40 MiB')]),
    good: image('100 MiB', [part('a', '59 MiB'), part('b', '40 MiB')]),
    says: '11 MiB = 11.53 MB (22,528 sectors) larger than the medium. a could give up to 69 MiB',
    remedies: ['Make a 59 MiB', 'Make b 29 MiB', 'Let b take the rest'],
  },
  {
    rule: 'place/over-raw-range',
    severity: 'stop',
    bad: image('100 MiB', [part('a', '20 MiB'), raw('r', '8 MiB', '1 MiB')]),
    good: image('100 MiB', [raw('r', '8 MiB', '1 MiB'), part('a', '20 MiB')]),
    says: 'a reaches 13 MiB = 13.63 MB (26,624 sectors) past the start of r',
    remedies: ['Place a behind r', 'Make a 7 MiB'],
  },
  {
    rule: 'place/off-physical-sector',
    severity: 'risk',
    bad: on({ ...DISK, physicalSector: 4096 }, [part('a', 'rest')], { grain: '63 sectors' }),
    good: on({ ...DISK, physicalSector: 4096 }, [part('a', 'rest')]),
    says: 'starts at sector 63, 3,584 bytes into a physical sector of 4,096 bytes',
    remedies: ['Use the grain by rule, 1 MiB'],
  },
  {
    rule: 'place/off-write-unit',
    severity: 'risk',
    bad: on({ ...CARD, writeUnit: '4 MiB' }, [part('a', 'rest')], { grain: '1 MiB' }),
    good: on({ ...CARD, writeUnit: '4 MiB' }, [part('a', 'rest')]),
    says: '1 MiB = 1.049 MB into a write unit of 4 MiB',
    remedies: ['Use the grain by rule, 4 MiB'],
  },
  {
    rule: 'place/unusual-grain',
    severity: 'note',
    bad: on(CARD, [part('a', 'rest')], { grain: '1 MiB' }),
    good: on(CARD, [part('a', 'rest')], { grain: '8 MiB' }),
    says: 'off the usual 4 MiB',
    remedies: ['Use the grain by rule, 4 MiB'],
  },
  {
    rule: 'place/end-off-grain',
    severity: 'note',
    bad: image('100 MiB', [part('a', '20000000 B'), part('b', 'rest')]),
    good: image('100 MiB', [part('a', '20 MiB'), part('b', 'rest')]),
    says: 'a ends at sector 41,110, 1,897 sectors before the next grain',
    remedies: ['Make a 20 MiB'],
  },
  {
    rule: 'place/unclaimed-space',
    severity: 'note',
    bad: image('100 MiB', [part('a', '50 MiB')]),
    good: image('100 MiB', [part('a', '96 MiB')]),
    says: '(100,352 sectors, 49 % of the medium)',
    remedies: ['Let a take the rest', 'Keep it free on purpose'],
  },
  {
    rule: 'place/nothing-yet',
    severity: 'note',
    bad: image('1 GiB', []),
    good: image('1 GiB', [free('a', 'rest')]),
    says: 'no slot yet',
    remedies: ['Add a partition over the whole medium'],
  },
  {
    rule: 'system/mount-point-twice',
    severity: 'stop',
    bad: image('1 GiB', [part('a', '10 MiB', { mount: '/' }), part('b', '10 MiB', { mount: '/' })]),
    good: image('1 GiB', [part('a', '10 MiB', { mount: '/' }), part('b', '10 MiB', { mount: '/srv' })]),
    says: 'b and a are both mounted at /',
    remedies: ['Leave b without a mount point'],
  },
  {
    rule: 'system/swap-on-flash',
    severity: 'risk',
    bad: on(CARD, [part('a', '1 GiB', { role: 'swap' })]),
    good: on(DISK, [part('a', '1 GiB', { role: 'swap' })]),
    says: 'a is swap on a card',
    remedies: ['Delete a'],
  },
  {
    rule: 'system/a-and-b-differ',
    severity: 'risk',
    bad: image('1 GiB', systems('100 MiB', '101 MiB')),
    good: image('1 GiB', systems('100 MiB', '100 MiB')),
    says: 'System A has 204,800 sectors and System B 206,848: 1 MiB = 1.049 MB apart',
    remedies: ['Make System B as large as System A'],
  },
  {
    rule: 'system/small-boot',
    severity: 'note',
    bad: image('1 GiB', [part('b', '200 MiB', { role: 'boot', mount: '/boot' })]),
    good: image('1 GiB', [part('b', '400 MiB', { role: 'boot', mount: '/boot' })]),
    says: 'b has 200 MiB = 209.7 MB for kernels',
    remedies: ['Make b 512 MiB'],
  },
  {
    rule: 'system/swap-under-ten-pages',
    severity: 'stop',
    bad: image('4 GiB', [part('s', '36 KiB', { role: 'swap' })]),
    good: image('4 GiB', [part('s', '40 KiB', { role: 'swap' })]),
    says: 's has 36 KiB = 36.86 kB; swap needs at least 10 pages',
    remedies: ['Make s 1 GiB'],
  },
  {
    rule: 'layout/accepted-risk-is-gone',
    severity: 'note',
    bad: image('1 GiB', undefined, { accepted: [GONE] }),
    good: image('1 GiB', undefined, { boots: ['bios'], accepted: [{ ...GONE, rule: 'boot/no-active-mark' }] }),
    says: 'does not stand any more: “440 bytes',
    remedies: ['Forget it'],
  },
];

import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { fatPart, free, layoutOn, part, raw } from '@tests/samples';
import type { Layout, Slot } from '../layout/document';
import { applyEdit } from '../layout/edits';
import { validateLayout } from '../layout/validate';
import { place } from '../placement/place';
import { check, stopsAmong } from './check';
import type { Severity } from './finding';

const SECTORS = { logicalSector: 512, physicalSector: 512 } as const;
const CARD = { kind: 'card', capacity: { nominal: '8 GB' }, ...SECTORS } as const;
const STICK = { kind: 'stick', capacity: { nominal: '8 GB' }, ...SECTORS } as const;
const DISK = { kind: 'disk', capacity: { nominal: '500 GB' }, ...SECTORS } as const;
const on = (medium: Layout['medium'], slots: Slot[], more: Partial<Layout> = {}) =>
  layoutOn('1 GiB', slots, { medium, ...more });
const image = (exact: string, slots: Slot[] = [part('a', 'rest')], more: Partial<Layout> = {}) =>
  layoutOn(exact, slots, more);
const fat = { kind: 'fat32', volumeId: '7A1D-10C5' } as const;

interface Case {
  readonly rule: string;
  readonly severity: Severity;
  readonly bad: Layout;
  readonly good: Layout;
  /** A part of the sentence, with its figures. */
  readonly says: string | RegExp;
  /** Labels of the remedies; each cures. */
  readonly remedies: readonly string[];
}

const CASES: readonly Case[] = [
  {
    rule: 'medium/not-whole-sectors',
    severity: 'stop',
    bad: image('100000001 B'),
    good: image('100000256 B'),
    says: '100,000,001 bytes is 257 bytes more',
    remedies: ['Make it 195312 sectors'],
  },
  {
    rule: 'medium/image-not-whole-mebibytes',
    severity: 'note',
    bad: image('100000256 B'),
    good: image('100 MiB'),
    says: '385,536 bytes longer',
    remedies: ['Make it 95 MiB'],
  },
  {
    rule: 'medium/smaller-than-a-grain',
    severity: 'stop',
    bad: image('1 MiB', [], { grain: '1 MiB' }),
    good: image('2 MiB', [], { grain: '1 MiB' }),
    says: '2,048 sectors (1 MiB = 1.049 MB)',
    remedies: [],
  },
  {
    rule: 'medium/optimal-io-ignored',
    severity: 'note',
    bad: on({ ...DISK, optimalIo: '33553920 B' }, [part('a', 'rest')]),
    good: on({ ...DISK, optimalIo: '2 MiB' }, [part('a', 'rest')]),
    says: '33,553,920 bytes is not heeded',
    remedies: ['Forget the reported size'],
  },
  {
    rule: 'table/fifth-primary',
    severity: 'stop',
    bad: image(
      '1 GiB',
      ['a', 'b', 'c', 'd', 'e'].map((id) => part(id, '10 MiB')),
    ),
    good: image(
      '1 GiB',
      ['a', 'b', 'c', 'd'].map((id) => part(id, '10 MiB')),
    ),
    says: 'e would be partition 5',
    remedies: ['Delete e'],
  },
  {
    rule: 'table/not-encodable',
    severity: 'stop',
    bad: image('3 TiB', [part('a', '2.5 TiB')]),
    good: image('3 TiB', [part('a', '1.9 TiB')]),
    says: '5,368,709,120 sectors',
    remedies: [],
  },
  {
    rule: 'table/ends-beyond-limit',
    severity: 'risk',
    bad: image('3 TiB', [part('a', '1.5 TiB'), part('b', '1 TiB')]),
    good: image('3 TiB', [part('a', '0.5 TiB'), part('b', '1 TiB')]),
    says: 'b ends at sector 5,368,711,167',
    remedies: [],
  },
  {
    rule: 'table/zero-signature',
    severity: 'risk',
    bad: image('1 GiB', undefined, { table: { kind: 'mbr', signature: '00000000' } }),
    good: image('1 GiB'),
    says: '00000000',
    remedies: [expect.stringMatching(/^Set signature [0-9a-f]{8}$/) as string],
  },
  {
    rule: 'table/two-active',
    severity: 'risk',
    bad: image('1 GiB', [part('a', '10 MiB', { active: true }), part('b', '10 MiB', { active: true })]),
    good: image('1 GiB', [part('a', '10 MiB', { active: true }), part('b', '10 MiB')]),
    says: '2 partitions are marked active: a, b',
    remedies: ['Keep the mark on a only'],
  },
  {
    rule: 'table/raw-range-over-table',
    severity: 'stop',
    bad: image('1 GiB', [raw('r', '100 B', '8 KiB')]),
    good: image('1 GiB', [raw('r', '1 sector', '8 KiB')]),
    says: 'covers bytes 100 to 8,291 and with them 72 bytes of the table',
    remedies: ['Start r at sector 1', 'End r at byte 440'],
  },
  {
    rule: 'table/raw-range-in-code-area',
    severity: 'note',
    bad: image('1 GiB', [raw('r', '0', '440 B')]),
    good: image('1 GiB', [raw('r', '512 B', '440 B')]),
    says: 'code area',
    remedies: [],
  },
  {
    rule: 'table/raw-ranges-overlap',
    severity: 'stop',
    bad: image('1 GiB', [raw('r', '8 KiB', '32 KiB'), raw('s', '33 KiB', '1 MiB')]),
    good: image('1 GiB', [raw('r', '8 KiB', '25 KiB'), raw('s', '33 KiB', '1 MiB')]),
    says: 's and r share 7,168 bytes',
    remedies: ['Start s behind r'],
  },
  {
    rule: 'table/raw-range-beyond-medium',
    severity: 'stop',
    bad: image('10 MiB', [raw('r', '8 MiB', '4 MiB')]),
    good: image('10 MiB', [raw('r', '8 MiB', '2 MiB')]),
    says: '2 MiB = 2.097 MB behind the end',
    remedies: ['End r with the medium'],
  },
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
    rule: 'boot/no-active-mark',
    severity: 'risk',
    bad: image('1 GiB', [part('a', '10 MiB'), part('b', '10 MiB', { role: 'boot' })], { boots: ['bios'] }),
    good: image('1 GiB', [part('a', '10 MiB', { active: true })], { boots: ['bios'] }),
    says: 'none of its 2 partitions',
    remedies: ['Mark b active'],
  },
  {
    rule: 'boot/no-code-in-sector-0',
    severity: 'risk',
    bad: image('1 GiB', undefined, { boots: ['uefi', 'bios'] }),
    good: image('1 GiB', undefined, { boots: ['uefi'] }),
    says: '440 bytes of code in sector 0 are all zero',
    remedies: ['It need not start from BIOS'],
  },
  {
    rule: 'boot/nothing-uefi-can-read',
    severity: 'risk',
    bad: image('1 GiB', undefined, { boots: ['uefi'] }),
    good: image('1 GiB', [fatPart('a', 'rest')], { boots: ['uefi'] }),
    says: 'none of its partitions holds a FAT',
    remedies: ['It need not start from UEFI'],
  },
  {
    rule: 'boot/nothing-for-the-board',
    severity: 'risk',
    bad: image('1 GiB', undefined, { boots: ['board'] }),
    good: image('1 GiB', [raw('r', '8 KiB', '8 KiB')], { boots: ['board'] }),
    says: 'neither a raw range for a loader nor a FAT partition',
    remedies: [],
  },
  {
    rule: 'type/disagrees-with-content',
    severity: 'risk',
    bad: image('1 GiB', [part('a', 'rest', { type: '0E', fileSystem: fat })]),
    good: image('1 GiB', [part('a', 'rest', { type: '0C', fileSystem: fat })]),
    says: 'Type 0E FAT16 LBA of a says FAT12 or FAT16',
    remedies: ['Let the content decide the type'],
  },
  {
    rule: 'type/cylinder-code-beyond-reach',
    severity: 'risk',
    bad: on(DISK, [part('a', '10 GiB', { type: '0B', fileSystem: fat })]),
    good: on(DISK, [part('a', '1 GiB', { type: '0B', fileSystem: fat })]),
    says: 'end at sector 16,450,559; a ends at 20,973,567',
    remedies: ['Let the content decide the type'],
  },
  {
    rule: 'type/shared-fat-not-first',
    severity: 'risk',
    bad: on(STICK, [part('a', '1 GiB', { role: 'system' }), fatPart('b', 'rest')]),
    good: on(STICK, [fatPart('b', '1 GiB'), part('a', 'rest', { role: 'system' })]),
    says: 'b holds FAT for other readers, but is partition 2',
    remedies: ['Put b first'],
  },
  {
    rule: 'fat/no-fat32-of-this-size',
    severity: 'stop',
    bad: image('1 GiB', [fatPart('a', '20 MiB')]),
    good: image('1 GiB', [fatPart('a', '40 MiB')]),
    says: 'FAT32 begins at 65,525. It needs 66,599 sectors',
    remedies: ['Make a 33 MiB'],
  },
  {
    rule: 'fat/near-the-border',
    severity: 'risk',
    bad: image('1 GiB', [fatPart('a', '66590 sectors', { cluster: '512 B' })], { grain: '1 sector' }),
    good: image('1 GiB', [fatPart('a', '40 MiB', { cluster: '512 B' })]),
    says: '65,534 clusters, 9 above the border',
    remedies: ['Let the size decide the cluster'],
  },
  {
    rule: 'fat/clusters-of-64-kib',
    severity: 'risk',
    bad: on(DISK, [fatPart('a', '100 GiB', { cluster: '64 KiB' })]),
    good: on(DISK, [fatPart('a', '100 GiB', { cluster: '32 KiB' })]),
    says: 'clusters of 64 KiB',
    remedies: ['Use 32 KiB clusters'],
  },
  {
    rule: 'fat/data-off-the-unit',
    severity: 'note',
    bad: on(CARD, [fatPart('a', '36 MiB')]),
    good: on(CARD, [fatPart('a', '100 MiB')]),
    says: /begins on a multiple of .* not of 4 MiB/,
    remedies: [],
  },
  {
    rule: 'fat/label-forbidden-characters',
    severity: 'stop',
    bad: image('1 GiB', [fatPart('a', 'rest', { label: 'A/B' })]),
    good: image('1 GiB', [fatPart('a', 'rest', { label: 'A B' })]),
    says: 'has “/”, which a FAT label cannot hold',
    remedies: ['Write it as A_B'],
  },
  {
    rule: 'fat/label-stored-as',
    severity: 'note',
    bad: image('1 GiB', [fatPart('a', 'rest', { label: 'Shared tide data' })]),
    good: image('1 GiB', [fatPart('a', 'rest', { label: 'SHARED TIDE' })]),
    says: 'will be stored as SHARED TIDE, without “ DATA”',
    remedies: ['Write it as SHARED TIDE'],
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
];

const found = (layout: Layout, rule: string) => check(place(layout)).filter((one) => one.rule === rule);

describe.each(CASES)('$rule', ({ rule, severity, bad, good, says, remedies }) => {
  test('speaks when it should, with figures and a reason', () => {
    const [finding] = found(bad, rule);
    expect(finding).toMatchObject({ severity });
    expect(finding!.sentence).toEqual(expect.stringMatching(typeof says === 'string' ? literal(says) : says));
    expect(finding!.why.length).toBeGreaterThan(10);
  });

  test('keeps silent when it should', () => {
    expect(found(good, rule)).toEqual([]);
  });

  test('each remedy cures it, leaves a valid document, and deletes only where it says so', () => {
    const [finding] = found(bad, rule);
    expect(finding!.remedies.map((one) => one.label)).toEqual(remedies);
    for (const { label, edit } of finding!.remedies) {
      const after = applyEdit(bad, edit);
      expect(validateLayout(JSON.parse(JSON.stringify(after)))).toMatchObject({ ok: true });
      const isSamePlace = (one: ReturnType<typeof check>[number]) =>
        JSON.stringify(one.place) === JSON.stringify(finding!.place);
      expect(
        found(after, rule)
          .filter(isSamePlace)
          .map((one) => one.sentence),
      ).toEqual([]);
      if (!label.startsWith('Delete')) expect(after.slots.length).toBeGreaterThanOrEqual(bad.slots.length);
    }
  });
});

function literal(text: string): RegExp {
  return new RegExp(text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'));
}

test('every rule of the source is tested here, once', () => {
  const sources = readdirSync(__dirname).filter((name) => name.endsWith('.ts') && !name.endsWith('.test.ts'));
  const inSource = sources.flatMap((name) =>
    [...readFileSync(path.join(__dirname, name), 'utf8').matchAll(/^\s+rule: '([a-z-]+\/[a-z0-9-]+)'/gm)].map(
      (one) => one[1],
    ),
  );
  expect(CASES.map((one) => one.rule).sort()).toEqual(inSource.sort());
});

test('stops come first, then risks, then notes', () => {
  const layout = image('100000256 B', [fatPart('a', '20 MiB', { label: 'low' }), part('b', '90 MiB')], {
    boots: ['bios'],
  });
  const order = check(place(layout)).map((one) => one.severity);
  expect(order).toEqual([...order].sort((a, b) => 'srn'.indexOf(a[0]!) - 'srn'.indexOf(b[0]!)));
  expect(stopsAmong(check(place(layout))).length).toBe(2);
});

test('a share that is too small for FAT32 is cured by a lower bound', () => {
  const layout = image('200 MiB', [part('b', 'rest × 9'), fatPart('a', 'rest')]);
  const [finding] = found(layout, 'fat/no-fat32-of-this-size');
  expect(finding!.remedies.map((one) => one.label)).toEqual(['Make a at least 33 MiB']);
  expect(found(applyEdit(layout, finding!.remedies[0]!.edit), 'fat/no-fat32-of-this-size')).toEqual([]);
});

test('a chosen cluster that is too large is cured by letting the size decide', () => {
  const layout = image('1 GiB', [fatPart('a', '100 MiB', { cluster: '32 KiB' })]);
  const [finding] = found(layout, 'fat/no-fat32-of-this-size');
  expect(finding!.remedies.map((one) => one.label)).toContain('Let the size decide the cluster');
  for (const { edit } of finding!.remedies)
    expect(found(applyEdit(layout, edit), 'fat/no-fat32-of-this-size')).toEqual([]);
});

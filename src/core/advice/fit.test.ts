import { readFileSync } from 'node:fs';
import { fatPart, layoutOn, part } from '@tests/samples';
import type { Layout, MediumSpec, PartitionSlot } from '../layout/document';
import { mediumOf } from '../layout/medium-spec';
import { place } from '../placement/place';
import { differences } from './differences';
import { FIT_LIMIT, fitOn, usualSet } from './fit';

const GAUGE = JSON.parse(readFileSync('demo/gauge-logger.json', 'utf8')) as Layout;
const card = (nominal: string): MediumSpec => ({
  kind: 'card',
  capacity: { nominal },
  logicalSector: 512,
  physicalSector: 512,
});

describe('fit', () => {
  const fit = fitOn(GAUGE, [card('4 GB'), card('8 GB'), card('16 GB')]);

  test('says what works, what breaks and what grows', () => {
    expect(fit.columns.map((one) => one.works)).toEqual([false, true, true]);
    expect(fit.columns[0]!.findings[0]).toMatchObject({ rule: 'size/larger-than-the-medium' });
    expect(fit.growing.map((one) => one.id)).toEqual(['log']);
    const [, small, large] = fit.growing[0]!.bytes;
    expect(large! - small!).toBe(mediumOf(card('16 GB')).capacity - mediumOf(card('8 GB')).capacity);
  });

  test('the least medium works, and slack is what the others have beyond it', () => {
    const least = fit.least!;
    expect(fitOn(GAUGE, [{ ...GAUGE.medium, capacity: { exact: `${least} B` } }]).columns[0]!.works).toBe(true);
    expect(fitOn(GAUGE, [{ ...GAUGE.medium, capacity: { exact: `${least - 512} B` } }]).columns[0]!.works).toBe(false);
    expect(fit.columns.map((one) => one.slack)).toEqual(
      ['4 GB', '8 GB', '16 GB'].map((size) => mediumOf(card(size)).capacity - least),
    );
  });

  test('another sector size is said, and has a least medium of its own', () => {
    const large: MediumSpec = { ...card('16 GB'), logicalSector: 4096, physicalSector: 4096 };
    const [one] = fitOn(GAUGE, [large]).columns;
    expect(one!.moved).toMatch(/sectors of 512 bytes cannot be read on sectors of 4,096/);
    expect(one!.slack).toBeDefined();
  });

  test.each<[string, Layout, string[]]>([
    ['a card', GAUGE, ['4 GB', '8 GB', '16 GB', '32 GB', '64 GB']],
    ['an image', layoutOn('1 GiB'), ['512 MiB', '1 GiB', '2048 MiB', '4096 MiB']],
    [
      'a large disk',
      layoutOn('1 GiB', [], { medium: { ...card('30000 GB'), kind: 'disk' } }),
      ['16000 GB', '20000 GB', '24000 GB', '30000 GB'],
    ],
  ])('the usual set around %s', (_, layout, sizes) => {
    const set = usualSet(layout);
    expect(set.map(({ capacity }) => ('nominal' in capacity ? capacity.nominal : capacity.exact))).toEqual(sizes);
    expect(set.length).toBeLessThanOrEqual(FIT_LIMIT);
  });
});

describe('differences', () => {
  const a = layoutOn('1 GiB', [part('x', '100 MiB'), fatPart('y', '200 MiB'), part('z', 'rest')]);
  const b: Layout = { ...a, boots: ['bios'], slots: [part('x', '150 MiB'), a.slots[1]!, part('new', '10 MiB')] };

  test('slots that are new, gone, moved and resized, and the layout as a whole', () => {
    expect(differences(place(a), place(b))).toEqual([
      { id: undefined, name: 'Layout', kind: 'changed', what: ['starts from bios, before nothing'] },
      {
        id: 'x',
        name: 'x',
        kind: 'changed',
        what: ['50 MiB ≈ 52.42 MB (102,400 sectors) larger', 'says “x: 150 MiB”, before “x: 100 MiB”'],
      },
      { id: 'y', name: 'y', kind: 'changed', what: ['starts at sector 309,248, before at 206,848'] },
      { id: 'new', name: 'new', kind: 'added', what: ['new: 10 MiB'] },
      { id: 'z', name: 'z', kind: 'removed', what: ['z: rest'] },
    ]);
  });

  test('nothing differs from itself; how it is handed over is told', () => {
    expect(differences(place(a), place(a))).toEqual([]);
    const [slot, ...others] = a.slots;
    const entry = { id: 'e', title: 'E', root: slot!.id, kernel: '/k' };
    const b: Layout = {
      ...a,
      slots: [{ ...slot, writes: ['boot entries'], mounting: { pass: 0 } } as PartitionSlot, ...others],
      entries: [entry],
    };
    expect(differences(place(a), place(b)).flatMap(({ what }) => what)).toEqual([
      'the boot entries are others',
      'the mount table has it otherwise',
      'boot entries written into it, before nothing',
    ]);
  });
});

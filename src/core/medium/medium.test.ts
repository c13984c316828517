import { GB, MIB } from '../quantity/units';
import { grainFor } from './grain';
import { followsFormula, type Medium, nominalCapacity, usualFloor } from './medium';

describe('nominal capacities', () => {
  test.each([
    [500, 976_773_168],
    [1000, 1_953_525_168],
    [8000, 15_628_053_168],
    [50, 97_696_368],
  ])('a disk of %d GB has %d sectors of 512 bytes', (gigabytes, sectors) => {
    expect(nominalCapacity('disk', gigabytes * GB, 97, 512)).toBe(sectors * 512);
  });

  test('a disk of 4 TB has 976,754,646 sectors of 4096 bytes', () => {
    expect(nominalCapacity('disk', 4000 * GB, 97, 4096)).toBe(976_754_646 * 4096);
  });

  test('cards stand on their floor, rounded down to 4 MiB', () => {
    expect(nominalCapacity('card', 8 * GB, 92, 512)).toBe(14_368_768 * 512);
    expect(nominalCapacity('card', 8 * GB, 92, 512) % (4 * MIB)).toBe(0);
  });

  test('small disks stand on theirs, rounded down to 1 MiB', () => {
    const bytes = nominalCapacity('disk', 40 * GB, usualFloor('disk'), 512);
    expect(bytes).toBe(Math.floor((40 * GB * 0.97) / MIB) * MIB);
    expect(followsFormula('disk', 40 * GB)).toBe(false);
    expect(followsFormula('solid-state', 256 * GB)).toBe(true);
    expect(followsFormula('stick', 256 * GB)).toBe(false);
  });
});

describe('the grain', () => {
  const medium = (more: Partial<Medium>): Medium => ({
    kind: 'disk',
    capacity: 500 * GB,
    logicalSector: 512,
    physicalSector: 512,
    writeUnit: 0,
    optimalIo: 0,
    ...more,
  });

  test.each<[string, Partial<Medium>, number]>([
    ['a disk', {}, MIB],
    ['a floppy-sized medium', { capacity: 1_474_560 }, 512],
    ['a floppy-sized medium of large physical sectors', { capacity: 3 * MIB, physicalSector: 4096 }, 4096],
    ['a small card', { kind: 'card', capacity: 32 * MIB }, 64 * 1024],
    ['a card under 1 GiB', { kind: 'card', capacity: 512 * MIB }, MIB],
    ['a card with unknown write unit', { kind: 'card', capacity: 8 * GB }, 4 * MIB],
    ['on-board flash with unknown write unit', { kind: 'on-board', capacity: 8 * GB }, 4 * MIB],
    ['a card whose write unit is 512 KiB', { kind: 'card', capacity: 8 * GB, writeUnit: 512 * 1024 }, MIB],
    ['a card whose write unit is 16 MiB', { kind: 'card', capacity: 8 * GB, writeUnit: 16 * MIB }, 16 * MIB],
    ['a write unit of 1.5 MiB', { writeUnit: 1.5 * MIB }, 3 * MIB],
    ['a stick', { kind: 'stick', capacity: 32 * GB }, MIB],
    ['an optimal I/O size of 2 MiB', { optimalIo: 2 * MIB }, 2 * MIB],
    ['an optimal I/O size of 384 KiB', { optimalIo: 384 * 1024 }, 3 * MIB],
    ['a bridge that reports 33,553,920 bytes', { optimalIo: 33_553_920 }, MIB],
    ['an optimal I/O size off the physical sector', { optimalIo: 5120, physicalSector: 4096 }, MIB],
  ])('%s', (_, more, bytes) => {
    const grain = grainFor(medium(more));
    expect(grain.bytes).toBe(bytes);
    expect(grain.sectors).toBe(bytes / 512);
  });

  test('a chosen grain comes before every rule', () => {
    expect(grainFor(medium({ writeUnit: 16 * MIB }), 32256)).toMatchObject({
      bytes: 32256,
      sectors: 63,
      rule: 'chosen',
    });
  });

  test('an optimal I/O size that makes no sense is ignored, and that is told', () => {
    expect(grainFor(medium({ optimalIo: 33_553_920 })).ignoresOptimalIo).toBe(true);
    expect(grainFor(medium({ optimalIo: 2 * MIB }))).toMatchObject({ ignoresOptimalIo: false, rule: 'raised' });
  });

  test('it says why', () => {
    expect(grainFor(medium({ kind: 'card', capacity: 8 * GB })).because).toContain('write unit is not known');
    expect(grainFor(medium({ writeUnit: 16 * MIB })).because).toContain('raised to the write unit of 16 MiB');
  });
});

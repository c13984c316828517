/** Faults that are planted into sound volumes, one at a time: the checker tells each by its name. */
import { planted, sound, type Which, WISHES } from '@tests/planted-ext';
import { FAULTS } from '@tests/planted-faults';
import { noise } from '@tests/samples';
import { cases, oneOf } from '@tests/tier';
import { memoryBlocks } from '../../../bytes/blocks';
import { checkExt } from './check';
import { FAULT_LIMIT, type FaultCode } from './faults';

async function codesOf(bytes: Uint8Array): Promise<FaultCode[]> {
  const { faults } = await checkExt(memoryBlocks(bytes), 0, bytes.length);
  return [...new Set(faults.map(({ code }) => code))];
}

test.each(Object.keys(WISHES) as Which[])('nothing is wrong with %s before', async (which) => {
  expect(await codesOf(sound(which).bytes)).toEqual([]);
});

test('there are faults of every name, and more than sixty of them', () => {
  expect(FAULTS.length).toBeGreaterThanOrEqual(60);
  expect(new Set(FAULTS.map(([code]) => code)).size).toBeGreaterThanOrEqual(60);
});

test.each(oneOf(3, FAULTS).map(([code, which, plant], i) => [code, which, i, plant] as const))(
  '%s in %s (%d)',
  async (code, which, _, plant) => {
    const one = planted(which);
    plant(one);
    expect(one.bytes.equals(Buffer.from(sound(which).bytes))).toBe(false);
    expect(await codesOf(one.bytes)).toContain(code);
  },
);

describe('hostile bytes', () => {
  test('noise over any structure ends with faults, and in bounded time', async () => {
    for (let seed = 0; seed < cases(10, 60); seed++) {
      const one = planted((['current', 'old', 'mapped'] as const)[seed % 3]!);
      const junk = Buffer.from(noise(4096, seed));
      for (let k = 0; k < 6; k++)
        junk.copy(one.bytes, ((seed * 7919 + k * 104_729) % 900) * 1024, k * 600, k * 600 + 600);
      const { faults } = await checkExt(memoryBlocks(one.bytes), 0, one.bytes.length);
      expect(faults.length).toBeLessThanOrEqual(FAULT_LIMIT);
    }
  });

  test('a map that leads back to itself is followed once', async () => {
    const one = planted('mapped');
    const { inode } = one.node('bin/tide').node;
    const own = one.node('bin/tide').map[0]!;
    one.bytes.writeUInt32LE(own, one.at(inode) + 0x28 + 56);
    for (let i = 0; i < 256; i++) one.bytes.writeUInt32LE(own, own * 1024 + 4 * i);
    expect(await codesOf(one.bytes)).toContain('map/block twice');
  });
});

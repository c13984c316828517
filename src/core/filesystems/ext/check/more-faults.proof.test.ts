/** Sixty further faults, in directories, extents, journals and attributes: the check that people order names each. */
import { planted, sound } from '@tests/planted-ext';
import { MORE_FAULTS } from '@tests/planted-faults';
import { oneOf } from '@tests/tier';
import { memoryBlocks } from '../../../bytes/blocks';
import { checkWhole } from './whole';

test('there are sixty of them', () => {
  expect(MORE_FAULTS.length).toBeGreaterThanOrEqual(60);
});

test.each(oneOf(3, MORE_FAULTS).map(([code, which, plant], i) => [code, which, i, plant] as const))(
  '%s in %s (%d)',
  async (code, which, _, plant) => {
    const one = planted(which);
    plant(one);
    expect(one.bytes.equals(Buffer.from(sound(which).bytes))).toBe(false);
    const { faults } = await checkWhole(memoryBlocks(one.bytes), 0, one.bytes.length);
    expect([...new Set(faults.map((fault) => fault.code))]).toContain(code);
  },
);

test('faults of files name them, also of those that share a block', async () => {
  const one = planted('mapped');
  const { physical } = one.node('bin/su').pieces[0]!;
  one.bytes.writeUInt32LE(physical, one.at(one.node('bin/tide').node.inode) + 0x28);
  const { faults } = await checkWhole(memoryBlocks(one.bytes), 0, one.bytes.length);
  const twice = faults.find(({ code }) => code === 'map/block twice')!;
  expect(twice.says).toMatch(/claimed by something else too/);
  expect(new Set(twice.files)).toEqual(new Set(['bin/su', 'bin/tide', 'bin/tide-log', 'home/marram/tide']));
});

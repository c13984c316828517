/** Volumes of forms that others make, and what only they have: checked, laid anew in other lengths, and their room drawn. */
import { EXT_FORMS, inForm } from '@tests/ext-forms';
import { inMemory } from '@tests/filled';
import { planted, sound, type Which } from '@tests/planted-ext';
import { factsOf, repackedOver } from '@tests/repacked';
import { MIB } from '@/core/quantity/units';
import { checkExt } from '../check/check';
import { extMap } from '../map';
import { openExt } from '../read/browse';
import { settled } from '../replay/replay';
import { minimaOf, repackable, repacked } from './repack';

jest.setTimeout(120_000);

describe.each(EXT_FORMS)('%s', (form) => {
  test.each<Which>(['current', 'mapped'])('%s: the checker, and every length', async (which) => {
    const source = inMemory(sound(which).bytes);
    const bytes = await inForm(source, form);
    const facts = await factsOf(sound(which).bytes);
    expect(await factsOf(bytes)).toEqual(facts);
    const own = inMemory(bytes);
    const volume = await repackable(own, 0);
    if (!volume.ok) throw new Error(volume.error);
    const { renumbered, kept, block } = minimaOf(volume.value);
    expect((await repacked(volume.value, renumbered! - block, 'renumbered')).ok).toBe(false);
    for (const size of [renumbered!, 31 * MIB + 512, 90 * MIB])
      expect(await factsOf(await repackedOver(own, size))).toEqual(facts);
    expect(await factsOf(await repackedOver(own, kept!, 'kept'))).toEqual(facts);
  });
});

test('a file whose map leads to tables of nothing gets a map of its own', async () => {
  const one = planted('mapped');
  // The first table of a file of many blocks names nothing any more, and the file has no blocks at all.
  const { node, pieces, map } = one.node('bin/tide');
  const at = one.at(node.inode) + 0x28;
  const inode = one.bytes;
  expect(pieces.length).toBeGreaterThan(0);
  const table = inode.readUInt32LE(at + 4 * 12);
  for (let i = 0; i < 15; i++) inode.writeUInt32LE(i === 12 ? table : 0, at + 4 * i);
  inode.fill(0, table * 1024, table * 1024 + 1024);
  expect(map).toContain(table);
  const volume = await repackable(inMemory(one.bytes), 0);
  if (!volume.ok) throw new Error(volume.error);
  const packed = volume.value.gathered.inodes.find(({ number }) => number === node.inode)!;
  expect(packed).toMatchObject({ isMapped: true, ranges: [] });
  const made = await repackedOver(inMemory(one.bytes), one.bytes.length);
  const { faults } = await checkExt(inMemory(made), 0, made.length);
  // Nothing of its old map shines through: the only thing amiss is how many sectors it said before.
  expect(faults.map(({ code }) => code)).toEqual(['inode/sectors']);
});

describe('the map of its room', () => {
  test.each<Which>(['current', 'mapped'])('%s: all that is in use, and nothing twice', async (which) => {
    const { made, bytes } = sound(which);
    const { geometry, plan } = made;
    const found = await settled(inMemory(bytes), 0);
    if (!found || 'refused' in found) throw new Error('no ext');
    const { cells, unit } = await extMap(found.inodes, 16);
    const sum = (of: (cell: (typeof cells)[number]) => number) => cells.reduce((all, cell) => all + of(cell), 0);
    expect(unit).toBe(geometry.block);
    expect(sum(({ bytes: all }) => all)).toBe(geometry.blocks * geometry.block);
    const free = sum(({ bytes: all, structures, used }) => all - structures - used);
    expect(free).toBe(plan.free.left * geometry.block);
    for (const cell of cells) expect(cell.structures + cell.used).toBeLessThanOrEqual(cell.bytes);
  });

  test('of a volume that lies nothing is more than full', async () => {
    const one = planted('current');
    for (let group = 0; group < 5; group++) one.group(group, 'freeBlocks', 0xffff);
    one.superblock('reservedTable', 60_000);
    const volume = await openExt(inMemory(one.bytes), 0);
    for (const { bytes, structures, used } of (await volume!.map!(64)).cells) {
      expect(structures + used).toBeLessThanOrEqual(bytes);
      expect(used).toBeGreaterThanOrEqual(0);
    }
  });
});

/** Volumes of forms that others make, and what only they have: checked, laid anew in other lengths, and their room drawn. */
import { EXT_FORMS, inForm } from '@tests/ext-forms';
import { inMemory } from '@tests/filled';
import { planted, sound, type Which } from '@tests/planted-ext';
import { factsOf, laidOver, repackedOver } from '@tests/repacked';
import { MIB } from '@/core/quantity/units';
import { decode } from '../../../bytes/record';
import { checkExt } from '../check/check';
import { extMap } from '../map';
import { SUPERBLOCK_AT } from '../numbers';
import { openExt } from '../read/browse';
import { SUPERBLOCK } from '../records';
import { settled } from '../replay/replay';
import { orderRepack } from './order';
import { minimaOf, repackable, repacked } from './repack';

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

test('attributes that two files share are counted anew where one of them does not go along', async () => {
  const one = planted('mapped');
  const much = one.node('srv/much');
  const other = one.at(one.node('bin/su').node.inode);
  const block = much.attributes!;
  one.bytes.writeUInt32LE(2, block * 1024 + 4);
  one.bytes.writeUInt32LE(block, other + 0x68);
  one.bytes.writeUInt32LE(one.bytes.readUInt32LE(other + 0x1c) + 2, other + 0x1c);
  const source = inMemory(one.bytes);
  expect((await checkExt(source, 0, one.bytes.length)).faults).toEqual([]);
  one.bytes.writeUInt32LE(0x7fff_ffff, one.at(much.node.inode) + 0x28);
  const wish = { bytes: one.bytes.length, numbering: 'renumbered', withoutFaulty: true } as const;
  const order = await orderRepack(source, 0, one.bytes.length, wish);
  if (!order.ok) throw new Error(order.error.why);
  expect(order.value.leftOut).toEqual(['srv/much']);
  const made = await laidOver(source, order.value);
  const { faults, entries } = await checkExt(inMemory(made), 0, made.length);
  expect(faults).toEqual([]);
  const kept = entries.find(({ path }) => path === 'bin/su')!;
  expect(kept.attributes.map(({ name }) => name)).toEqual(expect.arrayContaining(['user.aa', 'user.bb']));
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

test.each(['orphanFile', 'userQuota', 'projectQuota', 'journalInode'] as const)(
  'a number that is left over in %s, of a feature that was taken away, leads to an ordinary file',
  async (field) => {
    const one = planted('current');
    const HAS_JOURNAL = 0x4;
    const { compatible } = decode(SUPERBLOCK, one.bytes.subarray(SUPERBLOCK_AT));
    if (field === 'journalInode') one.superblock('compatible', compatible & ~HAS_JOURNAL);
    one.superblock(field, one.node('srv/much').node.inode);
    // Its copies still say what it was.
    const facts = await factsOf(one.bytes, ['superblock/copy']);
    for (const numbering of ['renumbered', 'kept'] as const)
      expect(await factsOf(await repackedOver(inMemory(one.bytes), 30 * MIB, numbering))).toEqual(facts);
  },
);

test.each([0, 10, 0xffff_ffff])('a first inode of %d is refused in words', async (first) => {
  const one = planted('mapped');
  one.superblock('firstInode', first);
  const volume = await repackable(inMemory(one.bytes), 0);
  expect(volume).toMatchObject({ ok: false, error: expect.stringContaining('the first inode') as string });
});

test('attributes outside of the volume are refused in words, and their file is left out where somebody says so', async () => {
  const one = planted('mapped');
  one.inode('srv/much', 'attributesLow', 0xffff_fff0);
  const source = inMemory(one.bytes);
  const wish = { bytes: one.bytes.length, numbering: 'renumbered' } as const;
  expect(await orderRepack(source, 0, one.bytes.length, wish)).toMatchObject({
    error: { why: expect.stringContaining('the attributes of a file lie outside of the volume') as string },
  });
  const order = await orderRepack(source, 0, one.bytes.length, { ...wish, withoutFaulty: true });
  expect(order).toMatchObject({ value: { leftOut: ['srv/much'] } });
});

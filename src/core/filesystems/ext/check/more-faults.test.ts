/** Sixty further faults, in directories, extents, journals and attributes: the check that people order names each. */
import { type Planted, planted, sound, type Which } from '@tests/planted-ext';
import { memoryBlocks } from '../../../bytes/blocks';
import type { FaultCode } from './faults';
import { checkWhole } from './whole';

const u8 = (at: (one: Planted) => number, value: number) => (one: Planted) => void one.bytes.writeUInt8(value, at(one));
const u16 = (at: (one: Planted) => number, value: number) => (one: Planted) =>
  void one.bytes.writeUInt16LE(value, at(one));
const u32 = (at: (one: Planted) => number, value: number) => (one: Planted) =>
  void one.bytes.writeUInt32LE(value, at(one));
const big32 = (at: (one: Planted) => number, value: number) => (one: Planted) =>
  void one.bytes.writeUInt32BE(value, at(one));

const srv =
  (name: string, more = 0) =>
  (one: Planted) =>
    one.entry('srv', name) + more;
const root =
  (name: string, more = 0) =>
  (one: Planted) =>
    one.entry('', name) + more;
const wide =
  (more: number, block = 0) =>
  (one: Planted) =>
    one.block('wide', block) + more;
const holes = (more: number) => (one: Planted) => one.map('holes') + more;
const map = (path: string, more: number) => (one: Planted) => one.at(one.node(path).node.inode) + 0x28 + more;
const journal = (more: number) => (one: Planted) => one.journal() + more;
const much = (more: number) => (one: Planted) => one.node('srv/much').attributes! * 1024 + more;
const inode = (path: string, more: number) => (one: Planted) => one.at(one.node(path).node.inode) + more;

type Case = readonly [FaultCode, Which, (one: Planted) => void];

const DIRECTORIES: readonly Case[] = [
  ['folder/record', 'mapped', u16(srv('marked', 4), 0)],
  ['folder/record', 'mapped', u16(srv('marked', 4), 13)],
  ['folder/record', 'mapped', u16(srv('marked', 4), 2000)],
  ['folder/record', 'mapped', u8(srv('marked', 6), 255)],
  ['folder/record', 'mapped', u16(root('lost+found', 4), 8)],
  ['folder/record', 'mapped', u16(wide(4, 2), 4)],
  ['folder/inode', 'mapped', u32(srv('marked'), 0xffff_ffff)],
  ['folder/inode', 'mapped', u32(srv('marked'), 3)],
  ['folder/inode', 'mapped', u32(root('etc'), 4711)],
  ['inode/without a name', 'mapped', u32(root('etc'), 0)],
  ['inode/names', 'mapped', u32(srv('marked'), 14)],
  ['folder/kind', 'mapped', u8(srv('marked', 7), 7)],
  ['folder/kind', 'mapped', u8(root('etc', 7), 1)],
  ['folder/kind', 'mapped', u8(root('etc', 7), 99)],
  ['folder/name', 'mapped', u8(srv('marked', 8), 0)],
  ['folder/name', 'mapped', u8(srv('marked', 9), 0x2f)],
  ['folder/dot', 'mapped', u8((one) => one.block('srv') + 8, 0x78)],
  ['folder/dot dot', 'mapped', u8((one) => one.block('srv') + 12 + 9, 0x78)],
  ['folder/dot dot', 'mapped', u32((one) => one.block('etc') + 12, 0)],
  ['folder/dot', 'mapped', u32((one) => one.block('', 0), 11)],
  ['lost+found/missing', 'mapped', u8(root('lost+found', 8), 0x4c)],
  ['folder/tail', 'current', u16((one) => one.block('srv') + 1024 - 8, 16)],
  ['folder/tail', 'current', u32((one) => one.block('etc') + 1024 - 12, 5)],
  ['folder/checksum', 'current', u32((one) => one.block('etc') + 1024 - 4, 1)],
  ['hash/root', 'mapped', u8(wide(0x1d), 9)],
  ['hash/root', 'mapped', u8(wide(0x1e), 3)],
  ['hash/root', 'mapped', u8(wide(0x1f), 1)],
  ['hash/limit', 'mapped', u16(wide(0x20), 0)],
  ['hash/count', 'mapped', u16(wide(0x22), 0)],
  ['hash/block', 'mapped', u32(wide(0x24), 0x0fff_ffff)],
  ['hash/block', 'mapped', u32(wide(0x2c), 0)],
  ['hash/name elsewhere', 'mapped', u32(wide(0x28), 1)],
];

const MAPS: readonly Case[] = [
  ['map/magic', 'current', u16(map('holes', 0), 0xf30b)],
  ['map/entries', 'current', u16(map('holes', 2), 9)],
  ['map/entries', 'current', u16(map('holes', 4), 40)],
  ['map/depth', 'current', u16(map('holes', 6), 6)],
  ['map/outside', 'current', u32(map('holes', 16), 0)],
  ['map/outside', 'current', u16(map('holes', 20), 1)],
  ['map/entries', 'current', u16(holes(2), 0)],
  ['map/entries', 'current', u16(holes(4), 4000)],
  ['map/depth', 'current', u16(holes(6), 1)],
  ['map/order', 'current', u32(holes(12), 99)],
  ['map/order', 'current', u32(holes(24), 0)],
  ['map/outside', 'current', u32(holes(20), 0xffff_ffff)],
  ['map/outside', 'current', u16(holes(18), 7)],
  ['map/outside', 'mapped', u32(map('bin/tide', 0), 0x7fff_ffff)],
  ['map/outside', 'mapped', u32(map('bin/tide', 48), 0x7fff_ffff)],
  ['map/block twice', 'mapped', u32(map('bin/tide', 4), 5)],
  ['inode/sectors', 'mapped', u32(map('bin/tide', 0), 0)],
  ['map/block twice', 'current', u32(map('bin/su', 20), 9)],
];

const ATTRIBUTES: readonly Case[] = [
  ['attributes/magic', 'mapped', u32(much(0), 0xea02_0001)],
  ['attributes/magic', 'mapped', u32(much(8), 2)],
  ['attributes/references', 'mapped', u32(much(4), 0)],
  ['attributes/hash', 'mapped', u32(much(12), 77)],
  ['attributes/hash', 'mapped', u8(much(32), 255)],
  ['attributes/entry', 'mapped', u32(much(36), 14)],
  ['attributes/entry', 'mapped', u32(much(40), 70_000)],
  ['attributes/name', 'mapped', u8(much(33), 99)],
  ['map/outside', 'mapped', u32(inode('srv/much', 0x68), 0x7fff_ffff)],
  ['map/block twice', 'mapped', u32(inode('srv/much', 0x68), 6)],
];

const JOURNALS: readonly Case[] = [
  ['journal/magic', 'mapped', big32(journal(4), 9)],
  ['journal/magic', 'mapped', big32(journal(4), 1)],
  ['journal/blocks', 'mapped', big32(journal(16), 0xffff_ffff)],
  ['journal/block size', 'mapped', big32(journal(12), 512)],
  ['journal/missing', 'mapped', (one) => one.superblock('journalInode', 11)],
  ['journal/missing', 'mapped', (one) => one.superblock('journalInode', 4000)],
  ['journal/not empty', 'mapped', big32(journal(28), 0xffff_ffff)],
  ['journal/copy', 'mapped', u32(() => 1024 + 0x10c + 64, 3)],
];

const FAULTS = [...DIRECTORIES, ...MAPS, ...ATTRIBUTES, ...JOURNALS];

test('there are sixty of them', () => {
  expect(FAULTS.length).toBeGreaterThanOrEqual(60);
});

test.each(FAULTS.map(([code, which, plant], i) => [code, which, i, plant] as const))(
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

/** Faults of ext volumes, one at a time: in which volume each is planted, and how. */
import { runOfGroup } from '@/core/filesystems/ext/groups';
import { SUPERBLOCK_AT } from '@/core/filesystems/ext/numbers';
import type { FaultCode } from '@/core/filesystems/ext/check/faults';
import type { Planted, Which } from './planted-ext';

/** The name of a fault, the volume that gets it, and what is done to that. */
export type PlantedFault = readonly [code: FaultCode, which: Which, plant: (one: Planted) => void];

/** Each fault: its name, where it is planted, and how. */
export const FAULTS: readonly PlantedFault[] = [
  ['superblock/magic', 'current', (one) => one.superblock('magic', 0xef54)],
  ['superblock/checksum', 'current', (one) => one.superblock('mounts', 7, false)],
  ['superblock/block size', 'old', (one) => one.superblock('logBlock', 9)],
  ['superblock/longer than its place', 'current', (one) => one.superblock('blocksLow', 40 * 1024 + 1)],
  ['superblock/first block', 'current', (one) => one.superblock('firstDataBlock', 0)],
  ['superblock/groups', 'current', (one) => one.superblock('blocksPerGroup', 8001)],
  ['superblock/groups', 'current', (one) => one.superblock('inodesPerGroup', 2047)],
  ['superblock/inode size', 'current', (one) => one.superblock('inodeSize', 200)],
  ['superblock/inodes', 'current', (one) => one.superblock('inodes', 4711)],
  ['superblock/state', 'current', (one) => one.superblock('state', 2)],
  ['superblock/state', 'mapped', (one) => one.superblock('incompatible', 2 | 4)],
  ['superblock/features', 'current', (one) => one.superblock('readOnly', 0x46b | 0x1000)],
  ['superblock/features', 'current', (one) => one.superblock('incompatible', 0x2c2 | 0x40000)],
  ['superblock/descriptor size', 'current', (one) => one.superblock('descriptorSize', 48)],
  ['superblock/free blocks', 'current', (one) => one.superblock('freeBlocksLow', 1)],
  ['superblock/free inodes', 'mapped', (one) => one.superblock('freeInodes', 1)],
  ['superblock/reserved blocks', 'current', (one) => one.superblock('reservedLow', 30_000)],
  ['superblock/revision', 'current', (one) => one.superblock('revision', 0)],
  ['superblock/orphans', 'current', (one) => one.superblock('lastOrphan', 14)],
  ['superblock/hash', 'current', (one) => one.superblock('hashVersion', 9)],
  ['superblock/room for descriptors', 'current', (one) => one.superblock('reservedTable', 300)],
  ['superblock/copy', 'current', (one) => one.bytes.writeUInt32LE(5, runOfGroup(one.made.geometry, 1).start * 1024)],
  [
    'superblock/copy',
    'current',
    (one) => one.bytes.writeUInt8(5, runOfGroup(one.made.geometry, 3).start * 1024 + 0x34),
  ],
  ['group/checksum', 'current', (one) => one.group(1, 'freeBlocks', 5, false)],
  ['group/checksum', 'old', (one) => one.group(1, 'freeBlocks', 5)],
  ['group/block bitmap', 'current', (one) => one.group(2, 'blockBitmap', 50_000)],
  ['group/inode bitmap', 'current', (one) => one.group(2, 'inodeBitmap', 1)],
  ['group/inode table', 'mapped', (one) => one.group(2, 'inodeTable', 10)],
  ['group/free blocks', 'current', (one) => one.group(0, 'freeBlocks', 3)],
  ['group/free inodes', 'mapped', (one) => one.group(0, 'freeInodes', 3)],
  ['group/folders', 'current', (one) => one.group(0, 'folders', 1)],
  ['group/unused inodes', 'current', (one) => one.group(0, 'unused', 2040)],
  ['group/flags', 'mapped', (one) => one.group(0, 'flags', 1)],
  ['group/copy', 'mapped', (one) => one.bytes.writeUInt32LE(77, (runOfGroup(one.made.geometry, 1).start + 1) * 1024)],
  ['bitmap/block checksum', 'current', (one) => one.bytes.writeUInt8(0xff, one.bitmap('blockBitmap', 4) + 100)],
  ['bitmap/inode checksum', 'current', (one) => one.bytes.writeUInt8(0xff, one.bitmap('inodeBitmap', 0) + 200)],
  ['bitmap/block padding', 'mapped', (one) => one.bytes.writeUInt8(0, one.bitmap('blockBitmap', 4) + 1023)],
  ['bitmap/inode padding', 'mapped', (one) => one.bytes.writeUInt8(0, one.bitmap('inodeBitmap', 1) + 1000)],
  ['bitmap/block not free', 'mapped', (one) => one.bytes.writeUInt8(0xff, one.bitmap('blockBitmap', 4) + 700)],
  ['bitmap/block free', 'mapped', (one) => one.bytes.writeUInt8(0, one.bitmap('blockBitmap', 0) + 1)],
  ['bitmap/inode not free', 'mapped', (one) => one.bytes.writeUInt8(0xff, one.bitmap('inodeBitmap', 1) + 3)],
  ['folder/inode', 'mapped', (one) => one.bytes.writeUInt8(0, one.bitmap('inodeBitmap', 0) + 2)],
  ['inode/checksum', 'current', (one) => one.bytes.writeUInt8(9, one.at(14) + 0x24)],
  ['inode/kind', 'current', (one) => one.inode('bin/su', 'mode', 0x3000)],
  ['inode/names', 'current', (one) => one.inode('bin/su', 'links', 2)],
  ['inode/size', 'current', (one) => one.inode('bin', 'sizeLow', 1000)],
  ['inode/size', 'current', (one) => one.inode('bin/su', 'sizeLow', 5)],
  ['inode/sectors', 'current', (one) => one.inode('bin/su', 'sectorsLow', 1)],
  ['inode/flags', 'current', (one) => one.inode('bin/su', 'flags', 0x80000 | 0x800)],
  ['inode/flags', 'current', (one) => one.inode('bin/su', 'flags', 0x80000 | 0x1000)],
  ['inode/deleted', 'current', (one) => one.inode('bin/su', 'deleted', 1)],
  ['inode/extra fields', 'current', (one) => one.inode('bin/su', 'extra', 999)],
  ['inode/without a name', 'mapped', (one) => one.bytes.writeUInt32LE(0, one.entry('srv', 'marked'))],
  ['inode/root', 'current', (one) => one.inode(2, 'mode', 0x81ed)],
  ['map/magic', 'current', (one) => one.bytes.writeUInt16LE(1, one.map('holes'))],
  ['map/entries', 'current', (one) => one.bytes.writeUInt16LE(200, one.map('holes') + 2)],
  ['map/depth', 'current', (one) => one.bytes.writeUInt16LE(3, one.map('holes') + 6)],
  ['map/order', 'current', (one) => one.bytes.writeUInt32LE(4000, one.map('holes') + 24)],
  ['map/checksum', 'current', (one) => one.bytes.writeUInt32LE(9, one.map('holes') + 8)],
  ['map/length', 'current', (one) => one.bytes.writeUInt16LE(0, one.map('holes') + 16)],
  ['map/outside', 'current', (one) => one.bytes.writeUInt32LE(99_999, one.map('holes') + 20)],
  ['map/outside', 'mapped', (one) => one.bytes.writeUInt32LE(99_999, one.map('bin/tide'))],
  [
    'map/block twice',
    'mapped',
    (one) => one.bytes.writeUInt32LE(one.node('bin/su').pieces[0]!.physical, one.map('bin/tide')),
  ],
  [
    'map/block twice',
    'mapped',
    (one) => one.bytes.writeUInt32LE(one.node('bin/tide').map[0]!, one.at(one.node('bin/tide').node.inode) + 0x28 + 52),
  ],
  ['folder/record', 'mapped', (one) => one.bytes.writeUInt16LE(7, one.entry('srv', 'marked') + 4)],
  ['folder/name', 'mapped', (one) => one.bytes.write('ma/ked', one.entry('srv', 'marked') + 8)],
  ['folder/inode', 'mapped', (one) => one.bytes.writeUInt32LE(5, one.entry('srv', 'marked'))],
  ['folder/kind', 'mapped', (one) => one.bytes.writeUInt8(2, one.entry('srv', 'marked') + 7)],
  ['folder/name twice', 'mapped', (one) => one.bytes.write('list', one.entry('srv', 'much') + 8)],
  ['folder/dot', 'mapped', (one) => one.bytes.writeUInt32LE(14, one.block('srv'))],
  ['folder/dot dot', 'mapped', (one) => one.bytes.writeUInt32LE(14, one.block('srv') + 12)],
  ['folder/checksum', 'current', (one) => one.bytes.writeUInt8(0x78, one.entry('srv', 'marked') + 8)],
  ['folder/tail', 'current', (one) => one.bytes.writeUInt8(0, one.block('srv') + 1024 - 5)],
  [
    'folder/second name',
    'mapped',
    (one) => one.bytes.writeUInt32LE(one.node('etc').node.inode, one.entry('srv', 'inherits')),
  ],
  ['folder/hole', 'mapped', (one) => one.bytes.writeUInt32LE(0, one.at(one.node('wide').node.inode) + 0x28 + 4 * 3)],
  ['hash/root', 'mapped', (one) => one.bytes.writeUInt8(9, one.block('wide') + 0x1c)],
  ['hash/limit', 'mapped', (one) => one.bytes.writeUInt16LE(9, one.block('wide') + 0x20)],
  ['hash/count', 'mapped', (one) => one.bytes.writeUInt16LE(900, one.block('wide') + 0x22)],
  ['hash/order', 'mapped', (one) => one.bytes.writeUInt32LE(0xf0000000, one.block('wide') + 0x28)],
  ['hash/checksum', 'current', (one) => one.bytes.writeUInt32LE(3, one.block('wide') + 0x28)],
  ['hash/block', 'mapped', (one) => one.bytes.writeUInt32LE(500, one.block('wide') + 0x2c)],
  ['hash/name elsewhere', 'mapped', (one) => one.bytes.write('Reading', one.block('wide', 2) + 8)],
  ['link/length', 'current', (one) => one.inode('bin/sh', 'sizeLow', 0)],
  ['link/target', 'current', (one) => one.inode('bin/sh', 'sizeLow', 9)],
  ['attributes/magic', 'current', (one) => one.bytes.writeUInt32LE(1, one.node('srv/much').attributes! * 1024)],
  [
    'attributes/checksum',
    'current',
    (one) => one.bytes.writeUInt32LE(1, one.node('srv/much').attributes! * 1024 + 0x10),
  ],
  ['attributes/entry', 'mapped', (one) => one.bytes.writeUInt16LE(2000, one.node('srv/much').attributes! * 1024 + 34)],
  ['attributes/hash', 'mapped', (one) => one.bytes.writeUInt32LE(1, one.node('srv/much').attributes! * 1024 + 44)],
  ['attributes/references', 'mapped', (one) => one.bytes.writeUInt32LE(3, one.node('srv/much').attributes! * 1024 + 4)],
  ['attributes/order', 'mapped', (one) => one.bytes.write('zz', one.node('srv/much').attributes! * 1024 + 48)],
  ['attributes/name', 'mapped', (one) => one.bytes.writeUInt8(5, one.node('srv/much').attributes! * 1024 + 33)],
  ['journal/magic', 'current', (one) => one.bytes.writeUInt32BE(1, one.journal())],
  ['journal/blocks', 'current', (one) => one.bytes.writeUInt32BE(1, one.journal() + 16)],
  ['journal/block size', 'current', (one) => one.bytes.writeUInt32BE(4096, one.journal() + 12)],
  ['journal/not empty', 'mapped', (one) => one.bytes.writeUInt32BE(17, one.journal() + 28)],
  ['journal/copy', 'mapped', (one) => one.bytes.writeUInt32LE(1, SUPERBLOCK_AT + 0x10c)],
  ['journal/missing', 'current', (one) => one.superblock('journalInode', 9)],
  ['spare descriptors/table', 'current', (one) => one.bytes.writeUInt32LE(1, one.made.plan.resize! * 1024 + 4)],
  [
    'spare descriptors/copies',
    'mapped',
    (one) => one.bytes.writeUInt32LE(1, (2 + one.made.geometry.descriptorBlocks) * 1024),
  ],
  ['lost+found/missing', 'mapped', (one) => one.bytes.write('lost+lost!', one.entry('', 'lost+found') + 8)],
];

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

const DIRECTORIES: readonly PlantedFault[] = [
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

const MAPS: readonly PlantedFault[] = [
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

const ATTRIBUTES: readonly PlantedFault[] = [
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

const JOURNALS: readonly PlantedFault[] = [
  ['journal/magic', 'mapped', big32(journal(4), 9)],
  ['journal/magic', 'mapped', big32(journal(4), 1)],
  ['journal/blocks', 'mapped', big32(journal(16), 0xffff_ffff)],
  ['journal/block size', 'mapped', big32(journal(12), 512)],
  ['journal/missing', 'mapped', (one) => one.superblock('journalInode', 11)],
  ['journal/missing', 'mapped', (one) => one.superblock('journalInode', 4000)],
  ['journal/not empty', 'mapped', big32(journal(28), 0xffff_ffff)],
  ['journal/copy', 'mapped', u32(() => 1024 + 0x10c + 64, 3)],
];

/** Further ones, in directories, extents, journals and attributes. */
export const MORE_FAULTS = [...DIRECTORIES, ...MAPS, ...ATTRIBUTES, ...JOURNALS];

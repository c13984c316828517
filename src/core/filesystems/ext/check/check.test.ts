/** Faults that are planted into sound volumes, one at a time: the checker tells each by its name. */
import { type Planted, planted, sound, type Which, WISHES } from '@tests/planted-ext';
import { noise } from '@tests/samples';
import { memoryBlocks } from '../../../bytes/blocks';
import { runOfGroup } from '../groups';
import { SUPERBLOCK_AT } from '../numbers';
import { checkExt } from './check';
import { FAULT_LIMIT, type FaultCode } from './faults';

async function codesOf(bytes: Uint8Array): Promise<FaultCode[]> {
  const { faults } = await checkExt(memoryBlocks(bytes), 0, bytes.length);
  return [...new Set(faults.map(({ code }) => code))];
}

test.each(Object.keys(WISHES) as Which[])('nothing is wrong with %s before', async (which) => {
  expect(await codesOf(sound(which).bytes)).toEqual([]);
});

/** Each fault: its name, where it is planted, and how. */
const FAULTS: readonly (readonly [FaultCode, Which, (one: Planted) => void])[] = [
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

test('there are faults of every name, and more than sixty of them', () => {
  expect(FAULTS.length).toBeGreaterThanOrEqual(60);
  expect(new Set(FAULTS.map(([code]) => code)).size).toBeGreaterThanOrEqual(60);
});

test.each(FAULTS.map(([code, which, plant], i) => [code, which, i, plant] as const))(
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
    for (let seed = 0; seed < 60; seed++) {
      const one = planted((['current', 'old', 'mapped'] as const)[seed % 3]!);
      const junk = Buffer.from(noise(4096, seed));
      for (let k = 0; k < 6; k++)
        junk.copy(one.bytes, ((seed * 7919 + k * 104_729) % 900) * 1024, k * 600, k * 600 + 600);
      const { faults } = await checkExt(memoryBlocks(one.bytes), 0, one.bytes.length);
      expect(faults.length).toBeLessThanOrEqual(FAULT_LIMIT);
    }
  }, 60_000);

  test('a map that leads back to itself is followed once', async () => {
    const one = planted('mapped');
    const { inode } = one.node('bin/tide').node;
    const own = one.node('bin/tide').map[0]!;
    one.bytes.writeUInt32LE(own, one.at(inode) + 0x28 + 56);
    for (let i = 0; i < 256; i++) one.bytes.writeUInt32LE(own, own * 1024 + 4 * i);
    expect(await codesOf(one.bytes)).toContain('map/block twice');
  });
});

/** What only the file system itself uses: its journal, and the blocks kept for further group descriptors. */
import { FILE_TYPE, INODE, JOURNAL_MAGIC } from '../numbers';
import type { Claims } from './claims';
import type { Faults } from './faults';
import type { FoundInode } from './inodes';
import type { CheckedVolume } from './volume';

/** Checks the journal: there where it should be, of its length, and with nothing to replay. */
export async function checkJournal(volume: CheckedVolume, inode: FoundInode, faults: Faults): Promise<void> {
  const where = 'the journal';
  const { superblock, block } = volume;
  const [first] = inode.runs;
  const blocks = inode.runs.reduce((sum, { count }) => sum + count, 0);
  if (inode.kind !== FILE_TYPE.file.mode || !first || first.logical !== 0) {
    faults.add('journal/missing', where, 'its inode has no blocks');
    return;
  }
  const bytes = await volume.blockAt(first.physical);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  if (view.getUint32(0) !== JOURNAL_MAGIC || view.getUint32(4) !== 4) {
    faults.add('journal/magic', where, 'its first block is not that of a journal');
    return;
  }
  faults.same('journal/block size', where, view.getUint32(0x0c), block);
  faults.same('journal/blocks', where, view.getUint32(0x10), blocks);
  if (view.getUint32(0x1c) !== 0)
    faults.add('journal/not empty', where, `it is to be replayed from block ${view.getUint32(0x1c)} on`);
  if (superblock.journalBackup !== 1) return;
  const copy = superblock.journalCopy;
  const sizes = new DataView(copy.buffer, copy.byteOffset, copy.length);
  const size = sizes.getUint32(60, true) * 2 ** 32 + sizes.getUint32(64, true);
  if (size !== inode.size || inode.map.some((byte, i) => byte !== copy[i]))
    faults.add('journal/copy', where, 'the copy of its block map in the superblock is another one');
}

/** Checks the inode that keeps blocks for group descriptors, and claims them. */
export async function checkSpare(
  volume: CheckedVolume,
  inode: FoundInode,
  claims: Claims,
  faults: Faults,
): Promise<void> {
  const where = 'the blocks kept for group descriptors';
  const { block, superblock, descriptorBlocks } = volume;
  const spare = superblock.reservedTable;
  const map = new DataView(inode.map.buffer, inode.map.byteOffset, 60);
  const table = map.getUint32(4 * 13, true);
  const width = block / 4;
  if (!claims.take(table, 1, where)) {
    faults.add('spare descriptors/table', where, `block ${table}`);
    return;
  }
  const tableBytes = await volume.blockAt(table);
  const view = new DataView(tableBytes.buffer, tableBytes.byteOffset, block);
  const copies = volume.copies.filter((group) => group > 0);
  for (let i = 0; i < spare; i++) {
    const meant = superblock.firstDataBlock + 1 + descriptorBlocks + i;
    const found = view.getUint32(4 * ((descriptorBlocks + i) % width), true);
    if (!faults.same('spare descriptors/table', where, found, meant)) continue;
    const own = await volume.blockAt(found);
    const list = new DataView(own.buffer, own.byteOffset, block);
    copies.forEach((group, n) => {
      const copy = volume.groupStart(group) + 1 + descriptorBlocks + i;
      faults.same('spare descriptors/copies', `${where}, group ${group}`, list.getUint32(4 * n, true), copy);
    });
  }
  inode.overhead = 1 + spare * (1 + copies.length);
  faults.same('inode/sectors', `inode ${INODE.resize}`, inode.sectors, (inode.overhead * block) / 512);
}
